import cv2
import numpy as np
import pytest

from cartouche.core.errors import BadPicture
from cartouche.core.pictures import (
    Frame,
    Size,
    YuvColour,
    bgr_from_frame,
    blank_frame,
    frame_from_bgr,
    index_matrix,
    require_plane,
    scaling,
    yuv_of_hex,
)


def test_planes_and_back_keep_a_smooth_picture() -> None:
    ramp = np.linspace(0, 255, 64, dtype=np.float32)
    picture = np.dstack([np.tile(ramp, (48, 1)), np.full((48, 64), 90), np.tile(ramp[::-1], (48, 1))]).astype(np.uint8)
    again = bgr_from_frame(frame_from_bgr(picture))
    assert np.abs(again.astype(int) - picture).mean() < 2


def test_odd_sizes_lose_their_last_row_and_column() -> None:
    assert frame_from_bgr(np.zeros((51, 33, 3), np.uint8)).size == (32, 50)


@pytest.mark.parametrize("colour", ["#23459B", "#F3EEE3", "#000000", "#FFFFFF"])
def test_a_hex_colour_survives_planes(colour: str) -> None:
    seen = bgr_from_frame(blank_frame(Size(8, 8), yuv_of_hex(colour)))[4, 4]
    wanted = [int(colour[i : i + 2], 16) for i in (5, 3, 1)]
    assert np.abs(seen.astype(int) - wanted).max() <= 3


@pytest.mark.parametrize(
    "bad",
    [None, [[1, 2], [3, 4]], np.zeros((4, 4)), np.zeros((4, 4, 3), np.uint8), np.zeros((0, 4), np.uint8), np.zeros(4, np.uint8)],
)
def test_the_one_gate_names_what_was_wanted_and_what_came(bad: object) -> None:
    with pytest.raises(BadPicture, match="wanted"):
        require_plane(bad)


def test_a_frame_refuses_planes_that_do_not_fit_together() -> None:
    y, chroma = np.zeros((8, 8), np.uint8), np.zeros((4, 4), np.uint8)
    Frame(y, chroma, chroma, 0.0)
    for planes in ((y, y, chroma), (y, chroma, np.zeros((4, 2), np.uint8)), (np.zeros((7, 8), np.uint8), chroma, chroma)):
        with pytest.raises(BadPicture):
            Frame.of(planes, 0.0)


@pytest.mark.parametrize("bad", [np.zeros((4, 4), np.uint8), np.zeros((4, 4, 4), np.uint8), np.zeros((4, 4, 3)), "picture"])
def test_only_pictures_become_frames(bad: np.ndarray) -> None:
    with pytest.raises(BadPicture):
        frame_from_bgr(bad)


def test_halving_by_matrix_is_halving_by_area() -> None:
    """Continuous coordinates: a scaling by one half lands exactly where shrinking by area does."""
    source = np.random.default_rng(0).integers(0, 255, (40, 60)).astype(np.uint8)
    source = cv2.GaussianBlur(source, (0, 0), 3)
    warped = cv2.warpPerspective(source, index_matrix(scaling(0.5, 0.5)), (30, 20), flags=cv2.INTER_LINEAR)
    assert np.abs(warped.astype(int) - cv2.resize(source, (30, 20), interpolation=cv2.INTER_AREA)).max() <= 1


def test_blank_frames_hold_their_colour() -> None:
    frame = blank_frame(Size(6, 4), YuvColour(10, 20, 30), 7.0)
    assert [int(plane.mean()) for plane in frame.planes] == [10, 20, 30]
    assert frame.captured_s == 7.0
