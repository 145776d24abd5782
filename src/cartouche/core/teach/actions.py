"""What can be done in a lesson, by whatever is at hand: each action has one name and one key, on the screen, the small window, a remote
and a clicker."""

import re
from collections.abc import Iterable, Mapping
from typing import Literal, NamedTuple, get_args

from cartouche.core.errors import CartoucheError

Name = Literal[
    "plate", "next", "previous", "forward", "back", "hold", "sheet", "live", "timer", "minute", "closer", "wider", "left", "right", "up",
    "down", "whole", "pen", "adorn", "natural", "record", "stop",
]  # fmt: skip
DIGITS = tuple("123456789")


class Action(NamedTuple):
    """keys: by which it is done unless the teacher has chosen others; a digit's is the plate's number.  says: for the list of keys."""

    name: Name
    keys: tuple[str, ...]
    says: str


ACTIONS = (
    Action("plate", DIGITS, "Make this plate outgoing"),
    Action("next", ("n",), "Next plate"),
    Action("previous", ("p",), "Previous plate"),
    Action("forward", ("PageDown",), "Forward: next step, page or plate"),
    Action("back", ("PageUp",), "Back: the one before"),
    Action("hold", ("h", "b", "."), "Hold the page, or let it go on"),
    Action("sheet", ("k",), "Keep a sheet of the page"),
    Action("live", ("l", "F5"), "From a sheet back to the live page"),
    Action("timer", ("d",), "Start or pause the timer"),
    Action("minute", ("j",), "One minute more on the timer"),
    Action("closer", ("+",), "A closer look at the page"),
    Action("wider", ("-",), "Less close"),
    Action("left", ("ArrowLeft",), "Move the closer look left"),
    Action("right", ("ArrowRight",), "Move the closer look right"),
    Action("up", ("ArrowUp",), "Move the closer look up"),
    Action("down", ("ArrowDown",), "Move the closer look down"),
    Action("whole", ("0",), "Show the whole page"),
    Action("pen", ("f",), "Follow the pen, or stop"),
    Action("record", ("r",), "Record, pause, go on"),
    Action("stop", ("s",), "Stop recording"),
    Action("adorn", ("a",), "Caption and frame on or off"),
    Action("natural", ("e",), "The face as its camera gives it, or made the best of"),
)
BY_NAME: dict[str, Action] = {action.name: action for action in ACTIONS}
assert set(BY_NAME) == set(get_args(Name))
TAKEN = {
    "m": "Close all microphones",
    "t": "Talk while held",
    "?": "Show these keys",
    "g": "Start or stop the practice call",
    "o": "Open the outgoing window",
    "i": "Draw over the page",
    "v": "Play or pause the clip",
    "x": "Sound of the clip on or off",
    "Tab": "Walk through the screen",
    "Escape": "Leave",
    "Enter": "Press what is chosen",
    " ": "Press what is chosen",
}
_NAMED_KEY = re.compile(r"[A-Z][A-Za-z0-9]{1,19}")


class KeyTaken(CartoucheError):
    """A key that already does something else."""

    sentence = "The key {key} already does this: {does}. Choose another key, or change that one first."

    def __init__(self, key: str, does: str) -> None:
        self.key, self.does = shown(key), does
        super().__init__(key, does)


class NoSuchKey(CartoucheError):
    sentence = "The key {key} cannot be used here. Press the key that is to do it, alone."

    def __init__(self, key: str) -> None:
        self.key = shown(key)
        super().__init__(key)


def shown(key: str) -> str:
    """A key as it stands on a button."""
    words = {
        " ": "Space",
        "PageDown": "PgDn",
        "PageUp": "PgUp",
        "ArrowLeft": "←",
        "ArrowRight": "→",
        "ArrowUp": "↑",
        "ArrowDown": "↓",
    }
    return words.get(key, key.upper() if len(key) == 1 else key)


class KeyTable(NamedTuple):
    """own: keys that the teacher has chosen, by action; the others keep theirs."""

    own: Mapping[str, tuple[str, ...]]

    def keys_of(self, name: str) -> tuple[str, ...]:
        return self.own.get(name, BY_NAME[name].keys)

    def by_key(self) -> dict[str, str]:
        """Which action each key does."""
        return {key: action.name for action in ACTIONS for key in self.keys_of(action.name)}

    def with_key(self, name: str, key: str) -> "KeyTable":
        """This key does it from now on, instead of the keys before. Raises KeyTaken, NoSuchKey."""
        key = key.lower() if len(key) == 1 else key
        if not ((len(key) == 1 and key.isprintable()) or _NAMED_KEY.fullmatch(key)) or name not in BY_NAME or name == "plate":
            raise NoSuchKey(key)
        other = {**TAKEN, **{each: BY_NAME[does].says for each, does in self.by_key().items() if does != name}}
        if key in other:
            raise KeyTaken(key, other[key])
        return KeyTable({**self.own, name: (key,)})

    def as_first(self, name: str) -> "KeyTable":
        """It is done by its first keys again. Raises KeyTaken where one of them does something else by now."""
        left = KeyTable({action: keys for action, keys in self.own.items() if action != name})
        for key in BY_NAME[name].keys:
            clash = next((action for action in ACTIONS if action.name != name and key in left.keys_of(action.name)), None)
            if clash is not None:
                raise KeyTaken(key, clash.says)
        return left


def table_of(kept: Mapping[str, Iterable[str]]) -> KeyTable:
    """From what is kept; what is no action any more, or collides by now, falls away."""
    table = KeyTable({})
    for name, keys in kept.items():
        for key in keys:
            try:
                table = table.with_key(name, key)
            except CartoucheError:
                continue
    return table
