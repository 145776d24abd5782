"""Glides between chains, and named framings."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cartouche.core.pictures import Size
from cartouche.core.straighten.chain import Chain, FrameLink, SquareLink
from cartouche.core.straighten.framing import framed, seen_share
from cartouche.core.straighten.glide import Glide, between

START = Chain(square=SquareLink(corners=((0.1, 0.1), (0.6, 0.1), (0.6, 0.9), (0.1, 0.9)), aspect=0.7))
END = Chain(square=SquareLink(corners=((0.2, 0.1), (0.7, 0.12), (0.7, 0.9), (0.2, 0.88)), aspect=0.7), frame=FrameLink(zoom=2, y=0.3))


def test_it_begins_at_the_start_and_ends_as_the_end_itself() -> None:
    glide = Glide(START, END, 10.0, 0.5)
    assert np.allclose(glide.at(10.0).square.corners, START.square.corners)
    assert glide.at(10.5) is END
    assert glide.at(99.0) is END
    half = glide.at(10.25)
    assert half.square.corners[0] == pytest.approx((0.15, 0.1))
    assert half.frame.zoom == pytest.approx(1.5)


@given(st.floats(0, 1), st.floats(0, 1))
def test_it_never_turns_back(a: float, b: float) -> None:
    low, high = sorted((a, b))
    assert between(START, END, low).frame.zoom <= between(START, END, high).frame.zoom + 1e-9


def test_corners_that_would_cross_jump() -> None:
    turned = SquareLink(corners=((0.9, 0.9), (0.1, 0.9), (0.1, 0.1), (0.9, 0.1)))
    upright = SquareLink(corners=((0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)))
    there = Chain(square=turned)
    assert between(Chain(square=upright), there, 0.5).square.corners == turned.corners


A4, WIDE = Size(210, 297), Size(1024, 720)


def test_the_whole_and_the_halves() -> None:
    assert framed("whole", FrameLink(zoom=3, x=0.2, y=0.9), A4, WIDE, 0.02) == FrameLink()
    upper, lower = (framed(name, FrameLink(), A4, WIDE, 0.02) for name in ("upper", "lower"))
    assert seen_share(upper, A4, WIDE).height == pytest.approx(0.5, abs=0.01)
    assert seen_share(upper, A4, WIDE).width == 1.0
    assert upper.y < 0.3
    assert lower.y == pytest.approx(1 - upper.y)


def test_a_band_walks_down_to_the_foot_and_back_and_no_line_is_skipped() -> None:
    line = 1 / 45
    link = framed("band", FrameLink(), A4, Size(1280, 300), line)
    tops, seen = [link.y], seen_share(link, A4, Size(1280, 300)).height
    while True:
        after = framed("next", link, A4, Size(1280, 300), line)
        if after == link:
            break
        assert after.y - link.y <= seen - line
        link = after
        tops.append(link.y)
    assert tops[0] == pytest.approx(seen / 2)
    assert link.y == pytest.approx(1 - seen / 2)
    while framed("previous", link, A4, Size(1280, 300), line) != link:
        link = framed("previous", link, A4, Size(1280, 300), line)
    assert link.y == pytest.approx(seen / 2)


@given(
    st.floats(0.2, 4), st.floats(0.2, 4), st.floats(0.005, 0.2),
    st.sampled_from(["whole", "upper", "lower", "band", "next", "previous"]), st.floats(1, 8), st.floats(0, 1),
)  # fmt: skip
def test_every_framing_is_a_frame(canvas: float, place: float, line: float, name: str, zoom: float, y: float) -> None:
    link = framed(name, FrameLink(zoom=zoom, y=y), Size(canvas, 1), Size(place, 1), line)  # type: ignore[arg-type]
    assert FrameLink.model_validate(link.model_dump()) == link
