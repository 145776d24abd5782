"""How busy this computer is, and whether heat slows it down."""

import time
from pathlib import Path

import psutil

THROTTLED_FOR_S = 60.0
_COUNT = Path("/sys/devices/system/cpu/cpu0/thermal_throttle/package_throttle_count")


class Computer:
    """Looked at now and then by one thread; `busy` and `throttled` may be read by others, None where the system does not tell."""

    def __init__(self) -> None:
        self.busy: float | None = None  # share of all cores since the look before, 0-1
        self._count: int | None = None
        self._slowed_s: float | None = None
        psutil.cpu_percent(None)  # the first look only begins to count

    def look(self) -> None:
        share = psutil.cpu_percent(None) / 100
        self.busy = share if self.busy is None else 0.6 * self.busy + 0.4 * share
        try:
            count = int(_COUNT.read_text())
        except (OSError, ValueError):
            return
        if self._count is not None and count > self._count:
            self._slowed_s = time.monotonic()
        self._count = count

    @property
    def throttled(self) -> bool | None:
        if self._count is None:
            return None
        return self._slowed_s is not None and time.monotonic() - self._slowed_s < THROTTLED_FOR_S
