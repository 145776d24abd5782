"""The finder against the bench's truth. How often and how fast over many views: benchmarks/finder.py."""

from collections.abc import Iterator
from itertools import chain, count, islice

import cv2
import numpy as np
import pytest

from benchmarks.finder import corner_errors_px, overlap
from cartouche.bench.camera import Camera, Grain, Lying, Pose, paper_matrix, photograph, true_corners
from cartouche.bench.desks import desk
from cartouche.bench.devices import DEVICES, settled
from cartouche.bench.hand import Hand
from cartouche.bench.papers import contour_sheet
from cartouche.bench.poses import DESKS, FULL_HD, PAPERS, Wanted, scenes, view
from cartouche.core.pictures import Corners, Frame, Size, YuvColour, blank_frame
from cartouche.core.straighten import finder
from cartouche.core.straighten.finder import MAX_LOOKS, SURE_AT_ONCE, Found, NotFound, confidence, evidence, find_page, find_steady
from cartouche.core.straighten.paper import Proportions
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


def test_a_corner_that_curls_is_found_where_it_has_gone() -> None:
    scene = next(islice(scenes(17, FULL_HD, 11), 16, None))
    found = find_page(scene.frame, page_nets())
    assert "curled" in scene.tags
    assert scene.corners is not None
    assert isinstance(found, Found)
    assert corner_errors_px(found.corners, scene.corners).max() < 5, "12 px, where the sides' lines meet"


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
    told = confidence(evidence(Rough(quad, 0.0, 0.0), Refined(quad, np.zeros(4), ()), moved, known=False))
    assert 0 <= told < 0.01


def test_of_two_pages_side_by_side_neither_is_sure() -> None:
    camera = Camera(Size(960, 1080), Pose((-60, -160, -760), roll_deg=10))
    frame = photograph(camera, desk("wood"), contour_sheet(), Lying())
    one = find_page(frame, page_nets())
    assert one
    assert one.confidence >= SURE_AT_ONCE
    two = find_page(Frame.of([np.hstack([plane, plane]) for plane in frame.planes], 0.0), page_nets())
    assert two, "it is proposed all the same"
    assert two.confidence < 0.8


def test_a_hand_on_a_page_on_a_keyboard_is_never_sure_and_wrong() -> None:
    random = np.random.default_rng(77)
    for number in range(18):
        spec = Wanted(PAPERS[number % len(PAPERS)], DESKS[number % len(DESKS)], hand=True, on_keyboard=True)
        scene = view(random, spec, Size(1920, 1080))
        found = find_page(scene.frame, page_nets())
        assert scene.corners is not None
        if isinstance(found, Found) and found.confidence >= 0.95:
            assert overlap(found.corners, scene.corners) >= 0.9, spec


def writing(case: int) -> Iterator[tuple[Frame, Corners]]:
    """A page with a hand that covers a corner, and a moment later has moved on, again and again."""
    random = np.random.default_rng(case)
    camera = Camera(Size(1280, 720), Pose((random.uniform(-120, 120), random.uniform(-160, 0), -random.uniform(560, 640))))
    sheet, lying = contour_sheet(), Lying(turn_deg=random.uniform(-10, 10))
    frame, corners = photograph(camera, desk(DESKS[case % len(DESKS)]), sheet, lying), true_corners(camera, sheet, lying)
    onto = camera.desk_matrix() @ paper_matrix(sheet, lying)
    hand = Hand(onto, camera.size, 0.9, (sheet.width_mm / 2, sheet.height_mm / 2))
    ends = [(-20.0, -20.0), (150.0, 230.0), (60.0, 280.0), (120.0, 150.0)]  # its arm comes from the lower right
    for step in count():
        shown = Frame(frame.y.copy(), frame.u.copy(), frame.v.copy(), 0.0)
        hand.draw(shown, ends[(case + step) % 4])
        yield shown, corners


def test_in_several_pictures_of_a_moving_hand_the_page_is_found_better_than_in_one() -> None:
    one, several = [], []
    for case in range(12):
        pictures = writing(case)
        first, corners = next(pictures)
        alone = find_page(first, page_nets())
        steady = find_steady(chain([first], (frame for frame, _ in pictures)), page_nets())
        for found, off in ((alone, one), (steady, several)):
            off.append(float(corner_errors_px(found.corners, corners).mean()) if found else np.inf)
        if isinstance(steady, Found) and steady.confidence >= 0.95:
            assert several[-1] < 0.01 * np.hypot(1280, 720), case
    assert sum(several) <= sum(one)
    assert np.median(several) < 3


def test_a_page_that_is_certain_is_looked_for_once_and_one_that_is_not_four_times_at_most() -> None:
    frame, taken = settled(DEVICES["document-camera"](), HAND_RESTS_S), []

    def coming(shown: Frame) -> Iterator[Frame]:
        while True:
            taken.append(shown)
            yield shown

    assert find_steady(coming(frame), page_nets())
    assert len(taken) == 1
    taken.clear()
    assert not find_steady(coming(blank_frame(Size(640, 360), YuvColour(128, 128, 128))), page_nets())
    assert len(taken) == MAX_LOOKS
    assert not find_steady([], page_nets())


def test_pictures_that_disagree_leave_a_doubt(monkeypatch: pytest.MonkeyPatch) -> None:
    here, there = np.array([[10.0, 10], [300, 10], [300, 200], [10, 200]]), np.array([[200.0, 60], [500, 60], [500, 300], [200, 300]])

    def steady(*looks: tuple[Corners, float] | None) -> float:
        answers = iter([Found(look[0], look[1], Proportions(1.4, None, 0.1), None, True) if look else NotFound("") for look in looks])
        monkeypatch.setattr(finder, "find_page", lambda frame, nets: next(answers))
        found = find_steady([blank_frame(Size(640, 360), YuvColour(128, 128, 128))] * len(looks), page_nets())
        if isinstance(found, NotFound):
            return 0.0
        assert np.array_equal(found.corners, max((look for look in looks if look), key=lambda look: look[1])[0]), "the surest one's"
        return found.confidence

    assert steady((here, 0.8), (np.roll(here, 1, axis=0) + 1, 0.7)) == pytest.approx(0.8)
    assert 0.3 < steady((here, 0.8), (there, 0.8), (there, 0.5), (here, 0.5)) < 0.45
    assert 0.75 < steady((here, 0.8), None, None, None) < 0.8, "a clear page that was covered for a moment"
    assert steady((here, 0.04), None, None, None) == 0.0, "what one of four had for a page, hardly"
    assert steady((here, 0.04), (here, 0.04), (here, 0.04), (here, 0.04)) == pytest.approx(0.04)
    assert steady((there, 0.3), (here, 0.97)) > 0.95, "the hand has gone"
