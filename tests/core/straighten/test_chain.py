"""The chain composed as one matrix is the links applied one by one."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from cartouche.core.errors import CartoucheError
from cartouche.core.pictures import Size
from cartouche.core.straighten.chain import Chain, FrameLink, MirrorLink, SquareLink, TurnLink, square_matrix, straighten
from cartouche.core.straighten.geometry import rectangle, solve_homography, transform

FEED = Size(640, 360)
CORNERS = ((0.2, 0.15), (0.75, 0.2), (0.85, 0.9), (0.1, 0.8))
A4 = SquareLink(corners=CORNERS, aspect=210 / 297, paper="A4")
POINTS = np.random.default_rng(3).uniform((140, 80), (480, 280), (40, 2))


def one_by_one(chain: Chain, points: np.ndarray) -> np.ndarray:
    """Each link by its own plain rule, on points."""
    canvas = FEED
    if chain.square.on:
        canvas = straighten(Chain(square=chain.square), FEED).canvas
        points = transform(solve_homography(chain.square.corners_px(FEED), rectangle(canvas)), points)
    if chain.turn.on:
        for _ in range(chain.turn.quarters):
            points, canvas = np.stack([canvas.height - points[:, 1], points[:, 0]], axis=1), Size(canvas.height, canvas.width)
        angle, middle = np.radians(chain.turn.fine_deg), np.array(canvas) / 2
        offset = points - middle
        turned = [np.cos(angle) * offset[:, 0] - np.sin(angle) * offset[:, 1], np.sin(angle) * offset[:, 0] + np.cos(angle) * offset[:, 1]]
        points = np.stack(turned, axis=1) + middle
    if chain.mirror.on and chain.mirror.left_right:
        points = np.stack([canvas.width - points[:, 0], points[:, 1]], axis=1)
    if chain.mirror.on and chain.mirror.top_bottom:
        points = np.stack([points[:, 0], canvas.height - points[:, 1]], axis=1)
    return points


@given(st.booleans(), st.booleans(), st.booleans(), st.integers(0, 3), st.floats(-20, 20), st.booleans(), st.booleans(), st.floats(0.3, 3))
@settings(max_examples=120)
def test_one_matrix_equals_the_links_one_by_one(
    square: bool, turn: bool, mirror: bool, quarters: int, fine: float, left_right: bool, top_bottom: bool, aspect: float
) -> None:
    chain = Chain(
        square=SquareLink(on=square, corners=CORNERS, aspect=aspect),
        turn=TurnLink(on=turn, quarters=quarters, fine_deg=fine),
        mirror=MirrorLink(on=mirror, left_right=left_right, top_bottom=top_bottom),
    )
    assert np.allclose(transform(straighten(chain, FEED).matrix, POINTS), one_by_one(chain, POINTS), atol=1e-6)


def test_pixels_too_one_warp_equals_warps_one_by_one() -> None:
    random = np.random.default_rng(5)
    picture = cv2.GaussianBlur(random.integers(0, 255, (360, 640)).astype(np.uint8), (0, 0), 4)
    chain = Chain(square=A4, turn=TurnLink(quarters=1), mirror=MirrorLink(left_right=True))
    made = straighten(chain, FEED)
    size = (int(made.canvas.width), int(made.canvas.height))
    at_once = cv2.warpPerspective(picture, made.matrix, size)
    squared = straighten(Chain(square=A4), FEED)
    stepwise = cv2.warpPerspective(picture, squared.matrix, (int(squared.canvas.width), int(squared.canvas.height)))
    stepwise = cv2.rotate(stepwise, cv2.ROTATE_90_CLOCKWISE)[:, ::-1]
    inner = (slice(8, min(at_once.shape[0], stepwise.shape[0]) - 8), slice(8, min(at_once.shape[1], stepwise.shape[1]) - 8))
    assert np.abs(at_once[inner].astype(int) - stepwise[inner].astype(int)).mean() < 4


def test_the_canvas_has_the_papers_true_proportions_and_millimetres() -> None:
    made = straighten(Chain(square=A4), FEED)
    assert made.canvas.aspect == pytest.approx(210 / 297)
    assert made.mm_per_unit is not None
    assert made.canvas.width * made.mm_per_unit == pytest.approx(210)
    assert straighten(Chain(square=A4, turn=TurnLink(quarters=1)), FEED).canvas.aspect == pytest.approx(297 / 210)


def test_without_a_paper_there_are_no_millimetres() -> None:
    assert straighten(Chain(), FEED).mm_per_unit is None
    assert straighten(Chain(square=SquareLink(corners=CORNERS)), FEED).mm_per_unit is None


def test_a_link_that_is_off_keeps_its_values_and_does_nothing() -> None:
    chain = Chain(
        square=A4.model_copy(update={"on": False}),
        turn=TurnLink(on=False, quarters=2),
        mirror=MirrorLink(on=False, left_right=True),
    )
    assert np.allclose(straighten(chain, FEED).matrix, np.eye(3))
    assert chain.flips == 0
    assert Chain.model_validate_json(chain.model_dump_json()) == chain


@pytest.mark.parametrize(
    "wrong",
    [
        {"square": {"corners": [[0, 0], [0, 1], [1, 1], [1, 0]]}},
        {"square": {"corners": [[0, 0], [1, 0], [1, 1], [0, 1e9]]}},
        {"square": {"aspect": 0}},
        {"square": {"aspect": float("inf")}},
        {"square": {"paper": "Foolscap"}},
        {"turn": {"quarters": 4}},
        {"turn": {"fine_deg": float("nan")}},
        {"mirror": {"left_right": "sideways"}},
        {"frame": {"zoom": 0.5}},
        {"frame": {"zoom": 1e300}},
        {"varnish": {"on": True}},
    ],
)
def test_values_that_make_no_chain_are_refused(wrong: dict) -> None:
    with pytest.raises(ValidationError):
        Chain.model_validate(wrong)


def test_an_empty_feed_is_refused() -> None:
    with pytest.raises(CartoucheError):
        straighten(Chain(), Size(0, 0))


def test_flips_are_counted() -> None:
    assert Chain(mirror=MirrorLink(left_right=True)).flips == 1
    assert Chain(mirror=MirrorLink(left_right=True, top_bottom=True)).flips == 2
    assert Chain(frame=FrameLink(zoom=3)).flips == 0


def test_what_is_lent_to_all_who_ask_cannot_be_changed() -> None:
    first = square_matrix(A4, FEED)[0]
    with pytest.raises(ValueError, match="read-only"):
        first[0, 0] = 2
    assert np.array_equal(square_matrix(A4.model_copy(), FEED)[0], first)
    assert not np.array_equal(square_matrix(A4, Size(1280, 720))[0], first)
    assert not np.array_equal(square_matrix(A4, FEED, -0.2)[0], first)
