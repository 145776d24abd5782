"""From rough quadrilaterals to sides at a fraction of a pixel: each side is the line that the picture bears out best.

An edge may be brighter or darker inside, and change from one to the other where the desk does: only its steepness
counts, bounded so that print beside it or a hand across it cannot outvote the rest of the side. All sides of all
quadrilaterals are worked out together: on so few numbers a call costs more than its work.
"""

from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Corners, Plane, Size
from cartouche.core.straighten.fits import parabolas, powers, straight, sums
from cartouche.core.straighten.geometry import BEFORE, NEXT, meeting, seen_part

SAMPLES = 64  # spots along an edge
REACH_SHARE = 0.0075  # of the picture's width, to either side: a cell of the map and a half
MIN_REACH = 4  # px
MARGIN = 2.0  # px: a side is looked at in the picture, less its outermost border
MIN_STEEP = 2.0  # luma per px: above noise once smoothed across the edge
ENOUGH_STEEP = 12.0  # beyond it, more says nothing more
ENOUGH_INLIERS, BETTER_BOWED = 0.8, 0.12  # of a side: with so much no bow is tried; a bow must bear out that much more
BOWS_SHARE = (-0.7, -0.35, 0.35, 0.7)  # of the reach
LIKELY_BOW_PX, MIN_BOW_PX, MIN_SEEN_THROUGHOUT = 1.5, 3.0, 0.6  # at its middle four times less; of each quarter, where it may be arched
MIN_SPOTS, MIN_INLIERS, MIN_POINTS = 8, 0.15, 6  # seen, borne out: with less, a side stays where the map says
NEAR, LINE_STEP = 2, 2  # px: points farther off a line do not bear it out, so every other line is enough to vote for
_SHARES = np.linspace(0.03, 0.97, SAMPLES)
_POWERS = powers(_SHARES)
_VOTING = np.arange(0, SAMPLES, 4)  # every fourth of them votes
Values = NDArray[np.float64]
Flags = NDArray[np.bool_]


class Refined(NamedTuple):
    """corners: (4, 2) px.  support: (4,) share of each side in the picture along which an edge runs.  edges: the points found, px."""

    corners: Corners
    support: Values
    edges: tuple[Values, ...]


def refine_quad(luma: Plane, rough: Corners, reach_share: float = REACH_SHARE) -> Refined:
    """One quadrilateral, (4, 2) px: see `refine_quads`."""
    return refine_quads(luma, rough[None], reach_share)[0]


def refine_quads(luma: Plane, rough: Values, reach_share: float = REACH_SHARE) -> list[Refined]:
    """Sides refitted by their own brightness profiles. luma: (h, w) uint8.  rough: (k, 4, 2) px, clockwise.

    A line is voted for within the reach, straight or, where that is not borne out, bowed (a curled sheet, a bulging lens);
    the steepest points next to it, to a fraction of a pixel, are fitted. Corners are where the sides meet at their ends.
    A quadrilateral whose sides do not meet is given back as it came.
    """
    sides = _sides(luma, rough, max(MIN_REACH, round(reach_share * luma.shape[1])))
    votes = _voted(sides)
    corners, support = _met(sides, _fitted(votes)), votes.support.reshape(-1, 4)
    apart = ~np.isfinite(corners).all(axis=(1, 2))
    corners[apart] = rough[apart]
    at = sides.spots + votes.beside[..., None] * sides.inward[:, None]
    edges = [points[strong] for points, strong in zip(at, votes.strong, strict=True)]
    return [Refined(corners[k], support[k], tuple(edges[4 * k : 4 * k + 4])) for k in range(len(rough))]


