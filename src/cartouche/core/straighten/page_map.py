"""From a frame to a map of where the page lies, under hands too, and from the map to a rough quadrilateral."""

from collections.abc import Callable
from itertools import combinations
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Corners, Frame, Plane, Size, half_size

Net = Callable[[NDArray[np.float32]], NDArray[np.float32]]  # (1, 3, h, w) -> (1, 2, h/2, w/2) logits
INPUT_PIXELS = 288 * 160  # what the network was taught at; any proportions, sides a multiple of 16
LEAST_PAGE = (
    0.33  # of the map: the second half of a book is often only half believed, and how well a quadrilateral covers the map decides anyway
)
LEAST_SHARE = 0.02  # of the picture: a smaller page could not be read anyway
_REACH = 4.0  # cells to either side of a rough edge in which the border is looked for
_SHARES = np.linspace(0.06, 0.94, 24)


class PageMap(NamedTuple):
    """page, border: (h, w) float32 in 0..1.  scale: feed px per cell, x and y."""

    page: NDArray[np.float32]
    border: NDArray[np.float32]
    scale: NDArray[np.float64]


def page_map(frame: Frame, net: Net) -> PageMap:
    """A portrait frame is laid on its side for the network: it was taught landscape, and a page has no up."""
    tall = frame.size.height > frame.size.width
    planes = [cv2.transpose(plane) if tall else plane for plane in _shrunk(frame)]
    logits = net(np.stack(planes)[None].astype(np.float32) * np.float32(1 / 255))[0]
    page, border = (1 / (1 + np.exp(-part)) for part in logits)
    if tall:
        page, border = page.T, border.T
    scale = np.array(frame.size) / np.array(page.shape[::-1])
    return PageMap(np.ascontiguousarray(page), np.ascontiguousarray(border), scale)


def _shrunk(frame: Frame) -> list[Plane]:
    unit = np.sqrt(INPUT_PIXELS / (frame.size.width * frame.size.height)) / 16
    size = (max(2, round(frame.size.width * unit)) * 16, max(2, round(frame.size.height * unit)) * 16)
    return [_area(plane, size) for plane in frame.planes]


def _area(plane: Plane, size: tuple[int, int]) -> Plane:
    """Halved while that is possible, then between the nearest: a tenth of what an odd shrink by area costs, and no more aliased."""
    while plane.shape[1] >= 2 * size[0] and plane.shape[0] >= 2 * size[1]:
        plane = half_size(plane)
    return cv2.resize(plane, size, interpolation=cv2.INTER_LINEAR)  # type: ignore[return-value]


class Rough(NamedTuple):
    """quad: (4, 2) clockwise, feed px.  fit: how well it and the map cover each other, 0-1.  border: how clear its seen border is, 0-1."""

    quad: Corners
    fit: float
    border: float


def rough_quads(seen: PageMap) -> list[Rough]:
    """The likeliest quadrilaterals of the map's largest region, then of its second, each the best first."""
    mask = (seen.page > LEAST_PAGE).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask)
    made: list[Rough] = []
    for number in sorted(range(1, count), key=lambda n: -stats[n, 4])[:2]:
        if stats[number, 4] >= LEAST_SHARE * mask.size:
            own = (labels == number).astype(np.uint8)
            page = np.where(cv2.dilate(own, np.ones((5, 5), np.uint8)) > 0, seen.page, 0).astype(np.float32)
            made += [Rough(quad * seen.scale, fit, clear) for quad, fit, clear in _ranked(own, page, seen.border)]
    return made


