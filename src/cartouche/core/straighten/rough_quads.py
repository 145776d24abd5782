"""From the map of the page to rough quadrilaterals: lines are gathered, joined by four, and the likeliest sought closer."""

from collections.abc import Iterable
from itertools import combinations
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Corners, Size
from cartouche.core.straighten.fits import powers, straight, sums
from cartouche.core.straighten.geometry import BEFORE, NEXT, meeting, seen_part
from cartouche.core.straighten.page_map import MIN_PAGE, PageMap

MIN_SHARE = 0.02  # of the picture: a smaller page could not be read anyway
MAX_TRIED, SAME_QUAD = 4, 1.5  # how many are looked at in the full picture; nearer than so many cells, two are one
MAX_LINES, MAX_WEIGHED, MAX_SOUGHT = 13, 18, 7
BY_BORDER = 2.5  # cells: a side that runs along the picture's border is where the picture ends, not the page
MARGIN, MIN_SEEN = 1.0, 4.0  # cells: the outermost are unreliable; of a side that shows less nothing is said
BORDER_WEIGHT = 0.4  # of a clear border against how well quadrilateral and map cover each other
BELIEFS = (MIN_PAGE, 0.7)  # outlines are taken of what is half believed and of what is sure
MIN_OUTLINE = 5.0  # cells: shorter pieces of an outline have no direction
SAME_TURN, SAME_OFFSET = np.radians(4), 1.5  # lines nearer than that are one
SURE_PAGE = 0.9  # where the map leaves no doubt: a ruler beside a page, or another sheet, is seldom so sure
CLEAR, MIN_CLEAR = 0.25, 5  # a spot where a border runs; with fewer of them along a side, it stays
BESIDE = 0.3  # cells: spots farther off a side's line weigh less (Huber)
FILLED_WITHIN = 0.05  # a region that differs by no more from the quadrilateral that holds it is one
PARTING = 0.5  # a border that parts a page from what lies beside it; a book's gutter is fainter
RIM = 4  # cells: so near a page's side, the map's belief is its blur
_TWICE = np.array(  # the unit square and as much again beyond each of its sides
    [
        [[0, -1], [1, -1], [1, 1], [0, 1]],
        [[0, 0], [2, 0], [2, 1], [0, 1]],
        [[0, 0], [1, 0], [1, 2], [0, 2]],
        [[-1, 0], [1, 0], [1, 1], [-1, 1]],
    ]
)
_REACH = 6  # cells to either side of a quadrilateral's side in which a better line is sought
_TURNS = np.linspace(0, np.pi, 72, endpoint=False)
_NORMALS = np.stack([np.cos(_TURNS), np.sin(_TURNS)])
_SHARES = np.linspace(0.06, 0.94, 24)
Points = NDArray[np.float64]
Map = NDArray[np.float32]


class Rough(NamedTuple):
    """quad: (4, 2) clockwise, feed px.  weakest: how clear the map's border is along its least clear side, 0-1.
    elsewhere: how much of what the map believes to be page lies outside, 0-1."""

    quad: Corners
    weakest: float
    elsewhere: float


class Region(NamedTuple):
    """own: (h, w) uint8, where it lies.  page, border: the map there only, and the map's border."""

    own: NDArray[np.uint8]
    page: Map
    border: Map

    def core(self) -> NDArray[np.uint8]:
        """Without what hangs on by a thread (a ruler)."""
        return _opened(self.own, 9)

    def hulls(self) -> Points:
        """The quadrilaterals that hold it, its core, its largest part that no border parts, and what is not in doubt: (n, 4, 2) cells."""
        sure = _opened((self.page > SURE_PAGE).astype(np.uint8), 9)
        quads = [_hull_quad(part) for part in (self.own, self.core(), _kernel(self.own, self.border), sure)]
        return np.array([quad for quad in quads if quad is not None]).reshape(-1, 4, 2)

    def plain_hulls(self) -> Points:
        """Where a quadrilateral fills the region as well as it holds it, that alone; else all of `hulls` that differ."""
        quad = _hull_quad(self.own)
        if quad is not None and abs(_area(quad) / cv2.countNonZero(self.own) - 1) < FILLED_WITHIN:
            return quad[None]
        hulls = self.hulls()
        return hulls[_distinct(hulls, range(len(hulls)))]


