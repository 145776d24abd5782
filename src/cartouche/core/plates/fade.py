"""From one plate to the next: what both hold moves and grows, the rest fades."""

from collections.abc import Sequence
from typing import NamedTuple

from cartouche.core.plates.model import Focus, Place, Rect


class Shown(NamedTuple):
    """A place as it stands at one moment. opacity: 0-1."""

    place: Place
    opacity: float = 1.0


class Laid(NamedTuple):
    """A place and the proportions of what it holds, width / height in the outgoing picture's shares; None for what has none."""

    place: Place
    aspect: float | None


def between(before: Sequence[Laid], after: Sequence[Laid], share: float) -> list[Shown]:
    """What is shown on the way. share: 0 at the first plate, 1 at the second; eased, so that nothing starts or stops with a jerk.

    A place is held by both when it shows the same content, the first such by the first such.
    """
    if share >= 1:
        return [Shown(target.place) for target in after]
    eased = share * share * (3 - 2 * share)
    left = list(before)
    shown: list[Shown] = []
    for target in after:
        same = next((candidate for candidate in left if candidate.place.content == target.place.content), None)
        if same is None:
            shown.append(Shown(target.place, eased))
        else:
            left.remove(same)
            shown.append(Shown(_moved(_filled(same), _filled(target), eased)))
    return [*(Shown(target.place, 1 - eased) for target in left), *shown]


def _filled(target: Laid) -> Place:
    """The same look as a place that is filled: a picture with margins is one whose rectangle is just as large as it."""
    place, aspect = target.place, target.aspect
    if place.fit == "fill" or aspect is None:
        return place
    rect = place.rect
    width, height = min(rect.width, rect.height * aspect), min(rect.height, rect.width / aspect)
    inner = Rect(
        x=rect.x + (rect.width - width) / 2, y=rect.y + (rect.height - height) / 2, width=max(width, 0.011), height=max(height, 0.011)
    )
    return place.model_copy(update={"rect": inner, "fit": "fill"})


def _moved(a: Place, b: Place, share: float) -> Place:
    def mix(first: float, second: float) -> float:
        return first + (second - first) * share

    rect = Rect(
        x=mix(a.rect.x, b.rect.x),
        y=mix(a.rect.y, b.rect.y),
        width=mix(a.rect.width, b.rect.width),
        height=mix(a.rect.height, b.rect.height),
    )
    focus = Focus(x=mix(a.focus.x, b.focus.x), y=mix(a.focus.y, b.focus.y))
    return b.model_copy(update={"rect": rect, "focus": focus, "rounding": mix(a.rounding, b.rounding)})
