"""Which device of the kit is which of those plugged in now, after another port, another day or a cleared browser."""

from collections import Counter
from collections.abc import Sequence
from typing import Literal, NamedTuple

Why = Literal["same id", "same make", "two alike"]


class Known(NamedTuple):
    """A camera of the kit. source: the browser's id.  label: what the browser calls it.  max_size: its largest size, if known."""

    id: str
    source: str
    label: str
    max_size: tuple[int, int] | None = None


class Present(NamedTuple):
    """A camera that the browser sees now."""

    source: str
    label: str
    max_size: tuple[int, int] | None = None


class Recognised(NamedTuple):
    """matches: kit id -> where it is now.  whys: kit id -> how it was told.  missing: kit ids.  new: not in the kit.

    unsure: kit ids that could be either of several alike: the teacher must say.
    """

    matches: dict[str, Present]
    whys: dict[str, Why]
    missing: list[str]
    unsure: list[str]
    new: list[Present]


def recognise(known: Sequence[Known], present: Sequence[Present]) -> Recognised:
    """Match by the browser's id first, then by label and largest size, where that is told of one device alone.

    The id lasts as long as the browser's data for this address and, in some browsers, the port of the computer.
    Two devices of one make have the same label: without their ids nothing tells them apart, and neither is guessed.
    """
    by_source = {camera.source: camera for camera in present if camera.source}
    matches = {camera.id: by_source[camera.source] for camera in known if camera.source in by_source}
    whys: dict[str, Why] = dict.fromkeys(matches, "same id")
    taken = {camera.source for camera in matches.values()}
    left = [camera for camera in known if camera.id not in matches]
    free = [camera for camera in present if camera.source not in taken]
    wanted = Counter(_make(camera.label) for camera in left if _make(camera.label))
    unsure = []
    for camera in left:
        make = _make(camera.label)
        alike = [other for other in free if make and _make(other.label) == make and _fits(camera.max_size, other.max_size)]
        if len(alike) == 1 and wanted[make] == 1:
            matches[camera.id], whys[camera.id] = alike[0], "same make"
        elif alike:
            unsure.append(camera.id)
            whys[camera.id] = "two alike"
    taken = {camera.source for camera in matches.values()}
    missing = [camera.id for camera in known if camera.id not in matches and camera.id not in unsure]
    return Recognised(matches, whys, missing, unsure, [camera for camera in present if camera.source not in taken])


def _make(label: str) -> str:
    """A label without what changes with the port: blanks and case."""
    return " ".join(label.lower().split())


def _fits(a: tuple[int, int] | None, b: tuple[int, int] | None) -> bool:
    return a is None or b is None or a == b
