"""Strokes: drawn, erased whole and in part, undone; drawn over a page they stay on its print; SVG out and in."""

import numpy as np
import pytest

from cartouche.core.ink.draw import drawn
from cartouche.core.ink.smooth import SmoothPoint
from cartouche.core.ink.strokes import Ink, Stroke, quarter_turned, without_part, without_touched
from cartouche.core.ink.svg import UnreadableInk, from_svg, to_svg
from cartouche.core.pictures import Size, YuvColour, blank_frame, scaling, yuv_of_hex

LINE = Stroke(id="a", points=((10.0, 10.0, 1.0), (90.0, 10.0, 1.0)), width=1.0)
FAR = Stroke(id="b", points=((10.0, 80.0, 1.0), (90.0, 80.0, 0.4)), width=2.0, colour="#A93226")
BOX = (0, 0, 400, 400)
AT_FOUR = scaling(4.0, 4.0)


def test_undo_and_redo_walk_through_all_that_was_done() -> None:
    ink = Ink().with_stroke(LINE).with_stroke(FAR)
    assert ink.undone().strokes == (LINE,)
    assert ink.undone().undone().strokes == ()
    assert ink.undone().redone() == ink
    assert ink.undone().with_stroke(FAR).redone().strokes == (LINE, FAR)  # what was undone is gone
    cleared = ink.settled(())
    assert cleared.strokes == ()
    assert cleared.undone().strokes == (LINE, FAR)
    assert Ink().undone() == Ink()


def test_a_stroke_that_is_touched_is_erased_whole_or_where_it_was_touched() -> None:
    spot = np.array([50.0, 10.5])
    assert without_touched((LINE, FAR), spot, 1.0) == (FAR,)
    left = without_part((LINE, FAR), spot, 4.0)
    assert FAR in left
    pieces = [stroke for stroke in left if stroke != FAR]
    assert len(pieces) == 2
    assert max(stroke.line[:, 0].max() for stroke in pieces[:1]) == pytest.approx(46.0, abs=2.1)
    assert min(stroke.line[:, 0].min() for stroke in pieces[1:]) == pytest.approx(54.0, abs=2.1)
    assert without_part((LINE,), np.array([50.0, 40.0]), 4.0) == (LINE,)


def test_four_quarters_are_none() -> None:
    wide, high = 100.0, 140.0
    (once,) = quarter_turned((LINE,), high)
    assert once.points == ((130.0, 10.0, 1.0), (130.0, 90.0, 1.0))  # along the upper edge, then along the right one
    turned: tuple[Stroke, ...] = (LINE, FAR)
    for side in (high, wide, high, wide):
        turned = quarter_turned(turned, side)
    assert turned == (LINE, FAR)


def test_a_line_and_an_arrow_have_two_ends() -> None:
    arrow = LINE.model_copy(update={"tool": "arrow"}).through(50.0, 50.0, 1.0).through(90.0, 90.0, 1.0)
    assert arrow.points == ((10.0, 10.0, 1.0), (90.0, 90.0, 1.0))
    shaft, head = arrow.parts()
    assert len(shaft) == 2
    assert np.allclose(head[1], (90.0, 90.0))
    assert np.hypot(*(head[0] - head[1])) == pytest.approx(5.0)


def test_it_is_drawn_where_it_should_in_its_colour() -> None:
    paper = blank_frame(Size(400, 400), YuvColour(230, 128, 128))
    over = drawn((LINE, FAR), AT_FOUR, BOX)
    assert over is not None
    over.lay(paper.planes)
    assert paper.y[40, 200] == yuv_of_hex(LINE.colour).y
    assert paper.v[160, 100] == pytest.approx(yuv_of_hex(FAR.colour).v, abs=6)
    dark = np.argwhere(paper.y < 200)
    assert (dark[:, 0].min(), dark[:, 0].max()) == pytest.approx((38, 324), abs=3)
    assert drawn((LINE,), AT_FOUR, (0, 100, 400, 400)) is None  # nothing of it lies in there


def test_a_highlighter_leaves_print_readable() -> None:
    paper = blank_frame(Size(400, 400), YuvColour(230, 128, 128))
    paper.y[36:44, 180:220] = 30
    marker = LINE.model_copy(update={"tool": "marker", "width": 8.0, "colour": "#F2C230"})
    over = drawn((marker,), AT_FOUR, BOX)
    assert over is not None
    over.lay(paper.planes)
    assert paper.y[40, 200] < 32
    assert 150 < paper.y[40, 100] < 215
    assert paper.u[20, 50] < 110  # yellow


def test_the_filter_steadies_a_hand_that_rests_and_follows_one_that_runs() -> None:
    random, rests, runs = np.random.default_rng(1), SmoothPoint(), SmoothPoint()
    shaky = [0.5 + 0.002 * random.standard_normal() for _ in range(120)]
    seen = [rests.see(x, 0.5, number / 120)[0] for number, x in enumerate(shaky)]
    assert np.std(seen[30:]) < 0.5 * np.std(shaky[30:])
    lag = [number / 120 - runs.see(number / 120, 0.5, number / 120)[0] for number in range(60)]
    assert max(lag[20:]) < 0.012  # of the picture's width, at a width each second: under two hundredths of a second


def test_svg_comes_back_as_it_was() -> None:
    marker = FAR.model_copy(update={"tool": "marker"})
    content = to_svg((LINE, marker), Size(210, 297), "mm")
    assert b'width="210.000mm"' in content
    assert from_svg(content) == (LINE, marker)


def test_plain_svg_of_straight_lines_is_read_too() -> None:
    content = b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M 1 2 L 3 4" stroke="#112233" stroke-width="2"/></svg>'
    (stroke,) = from_svg(content)
    assert (stroke.points, stroke.colour, stroke.width) == (((1.0, 2.0, 1.0), (3.0, 4.0, 1.0)), "#112233", 2.0)


@pytest.mark.parametrize(
    "content",
    [
        b"", b"nonsense", b"<html/>", b"<svg", b'<svg xmlns="http://www.w3.org/2000/svg"/>', b"<svg>" + b" " * 5_000_001,
        b'<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg"><title>&b;</title></svg>',
        b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M 1 2 C 3 4 5 6 7 8"/></svg>',
    ],
)  # fmt: skip
def test_what_holds_no_ink_is_refused_in_a_sentence(content: bytes) -> None:
    with pytest.raises(UnreadableInk, match=r"holds no ink .*\.$"):
        from_svg(content)
