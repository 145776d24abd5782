import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Size
from cartouche.core.straighten.geometry import (
    Keystone,
    as_corners,
    check_quadrilateral,
    keystone,
    nearest_keystone,
    rectangle,
    smallest_stretch,
    solve_homography,
    transform,
    with_keystone,
)

offsets = st.lists(st.tuples(st.floats(-60, 60), st.floats(-60, 60)), min_size=4, max_size=4)


def wobbled(moves: list[tuple[float, float]]) -> np.ndarray:
    return rectangle(Size(400, 300)) + np.array(moves) + 100


@given(offsets)
@settings(max_examples=60)
def test_a_homography_takes_four_points_to_four_points_and_back(moves: list[tuple[float, float]]) -> None:
    source, target = wobbled(moves), rectangle(Size(210, 297))
    there = solve_homography(source, target)
    assert np.allclose(transform(there, source), target, atol=1e-6)
    assert np.allclose(transform(np.linalg.inv(there), target), source, atol=1e-6)


@pytest.mark.parametrize(
    ("corners", "why"),
    [
        ([(0, 0), (10, 0), (20, 0), (0, 10)], "one line"),
        ([(0, 0), (0, 10), (10, 10), (10, 0)], "wrong way"),
        ([(0, 0), (10, 10), (10, 0), (0, 10)], "cross"),
        ([(5, 5)] * 4, "one line"),
        ([(0, 0), (10, 0), (3, 3), (0, 10)], "cross"),
    ],
)
def test_what_spans_no_page_is_refused_with_its_reason(corners: list[tuple[float, float]], why: str) -> None:
    with pytest.raises(DegenerateCorners, match=why):
        check_quadrilateral(as_corners(corners))


@pytest.mark.parametrize("bad", [[(0, 0)] * 3, [(0, 0, 0)] * 4, "page", None, [(float("nan"), 0)] * 4, [(1e400, 0)] * 4, [[1, 2], [3]]])
def test_four_pairs_of_numbers_or_nothing(bad: object) -> None:
    with pytest.raises(DegenerateCorners, match="four pairs"):
        as_corners(bad)  # type: ignore[arg-type]


@given(st.floats(-45, 45), st.floats(-45, 45), offsets)
@settings(max_examples=60)
def test_keystone_set_is_keystone_read(vertical: float, horizontal: float, moves: list[tuple[float, float]]) -> None:
    corners = rectangle(Size(400, 300)) + np.array(moves) * 0.3
    try:
        changed = with_keystone(corners, Keystone(vertical, horizontal))
    except DegenerateCorners:
        return
    assert np.allclose(keystone(changed), (vertical, horizontal), atol=1e-6)
    assert np.allclose(changed.mean(axis=0), corners.mean(axis=0))


def test_the_sign_of_keystone() -> None:
    top_shorter = as_corners([(40, 0), (160, 0), (200, 100), (0, 100)])
    left_shorter = as_corners([(0, 30), (200, 0), (200, 100), (0, 70)])
    assert keystone(top_shorter).vertical > 0
    assert keystone(left_shorter).horizontal > 0
    assert np.allclose(keystone(rectangle(Size(3, 4))), 0)


def test_smallest_stretch_is_the_worst_direction() -> None:
    matrix = np.diag([3.0, 0.5, 1.0])
    assert np.allclose(smallest_stretch(matrix, np.array([[5.0, 9.0], [0, 0]])), 0.5)


def test_smallest_stretch_agrees_with_small_steps_of_a_projective_map() -> None:
    matrix = solve_homography(as_corners([(40, 10), (160, 0), (220, 100), (0, 120)]), rectangle(Size(210, 297)))
    spot = np.array([[110.0, 60.0]])
    steps = 1e-4 * np.stack([np.cos(np.linspace(0, np.pi, 400)), np.sin(np.linspace(0, np.pi, 400))], axis=1)
    moved = np.linalg.norm(transform(matrix, spot + steps) - transform(matrix, spot), axis=1) / 1e-4
    assert smallest_stretch(matrix, spot)[0] == pytest.approx(moved.min(), rel=1e-3)


def test_a_keystone_that_no_page_has_is_followed_as_far_as_it_goes() -> None:
    corners = np.array([[300.0, 200], [900, 220], [880, 700], [320, 690]])
    reachable = Keystone(20, -10)
    assert keystone(nearest_keystone(corners, reachable)) == pytest.approx(reachable)
    for wanted in (Keystone(60, 60), Keystone(-95, 80), Keystone(150, 0)):
        reached = nearest_keystone(corners, wanted)
        check_quadrilateral(reached)
        assert np.sign(keystone(reached).vertical - keystone(corners).vertical) == np.sign(wanted.vertical - keystone(corners).vertical)
    end = nearest_keystone(corners, Keystone(60, 0))
    held = keystone(end).vertical
    for horizontal in (8, 16, 30, -30):
        reached = keystone(nearest_keystone(end, Keystone(held, horizontal)))
        assert reached.horizontal == pytest.approx(horizontal), "the slant that is moved goes on, the other gives way"
        assert 0 < reached.vertical <= held + 1e-9
    assert np.array_equal(nearest_keystone(corners, Keystone(50, 50), lambda _: False), corners)
