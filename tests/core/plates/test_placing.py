import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cartouche.core.pictures import Size
from cartouche.core.plates.model import Place
from cartouche.core.plates.placing import place_box, placing, shrink_level, stretch_over
from cartouche.core.straighten.chain import Chain, FrameLink, SquareLink
from cartouche.core.straighten.geometry import transform

OUT, FEED = Size(1280, 720), Size(640, 360)


def place(x: float = 0, y: float = 0, width: float = 1, height: float = 1, fit: str = "fit", rounding: float = 0) -> Place:
    rect = {"x": x, "y": y, "width": width, "height": height}
    return Place.model_validate({"content": {"kind": "role", "role": "page"}, "rect": rect, "fit": fit, "rounding": rounding})


PAGE = Chain(square=SquareLink(corners=((0.3, 0.1), (0.7, 0.1), (0.7, 0.9), (0.3, 0.9)), aspect=210 / 297, paper="A4"))


def test_fit_shows_all_of_it_with_margins() -> None:
    box = placing(place(), PAGE, FEED, OUT).box
    assert (box.y0, box.y1) == (0, 720)
    assert (box.x1 - box.x0) / 720 == pytest.approx(210 / 297, abs=0.004)
    assert abs((box.x0 + box.x1) / 2 - 640) <= 2


def test_fill_covers_the_place() -> None:
    laid = placing(place(0.5, 0.5, 0.25, 0.5, fit="fill"), Chain(), FEED, OUT)
    assert laid.box == place_box(place(0.5, 0.5, 0.25, 0.5), OUT)


@given(st.floats(1, 8), st.floats(0, 1), st.floats(0, 1), st.sampled_from(["fit", "fill"]))
@settings(max_examples=80)
def test_zooming_never_leaves_a_margin_that_could_be_covered(zoom: float, x: float, y: float, fit: str) -> None:
    chain = PAGE.model_copy(update={"frame": FrameLink(zoom=zoom, x=x, y=y)})
    laid = placing(place(fit=fit), chain, FEED, OUT)
    canvas = laid.straightened.canvas
    scale = laid.canvas_matrix[0, 0]
    assert laid.box.x1 - laid.box.x0 >= min(1280, canvas.width * scale) - 4
    assert laid.box.y1 - laid.box.y0 >= min(720, canvas.height * scale) - 4


def test_the_frame_is_dragged_to_where_it_was_asked() -> None:
    chain = Chain(frame=FrameLink(zoom=4, x=0.6, y=0.4))
    laid = placing(place(), chain, FEED, OUT)
    seen = transform(laid.matrix, np.array([[0.6 * 640, 0.4 * 360]]))
    assert np.allclose(seen, (640, 360), atol=4)


@given(st.floats(0, 0.6), st.floats(0, 0.6), st.floats(0.02, 0.4), st.floats(0.02, 0.4))
@settings(max_examples=60)
def test_boxes_lie_on_even_pixels_inside_the_picture(x: float, y: float, width: float, height: float) -> None:
    box = place_box(place(x, y, width, height), OUT)
    assert all(value % 2 == 0 for value in (box.x0, box.y0, box.x1, box.y1))
    assert 0 <= box.x0 <= box.x1 <= 1280
    assert 0 <= box.y0 <= box.y1 <= 720


def test_a_pre_shrunk_level_is_taken_when_samples_would_be_skipped() -> None:
    small = place(0, 0, 0.1, 0.1, fit="fill")
    for feed, level in ((Size(160, 90), 0), (Size(480, 270), 2), (Size(3840, 2160), 3)):
        laid = placing(small, Chain(), feed, OUT)
        assert shrink_level(laid.matrix, laid.box) == level


def test_stretch_tells_feed_and_outgoing_pixels_per_unit() -> None:
    feed_px, outgoing_px = stretch_over(placing(place(), Chain(frame=FrameLink(zoom=2)), FEED, OUT))
    assert np.allclose(feed_px, 1)
    assert np.allclose(outgoing_px, 4)
