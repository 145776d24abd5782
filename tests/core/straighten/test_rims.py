"""Sheets on something a little larger, drawn: the sheet's own corners are known."""

import cv2
import numpy as np
import pytest

from cartouche.core.pictures import Corners, Plane, frame_from_bgr
from cartouche.core.straighten.finder import find_page
from cartouche.core.straighten.geometry import solve_homography, transform
from cartouche.core.straighten.rims import page_within
from cartouche.models import page_nets

DESK, COVER, PALE_COVER, SHEET, PRINT, SKIN = 60, 120, 150, 222, 70, 150
SIZE_MM = np.array([330.0, 235.0])
OUTER = np.array([[260, 130], [1020, 180], [1110, 610], [170, 560]], np.float64)  # the cover as seen
ASPECT = float(SIZE_MM[0] / SIZE_MM[1])


def on_it(left: float, top: float, right: float, bottom: float) -> Corners:
    """What lies so many mm inside the cover's sides, (4, 2) px."""
    low, high = np.array([left, top]), SIZE_MM - (right, bottom)
    ends = np.array([low, [high[0], low[1]], high, [low[0], high[1]]])
    return transform(solve_homography(np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * SIZE_MM, OUTER), ends)


def drawn(*layers: tuple[Corners, int]) -> Plane:
    """Each a quadrilateral in a grey, one upon the other."""
    large = np.full((4 * 720, 4 * 1280), DESK, np.uint8)
    for quad, grey in layers:
        cv2.fillPoly(large, [np.round(quad * 64 - 8).astype(np.int32)], grey, cv2.LINE_8, 4)
    picture = cv2.resize(large, (1280, 720), interpolation=cv2.INTER_AREA).astype(np.float32)
    soft = cv2.GaussianBlur(picture, (5, 5), 1.0) + np.random.default_rng(3).normal(0, 3, picture.shape)
    return np.asarray(soft.clip(0, 255), np.uint8)


def apart(found: Corners, wanted: Corners) -> float:
    return float(np.linalg.norm(found - wanted, axis=1).max())


@pytest.mark.parametrize("mm", [(7, 7, 7, 7), (6, 0, 6, 9), (0, 0, 0, 8), (8, 6, 0, 0)])
def test_a_sheet_on_its_cover_is_found(mm: tuple[float, float, float, float]) -> None:
    sheet = on_it(*mm)
    picture = drawn((OUTER, COVER), (sheet, SHEET))
    assert apart(OUTER, sheet) > 15
    assert apart(page_within(picture, OUTER, ASPECT), sheet) < 1.0


def test_the_finder_takes_the_sheet_and_not_what_it_lies_on() -> None:
    sheet = on_it(7, 7, 7, 7)
    picture = drawn((OUTER, PALE_COVER), (sheet, SHEET))
    found = find_page(frame_from_bgr(np.asarray(cv2.cvtColor(picture, cv2.COLOR_GRAY2BGR), np.uint8)), page_nets())
    assert found
    assert apart(found.corners, sheet) < 1.5


def test_a_hand_over_a_side_is_no_hindrance() -> None:
    sheet = on_it(7, 7, 7, 7)
    picture = drawn((OUTER, COVER), (sheet, SHEET))
    cv2.ellipse(picture, (640, 140), (60, 160), 5, 0, 360, SKIN, -1, cv2.LINE_AA)
    assert apart(page_within(picture, OUTER, ASPECT), sheet) < 1.5


def test_a_narrow_frame_on_all_sides_is_the_pages_own() -> None:
    picture = drawn((OUTER, COVER), (on_it(4, 4, 4, 4), SHEET))
    assert page_within(picture, OUTER, ASPECT) is OUTER


def test_a_sheet_alone_stays_whatever_is_printed_beside_its_border() -> None:
    plain = drawn((OUTER, SHEET))
    photograph = drawn((OUTER, SHEET), (on_it(8, 8, 8, 8), PRINT))
    border = drawn((OUTER, SHEET), (on_it(8, 8, 8, 8), PRINT), (on_it(9, 9, 9, 9), SHEET))
    assert all(page_within(picture, OUTER, ASPECT) is OUTER for picture in (plain, photograph, border))


def test_a_strip_that_is_uneven_is_no_rim() -> None:
    picture = drawn((OUTER, COVER), (on_it(7, 7, 7, 7), SHEET)).astype(np.float64)
    stripes = 60.0 * np.sign(np.sin(np.arange(1280) / 9) * np.sin(np.arange(720) / 9)[:, None])
    cover = drawn((OUTER, 255), (on_it(7, 7, 7, 7), 0)) > 200
    uneven = np.asarray((picture + stripes * cover).clip(0, 255), np.uint8)
    assert page_within(uneven, OUTER, ASPECT) is OUTER


def test_a_cover_that_the_picture_cuts_off_keeps_what_is_seen_of_it() -> None:
    shift = np.array([-300.0, 0.0])
    sheet = on_it(7, 7, 7, 7) + shift
    picture = drawn((OUTER + shift, COVER), (sheet, SHEET))
    assert apart(page_within(picture, OUTER + shift, ASPECT)[[1, 2]], sheet[[1, 2]]) < 1.5


def test_where_nothing_is_nothing_moves() -> None:
    noise = np.random.default_rng(1).integers(0, 255, (720, 1280)).astype(np.uint8)
    plain: Plane = np.full((720, 1280), 128, np.uint8)
    assert page_within(noise, OUTER, ASPECT) is OUTER
    assert page_within(plain, OUTER, ASPECT) is OUTER