def regions(found_map: PageMap) -> list[Region]:
    """The map's largest region and its second, where they are large enough for a page.

    found_map: its maps are (rows, columns) float32, 0-1; a region's own mask has their size.
    """
    mask = (found_map.page > MIN_PAGE).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask)
    found_regions: list[Region] = []
    for number in sorted(range(1, count), key=lambda n: -stats[n, 4])[:2]:
        if stats[number, 4] >= MIN_SHARE * mask.size:
            own = (labels == number).astype(np.uint8)
            page = np.where(cv2.dilate(own, np.ones((5, 5), np.uint8)) > 0, found_map.page, 0).astype(np.float32)
            found_regions.append(Region(own, page, found_map.border))
    return found_regions


def _opened(mask: NDArray[np.uint8], wide: int) -> NDArray[np.uint8]:
    return cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((wide, wide), np.uint8))  # type: ignore[return-value]


def _kernel(own: NDArray[np.uint8], border: Map) -> NDArray[np.uint8]:
    """The largest part between borders, as far as these: what lies beside a page and was taken for part of it falls off."""
    between = _opened(np.where(border < PARTING, own, 0).astype(np.uint8), 5)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(between)
    if count < 2:
        return between
    largest = (labels == 1 + int(stats[1:, 4].argmax())).astype(np.uint8)
    return np.asarray(cv2.dilate(largest, np.ones((3, 3), np.uint8)), np.uint8)


def plain_quads(found_map: PageMap, region: Region) -> list[Rough]:
    """What a whole page on a clear desk looks like: the region's own outline. A quarter of the work of `rough_quads`.

    Quadrilaterals: (4, 2) float64 px of the full picture, clockwise as seen.
    """
    hulls = region.plain_hulls()
    return _ranked(_sought(hulls, found_map.border), found_map, region) if len(hulls) else []


def rough_quads(found_map: PageMap, region: Region) -> list[Rough]:
    """Of all quadrilaterals made of lines, and the region's hulls, those that cover the map best, the best first.

    Quadrilaterals: (4, 2) float64 px of the full picture, clockwise as seen.
    """
    border = found_map.border
    core = region.core()
    middle = _centroid(core if core.any() else region.own)
    lines = _unlike(np.concatenate([_border_lines(border, middle), _outline_lines(region.page, middle)]))
    quads = np.concatenate([_likely(line_quads(lines, border.shape), region.page, border, MAX_SOUGHT), region.hulls()])
    return _ranked(_sought(quads, border), found_map, region) if len(quads) else []


def doubled(found_map: PageMap, region: Region, found: list[Rough]) -> list[Rough]:
    """The best of them and as much again beyond each of its sides: of an open book, the map may believe one page only.

    Quadrilaterals: (4, 2) float64 px of the full picture, clockwise as seen.
    """
    if not found:
        return []
    best = found[0].quad / found_map.scale
    onto = cv2.getPerspectiveTransform(np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32), best.astype(np.float32))
    ends = np.concatenate([_TWICE, np.ones((4, 4, 1))], axis=2) @ onto.T
    room = np.array(found_map.page.shape[::-1])
    with np.errstate(divide="ignore", invalid="ignore"):
        quads = np.asarray(ends[..., :2] / ends[..., 2:], np.float64)
    fits = (ends[..., 2] > 0).all(axis=1) & ((quads > -0.3 * room) & (quads < 1.3 * room)).all(axis=(1, 2))
    quads = quads[fits]
    return _ranked(_sought(quads, found_map.border), found_map, region) if len(quads) else []


