"""A copy of a recorded film in WebM (VP8 and Opus), encoded anew."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import av
from av.container import InputContainer, OutputContainer

from cartouche.live.record.finish import CHAPTER_BASE, Unreadable, arriving

BITS_A_SECOND = 2_000_000
TELLS_EVERY_S = 2.0  # of the film
GIVES_WAY = 4.0  # times as long as a picture took it rests: a fifth of a core


class Wishes(NamedTuple):
    """told: how far it is, 0-1, now and then.  ended: give up.  gives_way: others need the processor more just now."""

    told: Callable[[float], None]
    ended: Callable[[], bool]
    gives_way: Callable[[], bool]


def webm_copy(path: Path, out: Path, wishes: Wishes) -> None:
    """All of it or nothing. Raises Unreadable, OSError."""
    try:
        with arriving(out) as made, av.open(str(path)) as source, av.open(str(made), "w", format="webm") as sink:
            _encode(source, sink, wishes)
    except av.FFmpegError as exc:
        raise Unreadable(path.name) from exc


def _encode(source: InputContainer, sink: OutputContainer, wishes: Wishes) -> None:
    picture, sound = source.streams.video[0], next(iter(source.streams.audio), None)
    video = sink.add_stream("libvpx", rate=30)
    video.width, video.height, video.pix_fmt = picture.width, picture.height, "yuv420p"
    video.bit_rate, video.time_base = BITS_A_SECOND, picture.time_base or CHAPTER_BASE
    video.options = {"deadline": "realtime", "cpu-used": "8"}
    audio = sink.add_stream("libopus", rate=48_000) if sound is not None else None
    whole_s, told_s, begun_s = float((source.duration or 1) / av.time_base), 0.0, time.monotonic()
    for frame in source.decode(*(one for one in (picture, sound) if one is not None)):
        if wishes.ended():
            raise OSError("given up")
        if isinstance(frame, av.VideoFrame):
            frame.pict_type = av.video.frame.PictureType.NONE
            sink.mux(video.encode(frame))
            if wishes.gives_way():
                time.sleep(GIVES_WAY * (time.monotonic() - begun_s))
            begun_s = time.monotonic()
            if frame.time is not None and frame.time - told_s > TELLS_EVERY_S:
                told_s = frame.time
                wishes.told(min(0.99, told_s / whole_s))
        elif audio is not None and isinstance(frame, av.AudioFrame):
            sink.mux(audio.encode(frame))
    sink.mux(video.encode(None))
    if audio is not None:
        sink.mux(audio.encode(None))
