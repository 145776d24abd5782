"""A mark in page space lies on the same printed spot after a bump, a turn, a flip, a zoom and under a bulging lens."""

import numpy as np
import pytest

from cartouche.bench.camera import true_corners
from cartouche.bench.devices import CLIP_MIRROR, DOCUMENT_CAMERA, SHEET_LIES
from cartouche.bench.papers import A4_MM
from cartouche.core.pictures import Corners, Size
from cartouche.core.plates.placing import placing
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain, FrameLink, MirrorLink, SquareLink, TurnLink, UnbendLink, square_matrix
from cartouche.core.straighten.geometry import rectangle, solve_homography, transform
from cartouche.core.straighten.lens import distort
from cartouche.core.straighten.page_space import page_space
from cartouche.core.straighten.square_up import named, square_of

OUTGOING = Size(1280, 720)
PAGE = Size(A4_MM.width_mm, A4_MM.height_mm)
MARKS = np.array([[20.0, 30.0], [105.0, 148.0], [190.0, 280.0], [60.0, 210.0]])  # mm on the sheet itself


def printed_at(corners: Corners, marks: np.ndarray) -> np.ndarray:
    """Where the marks are in the feed, by the bench's truth, (n, 2) px."""
    return transform(solve_homography(rectangle(PAGE), corners), marks)


def squared(corners: Corners, feed: Size) -> SquareLink:
    return named(square_of(corners, feed), "A4", False)


@pytest.mark.parametrize("moved", [(0, 0), (40, -25), (-90, 60)], ids=["as it lay", "bumped", "slid"])
@pytest.mark.parametrize(
    "more",
    [{}, {"turn": TurnLink(quarters=2, fine_deg=3)}, {"mirror": MirrorLink(left_right=True)}, {"frame": FrameLink(zoom=2.5, x=0.3, y=0.6)}],
    ids=["as it is", "turned", "flipped", "closer"],
)
def test_a_mark_stays_on_its_printed_spot(moved: tuple[int, int], more: dict) -> None:
    feed = DOCUMENT_CAMERA.size
    corners = true_corners(DOCUMENT_CAMERA, A4_MM, SHEET_LIES)
    first = page_space(Chain(square=squared(corners, feed)), feed)
    marks = first.on_page(printed_at(corners, MARKS))
    assert np.allclose(marks, MARKS, atol=0.2), "they are the sheet's own millimetres"
    bumped = corners + np.array(moved) + np.array([[0, 0], [6, 2], [9, -4], [3, 5]]) * bool(moved[0])
    chain = Chain(square=squared(bumped, feed), **more)
    space = page_space(chain, feed)
    assert np.allclose(space.on_feed(marks), printed_at(bumped, MARKS), atol=0.5)
    laid = placing(FIRST_PLATES[1].places[0], chain, feed, OUTGOING)
    by_feed = transform(laid.matrix, printed_at(bumped, MARKS))
    by_page = transform(laid.canvas_matrix, space.on_canvas(marks))
    assert np.allclose(by_feed, by_page, atol=0.6)


def test_there_and_back_under_a_bulging_lens() -> None:
    feed, bulge = Size(1920, 1080), -0.12
    straight = np.array([[500.0, 200], [1400, 240], [1350, 900], [480, 860]])
    corners = distort(straight, bulge, feed)
    link = SquareLink.model_validate({"corners": (corners / feed).tolist(), "aspect": 1.41, "paper": "A4", "lying": True})
    space = page_space(Chain(unbend=UnbendLink(on=True, distortion=bulge), square=link), feed)
    points = np.array([[700.0, 400], [1200, 700]])
    assert np.allclose(space.on_feed(space.on_page(points)), points, atol=1e-6)
    assert np.allclose(space.on_page(corners), rectangle(space.size), atol=1e-6)


def test_a_mirrored_view_keeps_marks_on_the_paper_too() -> None:
    feed = CLIP_MIRROR.size
    seen = true_corners(CLIP_MIRROR, A4_MM, SHEET_LIES)[::-1]
    chain = Chain(square=squared(np.roll(seen, -int(np.argmin(seen.sum(axis=1))), axis=0), feed), mirror=MirrorLink(left_right=True))
    space = page_space(chain, feed)
    spots = printed_at(true_corners(CLIP_MIRROR, A4_MM, SHEET_LIES), MARKS)
    assert np.allclose(space.on_feed(space.on_page(spots)), spots, atol=1e-6)


def test_without_a_squared_page_the_picture_stands_for_it_in_shares() -> None:
    space = page_space(Chain(turn=TurnLink(quarters=1)), Size(1600, 900))
    assert space.unit == "share"
    assert space.size == pytest.approx((1.0, 0.5625))
    assert space.on_page(np.array([[800.0, 450.0]])) == pytest.approx(np.array([[0.5, 0.28125]]))


def test_millimetres_are_those_of_the_named_paper() -> None:
    link = SquareLink.model_validate({"corners": [[0.2, 0.2], [0.7, 0.2], [0.7, 0.9], [0.2, 0.9]], "aspect": 210 / 297, "paper": "A5"})
    space = page_space(Chain(square=link), Size(1000, 1000))
    assert space.size == pytest.approx((148, 210), rel=0.01)
    assert square_matrix(link, Size(1000, 1000))[1].aspect == pytest.approx(210 / 297)
