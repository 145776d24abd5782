"""From a rough quadrilateral to sides at a fraction of a pixel: each side is the line that the picture bears out best.

An edge may be brighter or darker inside, and change from one to the other where the desk does: only its steepness
counts, bounded so that print beside it or a hand across it cannot outvote the rest of the side.
"""

from functools import lru_cache
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
BORNE_OUT, BETTER_BOWED = 0.8, 0.12  # of a side: with so much no bow is tried; a bow must bear out that much more
BOWS_SHARE = np.array([-0.7, -0.35, 0.35, 0.7])  # of the reach
LEAST_BORNE = 0.15  # of a side: with less, it stays where the map says
_SHARES = np.linspace(0.03, 0.97, SAMPLES)
_COARSE = _SHARES[::2]  # for the first pass
_VOTING = np.arange(0, len(_COARSE), 2)  # and every second of them votes


class Refined(NamedTuple):
    """corners: (4, 2) px.  support: (4,) share of each side in the picture along which an edge runs.  edges: the points found, px."""

    corners: Corners
    support: NDArray[np.float64]
    edges: tuple[NDArray[np.float64], ...]


def refine_quad(luma: Plane, rough: Corners, reach_share: float = REACH_SHARE) -> Refined:
    """Sides refitted by their own brightness profiles. luma: (h, w) uint8.  rough: (4, 2) px, clockwise.

    First a line is voted for within the reach, straight or, where that is not borne out, bowed (a curled sheet, a bent
    lens); then its points are sought close by, to a fraction of a pixel. Corners are where the sides meet at their ends.
    """
    first, bows = _pass(luma, rough, np.zeros(4), _COARSE, max(4, round(reach_share * luma.shape[1])), (0.0,))
    if not np.isfinite(first.corners).all():
        return Refined(rough, first.support, first.edges)
    return _pass(luma, first.corners, bows, _SHARES, 3, (-1.5, 0.0, 1.5))[0]


def _pass(
    luma: Plane, corners: Corners, bows: NDArray[np.float64], shares: NDArray[np.float64], reach: int, shifts: tuple[float, ...]
) -> tuple[Refined, NDArray[np.float64]]:
    """bows: (4,) px, how far each side's middle lies inside the straight line between its ends; the new ones come back."""
    height, width = luma.shape
    ends = np.roll(corners, -1, axis=0)
    part = seen_part(corners, ends, Size(width, height), MARGIN)
    starts, edges = corners + part[:, :1] * (ends - corners), (part[:, 1:] - part[:, :1]) * (ends - corners)
    length = np.maximum(np.linalg.norm(edges, axis=1, keepdims=True), 1e-9)
    along = edges / length
    inward = np.stack([-along[:, 1], along[:, 0]], axis=1)
    curve = bows[:, None] * _arch(shares)
    spots = starts[:, None] + shares[None, :, None] * edges[:, None] + curve[..., None] * inward[:, None]
    offsets = np.arange(-reach - 2, reach + 3, dtype=np.float64)
    steep = _steepness(luma, spots, inward, along, offsets, shifts)
    seen = np.all((spots > 1) & (spots < (width - 1, height - 1)), axis=2)
    support, points, meets, made_bows = np.zeros(4), [], [], np.zeros(4)
    for i in range(4):
        side = _Side(steep[i], seen[i], shares, curve[i], reach)
        told = side.fitted()
        support[i], made_bows[i] = told.support, told.bow
        points.append(spots[i][told.strong] + told.beside[told.strong, None] * inward[i])
        a, b, c = told.bends
        turns = np.array([[b], [b + 2 * c]]) / length[i] * inward[i] + along[i]
        meets.append(np.concatenate([[starts[i] + a * inward[i], starts[i] + edges[i] + (a + b + c) * inward[i]], turns]))
    at_start, at_end, way_start, way_end = np.stack(meets, axis=1)
    made = meeting(np.roll(at_end, 1, axis=0), np.roll(way_end, 1, axis=0), at_start, way_start)
    return Refined(made, support, tuple(points)), made_bows


def _arch(shares: NDArray[np.float64]) -> NDArray[np.float64]:
    """0 at both ends, 1 in the middle."""
    return 4 * shares * (1 - shares)


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


class _Told(NamedTuple):
    """bends: (a, b, c), the side lies a + b s + c s^2 px inside its line at share s.  bow: px.  beside: (spots,) px of each point
    from its spot.  strong: (spots,) which of them bear it out."""

    bends: tuple[float, float, float]
    bow: float
    support: float
    strong: NDArray[np.bool_]
    beside: NDArray[np.float64]


