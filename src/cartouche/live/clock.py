"""One clock for what outlives the process: the time of day when Cartouche was started, and monotonic from there."""

import time

_BEGUN = time.time() - time.monotonic()


def steady_s() -> float:
    """Seconds since 1970. Setting the computer's clock does not move it until the next start."""
    return _BEGUN + time.monotonic()


def monotonic_of(steady: float) -> float:
    """A moment of that clock as this process's monotonic one."""
    return steady - _BEGUN
