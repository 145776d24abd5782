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