def _ranked(quads: Points, found_map: PageMap, region: Region) -> list[Rough]:
    """quads: (n, 4, 2) cells. The best that differ, the best first, their sides refitted."""
    if len(quads) > MAX_TRIED:
        quads = quads[_distinct(quads, _scored(quads, found_map, region)[0].tolist())]
    quads = _refitted(quads, found_map.border)
    order, clear = _scored(quads, found_map, region)
    kept = _distinct(quads, order.tolist())
    return [Rough(quads[at] * found_map.scale, float(clear[at].min()), _elsewhere(quads[at], found_map.page)) for at in kept]


def _elsewhere(quad: Corners, page: Map) -> float:
    """How much of what the map believes to be page lies outside a quadrilateral and off its rim, 0-1."""
    outside = np.ones(page.shape, np.uint8)
    corners = [np.round((quad - 0.5) * 16).astype(np.int32)]
    cv2.fillPoly(outside, corners, 0, cv2.LINE_8, 4)
    cv2.polylines(outside, corners, True, 0, RIM, cv2.LINE_8, 4)
    return float(page[outside > 0].sum() / max(float(page.sum()), 1e-6))


def _scored(quads: Points, found_map: PageMap, region: Region) -> tuple[NDArray[np.intp], NDArray[np.float64]]:
    """In which order they come, by how well each covers the map and how clear its border is; and that of each side."""
    clear = clear_along(quads, found_map.border)
    if len(quads) == 1:
        return np.zeros(1, np.intp), clear
    return np.argsort(-(fits_of(quads, region.page) + BORDER_WEIGHT * clear.mean(axis=1))), clear


def _distinct(quads: Points, order: Iterable[int]) -> list[int]:
    """The first MAX_TRIED that lie apart from all before them."""
    turned = quads[:, None, _ROLLS]  # (n, 1, 4, 4, 2): from each corner on
    same = (np.linalg.norm(turned - quads[:, None], axis=4).mean(axis=3).min(axis=2) <= SAME_QUAD).tolist()
    kept: list[int] = []
    for at in order:
        if len(kept) < MAX_TRIED and not any(same[at][other] for other in kept):
            kept.append(at)
    return kept


_ROLLS = (np.arange(4)[None] + np.arange(4)[:, None]) % 4


def _likely(quads: Points, page: Map, border: Map, most: int) -> Points:
    """The best of many: first by their border alone, then by how they cover the map as well."""
    if not len(quads):
        return quads
    clear = clear_along(quads, border)
    first = np.argsort(-(clear.mean(axis=1) + clear.min(axis=1)))[:MAX_WEIGHED]
    scores = fits_of(quads[first], page) + BORDER_WEIGHT * clear[first].mean(axis=1)
    return quads[first[np.argsort(-scores)[:most]]]


def _centroid(region: NDArray[np.uint8]) -> Points:
    whole = cv2.moments(region, binaryImage=True)
    return np.array([whole["m10"] / whole["m00"] + 0.5, whole["m01"] / whole["m00"] + 0.5])