def _ranked(
    own: NDArray[np.uint8], page: NDArray[np.float32], border: NDArray[np.float32]
) -> list[tuple[NDArray[np.float64], float, float]]:
    """Of all quadrilaterals made of lines in the border, and the region's hulls, those that cover the map best: quad, fit, clearness."""
    core: NDArray[np.uint8] = cv2.morphologyEx(own, cv2.MORPH_OPEN, np.ones((9, 9), np.uint8))  # type: ignore[assignment]
    hulls = [quad for region in (own, core) if region.any() and (quad := _hull_quad(region)) is not None]  # a ruler hangs on by a thread
    middle = _centroid(core if core.any() else own)
    quads = np.concatenate([np.array(hulls).reshape(-1, 4, 2), line_quads(_border_lines(border, middle), border.shape)])
    if not len(quads):
        return []
    clear = _clear_along(quads, border)
    first = np.argsort(-(clear.mean(axis=1) + clear.min(axis=1)))[:MOST_FITTED]
    first = np.concatenate([np.arange(len(hulls)), first[first >= len(hulls)]])
    scores = np.array([_overlap(quads[i], page) + 0.4 * float(clear[i].mean()) for i in first])
    made: list[tuple[NDArray[np.float64], float, float]] = []
    for at in np.argsort(-scores):
        quad = _refitted(quads[first[at]], border)
        if all(_apart(quad, other) > SAME_QUAD for other, _, _ in made):
            made.append((quad, _overlap(quad, page), float(_clear_along(quad[None], border).mean())))
        if len(made) == MOST_TRIED:
            break
    return made


