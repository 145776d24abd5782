"""A recorder fed by hand: pictures that flash and sound that clicks at the same moments of capture."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.core.sound.loudness import RATE
from cartouche.live.demand import Demand
from cartouche.live.out.encoder import Encodings
from cartouche.live.record.recorder import Plan, Recorder
from cartouche.live.sound.mixer import Mixer
from cartouche.live.troubles import Troubles
from tests.helpers import eventually

SIZE = Size(320, 180)
FLASH_EVERY_S, FLASH_S = 1.0, 0.08


def is_flash(captured_s: float) -> bool:
    return captured_s % FLASH_EVERY_S < FLASH_S


class Clicks:
    """A sound source that clicks as the pictures flash."""

    def read(self, from_s: float, count: int) -> NDArray[np.int16]:
        moments = from_s + np.arange(count) / RATE
        return np.where(moments % FLASH_EVERY_S < FLASH_S, 12000 * np.sin(2 * np.pi * 1000 * moments), 0).astype(np.int16)


class Studio:
    """Pictures are captured `late_s` before they are taken, as in the running desk."""

    def __init__(self, folder: Path, late_s: float = 0.06) -> None:
        self.folder, self.late_s = folder, late_s
        self.troubles = Troubles()
        self.encodings = Encodings(Demand(), self.troubles)
        self.mixer = Mixer(lambda: [Clicks()], lambda now_s: late_s, self.troubles)
        self.mixer.start()
        self.changes = 0
        self.recorder = Recorder(self.encodings, self.mixer, self.troubles, self._changed)
        self._dark, self._light = (blank_frame(SIZE, YuvColour(value, 128, 128)) for value in (30, 225))

    def _changed(self) -> None:
        self.changes += 1

    def path_of(self, number: int) -> Path:
        return self.folder / f"piece-{number}.mp4"

    def start(self, piece_s: float | None = None) -> None:
        self.recorder.start(Plan(SIZE, self.path_of, piece_s))

    def show(self, seconds: float, fps: float = 25.0) -> None:
        until_s = time.monotonic() + seconds
        while (now_s := time.monotonic()) < until_s:
            captured_s = now_s - self.late_s
            lit = self._light if is_flash(captured_s) else self._dark
            frame = Frame(lit.y, lit.u, lit.v, captured_s)
            if self.encodings.ready(now_s):
                self.encodings.take(frame, now_s)
            time.sleep(max(0.0, 1 / fps - (time.monotonic() - now_s)))

    def settled(self) -> None:
        eventually(lambda: not self.recorder._items)

    def close(self) -> None:
        self.recorder.close()
        self.encodings.close()
        self.mixer.stop()


@contextmanager
def studio(folder: Path, late_s: float = 0.06) -> Iterator[Studio]:
    made = Studio(folder, late_s)
    try:
        yield made
    finally:
        made.close()


def flashes(path: Path) -> list[float]:
    """Moments at which the picture turns light, by OpenCV's reader."""
    reader, moments, was_light = cv2.VideoCapture(str(path)), [], False
    while True:
        there, picture = reader.read()
        if not there:
            reader.release()
            return moments
        light = float(picture.mean()) > 128
        if light and not was_light:
            moments.append(reader.get(cv2.CAP_PROP_POS_MSEC) / 1000)
        was_light = light


def heard(path: Path) -> NDArray[np.float32]:
    """(n,) the sound from the file's beginning."""
    with av.open(str(path)) as source:
        parts = []
        for frame in source.decode(audio=0):
            at = round(float(frame.pts * frame.time_base) * RATE)
            have = sum(part.size for part in parts)
            if at > have:
                parts.append(np.zeros(at - have, np.float32))
            parts.append(frame.to_ndarray()[0].astype(np.float32))
        return np.concatenate(parts) if parts else np.zeros(0, np.float32)


def clicks(path: Path) -> list[float]:
    """Moments at which it begins to click."""
    loud = np.abs(heard(path))
    over = np.convolve(loud > 0.1, np.ones(96), mode="same") > 20
    starts = np.flatnonzero(over[1:] & ~over[:-1]) + 1
    return [float(start) / RATE + 0.0006 for start in starts]


def apart(path: Path, paused_s: float = 0.0) -> list[float]:
    """Of each flash and the click next to it, s; but for those that its beginning or a pause may have cut off."""
    sounds, whole = np.array(clicks(path)), [flash for flash in flashes(path) if min(flash, abs(flash - paused_s)) > 0.2]
    return [float(sounds[np.abs(sounds - flash).argmin()] - flash) for flash in whole]


def frames_in(path: Path) -> int:
    with av.open(str(path)) as source:
        return sum(1 for packet in source.demux(video=0) if packet.pts is not None)
