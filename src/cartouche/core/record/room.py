"""How long a disk has room for a recording, and when it must stop in good order."""

from typing import Literal, NamedTuple

RESERVE = 12_000_000  # bytes that stay free: the lesson itself must be kept, and the file closed
WARNS_S = 600.0
MEASURED_S = 20.0  # before so long the usual rate counts
USUAL_RATE = {720: 100_000.0, 1080: 250_000.0}  # bytes a second, while somebody writes, of noisy cameras as the benchmark has them


class Room(NamedTuple):
    """left_s: so long it can go on."""

    left_s: float
    verdict: Literal["enough", "little", "full"]


def room(free: int, written: int, length_s: float, height: int) -> Room:
    """free, written: bytes.  length_s: recorded so far.  height: px of the picture."""
    usual = USUAL_RATE[720 if height <= 720 else 1080]
    share = min(length_s / MEASURED_S, 1.0)
    rate = share * (written / length_s if length_s > 0 else usual) + (1 - share) * usual
    left_s = max(0.0, (free - RESERVE) / max(rate, 1000.0))
    if free <= RESERVE:
        return Room(0.0, "full")
    return Room(left_s, "little" if left_s < WARNS_S else "enough")
