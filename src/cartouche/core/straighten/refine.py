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
from cartouche.core.straighten.geometry import BEFORE, NEXT, meeting, seen_part

SAMPLES = 64  # spots along an edge
REACH_SHARE = 0.0075  # of the picture's width, to either side: a cell of the map and a half
CLOSE_PX, BESIDE_PX = 3, (-1.5, 0.0, 1.5)  # the last pass looks so far about a line that was voted for, and averages so along it
MARGIN = 2.0  # px: a side is looked at in the picture, less its outermost border
LEAST_STEEP = 2.0  # luma per px: above noise once smoothed along the edge
ENOUGH_STEEP = 12.0  # beyond it, more says nothing more
BORNE_OUT, BETTER_BOWED = 0.8, 0.12  # of a side: with so much no bow is tried; a bow must bear out that much more
BOWS_SHARE = (-0.7, -0.35, 0.35, 0.7)  # of the reach
LEAST_BOW_PX, LEAST_SEEN_THROUGHOUT = 0.75, 0.6  # a side as good as straight; of each quarter, where it may be arched slightly
LEAST_SPOTS, LEAST_BORNE, LEAST_POINTS = 8, 0.15, 6  # seen, borne out: with less, a side stays where the map says
_SHARES = np.linspace(0.03, 0.97, SAMPLES)
_COARSE = _SHARES[::2]  # for the first pass
_POWERS = {len(shares): np.vander(shares, 5, increasing=True) for shares in (_SHARES, _COARSE)}
_VOTING = np.arange(0, len(_COARSE), 2)  # and every second of them votes
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

    First a line is voted for within the reach, straight or, where that is not borne out, bowed (a curled sheet, a bent
    lens); then its points are sought close by, to a fraction of a pixel. Corners are where the sides meet at their ends.
    A quadrilateral whose voted sides do not meet is given back as it came.
    """
    reach = max(CLOSE_PX + 1, round(reach_share * luma.shape[1]))
    far = _sides(luma, rough, np.zeros(4 * len(rough)), _COARSE, reach, (0.0,))
    voted = _voted(far)
    first = _met(far, voted.bends)
    apart = ~np.isfinite(first).all(axis=(1, 2))
    first[apart] = rough[apart]
    close = _sides(luma, first, -voted.bends[:, 2] / 4, _SHARES, CLOSE_PX, BESIDE_PX)
    fine = _fitted(close, voted.bends[:, 2] != 0)
    corners, support = _met(close, fine.bends), fine.support.reshape(-1, 4)
    corners[apart], support[apart] = rough[apart], voted.support.reshape(-1, 4)[apart]
    at = close.spots + fine.beside[..., None] * close.inward[:, None]
    edges = [points[strong] for points, strong in zip(at, fine.strong, strict=True)]
    return [Refined(corners[k], support[k], tuple(edges[4 * k : 4 * k + 4])) for k in range(len(rough))]


class _Sides(NamedTuple):
    """n sides as the picture shows them, four of each quadrilateral. starts, edges, along, inward: (n, 2).  length: (n,) px.
    curve: (n, spots) px by which its spots lie inside its line.  steep: (n, spots, offsets) across it.  seen: (n, spots)."""

    starts: Values
    edges: Values
    along: Values
    inward: Values
    length: Values
    shares: Values
    curve: Values
    spots: Values
    steep: NDArray[np.float32]
    seen: Flags
    reach: int


def _sides(luma: Plane, quads: Values, bows: Values, shares: Values, reach: int, shifts: tuple[float, ...]) -> _Sides:
    """bows: (n,) px, how far each side's middle lies inside the straight line between its ends."""
    size = Size(luma.shape[1], luma.shape[0])
    ends = quads[:, NEXT]
    ways = (ends - quads).reshape(-1, 2)
    part = seen_part(quads, ends, size, MARGIN).reshape(-1, 2)
    starts, edges = quads.reshape(-1, 2) + part[:, :1] * ways, (part[:, 1:] - part[:, :1]) * ways
    length = np.maximum(np.hypot(edges[:, 0], edges[:, 1]), 1e-9)
    along = edges / length[:, None]
    inward = np.stack([-along[:, 1], along[:, 0]], axis=1)
    curve = bows[:, None] * _arch(shares)
    spots = starts[:, None] + shares[:, None] * edges[:, None] + curve[..., None] * inward[:, None]
    offsets = np.arange(-reach - 2, reach + 3, dtype=np.float32)
    steep = _steepness(luma, spots, inward, along, offsets, shifts)
    seen = np.all((spots > 1) & (spots < (size.width - 1, size.height - 1)), axis=2)
    return _Sides(starts, edges, along, inward, length, shares, curve, spots, steep, seen, reach)


