"""What is wrong with a value that was sent or with a file, as a sentence for a teacher: no field paths, no machine words."""

from collections.abc import Mapping, Sequence
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from cartouche.core.errors import CartoucheError

Model = TypeVar("Model", bound=BaseModel)
WORDS = {
    "title": "title",
    "class_name": "class",
    "starts": "beginning",
    "name": "name",
    "room": "room",
    "label": "name that the browser gives it",
    "source": "device or address",
    "rig": "way it is held",
    "kind": "kind of device",
    "corners": "corners",
    "aspect": "proportions",
    "paper": "paper",
    "zoom": "zoom",
    "distortion": "lens curve",
    "bend": "lens curve",
    "quarters": "turn",
    "fine_deg": "fine turn",
    "vertical": "vertical slant",
    "horizontal": "horizontal slant",
    "rect": "position of a place",
    "colour": "colour",
    "background": "background colour",
    "fade_s": "length of the fade",
    "places": "places of a plate",
    "plates": "plates",
    "devices": "devices",
    "format": "kind of file",
    "version": "version of the file",
    "code": "code",
    "page": "page",
    "print_pt": "print size",
}
OTHER = "value"


class Unusable(CartoucheError, ValueError):
    sentence = "This cannot be set: {what}."

    def __init__(self, what: str) -> None:
        self.what = what
        super().__init__(what)


def validated(model: type[Model], values: Mapping[str, Any]) -> Model:
    """A model of these values. Raises Unusable, or the core's own error where it has a better sentence."""
    try:
        return model.model_validate(values)
    except ValidationError as exc:
        own = own_error(exc.errors())
        raise own if own is not None else Unusable(clause(exc.errors())) from exc


def own_error(errors: Sequence[Any]) -> CartoucheError | None:
    """The core's own error behind the first one, where there is one."""
    error = errors[0].get("ctx", {}).get("error")
    return error if isinstance(error, CartoucheError) else None


def sentence(errors: Sequence[Any]) -> str:
    """What is wrong first, as a whole sentence."""
    own = own_error(errors)
    return str(own) if own is not None else f"{_clause(errors[0])}."


def clause(errors: Sequence[Any]) -> str:
    """The same to stand inside another sentence, with which of a file's devices or plates it is about."""
    words = sentence(errors).rstrip(".")
    return words[0].lower() + words[1:] + _which(errors[0]["loc"])


def _which(location: Sequence[Any]) -> str:
    for name, word in (("devices", "device"), ("plates", "plate")):
        if name in location[:-1] and isinstance(number := location[location.index(name) + 1], int):
            return f" ({word} {number + 1})"
    return ""


def _clause(error: Any) -> str:
    kind, word, limits = error["type"], _word(error["loc"]), error.get("ctx", {})
    if kind == "json_invalid":
        return "It is not JSON"
    if kind == "missing":
        return f"Nothing is given for the {word}"
    if kind == "extra_forbidden":
        return "It holds something that Cartouche does not know"
    if kind == "string_too_short":
        return f"The {word} is empty"
    if kind == "string_too_long":
        return f"The {word} is too long: {limits['max_length']} characters at most"
    if kind == "too_long":
        return f"There are too many {word}: {limits['max_length']} at most"
    if kind == "too_short":
        return f"There are too few {word}: {limits['min_length']} at least"
    what = f"What is given for the {word}"
    if kind in ("less_than_equal", "less_than"):
        return f"{what} is too large: {_number(limits.get('le', limits.get('lt')))} at most"
    if kind in ("greater_than_equal", "greater_than"):
        return f"{what} is too small: {_number(limits.get('ge', limits.get('gt')))} at least"
    if kind == "value_error" and "error" in limits:
        return f"{what} cannot be used: {limits['error']}"
    return f"{what} is not something that Cartouche can use"


def _word(location: Sequence[Any]) -> str:
    """The innermost name that a teacher knows."""
    return next((WORDS[part] for part in reversed(location) if part in WORDS), OTHER)


def _number(value: Any) -> str:
    return f"{value:g}" if isinstance(value, int | float) else str(value)
