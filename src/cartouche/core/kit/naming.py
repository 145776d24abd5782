"""Names that a teacher can tell apart."""

import re
from collections.abc import Collection


def numbered(name: str, taken: Collection[str], longest: int = 60) -> str:
    """The name itself, or with the first number from 2 that nobody has: "Face", "Face 2", "Face 3"."""
    if name not in taken:
        return name
    base = re.sub(r" \d+$", "", name)
    number = 2
    while f"{base} {number}" in taken:
        number += 1
    ending = f" {number}"
    return base[: longest - len(ending)] + ending


# Overrides and isolates of the bidirectional algorithm (UAX #9): a name with them reads otherwise than it is spelled, and turns its line.
_TURNS = dict.fromkeys([*range(0x202A, 0x202F), *range(0x2066, 0x206A)])
_CONTROLS = dict.fromkeys([*range(0x20), *range(0x7F, 0xA0)])


def unturned(text: str) -> str:
    """Without what turns the direction of the text around it."""
    return text.translate(_TURNS)


def plain(text: str) -> str:
    """The same without control characters: a label as a device spells it."""
    return unturned(text).translate(_CONTROLS)
