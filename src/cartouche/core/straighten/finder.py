"""Find the page in a frame.

A small network says where the page lies and where its border runs, under hands too; a quadrilateral is fitted to that,
and its sides are then sought in the full picture, to a fraction of a pixel. How sure it is was fitted to scenes with
known corners. Nothing is assumed of the page's turn, mirroring, print, or of what it lies on.
"""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Corners, Frame
from cartouche.core.straighten.geometry import check_quadrilateral
from cartouche.core.straighten.page_map import LEAST_PAGE, Net, PageMap, both, page_map
from cartouche.core.straighten.paper import Proportions, snap, true_proportions
from cartouche.core.straighten.refine import Refined, refine_quad
from cartouche.core.straighten.rough_quads import LEAST_SHARE, Rough, picture_share, rough_quads

LEAST_CONFIDENCE = 0.03  # below it, it is nothing; above it the teacher is told how sure it is, and Undo is one key away
SURE_AT_ONCE = 0.97  # confidence at which no other quadrilateral is tried, nor a second look taken
LEAST_CONTRAST = 12  # luma, brightest less darkest: noise alone reaches it
MOST_MOVED_SHARE = 0.03  # of the picture's width: sides in the picture that lie farther from the map's are another thing's


class Found(NamedTuple):
    """corners: (4, 2) px, clockwise as seen, starting where the upper edge begins.  confidence: 0-1.
    paper: its name or None.  lying: paper on its side.  proportions: width / height as seen, and focal length.
    edges: points found on each side, px, for whoever measures the lens."""

    corners: Corners
    confidence: float
    proportions: Proportions
    paper: str | None
    lying: bool
    edges: tuple[NDArray[np.float64], ...] = ()

    def __bool__(self) -> bool:
        return True


class NotFound(NamedTuple):
    """Falsy. reason: words for a teacher."""

    reason: str

    def __bool__(self) -> bool:
        return False


def find_page(frame: Frame, net: Net) -> Found | NotFound:
    """The page in a frame, or why there is none. net: see `page_map`."""
    if int(np.ptp(frame.y[::8, ::8])) < LEAST_CONTRAST:
        return NotFound("the picture is nearly one colour")
    seen = page_map(frame, net)
    rough = rough_quads(seen)
    if not rough:
        return NotFound(_why_not(seen))
    best = _likeliest(frame, rough, None)
    if best is None or best.confidence < SURE_AT_ONCE:
        best = _likeliest(frame, rough_quads(both(seen, page_map(frame, net, turned=True))), best)
    if best is None:
        return NotFound("its edges do not meet in four corners")
    if best.confidence < LEAST_CONFIDENCE:
        return NotFound("something page-like is there, but its edges are too faint, or covered")
    return best


def _likeliest(frame: Frame, rough: list[Rough], best: Found | None) -> Found | None:
    """The map's best; another only where the full picture does not bear it out. best: what was found before."""
    for one in rough:
        if best is not None and best.confidence >= SURE_AT_ONCE:
            break
        settled = _settled(frame, one)
        if settled is not None and (best is None or settled.confidence > best.confidence):
            best = settled
    return best


def _why_not(seen: PageMap) -> str:
    if float(seen.page.max()) < LEAST_PAGE:
        return "no page is in the picture"
    return "what looks like a page is too small. Move the camera closer"


class Looked(NamedTuple):
    """A quadrilateral as the full picture has it. evidence: what its confidence is made from."""

    corners: Corners
    proportions: Proportions
    paper: tuple[str, bool] | None
    evidence: dict[str, float]
    edges: tuple[NDArray[np.float64], ...]


def look_closer(frame: Frame, rough: Rough) -> Looked | None:
    """Its sides sought in the full picture; None where no quadrilateral comes of it."""
    refined = refine_quad(frame.y, rough.quad)
    corners = refined.corners
    moved = float(np.linalg.norm(corners - rough.quad, axis=1).max())
    if not np.isfinite(moved):
        moved = frame.size.width
    if moved > MOST_MOVED_SHARE * frame.size.width:
        corners = rough.quad
    try:
        corners = _upper_first(check_quadrilateral(corners))
        proportions = true_proportions(corners, frame.size)
    except DegenerateCorners:
        return None
    if picture_share(corners, frame.size) < LEAST_SHARE:
        return None
    paper = snap(proportions)
    return Looked(corners, proportions, paper, evidence(rough, refined, moved / frame.size.width, paper is not None), refined.edges)


def _settled(frame: Frame, rough: Rough) -> Found | None:
    looked = look_closer(frame, rough)
    if looked is None:
        return None
    name, lying = looked.paper or (None, looked.proportions.aspect > 1)
    return Found(looked.corners, confidence(looked.evidence), looked.proportions, name, lying, looked.edges)


# Fitted by training/calibrate.py to scenes of its own; benchmarks/finder.py says how well it holds on others.
_WEIGHTS = {
    "fit": 2.02,
    "border": 3.04,
    "weakest": 9.25,
    "support": 6.03,
    "second": 0.99,
    "worst": 2.99,
    "moved": -80.29,
    "known": 1.41,
    "one": -14.31,
}


def evidence(rough: Rough, refined: Refined, moved_share: float, known: bool) -> dict[str, float]:
    """How well the map and the quadrilateral agree, how well its sides are borne out, and whether a known paper has its proportions."""
    return {
        "fit": rough.fit,
        "border": rough.border,
        "weakest": rough.weakest,
        "support": float(refined.support.mean()),
        "second": float(np.partition(refined.support, 1)[1]),
        "worst": float(refined.support.min()),
        "moved": min(moved_share, 1.0),  # sides that nearly run together may meet anywhere
        "known": float(known),
        "one": 1.0,
    }


def confidence(told: dict[str, float]) -> float:
    """The chance that all four corners are right, 0-1 (logistic)."""
    return 1 / (1 + math.exp(-sum(_WEIGHTS[name] * value for name, value in told.items())))


def _upper_first(corners: Corners) -> Corners:
    """Clockwise as seen, starting at the corner whose next edge points most to the right."""
    edges = np.roll(corners, -1, axis=0) - corners
    rightward = edges[:, 0] / np.linalg.norm(edges, axis=1)
    return np.roll(corners, -int(rightward.argmax()), axis=0)
