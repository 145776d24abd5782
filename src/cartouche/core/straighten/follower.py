"""Follow a page that was squared up: a bumped stand or a slid page is a move, a hand over it is none.

Each look asks first, cheaply, whether the page's sides still run where they did. Only when they do not is the page
sought anew, and only a place that two looks agree on is a move: so nothing ever shakes while nothing moves.
"""

from collections.abc import Callable
from typing import Literal, NamedTuple

import numpy as np

from cartouche.core.pictures import Corners, Frame, Plane
from cartouche.core.straighten.finder import Found, NotFound
from cartouche.core.straighten.geometry import in_order_of
from cartouche.core.straighten.identity import Identity
from cartouche.core.straighten.refine import refine_quad

FollowState = Literal["fixed", "following", "waiting", "lost"]
Find = Callable[[Frame], Found | NotFound]

LOOK_EVERY_S = 0.1  # two looks that agree and a glide of a fifth of a second stay within half a second
STILL_SHARE = 0.0014  # of the picture's width: a side that lies within it has not moved; refining is exact to a fifth of that
MIN_INLIER_SHARE = 0.45  # share of a side that must bear it out for the side to count
STILL_SIDES = 3
AGREE_SHARE = 0.004  # of the picture's width: two looks at a page at rest differ by less
SURE = 0.75
LIKE = 0.14  # log: the same page seen from a little elsewhere keeps its proportions
OTHER_SIZE_S = 0.7  # a page of other proportions must lie still for this long: a hand makes many shapes, but not for long
PAGE_LOST_AFTER_S = 1.0


class Follow(NamedTuple):
    """What one look tells. moved_to: (4, 2) px, the new corners in the order of those in force, or None.
    new_page: another page lies at the same place."""

    state: FollowState
    moved_to: Corners | None = None
    new_page: bool = False


class Follower:
    """Follows one page; time is passed in."""

    def __init__(self) -> None:
        self._pending: Corners | None = None
        self._pending_since_s = 0.0
        self._unseen_since_s: float | None = None
        self._disturbed = False
        self.identity = Identity()

    def look(self, frame: Frame, corners: Corners, find: Find, now_s: float) -> Follow:
        """One look at a frame. corners: those in force, (4, 2) px, clockwise as seen.  find: the finder."""
        if self._at_rest(frame.y, corners):
            self._pending = self._unseen_since_s = None
            return Follow("following", None, self._compared(frame.y, corners, now_s))
        self._disturbed = True
        found = find(frame)
        if not isinstance(found, Found) or found.confidence < SURE:
            return self._unseen(now_s)
        there, off = in_order_of(found.corners, corners)
        if off < 2 * AGREE_SHARE * frame.size.width:  # where it was, with something over it
            self._unseen_since_s = None
            if off < STILL_SHARE * frame.size.width:
                self._pending = None
                return Follow("waiting")
        self._unseen_since_s = None
        return self._agreed(there, corners, frame, now_s)

    def _at_rest(self, luma: Plane, corners: Corners) -> bool:
        refined = refine_quad(luma, corners, reach_share=0.004)
        ends = np.linalg.norm(refined.corners - corners, axis=1)
        still = 0
        for side in range(4):
            off = max(_off_side(refined.corners, corners, side))
            still += bool(refined.support[side] >= MIN_INLIER_SHARE and off < STILL_SHARE * luma.shape[1])
        return still >= STILL_SIDES and bool(np.median(ends) < 3 * STILL_SHARE * luma.shape[1])

    def _agreed(self, there: Corners, corners: Corners, frame: Frame, now_s: float) -> Follow:
        """A move once two looks agree on it."""
        before, self._pending = self._pending, there
        if before is None or _distance(there, before) > AGREE_SHARE * frame.size.width:
            self._pending_since_s = now_s
            return Follow("waiting")
        if not _alike(there, corners) and now_s - self._pending_since_s < OTHER_SIZE_S:
            return Follow("waiting")
        self._pending = None
        return Follow("following", (there + before) / 2, self._compared(frame.y, there, now_s))

    def _unseen(self, now_s: float) -> Follow:
        self._pending = None
        if self._unseen_since_s is None:
            self._unseen_since_s = now_s
        return Follow("lost" if now_s - self._unseen_since_s >= PAGE_LOST_AFTER_S else "waiting")

    def _compared(self, luma: Plane, corners: Corners, now_s: float) -> bool:
        """Whether another page lies there than before the disturbance."""
        other = self.identity.see(luma, corners, now_s, disturbed=self._disturbed)
        self._disturbed = False
        return other


def _distance(a: Corners, b: Corners) -> float:
    return float(np.linalg.norm(a - b, axis=1).mean())


def _off_side(a: Corners, b: Corners, side: int) -> tuple[float, float]:
    """How far the ends of one side of `a` lie from that side's line in `b`, px."""
    start, along = b[side], b[(side + 1) % 4] - b[side]
    normal = np.array([-along[1], along[0]]) / max(float(np.linalg.norm(along)), 1e-9)
    return abs(float((a[side] - start) @ normal)), abs(float((a[(side + 1) % 4] - start) @ normal))


def _alike(a: Corners, b: Corners) -> bool:
    """Of nearly the same shape and size: sides in proportion."""
    sides = [np.linalg.norm(np.roll(quad, -1, axis=0) - quad, axis=1) for quad in (a, b)]
    return bool(np.abs(np.log(sides[0] / sides[1])).max() < LIKE)
