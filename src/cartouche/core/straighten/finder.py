"""Find the page in a frame.

A small network says where the page lies and where its border runs, under hands too; quadrilaterals are fitted to that,
and their sides sought in the full picture, to a fraction of a pixel. A second network judges each, squared up with what
lies around it. How sure it is was fitted to scenes with known corners. Nothing is assumed of the page's turn, mirroring,
print, or of what it lies on.
"""

import math
from collections.abc import Iterable
from itertools import islice
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Corners, Frame, Size
from cartouche.core.straighten.curled import END, WEAK, curled_corners
from cartouche.core.straighten.geometry import NEXT, check_quadrilateral, in_order_of
from cartouche.core.straighten.judge import Judge, squared
from cartouche.core.straighten.page_map import MIN_PAGE, Net, PageMap, Small, both, page_map, shrunk
from cartouche.core.straighten.paper import Proportions, snap, true_proportions
from cartouche.core.straighten.refine import Refined, refine_quads
from cartouche.core.straighten.rims import page_within
from cartouche.core.straighten.rough_quads import MIN_SHARE, Region, Rough, doubled, picture_share, plain_quads, regions, rough_quads

MIN_CONFIDENCE = 0.02  # below it, it is nothing; above it the teacher is told how sure it is, and Undo is one key away
SURE_AT_ONCE = 0.95  # confidence at which the map's own outline will do, and no second look is taken: five views in six
MAX_LOOKS = 4  # pictures, where one alone leaves a doubt
NOTHING_ODDS = 0.05  # how much a picture in which there is none speaks against the others: a face has a page's edges now and then
SAME_PLACE_SHARE = 0.01  # of the diagonal, mean of the corners: nearer, it is the same page found twice
MIN_CONTRAST = 6  # luma, brightest less darkest once shrunk: what noise leaves reaches it
BELIEVED_ANYWHERE = 0.05  # of the map's belief: no more of it is spread over hands, cables and the desk in 19 views of 20
MAX_JUDGED = 12.0  # log-odds: more says nothing more
MAX_LESS_JUDGED = 3.0  # log-odds that the page inside a rim may lose: the judge likes a page with its rim as well
MAX_MOVED_SHARE = 0.03  # of the picture's width: sides in the picture that lie farther from the map's are another thing's


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


class Nets(NamedTuple):
    """The networks that it looks with: see `page_map` and `judge`."""

    map: Net
    judge: Judge


def find_page(frame: Frame, nets: Nets) -> Found | NotFound:
    """The page in a frame, or why there is none."""
    look = _Look(frame, shrunk(frame), nets)
    if int(np.ptp(look.small.planes[0])) < MIN_CONTRAST:
        return NotFound("the picture is nearly one colour")
    found_map = page_map(look.small, nets.map)
    best = look.surest([quad for region in regions(found_map) for quad in plain_quads(found_map, region)], None)
    if best is None or best.sure < SURE_AT_ONCE:
        found_map = both(found_map, page_map(look.small, nets.map, turned=True))
        best = look.surest([quad for region in regions(found_map) for quad in all_quads(found_map, region)], best)
    if best is None:
        return NotFound(_why_not(found_map))
    found = look.within_rim(look.curled(best)).found()
    return found if found.confidence >= MIN_CONFIDENCE else _too_faint()


def find_steady(frames: Iterable[Frame], nets: Nets) -> Found | NotFound:
    """The page in pictures of one camera taken moments apart: what a hand covers in one, another may show.

    frames: asked for one by one, no more than are needed: a page that is certain in the first is not looked for again.
    Pages that lie in one place speak for each other, by the odds of each; where the pictures differ, or show none, it is as much less sure.
    """
    found: list[Found] = []
    against = 0.0
    reason = NotFound("no picture has come")
    for frame in islice(frames, MAX_LOOKS):
        one = find_page(frame, nets)
        if isinstance(one, NotFound):
            reason, against = one, against + NOTHING_ODDS
            continue
        found.append(one)
        if one.confidence >= SURE_AT_ONCE:
            break
    if not found:
        return reason
    best = max(found, key=lambda one: one.confidence)
    near = SAME_PLACE_SHARE * math.hypot(*frame.size)
    odds = [(one.confidence / (1 - min(one.confidence, 0.9999)), in_order_of(one.corners, best.corners)[1] < near) for one in found]
    sure = best.confidence * sum(odd for odd, same in odds if same) / (against + sum(odd for odd, _ in odds))
    return best._replace(confidence=sure) if sure >= MIN_CONFIDENCE else _too_faint()


def all_quads(found_map: PageMap, region: Region) -> list[Rough]:
    """Whatever can be made of a region."""
    found = rough_quads(found_map, region)
    return found + doubled(found_map, region, found)


def _too_faint() -> NotFound:
    return NotFound("something page-like is there, but its edges are too faint, or covered")


def _why_not(found_map: PageMap) -> str:
    if float(found_map.page.max()) < MIN_PAGE:
        return "no page is in the picture"
    if not regions(found_map):
        return "what looks like a page is too small. Move the camera closer"
    return "its edges do not meet in four corners"


class Looked(NamedTuple):
    """A quadrilateral as the full picture has it. evidence: what its confidence is made from.  elsewhere: see `Rough`."""

    corners: Corners
    proportions: Proportions
    paper: tuple[str, bool] | None
    evidence: dict[str, float]
    elsewhere: float
    edges: tuple[NDArray[np.float64], ...]

    @property
    def sure(self) -> float:
        return confidence(self.evidence) * alone(self.elsewhere)

    def found(self) -> Found:
        name, lying = self.paper or (None, self.proportions.aspect > 1)
        return Found(self.corners, self.sure, self.proportions, name, lying, self.edges)


