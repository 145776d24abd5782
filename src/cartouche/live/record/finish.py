"""Files of a recording, made whole: the index in front, the chapters inside. Nothing is encoded anew."""

import os
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from typing import Any

import av

from cartouche.core.record.chapters import Chapter

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


def begins_at(path: Path, at_s: float) -> float:
    """Where a part that is wanted from here begins: with the key picture at or before, as nothing is encoded anew. Raises Unreadable."""
    try:
        with av.open(str(path)) as source:
            return key_before(source, at_s) if at_s > 0 else 0.0
    except (av.FFmpegError, IndexError) as exc:
        raise Unreadable(path.name) from exc


def _end_s(packet: av.Packet) -> float:
    assert packet.pts is not None
    return float((packet.pts + (packet.duration or 0)) * packet.time_base)


def finish(path: Path, chapters: Sequence[Chapter], title: str, out: Path | None = None, part: tuple[float, float] | None = None) -> float:
    """The same pictures and sound in a whole file in its place, or as `out`; its length, seconds. Raises Unreadable, OSError.

    part: from and to, seconds; it begins where `begins_at` says.
    """
    target = out or path
    try:
        with arriving(target) as made:
            length_s = _copied(path, made, chapters, title, part)
    except av.FFmpegError as exc:
        if isinstance(exc, OSError) and exc.errno is not None and not isinstance(exc, av.error.InvalidDataError):
            raise OSError(exc.errno, str(exc)) from exc
        raise Unreadable(path.name) from exc
    return length_s


def _copied(path: Path, made: Path, chapters: Sequence[Chapter], title: str, part: tuple[float, float] | None) -> float:
    from_s, to_s = part or (0.0, float("inf"))
    last_s = 0.0
    with av.open(str(path)) as source, av.open(str(made), "w", format="mp4", options={"movflags": "+faststart"}) as sink:
        streams = {stream.index: sink.add_stream_from_template(stream) for stream in source.streams if stream.type in ("video", "audio")}
        sink.metadata["title"] = title
        sink.set_chapters([
            {"id": number, "start": round(1000 * one.from_s), "end": round(1000 * one.to_s), "time_base": CHAPTER_BASE,
             "metadata": {"title": one.title}}
            for number, one in enumerate(chapters)
        ])  # fmt: skip
        begins_s = key_before(source, from_s) if from_s > 0 else 0.0
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
    return last_s


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
