"""The bench's many views know their truth."""

import numpy as np
import pytest

from cartouche.bench.camera import Camera, Lying, Pose, photograph, true_corners
from cartouche.bench.curl import Curl, curled_corners
from cartouche.bench.desks import desk
from cartouche.bench.devices import DEVICES, settled
from cartouche.bench.more_papers import Look, book, keyboard, sheet, whiteboard
from cartouche.bench.poses import bulged, scenes
from cartouche.core.pictures import Size
from cartouche.core.straighten.paper import PAPERS_MM


def test_scenes_repeat_and_one_in_ten_is_empty() -> None:
    small = Size(640, 360)
    first, again = (list(scenes(20, small, seed=4)) for _ in range(2))
    assert all(np.array_equal(a.frame.y, b.frame.y) for a, b in zip(first, again, strict=True))
    assert [scene.corners is None for scene in first].count(True) == 2
    for scene in first:
        if scene.corners is not None:
            out = ((scene.corners < 0) | (scene.corners > np.array(small))).any(axis=1).sum()
            assert out == int("corner_out" in scene.tags)


@pytest.mark.parametrize("name", PAPERS_MM)
def test_sheets_have_their_size(name: str) -> None:
    made = sheet(name, False, Look("text", 0))
    assert (made.width_mm, made.height_mm) == PAPERS_MM[name]
    assert made.picture.shape[0] / made.picture.shape[1] == pytest.approx(made.height_mm / made.width_mm, rel=0.01)
    assert made.picture.std() > 5


def test_other_things() -> None:
    for thing in (whiteboard(0), book(1), keyboard()):
        assert thing.picture.shape[1] / thing.picture.shape[0] == pytest.approx(thing.width_mm / thing.height_mm, rel=0.02)


def test_a_flat_curl_is_flat_and_a_raised_corner_moves_outward() -> None:
    camera, paper, lying = Camera(Size(1280, 720), Pose((0, -60, -500))), sheet("A4", False, Look("text", 0)), Lying()
    flat = true_corners(camera, paper, lying)
    assert np.allclose(curled_corners(camera, paper, lying, Curl((0, 0, 0, 0), 0)), flat)
    raised = curled_corners(camera, paper, lying, Curl((30, 0, 0, 0), 0))
    middle = flat.mean(axis=0)
    assert np.linalg.norm(raised[0] - middle) > np.linalg.norm(flat[0] - middle) + 5
    assert np.allclose(raised[2], flat[2])


def test_a_wide_lens_keeps_the_truth_with_the_picture() -> None:
    scene = next(iter(scenes(1, Size(640, 360), seed=2)))
    wide = bulged(scene, -0.15)
    assert wide.corners is not None
    assert scene.corners is not None
    middle = np.array([320, 180])
    assert (np.linalg.norm(wide.corners - middle, axis=1) < np.linalg.norm(scene.corners - middle, axis=1) + 1e-6).all()


def test_things_laid_under_a_camera_are_seen_and_only_there() -> None:
    device = DEVICES["clip-mirror"]()
    sheet_seen = settled(device).y.astype(int)
    device.lay("card")
    card_seen = settled(device).y.astype(int)
    assert np.abs(card_seen - sheet_seen).mean() > 5
    device.lay("nothing")
    assert device.corners() is None
    empty = photograph(Camera(Size(320, 180), Pose((0, -60, -500))), desk("wood"), None, Lying())
    assert empty.y.std() > 3
    with pytest.raises(LookupError):
        DEVICES["face-webcam"]().lay("card")
