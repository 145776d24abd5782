"""Chapters of a recording: of its steps, plates and sheets; written and read as WebVTT (W3C)."""

import re
from collections.abc import Sequence
from typing import Literal, NamedTuple

MarkKind = Literal["start", "step", "plate", "sheet"]
SHORTEST_S = 2.0  # a plate that was passed on the way to another is no chapter
FIRST = "Beginning"
WEIGHS: dict[MarkKind, int] = {"start": 0, "plate": 1, "step": 2, "sheet": 3}
_TIME = re.compile(r"(?:(\d+):)?(\d\d):(\d\d)\.(\d\d\d)")


class Mark(NamedTuple):
    """Something that happened. at_s: from the beginning of the recording.  ref: the sheet's id."""

    at_s: float
    kind: MarkKind
    title: str
    ref: str = ""


class Chapter(NamedTuple):
    """from_s, to_s: from the beginning of the recording."""

    from_s: float
    to_s: float
    title: str


def chapters_of(marks: Sequence[Mark], length_s: float) -> list[Chapter]:
    """One from each mark to the next. What is passed within SHORTEST_S gives its place to what comes; the plate that a step brings along
    is part of the step; a sheet has a chapter of its own always.
    """
    kept: list[Mark] = [Mark(0.0, "start", FIRST)]
    for mark in sorted(marks, key=lambda one: one.at_s):
        if mark.at_s > length_s:
            break
        last = kept[-1]
        if mark.at_s - last.at_s >= SHORTEST_S or mark.kind == "sheet" or (last.kind == "sheet" and mark.kind == "step"):
            kept.append(mark)
        elif WEIGHS[mark.kind] >= WEIGHS[last.kind]:
            kept[-1] = mark._replace(at_s=last.at_s)
    ends = [mark.at_s for mark in kept[1:]] + [length_s]
    return [Chapter(mark.at_s, to_s, mark.title) for mark, to_s in zip(kept, ends, strict=True) if to_s > mark.at_s]


def within(chapters: Sequence[Chapter], from_s: float, to_s: float) -> list[Chapter]:
    """Those of a part of the recording, by that part's own time."""
    cut = ((max(one.from_s, from_s) - from_s, min(one.to_s, to_s) - from_s, one.title) for one in chapters)
    return [Chapter(*one) for one in cut if one[1] > one[0]]


def vtt(chapters: Sequence[Chapter]) -> str:
    cues = [f"{_written(one.from_s)} --> {_written(one.to_s)}\n{_line(one.title)}\n" for one in chapters]
    return "\n".join(["WEBVTT\n", *cues])


def from_vtt(text: str) -> list[Chapter]:
    """What `vtt` wrote, or anybody's; cues that cannot be read are left out."""
    found = []
    for cue in re.split(r"\n\s*\n", text.replace("\r\n", "\n")):
        lines = cue.strip().split("\n")
        at = next((number for number, line in enumerate(lines) if "-->" in line), None)
        if at is not None and len(times := _TIME.findall(lines[at])) >= 2:
            title = " ".join(lines[at + 1 :]).replace("&lt;", "<").replace("&gt;", ">").replace("&amp;", "&")
            found.append(Chapter(_read(times[0]), _read(times[1]), title))
    return found


def _written(seconds: float) -> str:
    ms = round(1000 * seconds)
    return f"{ms // 3_600_000:02}:{ms // 60_000 % 60:02}:{ms // 1000 % 60:02}.{ms % 1000:03}"


def _read(parts: tuple[str, ...]) -> float:
    hours, minutes, seconds, ms = (int(part or 0) for part in parts)
    return 3600 * hours + 60 * minutes + seconds + ms / 1000


def _line(title: str) -> str:
    return " ".join(title.split()).replace("-->", "→").replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
