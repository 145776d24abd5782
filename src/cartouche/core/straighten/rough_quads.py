"""From the map of the page to rough quadrilaterals: those of its lines and regions, and the likeliest sought closer."""

from collections.abc import Iterable
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Corners, Size
from cartouche.core.straighten.map_lines import border_lines, line_quads, outline_lines, unlike
from cartouche.core.straighten.map_sides import Points, clear_along, refitted, sought
from cartouche.core.straighten.page_map import MIN_PAGE, Map, PageMap

MIN_SHARE = 0.02  # of the picture: a smaller page could not be read anyway
MAX_TRIED, SAME_QUAD = 4, 1.5  # how many are looked at in the full picture; nearer than so many cells, two are one
MAX_WEIGHED, MAX_SOUGHT = 18, 7
BORDER_WEIGHT = 0.4  # of a clear border against how well quadrilateral and map cover each other
SURE_PAGE = 0.9  # where the map leaves no doubt: a ruler beside a page, or another sheet, is seldom so sure
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
    return _ranked(sought(hulls, found_map.border), found_map, region) if len(hulls) else []


def rough_quads(found_map: PageMap, region: Region) -> list[Rough]:
    """Of all quadrilaterals made of lines, and the region's hulls, those that cover the map best, the best first.

    Quadrilaterals: (4, 2) float64 px of the full picture, clockwise as seen.
    """
    border = found_map.border
    core = region.core()
    middle = _centroid(core if core.any() else region.own)
    lines = unlike(np.concatenate([border_lines(border, middle), outline_lines(region.page, middle)]))
    quads = np.concatenate([_likely(line_quads(lines, border.shape), region.page, border, MAX_SOUGHT), region.hulls()])
    return _ranked(sought(quads, border), found_map, region) if len(quads) else []


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
    return _ranked(sought(quads, found_map.border), found_map, region) if len(quads) else []


def _ranked(quads: Points, found_map: PageMap, region: Region) -> list[Rough]:
    """quads: (n, 4, 2) cells. The best that differ, the best first, their sides refitted."""
    if len(quads) > MAX_TRIED:
        quads = quads[_distinct(quads, _scored(quads, found_map, region)[0].tolist())]
    quads = refitted(quads, found_map.border)
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
