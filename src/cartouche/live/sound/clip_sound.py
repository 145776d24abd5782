"""A clip's own sound for the mixer, in step with its picture."""

import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.lips import SENSOR_S
from cartouche.core.sound.loudness import RATE
from cartouche.live.files.clip import open_clip

APART_S = 0.06  # beyond it the sound is sought anew where the picture is
DUCKED = 0.35  # of its level while somebody speaks: 9 dB, so a voice stays 12 dB above speech-loud music


class ClipSound:
    """`read` is the mixer's; position: where the clip stood at a moment (monotonic s), None while it does not play."""

    def __init__(self, path: Path, position: Callable[[float], float | None]) -> None:
        self._path, self._position = path, position
        self._lock = threading.Lock()
        self._container: av.container.InputContainer | None = None
        self._pieces: Iterator[NDArray[np.int16]] = iter(())
        self._kept: NDArray[np.int16] = np.zeros(0, np.int16)
        self._at_s = 0.0  # of the first kept sample
        self.ducks: Callable[[], bool] = lambda: False
        self._gain = 1.0

    def read(self, from_s: float, count: int) -> NDArray[np.int16]:
        position_s = self._position(from_s + SENSOR_S)  # a file has no sensor
        if position_s is None or position_s < 0:  # it had not begun yet
            return np.zeros(count, np.int16)
        with self._lock:
            if not -0.001 < position_s - self._at_s < APART_S + self._kept.size / RATE or self._container is None:
                self._seek(position_s)
            apart = round((position_s - self._at_s) * RATE)
            skipped = apart if abs(apart) > APART_S * RATE else 0  # a small difference is left: nobody sees it, and nothing clicks
            self._fill(max(skipped, 0) + count)
            samples = self._kept[max(skipped, 0) :][:count]
            self._kept = self._kept[max(skipped, 0) + count :]
            self._at_s += (max(skipped, 0) + count) / RATE
        return self._levelled(np.pad(samples, (0, count - samples.size)))

    def _levelled(self, samples: NDArray[np.int16]) -> NDArray[np.int16]:
        """Glides to its level over a block: a step would click."""
        wanted = DUCKED if self.ducks() else 1.0
        gain, self._gain = np.linspace(self._gain, wanted, samples.size), wanted
        return np.asarray(samples * gain, np.int16)

    def _seek(self, position_s: float) -> None:
        self.close()
        self._container = open_clip(self._path)
        self._container.seek(max(0, int(position_s * 1_000_000)))
        self._pieces = self._decoded(self._container, position_s)
        self._kept, self._at_s = np.zeros(0, np.int16), position_s

    @staticmethod
    def _decoded(container: av.container.InputContainer, from_s: float) -> Iterator[NDArray[np.int16]]:
        resampler = av.AudioResampler("s16", "mono", RATE)
        for frame in container.decode(audio=0):
            begins_s = float(frame.time or 0.0)
            for piece in resampler.resample(frame):
                samples = np.asarray(piece.to_ndarray(), np.int16).reshape(-1)
                skip = round((from_s - begins_s) * RATE)
                yield samples[max(0, min(skip, samples.size)) :]
                begins_s += samples.size / RATE

    def _fill(self, count: int) -> None:
        pieces, size = [self._kept], self._kept.size
        while size < count:
            piece = next(self._pieces, None)
            if piece is None:
                break
            pieces.append(piece)
            size += piece.size
        self._kept = np.concatenate(pieces)

    def close(self) -> None:
        """Repeatable."""
        if self._container is not None:
            self._container.close()
        self._container, self._pieces = None, iter(())