def _arch(shares: Values) -> Values:
    """0 at both ends, 1 in the middle."""
    return 4 * shares * (1 - shares)


def _steepness(
    luma: Plane, spots: Values, inward: Values, along: Values, offsets: NDArray[np.float32], shifts: tuple[float, ...]
) -> NDArray[np.float32]:
    """How steep brightness is across each edge, |d luma / d px|, (n, spots, len(offsets) - 1), at the offsets' midpoints.

    Averaged over the shifts along the edge: that blurs noise and print but not the edge.
    """
    grid = (spots - 0.5).astype(np.float32)[:, :, None] + offsets[:, None] * inward.astype(np.float32)[:, None, None]
    flat, step = grid.reshape(-1, len(offsets), 2), along.astype(np.float32)
    step = np.repeat(step, spots.shape[1], axis=0)[:, None]
    total = np.zeros(flat.shape[:2], np.float32)
    for shift in shifts:
        moved = flat + np.float32(shift) * step if shift else flat
        cv2.accumulate(cv2.remap(luma, moved, None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), total)  # type: ignore[call-overload]
    soft = cv2.GaussianBlur(total, (5, 1), 0.9)
    steep = cv2.absdiff(soft[:, 1:], soft[:, :-1]) * np.float32(1 / len(shifts))
    return steep.reshape(*spots.shape[:2], -1)


def _met(sides: _Sides, bends: Values) -> Values:
    """Where each quadrilateral's sides meet at their ends, (k, 4, 2). bends: (n, 3), see `_Told`."""
    a, b, c = bends.T[..., None]
    at_start, at_end = sides.starts + a * sides.inward, sides.starts + sides.edges + (a + b + c) * sides.inward
    turn = sides.inward / sides.length[:, None]
    by_four = [part.reshape(-1, 4, 2) for part in (at_end, sides.along + (b + 2 * c) * turn, at_start, sides.along + b * turn)]
    before = [part[:, BEFORE] for part in by_four[:2]]
    return meeting(*before, *by_four[2:])


class _Told(NamedTuple):
    """Of n sides. bends: (n, 3), a side lies a + b s + c s^2 px inside its line at share s.  support: (n,) 0-1.
    strong: (n, spots) which points bear it out.  beside: (n, spots) px of each from its spot."""

    bends: Values
    support: Values
    strong: Flags
    beside: Values


def _voted(sides: _Sides) -> _Told:
    """The straight line that most of a side's steepest points lie on, or the bowed one where that is borne out far better."""
    votes = np.minimum(sides.steep[:, _VOTING], ENOUGH_STEEP) * sides.seen[:, _VOTING, None]
    told = _close(sides, _borne(sides, _best_line(sides, votes, 0.0)[1]))
    poor = np.nonzero((told.support < BORNE_OUT) & (sides.seen.sum(axis=1) >= LEAST_SPOTS))[0]
    if len(poor):
        scores, bends = zip(*(_best_line(sides, votes[poor], bow * sides.reach) for bow in BOWS_SHARE), strict=True)
        bowed = _borne(_some(sides, poor), np.array(bends)[np.argmax(scores, axis=0), np.arange(len(poor))])
        better = bowed.support > told.support[poor] + BETTER_BOWED
        for part, other in zip(told, bowed, strict=True):
            part[poor[better]] = other[better]
    return _arched(sides, told)


def _close(sides: _Sides, told: _Told) -> _Told:
    """Votes go by whole pixels: the line through the points themselves."""
    held = told.strong.sum(axis=1) >= LEAST_POINTS
    bends = _straight(*_sums(sides.shares, told.beside, told.strong.astype(np.float64)))
    return told._replace(bends=np.where((held & told.bends.any(axis=1))[:, None], bends, told.bends))