def _apart(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    """Mean distance of the corners in the order that suits best, cells."""
    return min(float(np.linalg.norm(np.roll(a, k, axis=0) - b, axis=1).mean()) for k in range(4))


MOST_TRIED, SAME_QUAD = 3, 2.0  # how many are looked at in the full picture; nearer than so many cells, two are one
BY_BORDER = 2.5  # cells: a side that runs along the picture's border is where the picture ends, not the page
MOST_LINES, MOST_FITTED = 10, 10
_TURNS = np.linspace(0, np.pi, 72, endpoint=False)
_NORMALS = np.stack([np.cos(_TURNS), np.sin(_TURNS)])


def _centroid(region: NDArray[np.uint8]) -> NDArray[np.float64]:
    whole = cv2.moments(region, binaryImage=True)
    return np.array([whole["m10"] / whole["m00"] + 0.5, whole["m01"] / whole["m00"] + 0.5])


def _border_lines(border: NDArray[np.float32], middle: NDArray[np.float64]) -> NDArray[np.float64]:
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
    while len(lines) < MOST_LINES:
        turn, offset = np.unravel_index(int(votes.argmax()), votes.shape)
        if votes[turn, offset] < 3.5:
            break
        for near in range(
            turn - 3, turn + 4
        ):  # the same line again, turned by a few degrees; a line turned past upright counts from the other side
            at = offset if 0 <= near < len(_TURNS) else 2 * reach - offset
            votes[near % len(_TURNS), max(0, at - 5) : at + 6] = 0
        normal = _NORMALS[:, turn]
        distance = offset - reach
        if normal @ middle < distance:
            normal, distance = -normal, -distance
        lines.append([normal[1], -normal[0], *(normal * distance)])  # the middle lies along the normal: to the right of this direction
    return np.array(lines).reshape(-1, 4)


def line_quads(lines: NDArray[np.float64], shape: tuple[int, ...]) -> NDArray[np.float64]:
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
    before = np.roll(sides, 1, axis=1)
    cross = before[..., 0] * sides[..., 1] - before[..., 1] * sides[..., 0]
    offset = sides[..., 2:] - before[..., 2:]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (offset[..., 0] * sides[..., 1] - offset[..., 1] * sides[..., 0]) / cross
        quads = before[..., 2:] + t[..., None] * before[..., :2]
    room = np.array([shape[1], shape[0]])
    inside = np.isfinite(quads).all(axis=(1, 2)) & ((quads > -0.3 * room) & (quads < 1.3 * room)).all(axis=(1, 2))
    along = np.roll(quads, -1, axis=1) - quads
    runs_with = ((along * sides[..., :2]).sum(axis=2) > 0.04 * shape[1]).all(axis=1)
    return np.asarray(quads[inside & runs_with])


def _clear_along(quads: NDArray[np.float64], border: NDArray[np.float32]) -> NDArray[np.float64]:
    """How clear the border is along each side's seen part, (n, 4) in 0..1; a side that is not seen counts as half."""
    edges = np.roll(quads, -1, axis=1) - quads
    spots = quads[:, :, None] + _SHARES[None, None, :, None] * edges[:, :, None]
    high, wide = border.shape
    seen = ((spots > 1) & (spots < (wide - 1, high - 1))).all(axis=3)
    heat = _look_up(border, spots) * seen
    count = seen.sum(axis=2)
    clear = np.where(count > 3, heat.sum(axis=2) / np.maximum(count, 1), 0.5)
    near = ((spots < BY_BORDER) | (spots > np.array([wide, high]) - BY_BORDER)).any(axis=3).mean(axis=2)
    return np.asarray(np.where(near > 0.8, 0.2 * clear, clear))


def _hull_quad(mask: NDArray[np.uint8]) -> NDArray[np.float64] | None:
    outlines, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    hull = cv2.convexHull(max(outlines, key=cv2.contourArea))
    if len(hull) < 4:
        return None
    quad = cv2.approxPolyN(hull, 4, None, -1.0, True).reshape(-1, 2).astype(np.float64) + 0.5
    if len(quad) != 4:
        return None
    d1, d2 = quad[2] - quad[0], quad[3] - quad[1]
    return quad if d1[0] * d2[1] - d1[1] * d2[0] > 0 else quad[::-1]


def _refitted(quad: NDArray[np.float64], border: NDArray[np.float32]) -> NDArray[np.float64]:
    """Each side moved to where the border runs near it; a side that is not seen stays."""
    sides = []
    edges = np.roll(quad, -1, axis=0) - quad
    for start, edge in zip(quad, edges, strict=True):
        length = max(float(np.linalg.norm(edge)), 1e-6)
        along = edge / length
        inward = np.array([-along[1], along[0]])
        offsets = np.arange(-_REACH, _REACH + 0.01, 0.5)
        spots = start + _SHARES[:, None] * edge
        grid = spots[:, None] + offsets[None, :, None] * inward
        heat = _look_up(border, grid)
        weight = heat.max(axis=1)
        at = (heat**2 * offsets).sum(axis=1) / np.maximum((heat**2).sum(axis=1), 1e-6)
        strong = weight > 0.25
        if strong.sum() < 5:
            sides.append((start, along))
            continue
        points = (spots + at[:, None] * inward)[strong].astype(np.float32)
        dx, dy, x, y = (float(value[0]) for value in cv2.fitLine(points, cv2.DIST_HUBER, 0, 0.01, 0.01))
        sign = 1.0 if dx * along[0] + dy * along[1] > 0 else -1.0
        sides.append((np.array([x, y]), np.array([sign * dx, sign * dy])))
    made = np.array([_meet(*sides[i - 1], *sides[i]) for i in range(4)])
    far = np.abs(made - quad).max() > 0.35 * max(border.shape)
    return quad if far or not np.isfinite(made).all() else made


def _meet(p: NDArray[np.float64], d: NDArray[np.float64], q: NDArray[np.float64], e: NDArray[np.float64]) -> NDArray[np.float64]:
    cross = d[0] * e[1] - d[1] * e[0]
    if abs(cross) < 1e-6:
        return np.full(2, np.nan)
    return np.asarray(p + ((q[0] - p[0]) * e[1] - (q[1] - p[1]) * e[0]) / cross * d)


def _look_up(field: NDArray[np.float32], points: NDArray[np.float64]) -> NDArray[np.float32]:
    """Linear between cells, 0 outside the picture. points: (..., 2) in cells."""
    grid = (points - 0.5).astype(np.float32)
    return np.asarray(cv2.remap(field, grid.reshape(-1, grid.shape[-2], 2), None, cv2.INTER_LINEAR).reshape(grid.shape[:-1]))  # type: ignore[call-overload]


def _overlap(quad: NDArray[np.float64], page: NDArray[np.float32]) -> float:
    """Shared over joined area of the quadrilateral and the map, within the picture."""
    inside = np.zeros(page.shape, np.uint8)
    cv2.fillPoly(inside, [np.round((quad - 0.5) * 16).astype(np.int32)], 1, cv2.LINE_8, 4)
    shared = float(page[inside > 0].sum())
    return shared / max(float(inside.sum()) + float(page.sum()) - shared, 1e-6)


def picture_share(quad: Corners, picture: Size) -> float:
    """The quadrilateral's area over the picture's."""
    d1, d2 = quad[2] - quad[0], quad[3] - quad[1]
    return abs(float(d1[0] * d2[1] - d1[1] * d2[0])) / 2 / (picture.width * picture.height)