def _border_lines(border: Map, middle: Points) -> Points:
    """Lines of the border with most votes, (n, 4): unit direction and a point, with the page's middle to the right.

    Source: Duda & Hart, Use of the Hough transformation to detect lines and curves in pictures, CACM 15 (1972).
    """
    thin = border * (border >= cv2.dilate(border, np.ones((3, 3), np.uint8)) - 0.12) * (border > 0.2)
    ys, xs = np.nonzero(thin)
    if len(xs) < 8:
        return np.empty((0, 4))
    reach = int(np.hypot(*border.shape)) + 2
    offsets = np.stack([xs + 0.5, ys + 0.5], axis=1) @ _NORMALS
    bins = np.rint(offsets).astype(np.intp) + reach + np.arange(len(_TURNS)) * 2 * reach
    votes = np.bincount(bins.ravel(), np.repeat(thin[ys, xs], len(_TURNS)), 2 * reach * len(_TURNS)).reshape(len(_TURNS), 2 * reach)
    votes = np.asarray(cv2.blur(votes.astype(np.float32), (3, 1)))
    lines: list[list[float]] = []
    while len(lines) < MAX_LINES - 3:
        turn, offset = np.unravel_index(int(votes.argmax()), votes.shape)
        if votes[turn, offset] < 3.5:
            break
        for near in range(turn - 3, turn + 4):  # the same line again, turned by a few degrees
            at = offset if 0 <= near < len(_TURNS) else 2 * reach - offset  # turned past upright, it counts from the other side
            votes[near % len(_TURNS), max(0, at - 5) : at + 6] = 0
        normal = _NORMALS[:, turn]
        lines.append(_facing(np.array([normal[1], -normal[0]]), normal * (offset - reach), middle))
    return np.array(lines).reshape(-1, 4)


