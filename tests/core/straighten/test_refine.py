"""Sides sought in the picture, against quadrilaterals drawn with known corners."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from cartouche.core.straighten.refine import refine_quad, refine_quads

TRUE = np.array([[210.3, 120.7], [760.2, 160.4], [700.6, 480.1], [180.9, 430.5]])
OTHER = TRUE + np.array([40, -30])


def shown(quad: NDArray[np.float64], ground: int = 90, paper: int = 200, bow: float = 0.0) -> NDArray[np.uint8]:
    """(600, 960) luma, each pixel by how far its middle lies inside the sides. bow: px by which the third side is dented."""
    xs, ys = np.meshgrid(np.arange(960) + 0.5, np.arange(600) + 0.5)
    covered = np.ones_like(xs)
    for side, (a, b) in enumerate(zip(quad, np.roll(quad, -1, axis=0), strict=True)):
        along = (b - a) / np.linalg.norm(b - a)
        inside = along[0] * (ys - a[1]) - along[1] * (xs - a[0])
        share = ((xs - a[0]) * along[0] + (ys - a[1]) * along[1]) / np.linalg.norm(b - a)
        covered *= np.clip(inside - (bow if side == 2 else 0) * 4 * share * (1 - share) + 0.5, 0, 1)
    return np.round(ground + (paper - ground) * covered).astype(np.uint8)


OFF = st.lists(st.floats(-4, 4), min_size=8, max_size=8)


@settings(max_examples=25)
@given(OFF)
def test_a_page_is_met_to_a_tenth_of_a_pixel_from_anywhere_near(off: list[float]) -> None:
    made = refine_quad(shown(TRUE), TRUE + np.array(off).reshape(4, 2))
    assert np.abs(made.corners - TRUE).max() < 0.1
    assert made.support.min() > 0.95


@pytest.mark.parametrize(("ground", "paper"), [(200, 90), (190, 200)])
def test_dark_paper_and_paper_nearly_the_desks_own_are_met_too(ground: int, paper: int) -> None:
    assert np.abs(refine_quad(shown(TRUE, ground, paper), TRUE + 3).corners - TRUE).max() < 0.2


def test_many_together_come_out_as_each_alone() -> None:
    luma = shown(TRUE)
    many = np.stack([TRUE + 2, OTHER, TRUE - 3, TRUE * 1.1])
    for told, alone in zip(refine_quads(luma, many), (refine_quad(luma, quad) for quad in many), strict=True):
        assert np.allclose(told.corners, alone.corners)
        assert np.allclose(told.support, alone.support)
        assert [len(side) for side in told.edges] == [len(side) for side in alone.edges]


def test_a_hand_over_a_side_does_not_pull_it() -> None:
    luma = shown(TRUE)
    cv2.ellipse(luma, (430, 450), (70, 60), 10, 0, 360, (120,), -1, cv2.LINE_AA)
    made = refine_quad(luma, TRUE + 2)
    assert np.abs(made.corners - TRUE).max() < 0.3
    assert made.support[2] < 0.9


@pytest.mark.parametrize("bow", [-5.0, -2.5, 2.5, 5.0])
def test_a_bowed_side_ends_at_its_corners(bow: float) -> None:
    assert np.abs(refine_quad(shown(TRUE, bow=bow), TRUE + 1).corners - TRUE).max() < 1.0


def test_where_nothing_is_seen_it_stays() -> None:
    made = refine_quad(np.full((600, 960), 90, np.uint8), TRUE)
    assert np.allclose(made.corners, TRUE)
    assert made.support.max() == 0


def test_sides_out_of_the_picture_or_that_never_meet_are_no_error() -> None:
    outside = TRUE + np.array([2000, 0])
    flat = np.array([[10.0, 10], [500, 10], [900, 10], [500, 10]])
    for told in refine_quads(shown(TRUE), np.stack([outside, flat])):
        assert told.corners.shape == (4, 2)
        assert np.isfinite(told.support).all()
