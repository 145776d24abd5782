import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cartouche.core.call.audience import AUDIENCES, LAYERS
from cartouche.core.pictures import Size
from cartouche.core.reading.legibility import SAMPLED_PX, Print, points_for_x_height, smallest_print

OUT = Size(1280, 720)
PINNED, GRID, PHONE, _ = AUDIENCES


def reads(audience, feed: float = 20.0, outgoing: float = 6.0) -> Print:  # type: ignore[no-untyped-def]
    return smallest_print(np.array([feed]), np.array([outgoing]), OUT, audience)


def test_points_and_x_heights() -> None:
    """Twelve points are 4.23 mm of type, half of that its x-height."""
    assert points_for_x_height(4.2333 / 2) == pytest.approx(12, rel=1e-3)


def test_a_coarse_camera_sets_the_limit_and_the_number_follows_from_it() -> None:
    found = reads(PINNED, feed=1.0, outgoing=60.0)
    assert found.limit == "camera"
    assert found.points == pytest.approx(points_for_x_height(SAMPLED_PX), rel=0.01)


def test_what_two_stages_blur_adds_up_as_variances() -> None:
    """As sharp in the call as in the camera: root two of what either alone would need, and a little for the resizing."""
    found = smallest_print(np.array([2.0]), np.array([2.0]), OUT, PINNED.model_copy(update={"distance_mm": 1.0}))
    assert found.points == pytest.approx(points_for_x_height(2**0.5 * SAMPLED_PX / 2), rel=0.15)
    assert found.points > points_for_x_height(2**0.5 * SAMPLED_PX / 2)


def test_a_small_tile_sets_the_limit() -> None:
    assert reads(GRID).limit in ("tile", "eye")
    assert reads(GRID).points > 2 * reads(PINNED).points


def test_a_far_eye_sets_the_limit() -> None:
    far = PINNED.model_copy(update={"distance_mm": 3000})
    assert reads(far).limit == "eye"
    assert reads(far).points > reads(PINNED).points


def test_the_worst_spot_of_the_page_decides() -> None:
    spots = smallest_print(np.array([9.0, 1.5, 9.0]), np.array([6.0, 6.0, 6.0]), OUT, PINNED)
    assert spots.points == pytest.approx(reads(PINNED, feed=1.5).points)


@given(st.floats(0.5, 20), st.floats(0.5, 20), st.floats(1.01, 4))
@settings(max_examples=60)
def test_more_detail_never_reads_worse(feed: float, outgoing: float, more: float) -> None:
    for audience in (PINNED, GRID, PHONE):
        assert reads(audience, feed * more, outgoing).points <= reads(audience, feed, outgoing).points + 1e-9
        assert reads(audience, feed, outgoing * more).points <= reads(audience, feed, outgoing).points + 1e-9


@pytest.mark.parametrize(("points", "whole"), [(11.97, 12), (12.04, 12), (12.06, 13), (7.0, 7)])
def test_whole_points_never_promise_too_much(points: float, whole: int) -> None:
    assert Print(points, "camera").whole_points == whole


@pytest.mark.parametrize("spots", [np.array([]), np.array([0.0]), np.array([-1.0, 4.0])])
def test_no_spot_and_no_detail_are_misuse(spots: np.ndarray) -> None:
    with pytest.raises(ValueError, match="pixels per millimetre"):
        smallest_print(spots, spots, OUT, PINNED)


def test_a_call_sends_only_its_own_layers() -> None:
    assert all(audience.layer in LAYERS for audience in AUDIENCES)
