"""Where a page lies on something a little larger: a book's cover, a folder, a board. Its edge is the inner one of two.

Map and lines take the outer edge now and then, which is as straight and often clearer. Inside it another edge runs from end
to end, to something brighter, with an even strip between. A strip that is narrow on all sides is the page's own frame.
"""

from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Corners, Plane
from cartouche.core.straighten.geometry import BEFORE, NEXT, check_quadrilateral, meeting, solve_homography, transform
from cartouche.core.straighten.refine import MIN_STEEP, Curves, fitted_curves, profiles, refine_quad

REACH = 0.02  # of the picture's longer side: so far inside a side another edge is looked for
NEAREST = 4  # px inside its side that it begins at, past what a side's own edge is blurred to
MIN_RIM_PX = 5  # at its middle: less is no strip that could be told
MIN_RIM = 0.0155  # of the page's longer side: a board's frame or a printed border is narrower
MAX_TURN = 0.5  # of the reach: how much farther from its side one end lies than the other
SPOTS, LINE_STEP = 40, 2
AS_STEEP = 0.25  # of the side's own edge, luma a px: an edge as clear
BORNE_OUT, MAYBE = 0.8, 0.7  # share of the side along which it runs; of a side taken as straight, where it may
BRIGHTER, UNEVEN, EVEN = 10.0, 25.0, 0.75  # luma: the page than the strip; so much of the strip lies within that of its middle
BESIDE = 5  # px inside the inner edge, where the page's own brightness is taken
REFINE_SHARE = 0.003  # see `refine_quads`: the line is known to a px or two
_SHARES = np.linspace(0.05, 0.95, SPOTS)
_TARGET = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float64)
_INWARD = np.array([[0, 1], [-1, 0], [0, -1], [1, 0]], np.float64)  # of the unit square's sides
Values = NDArray[np.float64]


def page_within(luma: Plane, corners: Corners, aspect: float) -> Corners:
    """The corners, (4, 2) px, of the page inside its rim; the same array where it has none.

    luma: (h, w) uint8.  corners: clockwise, refined before.  aspect: the page's true width / height, its first side its width.
    """
    if not _may_have_one(luma, corners):
        return corners
    sides = fitted_curves(luma, corners)
    insets = _insets(luma, sides)
    rimmed = np.isfinite(insets[:, 0])
    if not rimmed.any() or _widest(sides, insets, corners, aspect) < MIN_RIM:
        return corners
    insets = np.where(rimmed[:, None], insets, 0.0)
    slope = (insets[:, 1] - insets[:, 0]) / (_SHARES[-1] - _SHARES[0])
    off = np.stack([insets[:, 0] - slope * _SHARES[0], insets[:, 1] + slope * (1 - _SHARES[-1])], axis=1)
    points = sides.at(np.array([0.0, 1.0])) + off[..., None] * sides.inward[:, None]
    turn = (slope / sides.length[:, 0])[:, None] * sides.inward
    starting, ending = sides.ways(0.0) + turn, sides.ways(1.0) + turn
    try:
        inner = check_quadrilateral(meeting(points[BEFORE, 1], ending[BEFORE], points[:, 0], starting))
        return check_quadrilateral(refine_quad(luma, inner, REFINE_SHARE).corners)
    except DegenerateCorners:
        return corners


def _may_have_one(luma: Plane, corners: Corners) -> bool:
    """Whether an edge may run inside one of the sides, taken as straight: most pages have none, and are done with."""
    ways = corners[NEXT] - corners
    line = corners[:, None] + _SHARES[::2, None] * ways[:, None]
    inward = np.stack([-ways[:, 1], ways[:, 0]], axis=1) / np.maximum(np.hypot(ways[:, :1], ways[:, 1:]), 1e-9)
    votes = _Edges.inside(luma, line, inward, np.full(4, MIN_STEEP), _lines(_reach(luma))[:, ::2])
    return bool(votes.rimmed(MAYBE).any())


