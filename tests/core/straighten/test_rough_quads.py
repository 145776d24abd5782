"""From a map to quadrilaterals: where little of a side is seen, where lines lie close, where there is no page."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from cartouche.core.pictures import Size
from cartouche.core.straighten.geometry import meeting, seen_part
from cartouche.core.straighten.page_map import PageMap
from cartouche.core.straighten.rough_quads import Rough, doubled, plain_quads, regions, rough_quads

HIGH, WIDE = 80, 144
SCALE = np.array([1920 / WIDE, 1080 / HIGH])


def drawn(quad: NDArray[np.float64]) -> PageMap:
    """The map that a perfect network gives of a quadrilateral, (4, 2) cells."""
    fixed = (quad * 16 - 8).round().astype(np.int32)
    page, border = np.zeros((HIGH, WIDE), np.float32), np.zeros((HIGH, WIDE), np.float32)
    cv2.fillPoly(page, [fixed], 1.0, cv2.LINE_8, 4)
    cv2.polylines(border, [fixed], True, 1.0, 1, cv2.LINE_8, 4)
    return PageMap(page, cv2.GaussianBlur(border, (0, 0), 1.0) * 2, SCALE)


def off(quad: NDArray[np.float64], seen: PageMap) -> float:
    """How far the best quadrilateral's corners lie from the true ones, cells."""
    return apart(rough_quads(seen, regions(seen)[0])[0], quad)


def apart(rough: Rough, quad: NDArray[np.float64]) -> float:
    """The farthest corner, cells."""
    found = rough.quad / SCALE
    return min(float(np.linalg.norm(np.roll(found, k, axis=0) - quad, axis=1).max()) for k in range(4))


WHOLE = np.array([[40.0, 12], [104, 20], [98, 66], [34, 60]])


def test_a_clear_page_is_met_to_a_fraction_of_a_cell() -> None:
    assert off(WHOLE, drawn(WHOLE)) < 0.9  # the map is drawn to whole cells


@pytest.mark.parametrize(
    "quad",
    [
        np.array([[40.0, 12], [104, 14], [96, 90], [34, 74]]),  # of the lower side a stub is seen
        np.array([[-12.0, 30], [70, 8], [90, 50], [20, 72]]),
        np.array([[60.0, -14], [120, 22], [80, 70], [24, 30]]),
    ],
)
def test_a_corner_outside_is_where_the_seen_parts_of_its_sides_lead(quad: NDArray[np.float64]) -> None:
    assert off(quad, drawn(quad)) < 2.0


def test_a_thing_beside_the_page_does_not_become_its_side() -> None:
    seen = drawn(WHOLE)
    cv2.line(seen.border, (112, 18), (106, 66), 0.5, 2)  # a ruler, believed a little
    cv2.line(seen.page, (112, 18), (106, 66), 0.4, 4)
    assert off(WHOLE, seen) < 1.5


def test_the_outline_alone_does_for_a_page_on_a_clear_desk() -> None:
    seen = drawn(WHOLE)
    assert apart(plain_quads(seen, regions(seen)[0])[0], WHOLE) < 0.9


def test_what_lies_beside_a_page_and_was_taken_for_part_of_it_falls_off() -> None:
    """The map believes in a ruler as much as in the page, but a border runs between them."""
    beside = np.array([[104.0, 20], [116, 22], [110, 68], [98, 66]])
    page, ruler = drawn(WHOLE), drawn(beside)
    seen = PageMap(np.maximum(page.page, ruler.page), np.maximum(page.border, ruler.border), SCALE)
    region = regions(seen)[0]
    assert len(regions(seen)) == 1
    assert min(apart(one, WHOLE) for one in rough_quads(seen, region)) < 1.5


def test_what_sticks_out_of_a_page_is_no_part_of_it_at_first_sight() -> None:
    """What holds page and ruler together is far from filled: the region's other hulls are tried at once."""
    beside = np.array([[103.0, 24], [142, 30], [141, 38], [102, 32]])
    page, ruler = drawn(WHOLE), drawn(beside)
    seen = PageMap(np.maximum(page.page, ruler.page), np.maximum(page.border, ruler.border), SCALE)
    assert len(regions(seen)) == 1
    assert min(apart(one, WHOLE) for one in plain_quads(seen, regions(seen)[0])) < 1.5


def test_of_half_a_book_the_whole_is_tried_too() -> None:
    low = WHOLE * np.array([1, 0.4]) + np.array([0, 34])
    seen = drawn(low)
    beyond = np.concatenate([2 * low[:2] - low[[3, 2]], low[2:]])
    assert min(apart(one, beyond) for one in doubled(seen, regions(seen)[0], rough_quads(seen, regions(seen)[0]))) < 3


def test_what_is_too_small_or_absent_gives_none() -> None:
    nothing = np.zeros((HIGH, WIDE), np.float32)
    assert regions(PageMap(nothing, nothing, SCALE)) == []
    assert regions(drawn(np.array([[50.0, 40], [58, 40], [58, 48], [50, 48]]))) == []


SPOT = st.tuples(st.floats(-200, 300), st.floats(-200, 300))


@settings(max_examples=200)
@given(SPOT, SPOT)
def test_the_seen_part_lies_in_the_picture_and_reaches_its_border(start: tuple[float, float], end: tuple[float, float]) -> None:
    a, b, room = np.array(start), np.array(end), np.array([100, 60])
    first, last = seen_part(a, b, Size(100, 60), 2.0)
    assert 0 <= first < last <= 1
    steps = np.linspace(0, 1, 501)[:, None]
    inside = ((a + steps * (b - a) > 2) & (a + steps * (b - a) < room - 2)).all(axis=1)
    if inside.sum() > 2:
        shares = steps[inside, 0]
        assert abs(shares.min() - first) < 0.003
        assert abs(shares.max() - last) < 0.003


@given(SPOT, SPOT, SPOT)
def test_lines_meet_where_both_run(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> None:
    p, q, spot = np.array(a), np.array(b), np.array(c)
    along, other = spot - p, spot - q
    if abs(along[0] * other[1] - along[1] * other[0]) > 1:
        assert np.allclose(meeting(p, along, q, other), spot, atol=1e-3)
    assert not np.isfinite(meeting(p, np.array([1.0, 2.0]), p + 1, np.array([2.0, 4.0]))).any()
