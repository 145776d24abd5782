import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cartouche.bench.camera import Camera, Lying, Pose, Sheet, true_corners
from cartouche.bench.devices import CLIP_MIRROR, DOCUMENT_CAMERA, SHEET_LIES
from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Corners, Size
from cartouche.core.straighten.paper import PAPERS_MM, USUAL_FOCAL, Proportions, snap, tilt_deg, true_proportions


def seen(camera: Camera, paper: Sheet, lying: Lying = SHEET_LIES) -> Corners:
    """The true corners, clockwise as seen."""
    corners = true_corners(camera, paper, lying)
    return corners if camera.mirrors % 2 == 0 else corners[::-1]


@pytest.mark.parametrize("name", ["A4", "Letter", "Legal"])
def test_the_proportions_behind_a_slanted_view(name: str) -> None:
    corners = seen(DOCUMENT_CAMERA, Sheet(*PAPERS_MM[name]))
    found = true_proportions(corners, DOCUMENT_CAMERA.size)
    short, long = PAPERS_MM[name]
    assert min(found.aspect, 1 / found.aspect) == pytest.approx(short / long, rel=1e-4)
    assert found.focal_px == pytest.approx(DOCUMENT_CAMERA.focal * DOCUMENT_CAMERA.size.width, rel=1e-6)
    paper = snap(found)
    assert paper is not None
    assert paper[0] == name


@pytest.mark.parametrize("seed", range(8))
def test_a_view_with_one_pair_of_parallel_edges_still_tells_the_paper(seed: int) -> None:
    """Looking straight along the page its focal length can hardly be told: noise must not change the paper."""
    noise = np.random.default_rng(seed).normal(0, 0.5, (4, 2))
    found = true_proportions(seen(CLIP_MIRROR, Sheet(210, 297)) + noise, CLIP_MIRROR.size)
    assert found.deviation > 0.01
    paper = snap(found)
    assert paper is not None
    assert paper[0] == "A4"


def test_from_straight_above_a_usual_lens_is_assumed() -> None:
    camera = Camera(Size(1920, 1080), Pose((0, -0.001, -600)))
    found = true_proportions(seen(camera, Sheet(210, 297), Lying()), camera.size)
    assert found.focal_px is None
    assert found.aspect == pytest.approx(210 / 297, rel=1e-3)
    assert found.deviation <= 0.01
    assert tilt_deg(seen(camera, Sheet(210, 297), Lying()), camera.size, 210 / 297, None) < 0.5


@pytest.mark.parametrize("tilt", [5, 20, 35, 50])
def test_the_tilt_is_the_cameras(tilt: float) -> None:
    lean = np.radians(tilt)
    camera = Camera(Size(1280, 720), Pose((0, -600 * np.sin(lean), -600 * np.cos(lean))), focal=USUAL_FOCAL)
    corners = seen(camera, Sheet(210, 297), Lying())
    assert tilt_deg(corners, camera.size, 210 / 297, USUAL_FOCAL * 1280) == pytest.approx(tilt, abs=0.1)


def test_a_square_thing_is_no_paper() -> None:
    assert snap(Proportions(1.0, None, 0.02)) is None
    assert snap(Proportions(297 / 210, None, 0.0)) == ("A4", True)


def test_corners_on_a_line_are_refused() -> None:
    with pytest.raises(DegenerateCorners):
        true_proportions(np.array([[0, 0], [1, 1], [2, 2], [3, 3]], float), Size(640, 360))


@given(st.lists(st.integers(0, 40), min_size=8, max_size=8))
def test_however_small_and_slanted_it_is_an_answer_or_refused(values: list[int]) -> None:
    """Whole pixels, so that a pixel more may put three corners on one line."""
    try:
        told = true_proportions(np.array(values, np.float64).reshape(4, 2), Size(1920, 1080))
    except DegenerateCorners:
        return
    assert told.aspect > 0
    assert math.isfinite(told.deviation)
