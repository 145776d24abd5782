"""The timer that learners see. Times are seconds of a clock that neither jumps nor stops while the lesson runs; see `live.clock`."""

import math
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

Way = Literal["down", "up"]
Shown = Literal["corner", "hidden"]
MINUTE_S, LONGEST_S = 60.0, 10 * 3600.0
FLASHES_S = 6.0  # its end is seen for so long


class Timer(BaseModel):
    """total_s: what it counts down from.  before_s: counted until it was started last.  started_s: None while it stands.

    shown: small in a corner, or not at all; a plate may show it large besides.  chime: learners hear its end.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    way: Way = "down"
    total_s: float = Field(default=5 * MINUTE_S, ge=0.0, le=LONGEST_S)
    before_s: float = Field(default=0.0, ge=0.0)
    started_s: float | None = None
    shown: Shown = "hidden"
    chime: bool = False

    @property
    def runs(self) -> bool:
        return self.started_s is not None

    def counted_s(self, now_s: float) -> float:
        """How long it has run in all."""
        return self.before_s + (max(0.0, now_s - self.started_s) if self.started_s is not None else 0.0)

    def left_s(self, now_s: float) -> float | None:
        """Until its end, negative after it; None where it counts up."""
        return self.total_s - self.counted_s(now_s) if self.way == "down" else None

    def ended(self, now_s: float) -> bool:
        left = self.left_s(now_s)
        return left is not None and left <= 0 and self.counted_s(now_s) > 0

    def pressed(self, now_s: float) -> "Timer":
        """Started, or paused; after its end, from the beginning. What was hidden is seen once it runs."""
        if self.ended(now_s):
            return self.reset().model_copy(update={"shown": "corner"})
        if self.runs:
            return self.model_copy(update={"before_s": self.counted_s(now_s), "started_s": None})
        return self.model_copy(update={"started_s": now_s, "shown": "corner"})

    def reset(self) -> "Timer":
        return self.model_copy(update={"before_s": 0.0, "started_s": None})

    def minute_more(self, now_s: float) -> "Timer":
        """Counting down, a minute is added; one that has ended has a minute from now."""
        if self.way == "up":
            return self
        if self.ended(now_s):
            return self.model_copy(update={"total_s": self.counted_s(now_s) + MINUTE_S})
        return self.model_copy(update={"total_s": min(self.total_s + MINUTE_S, LONGEST_S)})

    def reads(self, now_s: float) -> str:
        """As it stands on the picture: minutes and seconds, hours where there are any. Down, a begun second counts as whole."""
        left = self.left_s(now_s)
        seconds = int(self.counted_s(now_s) + 1e-6) if left is None else math.ceil(max(0.0, left) - 1e-6)
        hours, rest = divmod(seconds, 3600)
        minutes, seconds = divmod(rest, 60)
        return f"{hours}:{minutes:02}:{seconds:02}" if hours else f"{minutes}:{seconds:02}"

    def flashes(self, now_s: float) -> bool:
        """Just ended: it is shown so that it is noticed."""
        left = self.left_s(now_s)
        return left is not None and self.ended(now_s) and left > -FLASHES_S
