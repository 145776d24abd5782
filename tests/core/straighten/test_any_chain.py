"""Whatever the chain: it composes to one map that inverts, and corners that span no page are refused at the gate with a reason."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Size
from cartouche.core.plates.placing import placing
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain, FrameLink, MirrorLink, SquareLink, TurnLink, UnbendLink, straighten
from cartouche.core.straighten.geometry import transform
from cartouche.core.straighten.lens import distort, undistort

FEED = Size(1920, 1080)
near = st.floats(-0.12, 0.12)


@st.composite
def chains(draw: st.DrawFn) -> Chain:
    base = np.array([[0.25, 0.25], [0.75, 0.25], [0.75, 0.75], [0.25, 0.75]])
    corners = (base + np.array([[draw(near), draw(near)] for _ in range(4)])).tolist()
    return Chain(
        unbend=UnbendLink(on=draw(st.booleans()), distortion=draw(st.floats(-0.25, 0.1))),
        square=SquareLink.model_validate({"on": draw(st.booleans()), "corners": corners, "aspect": draw(st.floats(0.3, 3))}),
        turn=TurnLink(on=draw(st.booleans()), quarters=draw(st.integers(0, 3)), fine_deg=draw(st.floats(-20, 20))),
        mirror=MirrorLink(on=draw(st.booleans()), left_right=draw(st.booleans()), top_bottom=draw(st.booleans())),
        frame=FrameLink(on=draw(st.booleans()), zoom=draw(st.floats(1, 8)), x=draw(st.floats(0, 1)), y=draw(st.floats(0, 1))),
    )


@given(chains())
def test_any_chain_composes_and_inverts(chain: Chain) -> None:
    made = straighten(chain, FEED)
    assert np.isfinite(made.matrix).all()
    assert min(made.canvas) > 1
    points = np.array([[600.0, 400], [960, 540], [1300, 700]])
    straight = undistort(points, made.distortion, FEED) if made.distortion else points
    back = transform(np.linalg.inv(made.matrix), transform(made.matrix, straight))
    again = distort(back, made.distortion, FEED) if made.distortion else back
    assert np.allclose(again, points, atol=1e-4)
    laid = placing(FIRST_PLATES[0].places[0], chain, FEED, Size(1280, 720))
    assert np.isfinite(laid.matrix).all()
    assert abs(np.linalg.det(laid.matrix / laid.matrix[2, 2])) > 0


@given(chains())
def test_the_sign_of_the_map_is_the_count_of_its_flips(chain: Chain) -> None:
    made = straighten(chain, FEED)
    w = float(made.matrix[2] @ np.array([960.0, 540, 1]))
    assert (np.linalg.det(made.matrix) / w**3 < 0) == bool(chain.flips % 2)


@given(chains())
def test_a_chain_survives_its_journey_through_the_store(chain: Chain) -> None:
    assert Chain.model_validate_json(chain.model_dump_json()) == chain


@pytest.mark.parametrize(
    ("corners", "why"),
    [
        ([[0, 0], [1, 0], [1, 1], [math.nan, 1]], "finite"),
        ([[0, 0], [1, 0], [math.inf, 1], [0, 1]], "finite"),
        ([[0, 0], [0, 0], [0, 0], [0, 0]], "one line"),
        ([[0, 0], [0.5, 0.5], [1, 1], [0, 1]], "one line"),
        ([[0, 0], [1, 1], [1, 0], [0, 1]], "cross"),
        ([[0, 0], [0, 1], [1, 1], [1, 0]], "wrong way"),
        ([[0, 0], [9, 0], [9, 1], [0, 1]], "less than"),
    ],
)
def test_bad_corners_are_refused_with_a_reason(corners: list[list[float]], why: str) -> None:
    with pytest.raises((ValidationError, DegenerateCorners)) as caught:
        SquareLink.model_validate({"corners": corners})
    assert why in str(caught.value)
