"""The newest seconds of one microphone on the server's clock: gaps are silent, drift is taken out, any moment can be read."""

import threading

import numpy as np
import soxr  # type: ignore[import-untyped]
from numpy.typing import NDArray

from cartouche.core.sound.clock import DeviceClock
from cartouche.core.sound.loudness import RATE

KEPT_S = 3.0
LARGEST_RATIO = 1.01
MAX_GAP_S = 1.0  # lost blocks are filled with silence; a longer pause is a new beginning
PULL_S = 10.0  # an offset is drawn in over so long: no ear follows it
MAX_PULL = 400e-6
SLIPPED_S = 0.08  # an offset so large is not drawn in but jumped over, once
SLEW = RATE // 10  # samples over which a new ratio comes in


class Track:
    """`take` by whoever brings the sound, `read` by the mixer; a lock each time, for microseconds."""

    def __init__(self, way_s: float = 0.0) -> None:
        """way_s: from the air to here, the part that is always so."""
        self._way_s = way_s
        self._lock = threading.Lock()
        self._ring = np.zeros(int(KEPT_S * RATE), np.int16)
        self.lost_blocks = 0
        self._restart()

    def _restart(self) -> None:
        self._clock = DeviceClock()
        self._stream = soxr.ResampleStream(RATE * LARGEST_RATIO, RATE, 1, "int16", "HQ", vr=True)
        self._stream.set_io_ratio(RATE, RATE, 0)
        self._next: int | None = None  # sample that should come
        self._zero_s = 0.0  # when the first written sample was captured
        self._written = 0
        self._fed = 0
        self._first = 0

    @property
    def ppm(self) -> float:
        return self._clock.ppm

    def take(self, first: int, block: NDArray[np.int16], arrived_s: float) -> None:
        """first: number of the block's first sample, by the device's own count.  block: (n,) mono at RATE."""
        arrived_s -= self._way_s
        with self._lock:
            gap = 0 if self._next is None else first - self._next
            if not 0 <= gap <= MAX_GAP_S * RATE or not self._clock.take(first + block.size, arrived_s):
                self._restart()
                gap = 0
                self._clock.take(first + block.size, arrived_s)
            if self._next is None:
                self._first = first
                self._zero_s = self._clock.captured_s(first)
            if gap:
                self.lost_blocks += 1
                self._write(np.zeros(gap, np.int16))
            self._next = first + block.size
            self._steer()
            self._write(block)

    def _steer(self) -> None:
        """The device's speed, and a little more or less until what is written stands where it was captured."""
        fed = self._first + self._fed
        offset_s = self._clock.captured_s(fed) - (self._zero_s + self._fed_out / RATE)
        if abs(offset_s) > SLIPPED_S:
            self._zero_s += offset_s
            offset_s = 0.0
        pull = float(np.clip(offset_s / PULL_S, -MAX_PULL, MAX_PULL))
        self._ratio = 1.0 + 1e-6 * self._clock.ppm - pull
        self._stream.set_io_ratio(self._ratio * RATE, RATE, SLEW)

    _fed_out = 0.0  # samples that what was fed will come to, once it is all out
    _ratio = 1.0

    def _write(self, block: NDArray[np.int16]) -> None:
        self._fed_out = (self._fed_out if self._fed else 0.0) + block.size / self._ratio
        self._fed += block.size
        out = np.asarray(self._stream.resample_chunk(block), np.int16)
        at = np.arange(self._written, self._written + out.size) % self._ring.size
        self._ring[at] = out
        self._written += out.size

    def read(self, from_s: float, count: int) -> NDArray[np.int16]:
        """count samples from this moment on, of when they were captured; silence where there is nothing. A new array."""
        with self._lock:
            start = round((from_s - self._zero_s) * RATE)
            oldest = max(0, self._written - self._ring.size)
            low, high = min(max(start, oldest), start + count), max(min(start + count, self._written), start)
            samples = np.zeros(count, np.int16)
            if high > low:
                samples[low - start : high - start] = self._ring[np.arange(low, high) % self._ring.size]
            return samples

    def until_s(self) -> float:
        """Up to when there is sound to read."""
        with self._lock:
            return self._zero_s + self._written / RATE
