"""The face off the writing."""

import cv2
import numpy as np
import pytest

from cartouche.core.pictures import Size, YuvColour, blank_frame, scaling
from cartouche.core.plates.model import Rect
from cartouche.core.plates.placement import (
    COLUMNS,
    QUIET_S,
    ROWS,
    VIEW,
    CellBox,
    Floating,
    InkMap,
    calm_place,
    cells_of,
    clearance,
    floated,
    page_view,
)

SHOWN = np.full((180, 320), 255, np.uint8)
FACE = CellBox(48, 2, 14, 12)


def page(lines: int = 0, first: int = 12) -> np.ndarray:
    """White paper with so many lines of writing from the top."""
    view = np.full((180, 320), 235, np.uint8)
    for line in range(lines):
        y = first + 12 * line
        for x in range(10, 310, 6):
            cv2.line(view, (x, y), (x + 3, y + 5), 60, 1)
    return view


def seen(*views: np.ndarray, every_s: float = 0.4) -> tuple[InkMap, float]:
    made, now_s = InkMap(), 0.0
    for view in views:
        now_s += every_s
        made.see(view, SHOWN, now_s)
    return made, now_s


def test_writing_is_seen_where_it_is_and_paper_is_calm() -> None:
    made, _ = seen(page(3))
    assert made.written[2:9].mean() > 0.6
    assert not made.written[12:].any()


def test_uneven_light_is_no_writing() -> None:
    slope = np.tile(np.linspace(120, 240, 320), (180, 1)).astype(np.uint8)
    made, _ = seen(slope)
    assert made.written.mean() < 0.01


def test_beside_the_page_nothing_is_written() -> None:
    shown = SHOWN.copy()
    shown[:, 160:] = 0
    made = InkMap()
    made.see(page(14), shown, 0.0)
    assert made.written[:, :30].any()
    assert not made.written[:, 33:].any()


def test_the_calm_place_is_far_from_all_writing() -> None:
    made, _ = seen(page(8))  # the upper half is written on
    found = calm_place(clearance(made.written), FACE)
    assert found.clear > 3
    assert found.box.width == FACE.width
    assert not made.written[found.box.grown(1).part].any()
    assert found.box.x + found.box.width == COLUMNS, "it keeps to its border"


def test_where_little_is_empty_it_takes_less_room() -> None:
    written = np.ones((ROWS, COLUMNS), bool)
    written[20:31, 3:16] = False  # no room at full size
    found = calm_place(clearance(written), FACE)
    assert found.clear >= 1
    assert found.box.width < FACE.width
    written[:] = True
    assert calm_place(clearance(written), FACE).clear == 0


def test_it_stays_while_writing_is_far_and_leaves_before_it_is_reached() -> None:
    low = Floating(CellBox(48, 22, 14, 12), -100.0)
    made, now_s = seen(*(page(lines) for lines in range(4)))
    assert floated(made, low, low.box, now_s) is low, "three lines lie far above it"
    high = Floating(CellBox(48, 12, 14, 12), -100.0)
    moved = floated(made, high, high.box, now_s + QUIET_S + 0.1)
    assert moved.box.y > high.box.y
    assert made.covered(moved.box) == 0
    assert floated(made, moved, high.box, now_s + 10) is moved, "there it stays"


def test_it_does_not_move_while_a_hand_is_beside_it() -> None:
    face = Floating(CellBox(48, 12, 14, 12), -100.0)
    made, now_s = seen(page(3), page(4))
    assert floated(made, face, face.box, now_s + 0.1) is face, "the fourth line is being written just above it"
    assert floated(made, face, face.box, now_s + QUIET_S + 0.1).box != face.box, "in the next pause"


def test_a_full_page_is_told_so_that_it_can_make_room() -> None:
    made, now_s = seen(page(14, first=6))
    face = Floating(FACE, -100.0)
    assert floated(made, face, FACE, now_s + 5).crowded
    for more in (20.0, 20.4):
        made.see(page(0), SHOWN, now_s + more)
    assert not floated(made, Floating(FACE, -100.0, True), FACE, now_s + 30).crowded, "a fresh page: it may come back"


def test_covered_is_the_share_of_all_writing() -> None:
    made, _ = seen(page(6))
    assert made.covered(CellBox(0, 0, COLUMNS, ROWS)) == 1
    half = made.covered(CellBox(0, 0, COLUMNS // 2, ROWS))
    assert half == pytest.approx(0.5, abs=0.05)
    assert InkMap().covered(FACE) == 0


def test_what_a_hand_hides_is_still_written() -> None:
    made, now_s = seen(page(6), page(6))
    hand = page(6)
    cv2.circle(hand, (160, 60), 30, 150, -1)
    made.see(hand, SHOWN, now_s + 0.4)
    assert made.written[10:13, 28:36].mean() > 0.6


def test_another_page_is_no_hand() -> None:
    made, now_s = seen(page(3), np.full((180, 320), 90, np.uint8))
    assert made.quiet(FACE, now_s)
    assert not made.works_under(FACE, now_s)


def test_a_rectangle_is_the_cells_that_it_touches() -> None:
    assert cells_of(Rect(x=0.5, y=0, width=0.25, height=0.5)) == CellBox(32, 0, 16, 18)
    assert cells_of(Rect(x=0.51, y=0.01, width=0.25, height=0.5)) == CellBox(32, 0, 17, 19)
    assert cells_of(CellBox(5, 6, 7, 8).rect) == CellBox(5, 6, 7, 8)


def test_the_view_is_the_page_as_it_goes_out() -> None:
    frame = blank_frame(Size(1920, 1080), YuvColour(200, 128, 128))
    frame.y[:, :960] = 40
    view, shown = page_view(frame, scaling(1280 / 1920 / 2, 720 / 1080), Size(1280, 720))
    assert view.shape == (VIEW.height, VIEW.width)
    assert (view[90, 30], view[90, 130]) == (40, 200)
    assert (shown[90, 150], shown[90, 170]) == (255, 0), "it covers the left half"
