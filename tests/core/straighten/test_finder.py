"""The finder against the bench's truth. How often and how fast over many views: benchmarks/finder.py."""

import cv2
import numpy as np
import pytest

from benchmarks.finder import corner_errors_px, overlap
from cartouche.bench.camera import Camera, Grain, Lying, Pose, photograph, true_corners
from cartouche.bench.desks import desk
from cartouche.bench.devices import DEVICES, settled
from cartouche.bench.papers import contour_sheet
from cartouche.bench.poses import DESKS, PAPERS, Wanted, scenes, view
from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.core.straighten.finder import Found, NotFound, confidence, evidence, find_page
from cartouche.core.straighten.refine import Refined
from cartouche.core.straighten.rough_quads import Rough
from cartouche.models import page_nets

HAND_RESTS_S = 30.0


@pytest.mark.parametrize("name", ["document-camera", "clip-mirror"])
def test_the_demos_page_is_found_to_a_pixel(name: str) -> None:
    device = DEVICES[name]()
    found = find_page(settled(device, HAND_RESTS_S), page_nets())
    truth = device.corners()
    assert found
    assert truth is not None
    assert corner_errors_px(found.corners, truth).max() < 1.5
    assert (found.paper, found.lying) == ("A4", False)


def test_a_hand_over_an_edge_does_not_pull_it() -> None:
    device = DEVICES["document-camera"]()
    found, truth = find_page(settled(device, 24.0), page_nets()), device.corners()
    assert found
    assert truth is not None
    assert corner_errors_px(found.corners, truth).mean() < 4


def test_most_views_are_found() -> None:
    good = 0
    for scene in scenes(24, seed=7):
        found = find_page(scene.frame, page_nets())
        good += bool(found) and corner_errors_px(found.corners, scene.corners).mean() < 0.01 * np.hypot(*scene.frame.size)
    assert good >= 21


@pytest.mark.parametrize(
    "nothing",
    [
        blank_frame(Size(1280, 720), YuvColour(128, 128, 128)),
        blank_frame(Size(64, 48), YuvColour(0, 128, 128)),
    ],
)
def test_one_colour_is_no_page(nothing: Frame) -> None:
    found = find_page(nothing, page_nets())
    assert isinstance(found, NotFound)
    assert "one colour" in found.reason


@pytest.mark.parametrize("kind", ["wood", "cloth", "black"])
def test_an_empty_desk_is_no_page(kind: str) -> None:
    camera = Camera(Size(1280, 720), Pose((-60, -80, -560)))
    frame = photograph(camera, desk(kind, with_objects=False), None, Lying())  # type: ignore[arg-type]
    Grain(camera.size, 3.0).add(frame.y, 1)
    assert not find_page(frame, page_nets())


def test_noise_alone_is_no_page() -> None:
    frame = blank_frame(Size(640, 360), YuvColour(120, 128, 128))
    frame.y[:] = np.random.default_rng(1).integers(0, 255, frame.y.shape)
    assert not find_page(frame, page_nets())


def test_small_feeds_work_too() -> None:
    camera = Camera(Size(320, 180), Pose((-60, -160, -520), roll_deg=10))
    frame = photograph(camera, desk("black"), contour_sheet(), Lying())
    found = find_page(frame, page_nets())
    assert found
    assert overlap(found.corners, true_corners(camera, contour_sheet(), Lying())) > 0.95


def test_the_frame_is_left_alone() -> None:
    frame = settled(DEVICES["document-camera"](), HAND_RESTS_S)
    before = frame.y.copy()
    find_page(frame, page_nets())
    assert cv2.absdiff(before, frame.y).max() == 0


@pytest.mark.parametrize("moved", [0.0, 0.5, 40.0, 1e9])
def test_however_far_a_side_moved_the_confidence_is_a_chance(moved: float) -> None:
    """Sides that nearly run together may meet anywhere."""
    quad = np.array([[0.0, 0], [9, 0], [9, 9], [0, 9]])
    told = confidence(evidence(Rough(quad, 0.0), Refined(quad, np.zeros(4), ()), moved, known=False))
    assert 0 <= told < 0.01


def test_a_hand_on_a_page_on_a_keyboard_is_never_sure_and_wrong() -> None:
    random = np.random.default_rng(77)
    for number in range(18):
        spec = Wanted(PAPERS[number % len(PAPERS)], DESKS[number % len(DESKS)], hand=True, on_keyboard=True)
        scene = view(random, spec, Size(1920, 1080))
        found = find_page(scene.frame, page_nets())
        assert scene.corners is not None
        if isinstance(found, Found) and found.confidence >= 0.95:
            assert overlap(found.corners, scene.corners) >= 0.9, spec
