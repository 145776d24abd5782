"""What state a feed is in, from when its pictures came."""

from typing import Literal

State = Literal["off", "starting", "live", "lost"]

LOST_AFTER_S = 0.8  # two missed frames at the slowest feed we accept, plus a retry of a wireless link
STARTING_FOR_S = 20.0  # a document camera may blink for this long before its first picture


def feed_state(wanted_since_s: float | None, last_frame_s: float | None, now_s: float) -> State:
    """State of a feed at now_s (monotonic seconds).

    wanted_since_s: when somebody first wanted its pictures; None if nobody does.  last_frame_s: newest arrival, or None.
    """
    if wanted_since_s is None:
        return "off"
    if last_frame_s is not None and last_frame_s >= wanted_since_s:
        return "live" if now_s - last_frame_s < LOST_AFTER_S else "lost"
    return "starting" if now_s - wanted_since_s < STARTING_FOR_S else "lost"