def _some(sides: _Sides, which: NDArray[np.intp]) -> _Sides:
    return sides._replace(curve=sides.curve[which], steep=sides.steep[which], seen=sides.seen[which])


def _best_line(sides: _Sides, votes: NDArray[np.float32], bow: float) -> tuple[Values, Values]:
    """How much bounded steepness lies under each side's best line of this bow, (n,), and its bends."""
    count = votes.shape[2]
    lines = _lines(count, sides.reach, bow)
    scores = votes.reshape(len(votes), -1).take(lines.at, axis=1).sum(axis=2) * lines.worth
    best = scores.argmax(axis=1)
    return scores[np.arange(len(votes)), best], lines.bends[best]


def _arched(sides: _Sides, told: _Told) -> _Told:
    """Where points seen from end to end lie on a slight arch rather than on their line, that: the line would miss both corners."""
    quarters = told.strong.reshape(len(told.strong), 4, -1).mean(axis=2)
    whole = np.nonzero((quarters.min(axis=1) > LEAST_SEEN_THROUGHOUT) & (told.bends[:, 2] == 0))[0]
    if not len(whole):
        return told
    strong, inside = told.strong[whole], told.beside[whole]
    bends = _parabolas(*_sums(sides.shares, inside, strong.astype(np.float64)))
    likely = np.abs(bends[:, 2]) > 2 * LEAST_BOW_PX
    if not likely.any():
        return told
    bends = _robust(sides.shares, inside[likely], strong[likely], np.ones(int(likely.sum()), bool))
    bent = np.abs(bends[:, 2]) > 4 * LEAST_BOW_PX
    told.bends[whole[likely][bent]] = bends[bent]
    return told


def _borne(sides: _Sides, bends: Values) -> _Told:
    """How far lines are borne out by points within two px of them; one that hardly is goes back to where the map has it."""
    middle = (sides.steep.shape[2] - 1) / 2
    found, strength = _peaks(sides.steep, bends @ _POWERS[len(sides.shares)][:, :3].T + middle)
    beside, seen = found - middle, np.count_nonzero(sides.seen, axis=1)
    enough = np.maximum(LEAST_STEEP, 0.3 * _middles(strength, sides.seen, _middle_places(sides.seen)))
    strong = sides.seen & (strength > enough[:, None]) & (seen >= LEAST_SPOTS)[:, None]
    held = np.count_nonzero(strong, axis=1)
    support = held / np.maximum(seen, 1)
    stays = (support < LEAST_BORNE) | (held < LEAST_POINTS)
    return _Told(np.where(stays[:, None], 0.0, bends), support, strong, beside)


def _fitted(sides: _Sides, bowed: Flags) -> _Told:
    """Each line as the points close to it have it."""
    told = _borne(sides, np.zeros((len(sides.steep), 3)))
    stays = (told.support < LEAST_BORNE) | (told.strong.sum(axis=1) < LEAST_POINTS)
    bends = _robust(sides.shares, told.beside + sides.curve, told.strong | stays[:, None], bowed)
    return told._replace(bends=np.where(stays[:, None], 0.0, bends))


def _peaks(steep: NDArray[np.float32], offset: Values) -> tuple[Values, NDArray[np.float32]]:
    """Each spot's steepest index within two px of the line, to a fraction, and how steep it is there, both (n, spots)."""
    count = steep.shape[2]
    first = np.clip(np.rint(offset).astype(np.intp), 3, count - 4) - 2
    rows = np.arange(offset.size).reshape(offset.shape) * count
    flat = steep.reshape(-1)
    peak = first + flat.take((rows + first)[..., None] + np.arange(5)).argmax(axis=2)
    before, at, after = (flat.take(rows + peak + step) for step in (-1, 0, 1))
    bend = before - 2 * at + after
    fine = np.where(np.abs(bend) > 1e-6, 0.5 * (before - after) / np.where(bend == 0, 1, bend), 0.0)
    return peak + np.clip(fine, -0.5, 0.5), at


