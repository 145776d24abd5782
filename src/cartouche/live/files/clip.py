"""A short clip as a device: plays, pauses, loops, in real time. Its sound is played by the page, in step with `position_s`."""

import threading
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import av

from cartouche.core.kit.health import Battery, Facing
from cartouche.core.pictures import Frame
from cartouche.live.files.errors import UnreadableFile
from cartouche.live.planes import MAX_PIXELS, MIN_SIDE, PlaneRing

FRAMES_S = 30.0
AWAY_S = 2.0  # nobody has asked for so long: the clip waited meanwhile; a busy machine may hold a picture up for a second


class ClipFacts(NamedTuple):
    """sound: the codec's name, '' for a silent clip."""

    width: int
    height: int
    duration_s: float
    sound: str


def look_into(path: Path, name: str) -> ClipFacts:
    """Open a clip and decode its first picture. Raises UnreadableFile."""
    try:
        with open_clip(path) as container:
            if not container.streams.video:
                raise UnreadableFile(name, "it holds no picture")
            video = container.streams.video[0]
            if video.codec_context is None:  # it says so of itself, and nobody knows how to decode it
                raise UnreadableFile(name, "the clip is damaged")
            if min(video.width, video.height) < MIN_SIDE:
                raise UnreadableFile(name, f"its picture is {video.width} x {video.height}, too small to see")
            if video.width * video.height > MAX_PIXELS:
                raise UnreadableFile(name, f"its picture is {video.width} x {video.height}, more than 3840 x 2160")
            if next(container.decode(video), None) is None:
                raise UnreadableFile(name, "it holds no picture")
            sound = next((one.codec_context.name for one in container.streams.audio if one.codec_context is not None), "")
            return ClipFacts(video.width, video.height, (container.duration or 0) / 1_000_000, sound)
    except UnreadableFile:
        raise
    except (av.FFmpegError, OSError, ValueError) as exc:
        raise UnreadableFile(name, "the clip is damaged") from exc


def open_clip(path: Path) -> av.container.InputContainer:
    """By the two kinds we take and no other: some kinds would read further files or addresses."""
    with path.open("rb") as file:
        kind = "matroska" if file.read(4) == b"\x1a\x45\xdf\xa3" else "mp4"
    return av.open(str(path), format=kind, options={"protocol_whitelist": "file"}, metadata_errors="replace")  # titles in any encoding


class ClipSource:
    """Asked for pictures by one thread; `play`, `pause`, `seek` come from others."""

    battery: Battery | None = None
    facing: Facing | None = None

    def __init__(self, path: Path, facts: ClipFacts, *, loops: bool = False) -> None:
        self.facts, self.loops, self.fps = facts, loops, FRAMES_S
        self._path = path
        self._lock = threading.Lock()
        self._container: av.container.InputContainer | None = None
        self._pictures: Iterator[av.VideoFrame] = iter(())
        self._next: av.VideoFrame | None = None
        self._planes = PlaneRing()
        self._shown: Frame | None = None
        self._position_s = 0.0
        self._asked_s: float | None = None
        self._seek_s: float | None = 0.0
        self.playing = False

    @property
    def position_s(self) -> float:
        return self._position_s

    @property
    def path(self) -> Path:
        return self._path

    def position_at(self, moment_s: float) -> float | None:
        """Where its picture stands at this moment (monotonic), None while it does not play."""
        asked_s = self._asked_s
        return self._position_s + moment_s - asked_s if self.playing and asked_s is not None else None

    def play(self) -> None:
        if self._position_s >= self.facts.duration_s and self._seek_s is None:
            self._seek_s = 0.0
        self.playing, self._asked_s = True, None

    def pause(self) -> None:
        self.playing = False

    def seek(self, position_s: float) -> None:
        self._seek_s = max(0.0, min(position_s, self.facts.duration_s))  # the newest counts: nobody waits for an older one

    def picture(self, now_s: float) -> Frame | None:
        """The picture that is due now. Raises ConnectionError when the file is damaged or gone."""
        with self._lock:
            try:
                return self._picture(now_s)
            except (av.FFmpegError, OSError, ValueError) as exc:
                self.close()
                self._seek_s = self._position_s if self._seek_s is None else self._seek_s
                raise ConnectionError("The file of this clip is damaged or gone. Remove it and add it again.") from exc

    def _picture(self, now_s: float) -> Frame | None:
        seek_s, self._seek_s = self._seek_s, None
        if seek_s is not None:
            self._go_to(seek_s)
        elif self.playing and self._asked_s is not None and now_s - self._asked_s < AWAY_S:
            self._position_s += now_s - self._asked_s
        self._asked_s = now_s
        due: av.VideoFrame | None = None
        while self._next is not None and _time_s(self._next) <= self._position_s + 0.5 / FRAMES_S:
            due, self._next = self._next, next(self._pictures, None)
        if due is not None:
            self._shown = self._planes.frame(due, now_s)
        if self._next is None and self.playing and self._position_s >= self.facts.duration_s:
            self._end()
        return Frame.of(self._shown.planes, now_s) if self._shown is not None else None

    def _end(self) -> None:
        if self.loops:
            self._go_to(0.0)
        else:
            self.playing, self._position_s = False, self.facts.duration_s

    def _go_to(self, position_s: float) -> None:
        if self._container is None:
            self._container = open_clip(self._path)
        self._container.seek(int(position_s * 1_000_000))
        self._pictures = self._container.decode(video=0)
        self._next = next(self._pictures, None)
        before: av.VideoFrame | None = None
        while self._next is not None and _time_s(self._next) < position_s and self._seek_s is None:  # a newer one makes this one idle
            before, self._next = self._next, next(self._pictures, None)
        if before is not None:
            self._shown = self._planes.frame(before, 0.0)
        self._position_s = position_s

    def close(self) -> None:
        """Repeatable."""
        if self._container is not None:
            self._container.close()
        self._container, self._next, self._pictures = None, None, iter(())


def _time_s(picture: av.VideoFrame) -> float:
    return float(picture.time or 0.0)
