"""Sheets whose corners curl up, drawn: where the corner lies is known."""

import cv2
import numpy as np
import pytest

from cartouche.core.pictures import Corners, Plane
from cartouche.core.straighten.curled import curled_corners

DESK, SHEET, SKIN = 70, 222, 150
FLAT = np.array([[200, 150], [1000, 150], [1000, 650], [200, 650]], np.float64)
TIP = (974.0, 182.0)  # where the second corner has curled to


def outline() -> np.ndarray:
    """The sheet with its second corner curled, (n, 2) px."""
    along = np.linspace(0, 1, 40)
    top = np.stack([660 + (TIP[0] - 660) * along, 150 + (TIP[1] - 150) * along**2], axis=1)
    right = np.stack([1000 + (TIP[0] - 1000) * along**2, 360 + (TIP[1] - 360) * along], axis=1)
    return np.concatenate([FLAT[:1], top, right[::-1], FLAT[2:]])


def drawn(sheet: np.ndarray, seed: int = 3) -> Plane:
    picture = np.full((720, 1280), DESK, np.float32)
    cv2.fillPoly(picture, [np.round(sheet * 16).astype(np.int32)], SHEET, cv2.LINE_AA, 4)
    soft = cv2.GaussianBlur(picture, (5, 5), 1.0) + np.random.default_rng(seed).normal(0, 3, picture.shape)
    return np.asarray(soft.clip(0, 255), np.uint8)


def turned(picture: Plane, corners: Corners, quarters: int) -> tuple[Plane, Corners]:
    """Both turned clockwise by quarters, the first corner as before."""
    for _ in range(quarters):
        corners = np.stack([picture.shape[0] - corners[:, 1], corners[:, 0]], axis=1)
        picture = np.ascontiguousarray(np.rot90(picture, -1))
    return picture, corners


@pytest.mark.parametrize("quarters", range(4))
def test_a_corner_is_found_where_it_has_curled_to(quarters: int) -> None:
    true = FLAT.copy()
    true[1] = TIP
    picture, corners = turned(drawn(outline()), FLAT, quarters)
    _, wanted = turned(drawn(outline()), true, quarters)
    found = curled_corners(picture, corners)
    assert np.linalg.norm(corners[1] - wanted[1]) > 40
    assert np.linalg.norm(found[1] - wanted[1]) < 4
    assert (found[[0, 2, 3]] == corners[[0, 2, 3]]).all()


def test_a_flat_sheet_stays() -> None:
    assert curled_corners(drawn(FLAT), FLAT) is FLAT


def test_a_desk_brighter_than_the_sheet_is_no_hindrance() -> None:
    found = curled_corners(np.asarray(255 - drawn(outline()), np.uint8), FLAT)
    assert np.linalg.norm(found[1] - TIP) < 4


def test_a_hand_over_a_corner_moves_nothing() -> None:
    picture = drawn(FLAT)
    cv2.ellipse(picture, (1030, 120), (150, 90), 30, 0, 360, SKIN, -1, cv2.LINE_AA)
    assert np.linalg.norm(curled_corners(picture, FLAT) - FLAT, axis=1).max() < 3


def test_a_corner_outside_the_picture_stays() -> None:
    aside = np.array([320.0, 0.0])
    cut = FLAT + aside
    assert curled_corners(drawn(outline() + aside), cut) is cut


def test_where_nothing_is_nothing_moves() -> None:
    noise = np.random.default_rng(1).integers(0, 255, (720, 1280)).astype(np.uint8)
    assert curled_corners(noise, FLAT) is FLAT
    plain: Plane = np.full((720, 1280), 128, np.uint8)
    assert curled_corners(plain, FLAT) is FLAT
