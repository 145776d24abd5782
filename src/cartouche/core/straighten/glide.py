"""From one chain to another without a jump: corners and framing move along a smooth curve of time."""

from dataclasses import dataclass

import numpy as np

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Size
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.gate import require_drawable

FOLLOW_S, FRAME_S = 0.2, 0.45  # a page that slid; a reading band that walks on


@dataclass(frozen=True, slots=True, eq=False)
class Glide:
    """begun_s: monotonic.  lasts_s: until the end is reached.  feed: px of the pictures, None while none has come."""

    start: Chain
    end: Chain
    begun_s: float
    lasts_s: float
    feed: Size | None = None

    def at(self, now_s: float) -> Chain:
        """The chain at a moment; `end` itself once there."""
        share = (now_s - self.begun_s) / self.lasts_s if self.lasts_s > 0 else 1.0
        return self.end if share >= 1 else between(self.start, self.end, max(0.0, share), self.feed)


def between(start: Chain, end: Chain, share: float, feed: Size | None = None) -> Chain:
    """share: of the time, 0-1. What cannot move smoothly is as in `end`; corners that could not be drawn on the way jump.

    feed: px of the pictures, None while none has come.
    """
    eased = share * share * (3 - 2 * share)
    frame = end.frame.model_copy(
        update={
            name: getattr(start.frame, name) + eased * (getattr(end.frame, name) - getattr(start.frame, name))
            for name in ("zoom", "x", "y")
        }
    )
    moved = np.array(start.square.corners) * (1 - eased) + np.array(end.square.corners) * eased
    try:
        values = {**end.square.model_dump(), "corners": moved.tolist()}
        values["aspect"] = start.square.aspect + eased * (end.square.aspect - start.square.aspect)
        square = type(end.square).model_validate(values)
        return require_drawable(end.model_copy(update={"frame": frame, "square": square}), feed)
    except (ValueError, DegenerateCorners):
        return end.model_copy(update={"frame": frame})
