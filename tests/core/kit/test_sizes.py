"""Sharp or quick, by what the page needs."""

import pytest

from cartouche.core.kit.sizes import Offered, choose, usual_sizes, width_for

LAZY_LARGE = [Offered(1280, 720, 30, 0.05), Offered(1920, 1080, 30, 0.4), Offered(3840, 2160, 12, 0.9)]
QUICK_ALL = [Offered(640, 360, 30, 0.03), Offered(1280, 720, 30, 0.03), Offered(1920, 1080, 30, 0.05)]
A4_ACROSS = 1 / 297 / 1.2  # an A4 sheet lying fills five sixths of the picture


def width(offered: list[Offered], wish: str, share: float | None = A4_ACROSS, print_pt: float = 10) -> int:
    found = choose(offered, wish, share, print_pt)  # type: ignore[arg-type]
    assert found is not None
    assert found.why
    return found.size.width


def test_sharp_is_the_largest_and_quick_the_largest_that_keeps_up() -> None:
    assert width(LAZY_LARGE, "sharp") == 3840
    assert width(LAZY_LARGE, "quick") == 1280
    assert width(QUICK_ALL, "quick") == 1280


def test_the_page_takes_what_its_print_needs() -> None:
    assert width_for(10, A4_ACROSS) == pytest.approx(1154, abs=5)
    assert width(QUICK_ALL, "auto", print_pt=10) == 1280
    assert width(QUICK_ALL, "auto", print_pt=7) == 1920
    assert width(QUICK_ALL, "auto", print_pt=24) == 640


def test_what_lags_is_taken_only_when_the_print_needs_it() -> None:
    assert width(LAZY_LARGE, "auto", print_pt=10) == 1280
    assert width(LAZY_LARGE, "auto", print_pt=7) == 1920


def test_when_nothing_reads_the_sharpest_comes_nearest() -> None:
    found = choose(LAZY_LARGE, "auto", A4_ACROSS, 3)
    assert found is not None
    assert found.size.width == 3840
    assert "nearest" in found.why


def test_without_a_page_it_is_quick() -> None:
    assert width(LAZY_LARGE, "auto", share=None) == 1280


def test_an_untried_size_may_be_tried() -> None:
    assert width([Offered(640, 360, 30, 0.02), Offered(1280, 720)], "quick") == 1280


def test_nothing_offered_is_no_choice() -> None:
    assert choose([], "auto", None, 10) is None


def test_the_usual_sizes_end_at_the_largest() -> None:
    assert usual_sizes((1920, 1080)) == [(640, 480), (1280, 720), (1920, 1080)]
    assert usual_sizes((320, 240)) == [(320, 240)]


def test_a_slow_computer_is_not_taken_for_a_slow_size() -> None:
    busy = [Offered(852, 480, 9, 0.1), Offered(1280, 720, 8, 0.12)]
    assert width(busy, "auto", share=None) == 1280
    assert width(busy, "quick") == 1280


def test_a_size_that_lags_where_a_smaller_one_does_not_is_left_for_it() -> None:
    wireless = [Offered(640, 480, 29, 0.1), Offered(1280, 720, 12, 0.4)]
    assert width(wireless, "quick") == 640
