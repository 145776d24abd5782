"""Find the page in a frame.

Candidates come from two sides, bright regions and directed lines; each is judged by how well all four of its edges
are borne out by the picture (brighter inside, along the whole edge), and the best is refined to a fraction of a pixel.
A page is taken to be brighter than what it lies on; nothing is assumed of its turn, mirroring or print.
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Corners, Frame, Plane, Size
from cartouche.core.straighten.geometry import check_quadrilateral
from cartouche.core.straighten.lines import candidate_quads
from cartouche.core.straighten.paper import Proportions, snap, true_proportions
from cartouche.core.straighten.refine import refine_quad

SEARCH_WIDTH = 480  # px: an A4 edge in an ordinary view is then over 100 px, and a search takes a few ms
LEAST_SHARE = 0.03  # of the picture: a smaller page could not be read anyway
ENOUGH_SUPPORT = 0.55  # mean share of the edges borne out; objects and empty desks stay below, see benchmarks/finder.py
WHOLE_OVER_PART = 0.8  # a strip between a page's edge and a picture on it is borne out as well as the page: prefer the larger
UNSEEN_COUNTS = 0.35  # an edge outside the picture speaks neither for nor, quite, against
PLAIN_SUPPORT = 0.9  # on every side: a bright region in plain view, no need to look for lines
LEAST_RISE_SHARE = 0.045  # of the picture's brightest: what an edge must rise by, above noise and wood grain
WEAKEST_SIDE = 0.25  # a hand may cover most of one side, not all of it


class Found(NamedTuple):
    """corners: (4, 2) px, clockwise as seen, starting where the upper edge begins.  confidence: 0-1.
    paper: its name or None.  lying: paper on its side.  proportions: width / height as seen, and focal length."""

    corners: Corners
    confidence: float
    proportions: Proportions
    paper: str | None
    lying: bool

    def __bool__(self) -> bool:
        return True


class NotFound(NamedTuple):
    """Falsy. reason: words for a teacher."""

    reason: str

    def __bool__(self) -> bool:
        return False


def find_page(frame: Frame) -> Found | NotFound:
    """The page in a frame, or why there is none."""
    scale = SEARCH_WIDTH / frame.size.width
    small = cv2.resize(frame.y, (SEARCH_WIDTH, max(2, round(frame.size.height * scale))), interpolation=cv2.INTER_AREA)
    soft: Plane = cv2.GaussianBlur(small, (5, 5), 0)  # type: ignore[assignment]
    if float(soft.max()) - float(soft.min()) < 24:
        return NotFound("the picture is nearly one colour")
    quads = _region_quads(soft, frame)
    least = LEAST_RISE_SHARE * float(np.percentile(soft[::4, ::4], 98))
    support = _support(soft, quads, least)
    if not (support.min(axis=1) >= PLAIN_SUPPORT).any():
        more = candidate_quads(soft)
        quads, support = np.concatenate([quads, more]), np.concatenate([support, _support(soft, more, least)])
    area = _areas(quads) / soft.size
    borne_out = (area >= LEAST_SHARE) & (support.min(axis=1) >= WEAKEST_SIDE) & (support.mean(axis=1) >= ENOUGH_SUPPORT)
    if not borne_out.any():
        return NotFound("its edges are too faint, or covered")
    quads, support, area = quads[borne_out], support[borne_out], area[borne_out]
    score = support.mean(axis=1) + 0.3 * support.min(axis=1) + WHOLE_OVER_PART * np.sqrt(area / area.max())
    best = int(score.argmax())
    try:
        corners = check_quadrilateral(refine_quad(frame.y, quads[best] / scale))
    except DegenerateCorners:
        return NotFound("its edges do not meet in four corners")
    return _described(_upper_first(corners), frame.size, float(support[best].mean()))


def _described(corners: Corners, picture: Size, support: float) -> Found:
    proportions = true_proportions(corners, picture)
    paper = snap(proportions)
    confidence = float(np.clip((support - 0.35) / 0.6, 0.0, 0.99))
    return Found(corners, confidence, proportions, *(paper or (None, proportions.aspect > 1)))


def _upper_first(corners: Corners) -> Corners:
    """Clockwise as seen, starting at the corner whose next edge points most to the right."""
    edges = np.roll(corners, -1, axis=0) - corners
    rightward = edges[:, 0] / np.linalg.norm(edges, axis=1)
    return np.roll(corners, -int(rightward.argmax()), axis=0)


def _areas(quads: NDArray[np.float64]) -> NDArray[np.float64]:
    d1, d2 = quads[:, 2] - quads[:, 0], quads[:, 3] - quads[:, 1]
    return np.asarray(np.abs(d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]) / 2)


def _region_quads(soft: Plane, frame: Frame) -> NDArray[np.float64]:
    """Four-sided hulls of bright, uncoloured regions at several thresholds, (n, 4, 2)."""
    height, width = soft.shape
    neutral = np.full(soft.shape, 128, np.uint8)
    grey = cv2.absdiff(cv2.resize(frame.u, (width, height), interpolation=cv2.INTER_AREA), neutral)
    grey = cv2.add(grey, cv2.absdiff(cv2.resize(frame.v, (width, height), interpolation=cv2.INTER_AREA), neutral))
    paperness = cv2.subtract(soft, grey)
    split, _ = cv2.threshold(paperness, 0, 255, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
    quads = []
    for level in (split, split + 0.35 * (float(paperness.max()) - split), 0.7 * split):
        mask = cv2.threshold(paperness, level, 255, cv2.THRESH_BINARY)[1]
        mask = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8))
        mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((7, 7), np.uint8))
        outlines, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        for outline in sorted(outlines, key=cv2.contourArea)[-3:]:
            if cv2.contourArea(outline) >= LEAST_SHARE * soft.size:
                quad = cv2.approxPolyN(cv2.convexHull(outline), 4, None, -1.0, True).reshape(-1, 2)
                if len(quad) == 4:
                    quads.append(_clockwise(quad.astype(np.float64)))
    return np.array(quads).reshape(-1, 4, 2)


def _clockwise(quad: NDArray[np.float64]) -> NDArray[np.float64]:
    d1, d2 = quad[2] - quad[0], quad[3] - quad[1]
    return quad if d1[0] * d2[1] - d1[1] * d2[0] > 0 else quad[::-1]


_STEPS = np.linspace(0.04, 0.96, 24)
_EDGE_STEP = 2.5  # px to either side of an edge: beyond the blur, within the paper's margin
_BEYOND_LINE = 7.0  # px outside: beyond a printed line the paper is bright again, beyond the paper's edge it is not


def _support(soft: Plane, quads: NDArray[np.float64], least: float) -> NDArray[np.float64]:
    """Share of each edge along which the inside is brighter than the outside by at least `least`, (n, 4) in 0..1.

    Parts of an edge outside the picture count UNSEEN_COUNTS.
    """
    height, width = soft.shape
    ends = np.roll(quads, -1, axis=1)
    along = ends - quads
    length = np.maximum(np.linalg.norm(along, axis=2, keepdims=True), 1e-6)
    inward = np.stack([-along[..., 1], along[..., 0]], axis=-1) / length
    points = quads[:, :, None] + along[:, :, None] * _STEPS[None, None, :, None]
    inside = points + inward[:, :, None] * _EDGE_STEP
    outside = [_look_up(soft, points - inward[:, :, None] * step) for step in (_EDGE_STEP, _BEYOND_LINE)]
    rise = _look_up(soft, inside) - np.maximum(*outside)
    margin = 3
    seen = (points[..., 0] > margin) & (points[..., 0] < width - margin) & (points[..., 1] > margin) & (points[..., 1] < height - margin)
    return np.asarray(np.where(seen, rise > least, UNSEEN_COUNTS).mean(axis=2))


def _look_up(soft: Plane, points: NDArray[np.float64]) -> NDArray[np.float32]:
    x = np.clip(points[..., 0], 0, soft.shape[1] - 1).astype(np.intp)
    y = np.clip(points[..., 1], 0, soft.shape[0] - 1).astype(np.intp)
    return soft[y, x].astype(np.float32)