class _Look(NamedTuple):
    """One frame under examination."""

    frame: Frame
    small: Small
    nets: Nets

    def surest(self, rough: list[Rough], best: Looked | None) -> Looked | None:
        """best: what was found before."""
        looked = look_closer(self.frame, self.small, rough, self.nets.judge)
        return max([*([best] if best else []), *looked], key=lambda candidate: candidate.sure, default=None)

    def curled(self, best: Looked) -> Looked:
        """With its corners where the ends of its sides run, if that looks more like a page."""
        if best.evidence["worst"] > 1 - WEAK * END:
            return best  # no end is without its edge
        other = self._moved(best, curled_corners(self.frame.y, best.corners))
        return max(best, other, key=lambda candidate: candidate.sure) if other else best

    def within_rim(self, best: Looked) -> Looked:
        """Without what it lies on, where that is a little larger."""
        other = self._moved(best, page_within(self.frame.y, best.corners, best.proportions.aspect))
        return other if other and other.evidence["judged"] > best.evidence["judged"] - MAX_LESS_JUDGED else best

    def _moved(self, best: Looked, corners: Corners) -> Looked | None:
        """The same with other corners, judged; None where they are none or the same."""
        if corners is best.corners:
            return None
        try:
            corners, proportions, paper = _as_paper(corners, self.frame.size)
        except DegenerateCorners:
            return None
        other = best._replace(
            corners=corners, proportions=proportions, paper=paper, evidence={**best.evidence, "known": float(paper is not None)}
        )
        return _judged([other], self.small, self.nets.judge)[0]


def look_closer(frame: Frame, small: Small, rough: list[Rough], judge: Judge) -> list[Looked]:
    """What the full picture says of each, less those of whose sides no quadrilateral comes."""
    if not rough:
        return []
    refined = refine_quads(frame.y, np.stack([rough_quad.quad for rough_quad in rough]))
    met = [
        candidate for rough_quad, fit in zip(rough, refined, strict=True) if (candidate := _met(frame.size, rough_quad, fit)) is not None
    ]
    return _judged(met, small, judge) if met else []


def _judged(looked: list[Looked], small: Small, judge: Judge) -> list[Looked]:
    found = judge(squared(small.planes, np.stack([candidate.corners for candidate in looked]) / small.scale))
    return [
        candidate._replace(evidence={**candidate.evidence, "judged": float(np.clip(odds, -MAX_JUDGED, MAX_JUDGED))})
        for candidate, odds in zip(looked, found, strict=True)
    ]


def _met(size: Size, rough: Rough, refined: Refined) -> Looked | None:
    """A quadrilateral of its refined sides, or of the map's where these lie elsewhere; not judged yet."""
    corners = refined.corners
    moved = float(np.linalg.norm(corners - rough.quad, axis=1).max())
    if not np.isfinite(moved):
        moved = size.width
    if moved > MAX_MOVED_SHARE * size.width:
        corners = rough.quad
    try:
        corners, proportions, paper = _as_paper(corners, size)
    except DegenerateCorners:
        return None
    if picture_share(corners, size) < MIN_SHARE:
        return None
    return Looked(
        corners, proportions, paper, evidence(rough, refined, moved / size.width, paper is not None), rough.elsewhere, refined.edges
    )


def _as_paper(corners: Corners, size: Size) -> tuple[Corners, Proportions, tuple[str, bool] | None]:
    """In their order, with their proportions and the paper that has these. Raises DegenerateCorners."""
    corners = _upper_first(check_quadrilateral(corners))
    proportions = true_proportions(corners, size)
    return corners, proportions, snap(proportions)


# Fitted by training/calibrate.py to scenes of its own; benchmarks/finder.py says how well it holds on others.
_WEIGHTS = {
    "weakest": 8.66,
    "support": 5.4,
    "worst": 1.24,
    "moved": -26.97,
    "known": 1.72,
    "judged": 0.63,
    "one": -10.05,
}


def evidence(rough: Rough, refined: Refined, moved_share: float, known: bool) -> dict[str, float]:
    """How clear the map's border is along its sides, how well they are borne out, and whether a known paper has its proportions."""
    return {
        "weakest": rough.weakest,
        "support": float(refined.support.mean()),
        "worst": float(refined.support.min()),
        "moved": min(moved_share, 1.0),  # sides that nearly run together may meet anywhere
        "known": float(known),
        "one": 1.0,
    }


def confidence(evidence: dict[str, float]) -> float:
    """The chance that all four corners are right, 0-1 (logistic)."""
    return 1 / (1 + math.exp(-sum(_WEIGHTS[name] * value for name, value in evidence.items())))


def alone(elsewhere: float) -> float:
    """The chance that it is the page that is meant, where another may lie beside it: by the map's belief in each, 0-1."""
    return 1 - max(0.0, elsewhere - BELIEVED_ANYWHERE)


def _upper_first(corners: Corners) -> Corners:
    """Clockwise as seen, starting at the corner whose next edge points most to the right."""
    edges = corners[NEXT] - corners
    rightward = edges[:, 0] / np.linalg.norm(edges, axis=1)
    return np.roll(corners, -int(rightward.argmax()), axis=0)