class _Lines(NamedTuple):
    """bends: (n, 3), see `_Told`.  at: (n, voting spots) each line's places in a side's votes.  worth: (n,) 0-1."""

    bends: Values
    at: NDArray[np.intp]
    worth: NDArray[np.float32]


@lru_cache(maxsize=32)  # they are the same for every side of every picture of one size
def _lines(count: int, reach: int, bow: float) -> _Lines:
    """All lines that turn by no more than the reach, those near the map's being worth more: its word counts as well."""
    starts, stops = (grid.ravel() for grid in np.meshgrid(np.arange(1, count - 1), np.arange(1, count - 1)))
    ends = np.stack([starts, stops], axis=1)[np.abs(starts - stops) <= reach]
    starts, stops = ends.T
    shares, middle = _COARSE[_VOTING], (count - 1) / 2
    at = np.rint(starts[:, None] + (stops - starts)[:, None] * shares + bow * _arch(shares)).astype(np.intp).clip(0, count - 1)
    worth = 1 - 0.25 * (((starts + stops) / 2 + bow - middle) / reach) ** 2
    bends = np.stack([starts - middle, stops - starts + 4 * bow, np.full(len(ends), -4.0 * bow)], axis=1)
    return _Lines(bends, at + np.arange(len(shares)) * count, worth.astype(np.float32))


def _sums(shares: Values, inside: Values, weight: Values) -> tuple[Values, Values]:
    """Of each side: (n, 5) of weight s^k, and (n, 3) of weight y s^k. inside: (n, spots) px."""
    powers = _POWERS[len(shares)]
    return weight @ powers, (weight * inside) @ powers[:, :3]


def _robust(shares: Values, inside: Values, strong: Flags, bowed: Flags) -> Values:
    """a + b s (+ c s^2) through each side's points, (n, 3), by Welsch's weights, then without what lies off: a hand does not pull it.

    inside: (n, spots) px.  strong: which of them count.  bowed: (n,) which sides are parabolas.
    """
    powers = _POWERS[len(shares)][:, :3]
    weight, any_bowed, places = strong.astype(np.float64), bool(bowed.any()), _middle_places(strong)
    made = np.zeros((len(inside), 3))
    for turn in range(5):
        sums, moments = _sums(shares, inside, weight)
        made = _straight(sums, moments)
        if any_bowed:
            made[bowed] = _parabolas(sums[bowed], moments[bowed])
        off = np.abs(inside - made @ powers.T)
        middle = _middles(off, strong, places)[:, None]
        if turn < 3:
            weight = strong * np.exp(-((off / np.maximum(1.0, 2 * middle)) ** 2))
        else:
            weight = (strong & (off < np.maximum(1.2, 2.5 * middle))).astype(np.float64)
    return made


def _straight(sums: Values, moments: Values) -> Values:
    """Least squares, (n, 3) with no bend. sums: (n, 5) of weight s^k.  moments: (n, 3) of weight y s^k."""
    (n, x, xx, _, _), (y, xy, _) = sums.T, moments.T
    made = np.zeros((len(sums), 3))
    made[:, 1] = (n * xy - x * y) / np.maximum(n * xx - x * x, 1e-9)
    made[:, 0] = (y - made[:, 1] * x) / np.maximum(n, 1e-9)
    return made


def _parabolas(sums: Values, moments: Values) -> Values:
    squares = sums[:, np.arange(3)[:, None] + np.arange(3)] + 1e-9 * np.eye(3)
    return np.asarray(np.linalg.solve(squares, moments[..., None])[..., 0])


def _middles(values: NDArray[np.floating], counted: Flags, places: NDArray[np.intp]) -> NDArray[np.floating]:
    """Each row's upper median of what counts; the values are not negative. 0 where nothing counts."""
    ordered = np.sort(np.where(counted, values, 0), axis=1)
    return np.asarray(ordered.take(places))


def _middle_places(counted: Flags) -> NDArray[np.intp]:
    """Where each row's upper median stands once sorted, what does not count being first."""
    wide = counted.shape[1]
    left_out = wide - np.count_nonzero(counted, axis=1)
    return np.asarray(np.arange(len(counted)) * wide + np.minimum(left_out + (wide - left_out) // 2, wide - 1))
