"""Hold: the page's last calm picture stays while the sheet is changed.

Judged for each picture by itself, before anybody sees it: a page is in place when its sides still run where they did. A hand that
writes hides a side or two; a page that is carried off, lifted or replaced has none left where it was.
"""

import math
from typing import NamedTuple

import numpy as np

from cartouche.core.pictures import Corners, Plane
from cartouche.core.straighten.refine import refine_quad

STILL_SHARE = 0.003  # of the picture's width: what a side may have moved and still count as where it was
MIN_SUPPORT = 0.42  # share of a side that must be seen there
LIES_STILL_S = 0.35  # before it is shown again, three sides must have been in place for so long
ASKS_AFTER_S = 120.0


class Lies(NamedTuple):
    """Of the four sides, clockwise from the upper: whether each runs where it did, or is seen a little elsewhere."""

    in_place: tuple[bool, ...]
    moved: tuple[bool, ...]

    @property
    def calm(self) -> bool:
        """Whether learners may see it: two sides that meet are in place. Of a page that is drawn off to one side, two that face each
        other still run where they did."""
        meet = any(self.in_place[side] and self.in_place[side - 1] for side in range(4))
        return meet and not any(self.moved)


def lies(luma: Plane, corners: Corners) -> Lies:
    """Where the page's sides are in one picture. luma: (h, w) uint8.  corners: (4, 2) px, of the page where it was, clockwise as seen."""
    refined = refine_quad(luma, corners, reach_share=0.008)
    seen = [bool(share >= MIN_SUPPORT) for share in refined.support]
    still = [_off(refined.corners, corners, side) < STILL_SHARE * luma.shape[1] for side in range(4)]
    return Lies(tuple(a and b for a, b in zip(seen, still, strict=True)), tuple(a and not b for a, b in zip(seen, still, strict=True)))


def _off(there: Corners, corners: Corners, side: int) -> float:
    """How far a side's ends lie from its line before, px."""
    start, along = corners[side], corners[(side + 1) % 4] - corners[side]
    normal = np.array([-along[1], along[0]]) / max(float(np.linalg.norm(along)), 1e-9)
    return float(np.abs((there[[side, (side + 1) % 4]] - start) @ normal).max())


class AutoHold:
    """Decides, picture by picture, whether the page is let out. Time is passed in; `held` is None while it is live."""

    def __init__(self) -> None:
        self.held_since_s: float | None = None
        self._still_since_s = math.inf

    def see(self, page: Lies, now_s: float) -> bool:
        """Whether this picture may be let out."""
        if self.held_since_s is None:
            if page.calm:
                return True
            self.held_since_s, self._still_since_s = now_s, math.inf
            return False
        if sum(page.in_place) < 3:
            self._still_since_s = math.inf
            return False
        self._still_since_s = min(self._still_since_s, now_s)
        if now_s - self._still_since_s < LIES_STILL_S:
            return False
        self.held_since_s = None
        return True
