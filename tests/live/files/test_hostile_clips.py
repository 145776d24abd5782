"""Clips whose boxes lie (ISO/IEC 14496-12): taken or refused in a sentence, in bounded time and memory, and nothing else is read."""

import resource
import struct
import time
from collections.abc import Callable
from pathlib import Path

import av
import pytest

from cartouche.live.files.clip import ClipSource, look_into
from cartouche.live.files.errors import UnreadableFile
from tests import samples

MANY, WITHIN_S, MAX_MORE_MB = 0x7FFFFFFF, 10.0, 300


def at(box: bytes, offset: int, value: bytes, which: int = 0) -> Callable[[bytearray], None]:
    """This value at so many bytes behind the name of a box."""

    def spoil(whole: bytearray) -> None:
        found = -1
        for _ in range(which + 1):
            found = whole.index(box, found + 1)
        start = found + len(box) + offset
        whole[start : start + len(value)] = value

    return spoil


def number(value: int) -> bytes:
    return struct.pack(">I", value)


LIES = {
    "endless by the movie": at(b"mvhd", 16, number(0xFFFFFFFF)),
    "no movie time scale": at(b"mvhd", 12, number(0)),
    "no media time scale": at(b"mdhd", 12, number(0)),
    "endless by the media": at(b"mdhd", 16, number(0xFFFFFFFF)),
    "as wide as can be": at(b"tkhd", 76, number(0xFFFF0000) * 2),
    "turned to nothing": at(b"tkhd", 40, bytes(36)),
    "more pictures than bytes": at(b"stsz", 8, number(MANY)),
    "each of two gigabytes": at(b"stsz", 4, number(MANY)),
    "more durations than bytes": at(b"stts", 4, number(MANY)),
    "all of them endless": at(b"stts", 12, number(MANY)),
    "chunks behind the end": at(b"stco", 8, number(0xFFFFFF00)),
    "more chunks than bytes": at(b"stco", 4, number(MANY)),
    "a box of no length": at(b"stbl", -8, number(0)),
    "a box longer than the file": at(b"trak", -8, number(MANY)),
    "its media elsewhere": at(b"url ", 0, number(0)),
    "another codec than it holds": at(b"stsd", 12, b"hvc1"),
}


def memory_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000


def tried(path: Path) -> str:
    """What the sentence says, '' where it is taken and plays."""
    try:
        facts = look_into(path, path.name)
    except UnreadableFile as exc:
        return str(exc)
    source = ClipSource(path, facts)
    try:
        for now_s in (0.0, 0.3, 50.0):
            source.picture(now_s)
        source.seek(1e6)
        source.picture(60.0)
    finally:
        source.close()
    return ""


@pytest.mark.parametrize("lie", LIES)
def test_a_clip_that_lies_is_taken_or_refused(tmp_path: Path, lie: str) -> None:
    path = samples.clip(tmp_path / "whole.mp4", seconds=0.6)
    whole = bytearray(path.read_bytes())
    LIES[lie](whole)
    path.write_bytes(whole)
    begun_s, before_mb = time.monotonic(), memory_mb()
    says = tried(path)
    assert says == "" or says.endswith(".")
    assert time.monotonic() - begun_s < WITHIN_S
    assert memory_mb() - before_mb < MAX_MORE_MB


def test_a_title_of_megabytes_and_control_characters_is_no_ones_name(tmp_path: Path) -> None:
    path = tmp_path / "titled.mp4"
    whole = samples.clip(tmp_path / "whole.mp4", seconds=0.6)
    with av.open(str(whole)) as read, av.open(str(path), "w") as write:
        write.metadata["title"] = "\x1b[2J\u202e" + 3_000_000 * "x"
        stream = write.add_stream_from_template(read.streams.video[0])
        for packet in read.demux(read.streams.video[0]):
            if packet.dts is not None:
                packet.stream = stream
                write.mux(packet)
    assert path.stat().st_size > 3_000_000
    assert tried(path) == ""
