"""Files of a recording, made whole: the index in front, the chapters inside. Nothing is encoded anew."""

import math
import os
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

import av

from cartouche.core.record.chapters import Chapter, within

CHAPTER_BASE = Fraction(1, 1000)


class Unreadable(ValueError):
    """Nothing in the file can be played."""


@contextmanager
def arriving(path: Path) -> Iterator[Path]:
    """A temporary name beside it that becomes this one when all went well."""
    part = path.with_name(f"arriving-{path.name}")
    try:
        yield part
        with part.open("rb") as file:
            os.fsync(file.fileno())
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def length_of(path: Path) -> float:
    """Seconds that can be played. Raises Unreadable."""
    try:
        with av.open(str(path)) as source:
            return max(_end_s(packet) for packet in source.demux(video=0) if packet.pts is not None)
    except (av.FFmpegError, ValueError, IndexError) as exc:
        raise Unreadable(path.name) from exc


def _end_s(packet: av.Packet) -> float:
    assert packet.pts is not None
    return float((packet.pts + (packet.duration or 0)) * packet.time_base)


class Part(NamedTuple):
    """Of a film. begins_s: where in it, with the key picture at or before what was asked for.  length_s: its own."""

    begins_s: float
    length_s: float


def finish(path: Path, chapters: Sequence[Chapter], title: str) -> float:
    """The same pictures and sound in a whole file in its place; its length, seconds. Raises Unreadable, OSError."""
    return _written(path, path, chapters, title, 0.0, math.inf).length_s


def cut_out(path: Path, chapters: Sequence[Chapter], title: str, out: Path, from_s: float, to_s: float) -> Part:
    """The part from here to there as a whole file. chapters: of the film, by its own time.  Raises Unreadable, OSError."""
    return _written(path, out, chapters, title, from_s, to_s)


def _written(path: Path, out: Path, chapters: Sequence[Chapter], title: str, from_s: float, to_s: float) -> Part:
    try:
        with arriving(out) as made:
            return _copied(path, made, chapters, title, from_s, to_s)
    except av.FFmpegError as exc:
        if isinstance(exc, OSError) and exc.errno is not None and not isinstance(exc, av.error.InvalidDataError):
            raise OSError(exc.errno, str(exc)) from exc
        raise Unreadable(path.name) from exc


def _copied(path: Path, made: Path, chapters: Sequence[Chapter], title: str, from_s: float, to_s: float) -> Part:
    last_s = 0.0
    with av.open(str(path)) as source, av.open(str(made), "w", format="mp4", options={"movflags": "+faststart"}) as sink:
        begins_s = key_before(source, from_s) if from_s > 0 else 0.0
        streams = {stream.index: sink.add_stream_from_template(stream) for stream in source.streams if stream.type in ("video", "audio")}
        sink.metadata["title"] = title
        sink.set_chapters([
            {"id": number, "start": round(1000 * one.from_s), "end": round(1000 * one.to_s), "time_base": CHAPTER_BASE,
             "metadata": {"title": one.title}}
            for number, one in enumerate(within(chapters, begins_s, to_s))
        ])  # fmt: skip
        for packet in source.demux():
            if packet.dts is None or packet.stream.index not in streams:
                continue
            at_s = float(packet.dts * packet.time_base)
            if at_s < begins_s - 1e-4 or at_s >= to_s:
                continue
            shift = round(begins_s / packet.time_base)
            packet.dts -= shift
            packet.pts = (packet.pts or 0) - shift
            packet.stream = streams[packet.stream.index]
            last_s = max(last_s, _end_s(packet))
            sink.mux(packet)
    if last_s <= 0:
        raise Unreadable(path.name)
    return Part(begins_s, last_s)


def key_before(source: Any, at_s: float) -> float:
    """The moment of the newest key picture at or before this one; the source stands at its beginning again."""
    found = 0.0
    for packet in source.demux(video=0):
        if packet.pts is None:
            continue
        if (moment := float(packet.pts * packet.time_base)) > at_s:
            break
        found = moment if packet.is_keyframe else found
    source.seek(0)
    return found
