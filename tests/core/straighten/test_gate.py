"""The gate for chains: what it lets through can be drawn everywhere; what it refuses says why; what is kept is opened drawable."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cartouche.core.call.audience import AUDIENCES
from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.plates.ready_made import READY_MADE
from cartouche.core.reading.verdicts import PagePicture, readings, verdict
from cartouche.core.straighten.chain import Chain, FrameLink, SquareLink, TurnLink, UnbendLink
from cartouche.core.straighten.gate import drawable, is_drawable, require_drawable
from cartouche.core.straighten.glide import between

FEED, OUTGOING = Size(640, 360), Size(320, 180)
PICTURE: Frame = blank_frame(FEED, YuvColour(180, 128, 128))
share = st.floats(-2.0, 3.0)


@st.composite
def wild_chains(draw: st.DrawFn) -> Chain:
    """Anything that the types take: corners far outside, all but on one line, under any lens."""
    near = draw(st.booleans())
    offset = st.floats(-0.3, 0.3) if near else share
    base = np.array([[0.2, 0.2], [0.8, 0.2], [0.8, 0.8], [0.2, 0.8]])
    corners = np.clip(base + [[draw(offset), draw(offset)] for _ in range(4)], -2, 3).tolist()
    values = {"corners": corners, "aspect": draw(st.floats(0.1, 10)), "paper": draw(st.sampled_from([None, "A4", "Legal"]))}
    try:
        square = SquareLink.model_validate(values)
    except ValueError:
        square = SquareLink(on=False)
    return Chain(
        unbend=UnbendLink(on=draw(st.booleans()), distortion=draw(st.floats(-0.3, 0.3))),
        square=square,
        turn=TurnLink(quarters=draw(st.integers(0, 3)), fine_deg=draw(st.floats(-20, 20))),
        frame=FrameLink(zoom=draw(st.floats(1, 8)), x=draw(st.floats(0, 1)), y=draw(st.floats(0, 1))),
    )


def draw_everywhere(chain: Chain) -> None:
    for plate in READY_MADE:
        layers = [Layer(place, chain, PICTURE) for place in plate.places]
        assert np.isfinite(Composer(OUTGOING, YuvColour(238, 128, 128)).compose(layers, 0.0).y.mean())
    page = PagePicture(chain, FEED, 0, asks_pt=9.0)
    readings(chain, FEED)
    for audience in AUDIENCES:
        verdict(audience, page, READY_MADE[0].places[0], OUTGOING)


@settings(max_examples=300)
@given(wild_chains())
def test_what_passes_can_be_drawn_and_judged_everywhere(chain: Chain) -> None:
    if is_drawable(chain, FEED):
        draw_everywhere(chain)
    opened = drawable(chain, FEED)
    assert is_drawable(opened.chain, FEED)
    assert (opened.off is None) == (opened.chain == chain) == (not opened.why)


@settings(max_examples=100)
@given(wild_chains(), wild_chains(), st.floats(0, 1))
def test_every_chain_on_the_way_from_one_to_another_can_be_drawn(start: Chain, end: Chain, at: float) -> None:
    if is_drawable(start, FEED) and is_drawable(end, FEED):
        require_drawable(between(start, end, at, FEED), FEED)


FOLDED = SquareLink.model_validate({"corners": [[-1.9, -1.9], [2.9, -1.8], [2.8, 2.9], [-1.9, 2.8]], "aspect": 1.4})


def test_a_lens_that_folds_the_corners_is_the_link_switched_off() -> None:
    chain = Chain(unbend=UnbendLink(on=True, distortion=-0.3), square=FOLDED)
    with pytest.raises(DegenerateCorners, match="lens"):
        require_drawable(chain, FEED)
    opened = drawable(chain, FEED)
    assert opened.off == "unbend"
    assert opened.chain.square.on
    assert not opened.chain.unbend.on


def test_a_page_seen_from_its_edge_is_refused_and_opened_without_squaring() -> None:
    flat = SquareLink.model_validate({"corners": [[0.499, 0.4], [0.501, 0.4], [0.9, 0.9], [0.1, 0.9]], "aspect": 1})
    with pytest.raises(DegenerateCorners, match=r"edge|line"):
        require_drawable(Chain(square=flat), FEED)
    assert drawable(Chain(square=flat), FEED).off == "square"


def test_a_feed_without_a_picture_yet_is_judged_by_the_usual_size() -> None:
    assert is_drawable(Chain(), None)
    assert not is_drawable(Chain(unbend=UnbendLink(on=True, distortion=-0.3), square=FOLDED), None)
