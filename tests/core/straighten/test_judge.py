"""Whether a quadrilateral is the page: how it is shown to the network, and what that says of bench views with known truth."""

import numpy as np
import pytest
from numpy.typing import NDArray

from cartouche.bench.camera import Camera, Lying, Pose, photograph, true_corners
from cartouche.bench.desks import desk
from cartouche.bench.more_papers import book
from cartouche.bench.papers import Paper, contour_sheet
from cartouche.core.pictures import Frame, Size
from cartouche.core.straighten.geometry import solve_homography, transform
from cartouche.core.straighten.judge import CANVAS, SQUARE, squared
from cartouche.core.straighten.page_map import shrunk
from cartouche.models import page_nets

RIM = (CANVAS - SQUARE) // 2
UNIT = np.array([[0.0, 0], [1, 0], [1, 1], [0, 1]])


def test_the_quadrilateral_fills_the_middle_and_what_lies_outside_the_picture_is_told() -> None:
    planes = np.zeros((3, 160, 288), np.uint8)
    planes[0, 40:120, :60] = 200
    seen = squared(planes, np.array([[[-20.0, 40], [60, 40], [60, 120], [-20, 120]]]))[0]
    inside = seen[0, RIM + 2 : -RIM - 2, RIM + SQUARE // 4 + 2 : -RIM - 2]
    assert np.allclose(inside, 200 / 255, atol=0.01)
    assert seen[0, : RIM - 2].max() == 0
    assert seen[3, :, : RIM + SQUARE // 4 - 2].max() == 0, "no picture there"
    assert seen[3, CANVAS // 2, RIM + SQUARE // 4 + 2 :].min() == 1


def view(paper: Paper, kind: str) -> tuple[Frame, NDArray[np.float64]]:
    camera = Camera(Size(1920, 1080), Pose((-150, -230, -760), roll_deg=25))
    frame = photograph(camera, desk(kind, with_objects=False), paper, Lying())  # type: ignore[arg-type]
    return frame, true_corners(camera, paper, Lying())


def part(page: NDArray[np.float64], x0: float, y0: float, x1: float, y1: float) -> NDArray[np.float64]:
    """A part of the page, or more than it, by shares of its sides."""
    return transform(solve_homography(UNIT, page), np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]))


@pytest.mark.parametrize("kind", ["wood", "cloth", "black", "pale"])
@pytest.mark.parametrize("paper", [contour_sheet(), book(1)], ids=["sheet", "book"])
def test_the_whole_page_and_nothing_else_is_told_from_parts_and_from_more(paper: Paper, kind: str) -> None:
    frame, page = view(paper, kind)
    small = shrunk(frame)
    others = [part(page, *box) for box in ((0, 0, 0.5, 1), (0.5, 0, 1, 1), (0, 0, 1, 0.8), (0, 0, 1.15, 1), (-0.2, 0, 1, 1), (0, 0, 1, 2))]
    odds = page_nets().judge(squared(small.planes, np.stack([page, *others]) / small.scale))
    assert odds[0] > 1
    assert odds[0] > odds[1:].max() + 1
    assert np.median(odds[1:]) < 0
