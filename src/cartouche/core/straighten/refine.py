"""From a rough quadrilateral to sides at a fraction of a pixel: each side is the line that the picture bears out best.

An edge may be brighter or darker inside, and change from one to the other where the desk does: only its steepness
counts, bounded so that print beside it or a hand across it cannot outvote the rest of the side.
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Corners, Plane, Size
from cartouche.core.straighten.geometry import meeting, seen_part

SAMPLES = 64  # spots along an edge
REACH_SHARE = 0.0075  # of the picture's width, to either side: a cell of the map and a half
MARGIN = 2.0  # px: a side is looked at in the picture, less its outermost border
LEAST_STEEP = 2.0  # luma per px: above noise once smoothed along the edge
ENOUGH_STEEP = 12.0  # beyond it, more says nothing more
LEAST_BORNE = 0.15  # of a side: with less, it stays where the map says
_SHARES = np.linspace(0.03, 0.97, SAMPLES)


class Refined(NamedTuple):
    """corners: (4, 2) px.  support: (4,) share of each side in the picture along which an edge runs.  edges: the points found, px."""

    corners: Corners
    support: NDArray[np.float64]
    edges: tuple[NDArray[np.float64], ...]


def refine_quad(luma: Plane, rough: Corners, reach_share: float = REACH_SHARE) -> Refined:
    """Sides refitted by their own brightness profiles. luma: (h, w) uint8.  rough: (4, 2) px, clockwise.

    First a straight line is voted for within the reach, then its points are sought close by, to a fraction of a pixel.
    """
    first = _pass(luma, rough, _SHARES[::2], max(4, round(reach_share * luma.shape[1])), (0.0,))
    if not np.isfinite(first.corners).all():
        return Refined(rough, first.support, first.edges)
    return _pass(luma, first.corners, _SHARES, 3, (-1.5, 0.0, 1.5))


def _pass(luma: Plane, corners: Corners, shares: NDArray[np.float64], reach: int, shifts: tuple[float, ...]) -> Refined:
    height, width = luma.shape
    ends = np.roll(corners, -1, axis=0)
    part = seen_part(corners, ends, Size(width, height), MARGIN)
    starts, edges = corners + part[:, :1] * (ends - corners), (part[:, 1:] - part[:, :1]) * (ends - corners)
    along = edges / np.maximum(np.linalg.norm(edges, axis=1, keepdims=True), 1e-9)
    inward = np.stack([-along[:, 1], along[:, 0]], axis=1)
    spots = starts[:, None] + shares[None, :, None] * edges[:, None]
    offsets = np.arange(-reach - 2, reach + 3, dtype=np.float64)
    steep = _steepness(luma, spots, inward, along, offsets, shifts)
    seen = np.all((spots > 1) & (spots < (width - 1, height - 1)), axis=2)  # all of a side or none of it
    sides, support, points = [], np.zeros(4), []
    for i in range(4):
        side = _Side(corners[i], along[i], inward[i], spots[i], steep[i], seen[i], shares, reach)
        line, support[i], found = side.fitted()
        sides.append(line)
        points.append(found)
    at, ways = np.stack(sides)[:, 0], np.stack(sides)[:, 1]
    made = meeting(np.roll(at, 1, axis=0), np.roll(ways, 1, axis=0), at, ways)
    return Refined(made, support, tuple(points))


def _steepness(
    luma: Plane,
    spots: NDArray[np.float64],
    inward: NDArray[np.float64],
    along: NDArray[np.float64],
    offsets: NDArray[np.float64],
    shifts: tuple[float, ...],
) -> NDArray[np.float32]:
    """How steep brightness is across each edge, |d luma / d px|, (4, spots, len(offsets) - 1), at the offsets' midpoints.

    Averaged over the shifts along the edge: that blurs noise and print but not the edge.
    """
    grid = (spots[:, :, None] + offsets[:, None] * inward[:, None, None] - 0.5).astype(np.float32)
    step = along[:, None, None].astype(np.float32)
    total = np.zeros(grid.shape[:3], np.float32)
    for shift in shifts:
        moved = (grid + np.float32(shift) * step).reshape(4 * grid.shape[1], -1, 2)
        profile = cv2.remap(luma, moved, None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)  # type: ignore[call-overload]
        total += profile.reshape(total.shape)
    flat = (total * np.float32(1 / len(shifts))).reshape(-1, len(offsets))
    soft = cv2.GaussianBlur(flat, (5, 1), 0.9)
    return np.abs(np.diff(soft, axis=1)).reshape(4, grid.shape[1], -1)


class _Side(NamedTuple):
    start: NDArray[np.float64]
    along: NDArray[np.float64]
    inward: NDArray[np.float64]
    spots: NDArray[np.float64]
    steep: NDArray[np.float32]
    seen: NDArray[np.bool_]
    shares: NDArray[np.float64]
    reach: int

    def fitted(self) -> tuple[NDArray[np.float64], float, NDArray[np.float64]]:
        """The side as (point, direction), the share of its seen part that bears it out, and the points on it."""
        as_was = np.stack([self.start, self.along])
        if self.seen.sum() < 8:
            return as_was, 0.0, np.empty((0, 2))
        at_start, at_end = self._voted()
        offset = at_start + (at_end - at_start) * self.shares  # index into the profile of each spot
        found, strength = self._peaks(offset)
        strong = self.seen & (strength > max(LEAST_STEEP, 0.3 * _middle(strength[self.seen])))
        share = float(strong.sum()) / float(self.seen.sum())
        points = (self.spots + (found - (self.steep.shape[1] - 1) / 2)[:, None] * self.inward)[strong]
        if share < LEAST_BORNE or len(points) < 6:
            return as_was, share, points
        return _robust_line(points, self.along), share, points

    def _voted(self) -> tuple[float, float]:
        """The straight line across the profiles with most bounded steepness under it, by its two ends' indices."""
        votes = np.minimum(self.steep, ENOUGH_STEEP) * self.seen[:, None]
        count = votes.shape[1]
        if self.reach <= 3:  # a line was voted for already
            return (count - 1) / 2, (count - 1) / 2
        ends = np.arange(1, count - 1)
        starts, stops = (grid.ravel() for grid in np.meshgrid(ends, ends))
        near = np.abs(starts - stops) <= self.reach  # a side is turned by little
        starts, stops = starts[near], stops[near]
        at = np.rint(starts[:, None] + (stops - starts)[:, None] * self.shares[::2]).astype(np.intp)
        rows = np.arange(0, len(self.shares), 2)
        score = votes[rows, at].sum(axis=1)
        middle = (count - 1) / 2
        score = score * (1 - 0.25 * (((starts + stops) / 2 - middle) / self.reach) ** 2)  # the map's word counts as well
        best = int(score.argmax())
        return float(starts[best]), float(stops[best])

    def _peaks(self, offset: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float32]]:
        """Each spot's steepest index within two px of the line, to a fraction, and how steep it is there."""
        rows = np.arange(len(self.shares))
        near = np.clip(np.rint(offset).astype(np.intp)[:, None] + np.arange(-2, 3), 1, self.steep.shape[1] - 2)
        around = self.steep[rows[:, None], near]
        peak = near[rows, around.argmax(axis=1)]
        before, at, after = self.steep[rows, peak - 1], self.steep[rows, peak], self.steep[rows, peak + 1]
        bend = before - 2 * at + after
        fine = np.where(np.abs(bend) > 1e-6, 0.5 * (before - after) / np.where(bend == 0, 1, bend), 0.0)
        return peak + np.clip(fine, -0.5, 0.5), at


def _robust_line(points: NDArray[np.float64], along: NDArray[np.float64]) -> NDArray[np.float64]:
    """Fit by Welsch's weights, then once more without what lies off: a hand over a third of the edge does not pull it."""
    for limit in (2.5, 1.2):
        dx, dy, x, y = (float(value[0]) for value in cv2.fitLine(points.astype(np.float32), cv2.DIST_WELSCH, 0, 0.001, 0.001))
        off = np.abs((points[:, 0] - x) * dy - (points[:, 1] - y) * dx)
        near = off < max(limit, 2.5 * _middle(off))
        if near.sum() >= 6:
            points = points[near]
    sign = 1.0 if dx * along[0] + dy * along[1] > 0 else -1.0
    return np.array([[x, y], [sign * dx, sign * dy]])


def _middle(values: NDArray[np.floating]) -> float:
    """The upper median: np.median costs ten times as much on a few dozen values."""
    half = values.size // 2
    return float(np.partition(values, half)[half])