class Curves(NamedTuple):
    """Four sides as fitted to a picture, along the part of each that it shows. starts, edges, along, inward: (4, 2).  length: (4, 1) px.
    bows: (4, 3), see `_Told`.  on: (4, spots) where an edge runs on the side's curve.  visible: (4, spots).
    steep: (4,) luma a px across these, at the median."""

    starts: Values
    edges: Values
    along: Values
    inward: Values
    length: Values
    bows: Values
    on: Flags
    visible: Flags
    steep: Values

    def at(self, shares: Values) -> Values:
        """Points at shares of each side's way, (4, m, 2)."""
        off = self.bows @ powers(shares)[:, :3].T
        return np.asarray(self.starts[:, None] + shares[:, None] * self.edges[:, None] + off[..., None] * self.inward[:, None])

    def ways(self, share: float) -> Values:
        """Which way each runs there, (4, 2), a px of its chord long."""
        return self.along + (self.bows[:, 1:2] + 2 * share * self.bows[:, 2:]) * self.inward / self.length

    def borne_out(self, first: float, last: float) -> Values:
        """Of the visible spots between two shares of each side, how many have an edge on its curve, (4,); all where none is visible."""
        part = (first <= _SHARES) & (last >= _SHARES)
        seen = np.count_nonzero(self.visible[:, part], axis=1)
        return np.where(seen, np.count_nonzero(self.on[:, part], axis=1) / np.maximum(seen, 1), 1.0)


def fitted_curves(luma: Plane, corners: Corners) -> Curves:
    """The sides of one quadrilateral, (4, 2) px, that was refined before."""
    sides = _sides(luma, corners[None], max(MIN_REACH, round(REACH_SHARE * luma.shape[1])))
    votes = _voted(sides)
    bows = _fitted(votes)
    on = votes.strong & (np.abs(votes.beside - bows @ _POWERS[:, :3].T) <= NEAR)
    middle = (sides.steep.shape[2] - 1) / 2
    index = np.rint(votes.beside + middle).astype(np.intp).clip(0, sides.steep.shape[2] - 1)
    strength = np.take_along_axis(sides.steep, index[..., None], axis=2)[..., 0]
    steep = _middles(strength, on, _middle_places(on)).astype(np.float64)
    return Curves(sides.starts, sides.edges, sides.along, sides.inward, sides.length, bows, on, sides.visible, steep)


class _Sides(NamedTuple):
    """n sides as the picture shows them, four of each quadrilateral. starts, edges, along, inward: (n, 2).  length: (n, 1) px.
    spots: (n, spots, 2) px.  steep: (n, spots, offsets) across it.  visible: (n, spots)."""

    starts: Values
    edges: Values
    along: Values
    inward: Values
    length: Values
    spots: Values
    steep: NDArray[np.float32]
    visible: Flags
    reach: int


def _sides(luma: Plane, quads: Values, reach: int) -> _Sides:
    size = Size(luma.shape[1], luma.shape[0])
    ends = quads[:, NEXT]
    ways = (ends - quads).reshape(-1, 2)
    part = seen_part(quads, ends, size, MARGIN).reshape(-1, 2)
    starts, edges = quads.reshape(-1, 2) + part[:, :1] * ways, (part[:, 1:] - part[:, :1]) * ways
    length = np.maximum(np.hypot(edges[:, :1], edges[:, 1:]), 1e-9)
    along = edges / length
    inward = np.stack([-along[:, 1], along[:, 0]], axis=1)
    spots = starts[:, None] + _SHARES[:, None] * edges[:, None]
    steep = _steepness(luma, spots, inward, reach + 2)
    visible = np.all((spots > 1) & (spots < (size.width - 1, size.height - 1)), axis=2)
    return _Sides(starts, edges, along, inward, length, spots, steep, visible, reach)


def _steepness(luma: Plane, spots: Values, inward: Values, far: int) -> NDArray[np.float32]:
    """How steep brightness is across each edge, |d luma / d px|, (n, spots, 2 far), at the middles between -far and far."""
    soft = profiles(luma, spots, inward, np.arange(-far, far + 1, dtype=np.float32))
    return np.asarray(cv2.absdiff(soft[:, 1:], soft[:, :-1]), np.float32).reshape(*spots.shape[:2], -1)


def profiles(luma: Plane, spots: Values, inward: Values, offsets: NDArray[np.float32]) -> NDArray[np.float32]:
    """Brightness across n edges, softened along that, (n * spots, offsets). spots: (n, spots, 2) px.  inward: (n, 2).  offsets: (m,) px."""
    grid = (spots - 0.5).astype(np.float32)[:, :, None] + (offsets[:, None] * inward.astype(np.float32)[:, None])[:, None]
    across = cv2.remap(luma, grid.reshape(-1, len(offsets), 2), None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)  # type: ignore[call-overload]
    return np.asarray(cv2.GaussianBlur(across.astype(np.float32), (5, 1), 0.9), np.float32)


