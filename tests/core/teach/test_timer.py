"""The timer: exact over an hour, paused, lengthened, ended."""

import pytest

from cartouche.core.teach.timer import FLASHES_S, LONGEST_S, Timer


def test_it_reads_right_every_tenth_of_a_second_for_an_hour() -> None:
    timer = Timer(total_s=3600).pressed(1000.0)
    for tenth in range(36001):
        left = timer.left_s(1000.0 + tenth / 10)
        assert left == pytest.approx(3600 - tenth / 10, abs=1e-6)
    assert timer.reads(1000.0) == "1:00:00"
    assert timer.reads(1000.1) == "1:00:00"  # a begun second counts as whole
    assert timer.reads(1001.0) == "59:59"
    assert timer.reads(4600.0) == "0:00"


def test_pauses_do_not_count() -> None:
    timer = Timer(total_s=60).pressed(10.0).pressed(25.0)
    assert not timer.runs
    assert timer.left_s(500.0) == 45.0
    assert timer.pressed(600.0).left_s(605.0) == 40.0


def test_one_minute_more_while_it_runs_stands_or_has_ended() -> None:
    running = Timer(total_s=60).pressed(0.0)
    assert running.minute_more(30.0).left_s(30.0) == 90.0
    assert Timer(total_s=60).minute_more(0.0).left_s(0.0) == 120.0
    ended = running.minute_more(75.0)
    assert not ended.ended(80.0)
    assert Timer(total_s=LONGEST_S).minute_more(0.0).total_s == LONGEST_S
    after = running.minute_more(200.0)
    assert after.left_s(200.0) == 60.0


def test_up_it_counts_on_and_never_ends() -> None:
    timer = Timer(way="up", total_s=0).pressed(5.0)
    assert (timer.reads(5.0), timer.reads(5.999), timer.reads(66.0), timer.ended(9999.0)) == ("0:00", "0:00", "1:01", False)
    assert timer.minute_more(7.0) == timer


def test_its_end_is_shown_and_the_next_press_sets_it_back() -> None:
    timer = Timer(total_s=10).pressed(0.0)
    assert not timer.flashes(9.9)
    assert timer.flashes(10.0)
    assert not timer.flashes(10.0 + FLASHES_S)
    again = timer.pressed(30.0)
    assert not again.runs
    assert again.reads(40.0) == "0:10"


def test_a_clock_that_went_back_counts_nothing() -> None:
    assert Timer(total_s=10).pressed(100.0).left_s(90.0) == 10.0
