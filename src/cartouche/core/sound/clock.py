"""When a sample was captured, on the server's clock, though the microphone's own clock runs a little fast or slow."""

import math

import numpy as np

from cartouche.core.sound.loudness import RATE

BUCKET_S = 1.0
BUCKETS = 60  # a line through a minute of them
STEADY_S = 30.0  # before that the slope says more of the network than of the clock
MAX_PPM = 500.0  # of a crystal; more is a network that grows slower
MAX_SLIP_S = 0.5  # a block that is so late for good is a new beginning: the sound was held up or the page slept


class DeviceClock:
    """Takes sample counts and arrivals. Of each second only the earliest block counts: all lateness is the network's.

    Plain regression over all arrivals is wrong by thousands of ppm; the least lateness of each second is right within a few.
    """

    def __init__(self) -> None:
        self._buckets: list[tuple[float, float]] = []  # (device seconds, least lateness in seconds)
        self._bucket_start_s = -math.inf
        self._late_since_s: float | None = None
        self._offset_s, self._slope = 0.0, 0.0

    @property
    def ppm(self) -> float:
        """How much faster than the server's the device's clock runs, parts per million."""
        return -1e6 * self._slope

    def take(self, samples: int, arrived_s: float) -> bool:
        """samples: captured by the device until the end of this block.  False where everything before it says nothing any more."""
        device_s = samples / RATE
        lateness = arrived_s - device_s
        if self._buckets and self._is_new_beginning(device_s, lateness):
            self.__init__()  # type: ignore[misc]
            self.take(samples, arrived_s)
            return False
        if device_s - self._bucket_start_s >= BUCKET_S:
            self._buckets = [*self._buckets[-BUCKETS + 1 :], (device_s, lateness)]
            self._bucket_start_s = device_s
            self._fit()
        elif lateness < self._buckets[-1][1]:
            self._buckets[-1] = (device_s, lateness)
            if len(self._buckets) < 3:
                self._fit()
        return True

    def _is_new_beginning(self, device_s: float, lateness: float) -> bool:
        if device_s < self._bucket_start_s:
            return True
        if lateness - self._lateness(device_s) < MAX_SLIP_S:
            self._late_since_s = None
            return False
        self._late_since_s = device_s if self._late_since_s is None else self._late_since_s
        return device_s - self._late_since_s > BUCKET_S

    def _fit(self) -> None:
        at = np.array(self._buckets)
        if at[-1, 0] - at[0, 0] < STEADY_S:
            self._offset_s = float(at[:, 1].min()) - self._slope * float(at[-1, 0])
            return
        slope, _ = np.polyfit(at[:, 0], at[:, 1], 1)
        self._slope = float(np.clip(slope, -1e-6 * MAX_PPM, 1e-6 * MAX_PPM))
        self._offset_s = float((at[:, 1] - self._slope * at[:, 0]).min())

    def _lateness(self, device_s: float) -> float:
        return self._offset_s + self._slope * device_s

    def captured_s(self, samples: int) -> float:
        """When this sample was captured, on the server's clock, later by the quickest way from there to here."""
        return samples / RATE + self._lateness(samples / RATE)
