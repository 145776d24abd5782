"""Whether the timer drifts: an hour of its reading against the clock it is taken from, and what a start in between does to it."""

import json
import time

import numpy as np

from cartouche.core.teach.timer import Timer
from cartouche.live.clock import steady_s

HOUR_S = 3600.0
WATCHED_S = 20.0


def main() -> None:
    begun = 1_900_000_000.25
    timer = Timer(total_s=HOUR_S).pressed(begun)
    again = Timer.model_validate_json(timer.model_dump_json())  # as it is kept, and taken up by another process
    moments = np.arange(0, HOUR_S, 0.05)
    off = [abs((again.left_s(begun + moment) or 0.0) - (HOUR_S - moment)) for moment in moments]
    read = [abs(HOUR_S - moment - _seconds(again.reads(begun + moment))) for moment in moments]
    first_s, first = time.monotonic(), steady_s()
    time.sleep(WATCHED_S)
    drift = abs((steady_s() - first) - (time.monotonic() - first_s))
    print(json.dumps({
        "hours": 1, "worst_off_s": round(max(off), 6), "worst_reading_s": round(max(read), 3),
        "clock_drift_s": round(drift, 6), "watched_s": WATCHED_S,
    }))  # fmt: skip


def _seconds(reads: str) -> float:
    """A begun second counts as whole: what is read is never less than what is left."""
    parts = [int(part) for part in reads.split(":")]
    return float(sum(part * 60**place for place, part in enumerate(reversed(parts))))


if __name__ == "__main__":
    main()
