"""A howl that begins: a narrow band that stands out of all beside it, does not breathe, and grows or stays at full blast."""

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.loudness import RATE, as_float

BLOCK = RATE // 20  # 50 ms: bins of 20 Hz
LOW_HZ, HIGH_HZ = 150.0, 9000.0
OUT_DB = 20.0  # above the median of the bins around it
AROUND = 24  # bins to each side
LASTS = 13  # blocks in one band: 0.65 s
GROWS_DB = 6.0  # over them, unless it is loud already
LOUD_DB, LOUD_LASTS = -16.0, 30  # full blast that does not end: 1.5 s
FALLS_DB = 7.0  # below its own largest: a voice's overtone falls so within a syllable, a howl does not

_LOW, _HIGH = int(LOW_HZ * BLOCK / RATE), int(HIGH_HZ * BLOCK / RATE)
_WINDOW = np.hanning(BLOCK)


class Howl:
    """Takes blocks one by one; `hz` is where a howl is, None while there is none. It follows all bands at once: rooms ring in several."""

    def __init__(self) -> None:
        self.hz: float | None = None
        self._lasted = np.zeros(_HIGH - _LOW, np.int64)
        self._first = np.zeros(_HIGH - _LOW)
        self._largest = np.full(_HIGH - _LOW, -120.0)

    def take(self, block: NDArray[np.int16]) -> None:
        """block: (BLOCK,) mono at RATE."""
        power = np.abs(np.fft.rfft(as_float(block) * _WINDOW)) ** 2 / (BLOCK * 0.375 * BLOCK / 4)
        level = 10 * np.log10(np.convolve(power, np.ones(3), "same")[_LOW:_HIGH] + 1e-12)
        wide = np.pad(10 * np.log10(power[_LOW:_HIGH] + 1e-12), AROUND, mode="edge")
        around = np.median(np.lib.stride_tricks.sliding_window_view(wide, 2 * AROUND + 1), axis=1)
        stands = (level - around > OUT_DB) & (level > self._largest - FALLS_DB)
        lasted = np.where(stands, self._lasted + 1, 0)
        self._first = np.where(lasted == 1, level, self._first)
        self._largest = np.where(stands, np.maximum(np.where(lasted == 1, -120.0, self._largest), level), -120.0)
        self._lasted = lasted
        growing = (lasted >= LASTS) & (level - self._first > GROWS_DB)
        blasting = (lasted >= LOUD_LASTS) & (level > LOUD_DB)
        howls = growing | blasting
        self.hz = float((_LOW + int(np.argmax(np.where(howls, level, -200.0)))) * RATE / BLOCK) if howls.any() else None