def _insets(luma: Plane, sides: Curves) -> Values:
    """How far inside each side another edge runs, px at the first and the last of the spots, (4, 2); not finite where none does."""
    steep = np.maximum(MIN_STEEP, AS_STEEP * sides.steep)
    votes = _Edges.inside(luma, sides.at(_SHARES), sides.inward, steep, _lines(_reach(luma)))
    return np.where(votes.rimmed(BORNE_OUT)[:, None], votes.best[:, [0, -1]] - 1.0, np.nan)


class _Edges(NamedTuple):
    """The best line inside each side. share: (4,) of its visible spots that have an edge there.  best: (4, spots), see `_lines`.
    soft: (4, spots, offsets) brightness.  seen: (4, spots) which are in the picture."""

    share: Values
    best: NDArray[np.intp]
    soft: NDArray[np.float32]
    seen: NDArray[np.bool_]

    @classmethod
    def inside(cls, luma: Plane, line: Values, inward: Values, steep: Values, lines: NDArray[np.intp]) -> "_Edges":
        """line: (4, spots, 2) px on the sides.  inward: (4, 2).  steep: (4,) luma a px that makes an edge."""
        spots = line.shape[1]
        offsets = np.arange(-1, _reach(luma) + BESIDE + 3, dtype=np.float32) - 0.5  # a step's middle is a whole px inside the side
        soft = profiles(luma, line, inward, offsets).reshape(4, spots, -1)
        seen = np.all((line > 3) & (line < (luma.shape[1] - 4, luma.shape[0] - 4)), axis=2)
        clear = (np.diff(soft, axis=2) > steep[:, None, None]) & seen[..., None]
        near = cv2.dilate(clear.reshape(4 * spots, -1).view(np.uint8), np.ones((1, 3), np.uint8)).reshape(4, -1)
        votes = near.take(lines + np.arange(spots) * clear.shape[2], axis=1).sum(axis=2, dtype=np.uint8)
        count = np.count_nonzero(seen, axis=1)
        share = np.where(count >= spots // 3, votes.max(axis=1) / np.maximum(count, 1), 0.0)
        return cls(share, lines[votes.argmax(axis=1)], soft, seen)

    def rimmed(self, min_share: float) -> NDArray[np.bool_]:
        """Which sides have a line that is borne out so far and, between it and the side, an even strip darker than what lies beyond."""
        spots, rimmed = np.arange(self.best.shape[1]), self.share >= min_share
        for side in np.nonzero(rimmed)[0]:
            soft, line, seen = self.soft[side], self.best[side], self.seen[side]
            strip, page = soft[spots, line // 2 + 1][seen], soft[spots, line + BESIDE][seen]
            middle = float(np.median(strip))
            rimmed[side] = (
                float(np.median(page)) > middle + BRIGHTER and np.count_nonzero(np.abs(strip - middle) < UNEVEN) >= EVEN * strip.size
            )
        return rimmed


def _reach(luma: Plane) -> int:
    return max(round(REACH * int(max(luma.shape))), NEAREST + 2)


@lru_cache(maxsize=8)
def _lines(reach: int) -> NDArray[np.intp]:
    """Lines inside a side, (n, spots), as places in its profiles: one for every other px that an end may lie at."""
    starts, stops = (grid.ravel() for grid in np.meshgrid(*[np.arange(NEAREST, reach + 1, LINE_STEP)] * 2))
    near = (np.abs(starts - stops) <= MAX_TURN * reach) & (starts + stops >= 2 * MIN_RIM_PX)
    shares = (_SHARES - _SHARES[0]) / (_SHARES[-1] - _SHARES[0])
    return np.asarray(np.rint(starts[near, None] + (stops - starts)[near, None] * shares) + 1, np.intp)


def _widest(sides: Curves, insets: Values, corners: Corners, aspect: float) -> float:
    """The widest of the rim's strips at its side's middle, as a share of the page's longer side."""
    onto = solve_homography(corners, _TARGET)
    outer = sides.at(np.array([0.5]))[:, 0]
    inner = outer + insets.mean(axis=1, keepdims=True) * sides.inward
    size = np.array([aspect, 1.0]) / max(aspect, 1.0)
    return float(np.nanmax((((transform(onto, inner) - transform(onto, outer)) * size) * _INWARD).sum(axis=1)))