def _met(sides: _Sides, bows: Values) -> Values:
    """Where each quadrilateral's sides meet at their ends, (k, 4, 2). bows: (n, 3), see `_Told`."""
    a, b, c = bows.T[..., None]
    at_start, at_end = sides.starts + a * sides.inward, sides.starts + sides.edges + (a + b + c) * sides.inward
    turn = sides.inward / sides.length
    by_four = [part.reshape(-1, 4, 2) for part in (at_end, sides.along + (b + 2 * c) * turn, at_start, sides.along + b * turn)]
    before = [part[:, BEFORE] for part in by_four[:2]]
    return meeting(*before, *by_four[2:])


class _Told(NamedTuple):
    """Of n sides. bows: (n, 3), a side lies a + b s + c s^2 px inside its line at share s.  support: (n,) 0-1.
    strong: (n, spots) which points bear it out.  beside: (n, spots) px of each from its spot."""

    bows: Values
    support: Values
    strong: Flags
    beside: Values


def _voted(sides: _Sides) -> _Told:
    """The straight line that most of a side's steepest points lie on, or the bowed one where that is borne out far better."""
    votes = np.minimum(sides.steep[:, _VOTING], ENOUGH_STEEP) * sides.visible[:, _VOTING, None]
    winners = _inliers(sides.steep, sides.visible, _best_line(sides.reach, votes, 0.0)[1])
    poor = np.nonzero((winners.support < ENOUGH_INLIERS) & (np.count_nonzero(sides.visible, axis=1) >= MIN_SPOTS))[0]
    if len(poor):
        scores, bows = zip(*(_best_line(sides.reach, votes[poor], bow * sides.reach) for bow in BOWS_SHARE), strict=True)
        bowed = _inliers(sides.steep[poor], sides.visible[poor], np.array(bows)[np.argmax(scores, axis=0), np.arange(len(poor))])
        better = bowed.support > winners.support[poor] + BETTER_BOWED
        for part, other in zip(winners, bowed, strict=True):
            part[poor[better]] = other[better]
    return winners


def _best_line(reach: int, votes: NDArray[np.float32], bow: float) -> tuple[Values, Values]:
    """How much bounded steepness lies under each side's best line of this bow, (n,), and its bows."""
    lines = _lines(votes.shape[2], reach, bow)
    scores = votes.reshape(len(votes), -1).take(lines.at, axis=1).sum(axis=2) * lines.worth
    best = scores.argmax(axis=1)
    return scores[np.arange(len(votes)), best], lines.bows[best]


def _inliers(steep: NDArray[np.float32], visible: Flags, bows: Values) -> _Told:
    """How far lines are borne out by the points near them; one that hardly is goes back to where the map has it."""
    middle = (steep.shape[2] - 1) / 2
    found, strength = _peaks(steep, bows @ _POWERS[:, :3].T + middle)
    enough = np.maximum(MIN_STEEP, 0.3 * _middles(strength, visible, _middle_places(visible)))
    many = np.count_nonzero(visible, axis=1)
    strong = visible & (strength > enough[:, None]) & (many >= MIN_SPOTS)[:, None]
    held = np.count_nonzero(strong, axis=1)
    support = held / np.maximum(many, 1)
    stays = (support < MIN_INLIERS) | (held < MIN_POINTS)
    strong[stays] = False
    return _Told(np.where(stays[:, None], 0.0, bows), support, strong, found - middle)


def _fitted(votes: _Told) -> Values:
    """Each side as the points near its line have it, (n, 3): straight, bowed as it was voted for, or on a slight arch where
    points from end to end lie on one (a straight line would miss both corners)."""
    throughout = votes.strong.reshape(len(votes.strong), 4, -1).mean(axis=2).min(axis=1) > MIN_SEEN_THROUGHOUT
    bowed = votes.bows[:, 2] != 0
    arched = throughout & ~bowed
    if arched.any():
        arches = parabolas(*sums(_POWERS, votes.beside[arched], votes.strong[arched].astype(np.float64)))
        arched[arched] = np.abs(arches[:, 2]) > LIKELY_BOW_PX
    bows = _robust(votes.beside, votes.strong, bowed | arched)
    slight = arched & (np.abs(bows[:, 2]) < MIN_BOW_PX)
    if slight.any():
        bows[slight] = _robust(votes.beside[slight], votes.strong[slight], np.zeros(np.count_nonzero(slight), bool))
    return bows