class _Side(NamedTuple):
    """steep: (spots, offsets) of one side.  curve: (spots,) px by which its spots lie inside its line already."""

    steep: NDArray[np.float32]
    seen: NDArray[np.bool_]
    shares: NDArray[np.float64]
    curve: NDArray[np.float64]
    reach: int

    def fitted(self) -> _Told:
        """The line that most of the side's steepest points lie on; as it was where too little bears it out."""
        if self.seen.sum() < 8:
            return _Told((0.0, 0.0, 0.0), 0.0, 0.0, np.zeros(len(self.shares), bool), np.zeros(len(self.shares)))
        if self.reach <= 3:  # a line was voted for already
            return self._near(np.zeros(len(self.shares)), bowed=bool(self.curve.any()))
        straight = self._near(self._voted(0.0)[1], bowed=False)
        if straight.support >= BORNE_OUT:
            return straight
        _, bowed = max((self._voted(bow) for bow in BOWS_SHARE * self.reach), key=lambda told: told[0])
        curved = self._near(bowed, bowed=True)
        return curved if curved.support > straight.support + BETTER_BOWED else straight

    def _near(self, offset: NDArray[np.float64], bowed: bool) -> _Told:
        """The points within two px of the line, and the line refitted to them. offset: (spots,) px inside the spots."""
        middle = (self.steep.shape[1] - 1) / 2
        found, strength = self._peaks(offset + middle)
        beside = found - middle
        strong = self.seen & (strength > max(LEAST_STEEP, 0.3 * _middle(strength[self.seen])))
        support = float(strong.sum()) / float(self.seen.sum())
        if support < LEAST_BORNE or strong.sum() < 6:
            return _Told((0.0, 0.0, 0.0), 0.0, support, strong, beside)
        a, b, c = _robust(self.shares[strong], (beside + self.curve)[strong], bowed)
        return _Told((a, b, c), -c / 4, support, strong, beside)

    def _voted(self, bow: float) -> tuple[float, NDArray[np.float64]]:
        """How much bounded steepness lies under the best line of this bow, and its offset at each spot, px."""
        votes = np.minimum(self.steep, ENOUGH_STEEP) * self.seen[:, None]
        lines = _lines(votes.shape[1], self.reach, bow)
        score = votes[_VOTING, lines.at].sum(axis=1) * lines.worth
        best = int(score.argmax())
        start, stop = lines.ends[best]
        middle = (votes.shape[1] - 1) / 2
        return float(score[best]), start + (stop - start) * self.shares + bow * _arch(self.shares) - middle

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


class _Lines(NamedTuple):
    """ends: (n, 2) offsets' indices at both ends.  at: (n, spots) each line's index at every voting spot.  worth: (n,) 0-1."""

    ends: NDArray[np.intp]
    at: NDArray[np.intp]
    worth: NDArray[np.float64]


@lru_cache(maxsize=32)  # they are the same for every side of every picture of one size
def _lines(count: int, reach: int, bow: float) -> _Lines:
    """All lines that turn by no more than the reach, those near the map's being worth more: its word counts as well."""
    starts, stops = (grid.ravel() for grid in np.meshgrid(np.arange(1, count - 1), np.arange(1, count - 1)))
    ends = np.stack([starts, stops], axis=1)[np.abs(starts - stops) <= reach]
    starts, stops = ends.T
    shares = _COARSE[_VOTING]
    at = np.rint(starts[:, None] + (stops - starts)[:, None] * shares + bow * _arch(shares)).astype(np.intp).clip(0, count - 1)
    return _Lines(ends, at, 1 - 0.25 * (((starts + stops) / 2 + bow - (count - 1) / 2) / reach) ** 2)


def _robust(shares: NDArray[np.float64], inside: NDArray[np.float64], bowed: bool) -> tuple[float, float, float]:
    """a + b s (+ c s^2) through (s, inside), px, by Welsch's weights, then without what lies off: a hand on a third does not pull it."""
    weight = np.ones_like(shares)
    made = (0.0, 0.0, 0.0)
    for turn in range(5):
        made = _parabola(shares, inside, weight) if bowed else _line(shares, inside, weight)
        off = np.abs(inside - made[0] - shares * (made[1] + made[2] * shares))
        middle = _middle(off)
        weight = np.exp(-((off / max(1.0, 2 * middle)) ** 2)) if turn < 3 else (off < max(1.2, 2.5 * middle)).astype(np.float64)
    return made


def _line(x: NDArray[np.float64], y: NDArray[np.float64], weight: NDArray[np.float64]) -> tuple[float, float, float]:
    """Weighted least squares by its closed form: a general solver costs five times as much on so little."""
    total = float(weight.sum())
    mean_x, mean_y = float(weight @ x) / total, float(weight @ y) / total
    from_x = weight * (x - mean_x)
    slope = float(from_x @ (y - mean_y)) / max(float(from_x @ (x - mean_x)), 1e-9)
    return mean_y - slope * mean_x, slope, 0.0


def _parabola(x: NDArray[np.float64], y: NDArray[np.float64], weight: NDArray[np.float64]) -> tuple[float, float, float]:
    terms = np.stack([np.ones_like(x), x, x * x], axis=1)
    weighted = terms * weight[:, None]
    a, b, c = np.linalg.solve(weighted.T @ terms + 1e-9 * np.eye(3), weighted.T @ y).tolist()
    return a, b, c


def _middle(values: NDArray[np.floating]) -> float:
    """The upper median: np.median costs ten times as much on a few dozen values."""
    half = values.size // 2
    return float(np.partition(values, half)[half])