def _outline_lines(page: Map, middle: Points) -> Points:
    """The straight pieces of the region's outline, the longest first: a side of which little is seen gets few votes."""
    high, wide = page.shape
    pieces: list[tuple[float, list[float]]] = []
    for least in BELIEFS:
        outlines, _ = cv2.findContours((page > least).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        if not outlines:
            continue
        corners = cv2.approxPolyDP(max(outlines, key=cv2.contourArea), 1.2, True).reshape(-1, 2) + 0.5
        for start, end in zip(corners, np.roll(corners, -1, axis=0), strict=True):
            length = float(np.linalg.norm(end - start))
            low, far = np.minimum(start, end), np.maximum(start, end)
            along_border = (far < BY_BORDER).any() or low[0] > wide - BY_BORDER or low[1] > high - BY_BORDER
            if length >= MIN_OUTLINE and not along_border:
                pieces.append((length, _facing((end - start) / length, (start + end) / 2, middle)))
    pieces.sort(key=lambda piece: -piece[0])
    return np.array([line for _, line in pieces]).reshape(-1, 4)


def _facing(along: Points, point: Points, middle: Points) -> list[float]:
    """The directed line with the middle to its right."""
    right = along[0] * (middle[1] - point[1]) - along[1] * (middle[0] - point[0])
    return [*(along if right > 0 else -along), *point]


def _unlike(lines: Points) -> Points:
    """The first MAX_LINES of those that differ from all before them."""
    turned = np.abs(lines[:, None, 0] * lines[:, 1] - lines[:, None, 1] * lines[:, 0]) < np.sin(SAME_TURN)
    same_way = lines[:, :2] @ lines[:, :2].T > 0
    away = lines[:, None, 2:] - lines[:, 2:]
    off = np.abs(lines[:, 0] * away[..., 1] - lines[:, 1] * away[..., 0])  # of each row's line from each column's
    same = turned & same_way & (off < SAME_OFFSET)
    kept: list[int] = []
    for at in range(len(lines)):
        if len(kept) < MAX_LINES and not same[at, kept].any():
            kept.append(at)
    return np.asarray(lines[kept])


def line_quads(lines: Points, shape: tuple[int, ...]) -> Points:
    """(n, 4, 2) clockwise quadrilaterals of four directed lines (dx, dy, x, y) each, inside on the right. shape: of the picture, h, w."""
    if len(lines) < 4:
        return np.empty((0, 4, 2))
    lines = lines[np.argsort(np.arctan2(lines[:, 1], lines[:, 0]))]
    angles = np.arctan2(lines[:, 1], lines[:, 0])
    sets = np.array(list(combinations(range(len(lines)), 4)))
    gaps = np.diff(np.concatenate([angles[sets], angles[sets[:, :1]] + 2 * np.pi], axis=1), axis=1)
    sets = sets[((gaps > np.radians(20)) & (gaps < np.radians(160))).all(axis=1)]
    if not len(sets):
        return np.empty((0, 4, 2))
    sides = lines[sets]
    before = sides[:, BEFORE]
    quads = meeting(before[..., 2:], before[..., :2], sides[..., 2:], sides[..., :2])
    room = np.array([shape[1], shape[0]])
    inside = np.isfinite(quads).all(axis=(1, 2)) & ((quads > -0.3 * room) & (quads < 1.3 * room)).all(axis=(1, 2))
    along = quads[:, NEXT] - quads
    runs_with = ((along * sides[..., :2]).sum(axis=2) > 0.04 * shape[1]).all(axis=1)
    return np.asarray(quads[inside & runs_with])


def clear_along(quads: Points, border: Map) -> Points:
    """How clear the border is along each side's seen part, (n, 4) in 0..1; a side that is not seen counts as half."""
    starts, ends = _seen_sides(quads, border)
    spots = starts[:, :, None] + _SHARES[:, None] * (ends - starts)[:, :, None]
    half = np.array(border.shape[::-1]) / 2
    inside = (np.maximum(np.abs(starts - half), np.abs(ends - half)) < half - 0.5 * MARGIN).all(axis=2)
    long_enough = inside & (np.linalg.norm(ends - starts, axis=2) > MIN_SEEN)
    clear = np.where(long_enough, _look_up(border, spots).mean(axis=2), 0.5)
    near = np.count_nonzero((np.abs(spots - half) > half - BY_BORDER).any(axis=3), axis=2)
    return np.asarray(np.where(near > 0.8 * len(_SHARES), 0.2 * clear, clear))


def _seen_sides(quads: Points, border: Map) -> tuple[Points, Points]:
    """Start and end of each side's part in the picture, (..., 4, 2); the whole side where none of it is."""
    ends = quads[..., NEXT, :]
    part = seen_part(quads, ends, Size(border.shape[1], border.shape[0]), MARGIN)
    ways = ends - quads
    return quads + part[..., :1] * ways, quads + part[..., 1:] * ways


def _hull_quad(mask: NDArray[np.uint8]) -> Points | None:
    outlines, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not outlines:
        return None
    hull = cv2.convexHull(max(outlines, key=cv2.contourArea))
    if len(hull) < 4:
        return None
    quad = cv2.approxPolyN(hull, 4, None, -1.0, True).reshape(-1, 2).astype(np.float64) + 0.5
    if len(quad) != 4:
        return None
    d1, d2 = quad[2] - quad[0], quad[3] - quad[1]
    return quad if d1[0] * d2[1] - d1[1] * d2[0] > 0 else quad[::-1]


_STEPS = np.arange(-_REACH, _REACH + 1)
_STARTS, _STOPS = (grid.ravel() for grid in np.meshgrid(_STEPS, _STEPS))
_COARSE, _POWERS = _SHARES[::2], powers(_SHARES)
_CLOSE = np.arange(-2, 2.01, 0.5)  # cells to either side, once it is close
_AT = np.rint(_STARTS[:, None] + (_STOPS - _STARTS)[:, None] * _COARSE).astype(np.intp) + _REACH + np.arange(len(_COARSE)) * len(_STEPS)
_CENTRED = 1 - 0.15 * ((_STARTS + _STOPS) / (2 * _REACH)) ** 2 - 0.1 * ((_STARTS - _STOPS) / (2 * _REACH)) ** 2


def _sought(quads: Points, border: Map) -> Points:
    """Each side moved, both its ends by themselves, to the line near it along which the border is clearest. (n, 4, 2)."""
    starts, ends = _seen_sides(quads, border)
    edges = ends - starts
    inward = _inward(edges)
    spots = starts[:, :, None] + _COARSE[:, None] * edges[:, :, None]
    heat = _look_up(border, spots[..., None, :] + _STEPS[:, None] * inward[:, :, None, None])  # (n, 4, spots, steps)
    votes = heat.reshape(*heat.shape[:2], -1).take(_AT, axis=2).sum(axis=3) * _CENTRED
    best = votes.argmax(axis=2)
    best[votes.max(axis=2) < 0.5] = len(_STARTS) // 2  # nothing near: it stays
    starts = starts + _STARTS[best][..., None] * inward
    ways = ends + _STOPS[best][..., None] * inward - starts
    return _joined(starts, ways, quads, border)


def _refitted(quads: Points, border: Map) -> Points:
    """Each side moved to where the border runs near it; a side that is not seen stays. (n, 4, 2)."""
    starts, ends = _seen_sides(quads, border)
    ways = ends - starts
    inward = _inward(ways)
    spots = starts[:, :, None] + _SHARES[:, None] * ways[:, :, None]
    heat = _look_up(border, spots[..., None, :] + _CLOSE[:, None] * inward[:, :, None, None]).reshape(-1, len(_SHARES), len(_CLOSE))
    square = heat * heat
    beside = (square @ _CLOSE) / np.maximum(square.sum(axis=2), 1e-6)
    strong = heat.max(axis=2) > CLEAR
    strong &= (np.count_nonzero(strong, axis=1) >= MIN_CLEAR)[:, None]
    weight = strong.astype(np.float64)
    for _ in range(2):
        bows = straight(*sums(_POWERS, beside, weight))
        weight = strong / np.maximum(1, np.abs(beside - bows @ _POWERS[:, :3].T) / BESIDE)
    a, b = (bows[:, k].reshape(-1, 4, 1) for k in (0, 1))
    return _joined(starts + a * inward, ways + b * inward, quads, border)


def _inward(ways: Points) -> Points:
    along = ways / np.maximum(np.linalg.norm(ways, axis=-1, keepdims=True), 1e-6)
    return np.stack([-along[..., 1], along[..., 0]], axis=-1)


def _joined(starts: Points, ways: Points, before: Points, border: Map) -> Points:
    """The corners where sides meet; a quadrilateral that would come out far away stays as it was."""
    corners = meeting(starts[:, BEFORE], ways[:, BEFORE], starts, ways)
    good = np.isfinite(corners).all(axis=(1, 2)) & (np.abs(corners - before).max(axis=(1, 2)) < 0.35 * max(border.shape))
    return np.where(good[:, None, None], corners, before)


def _look_up(field: Map, points: Points) -> Map:
    """Linear between cells, 0 outside the picture. points: (..., 2) in cells."""
    grid = (points - 0.5).astype(np.float32)
    return np.asarray(cv2.remap(field, grid.reshape(-1, grid.shape[-2], 2), None, cv2.INTER_LINEAR).reshape(grid.shape[:-1]))  # type: ignore[call-overload]


def fits_of(quads: Points, page: Map) -> NDArray[np.float64]:
    """Shared over joined area of each quadrilateral and the map, within the picture, (n,)."""
    inside = np.zeros(page.shape, np.uint8)
    held, fits = float(page.sum()), np.zeros(len(quads))
    for at, corners in enumerate(np.round((quads - 0.5) * 16).astype(np.int32)):
        inside[:] = 0
        cv2.fillPoly(inside, [corners], 1, cv2.LINE_8, 4)
        area = cv2.countNonZero(inside)
        shared = area * cv2.mean(page, inside)[0]
        fits[at] = shared / max(area + held - shared, 1e-6)
    return fits


def picture_share(quad: Corners, picture: Size) -> float:
    """The quadrilateral's area over the picture's.

    corners: (4, 2) float64 px. Returns 0-1.
    """
    return _area(quad) / (picture.width * picture.height)


def _area(quad: Corners) -> float:
    d1, d2 = quad[2] - quad[0], quad[3] - quad[1]
    return abs(float(d1[0] * d2[1] - d1[1] * d2[0])) / 2