def _peaks(steep: NDArray[np.float32], offset: Values) -> tuple[Values, NDArray[np.float32]]:
    """Each spot's steepest index near the line, to a fraction, and how steep it is there, both (n, spots)."""
    count = steep.shape[2]
    first = np.clip(np.rint(offset).astype(np.intp), NEAR + 1, count - 2 - NEAR) - NEAR
    rows = np.arange(offset.size).reshape(offset.shape) * count
    flat = steep.reshape(-1)
    peak = first + flat.take((rows + first)[..., None] + np.arange(2 * NEAR + 1)).argmax(axis=2)
    before, at, after = (flat.take(rows + peak + step) for step in (-1, 0, 1))
    curvature = before - 2 * at + after
    fine = np.where(np.abs(curvature) > 1e-6, 0.5 * (before - after) / np.where(curvature == 0, 1, curvature), 0.0)
    return peak + np.clip(fine, -0.5, 0.5), at


class _Lines(NamedTuple):
    """bows: (n, 3), see `_Told`.  at: (n, voting spots) each line's places in a side's votes.  worth: (n,) 0-1."""

    bows: Values
    at: NDArray[np.intp]
    worth: NDArray[np.float32]


@lru_cache(maxsize=32)  # they are the same for every side of every picture of one size
def _lines(count: int, reach: int, bow: float) -> _Lines:
    """All lines that turn by no more than the reach, those near the map's being worth more: its word counts as well."""
    starts, stops = (grid.ravel() for grid in np.meshgrid(*[np.arange(2, count - 2, LINE_STEP)] * 2))
    ends = np.stack([starts, stops], axis=1)[np.abs(starts - stops) <= reach]
    starts, stops = ends.T
    shares, middle = _SHARES[_VOTING], (count - 1) / 2
    at = np.rint(starts[:, None] + (stops - starts)[:, None] * shares + bow * 4 * shares * (1 - shares)).astype(np.intp).clip(0, count - 1)
    worth = 1 - 0.25 * (((starts + stops) / 2 + bow - middle) / reach) ** 2
    bows = np.stack([starts - middle, stops - starts + 4 * bow, np.full(len(ends), -4.0 * bow)], axis=1)
    return _Lines(bows, at + np.arange(len(shares)) * count, worth.astype(np.float32))


def _robust(inside: Values, strong: Flags, bowed: Flags) -> Values:
    """a + b s (+ c s^2) through each side's points, (n, 3), by Welsch's weights, then without what lies off: a hand does not pull it.

    inside: (n, spots) px.  strong: which of them count.  bowed: (n,) which sides are parabolas.
    """
    bases = _POWERS[:, :3].T
    weight, any_bowed, places = strong.astype(np.float64), bool(bowed.any()), _middle_places(strong)
    curves = np.zeros((len(inside), 3))
    for turn in range(3):
        held, moments = sums(_POWERS, inside, weight)
        curves = straight(held, moments)
        if any_bowed:
            curves[bowed] = parabolas(held[bowed], moments[bowed])
        if turn == 2:
            break
        off = np.abs(inside - curves @ bases)
        middle = _middles(off, strong, places)[:, None]
        if turn == 0:
            weight = strong * np.exp(-((off / np.maximum(1.0, 2 * middle)) ** 2))
        else:
            weight = (strong & (off < np.maximum(1.2, 2.5 * middle))).astype(np.float64)
    return curves


def _middles(values: NDArray[np.floating], counted: Flags, places: NDArray[np.intp]) -> NDArray[np.floating]:
    """Each row's upper median of what counts; the values are not negative. 0 where nothing counts."""
    ordered = np.sort(np.where(counted, values, 0), axis=1)
    return np.asarray(ordered.take(places))


def _middle_places(counted: Flags) -> NDArray[np.intp]:
    """Where each row's upper median stands once sorted, what does not count being first."""
    wide = counted.shape[1]
    left_out = wide - np.count_nonzero(counted, axis=1)
    return np.asarray(np.arange(len(counted)) * wide + np.minimum(left_out + (wide - left_out) // 2, wide - 1))
