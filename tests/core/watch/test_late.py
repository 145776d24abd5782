"""A picture that is late for once is left out; one that is late like all others is not."""

from collections.abc import Iterable
from itertools import pairwise

import pytest

from cartouche.core.watch.late import MAX_SENT_AGE_S, MAX_WITHOUT_S, Lateness

FPS = 12


def dropped(ages: Iterable[float], fps: int = FPS) -> list[bool]:
    """ages: of pictures made one after the other, seconds."""
    lateness = Lateness()
    return [lateness.drops(number / fps, number / fps - age) for number, age in enumerate(ages)]


def test_one_that_is_late_for_once_is_left_out() -> None:
    assert dropped([*[0.07] * 20, 0.5, *[0.07] * 20]) == [*[False] * 20, True, *[False] * 20]


@pytest.mark.parametrize("fps", [4, 6, 12, 30])
def test_a_longer_stop_does_not_stop_the_picture(fps: int) -> None:
    left_out = dropped([*[0.07] * 2 * fps, *[0.3] * fps], fps)[2 * fps :]
    assert left_out[0]
    went_out = [-1, *(number for number, out in enumerate(left_out) if not out)]
    assert max(b - a for a, b in pairwise(went_out)) / fps <= max(2 / fps, MAX_WITHOUT_S + 1 / fps) + 1e-9


def test_the_one_that_was_being_made_while_nothing_ran_is_left_out() -> None:
    lateness = Lateness()
    assert not any(lateness.drops(number / FPS, number / FPS - 0.07) for number in range(20))
    assert lateness.drops(19 / FPS + 0.6, 19 / FPS)  # though nothing went out for longer than that
    assert not lateness.drops(19 / FPS + 0.65, 19 / FPS + 0.58)


def test_a_slow_computer_sends_what_it_has() -> None:
    assert not any(dropped([0.25] * 100))
    slower = dropped([*[0.07] * 100, *[0.25] * 100])
    assert not any(slower[100 + 2 * FPS :])


def test_a_held_page_goes_on_going_out() -> None:
    ages = [0.07] * 50 + [0.07 + number / FPS for number in range(100)]
    assert not any(dropped(ages)[50 + FPS * 3 :])
    assert sum(dropped(ages)) < 2 * FPS


def test_the_first_goes_out_however_old() -> None:
    assert dropped([3.0]) == [False]


def test_what_is_sent_may_be_as_old_as_the_way_allows() -> None:
    lateness = Lateness(MAX_SENT_AGE_S)
    ages = [*[0.07] * 20, 0.18, 0.195, 0.07]
    assert [lateness.drops(number / FPS, number / FPS - age) for number, age in enumerate(ages)][-3:] == [False, True, False]
