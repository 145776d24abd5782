"""Hold by itself: no half page goes out, writing holds nothing. Over sixty changes of sheet: benchmarks/hold.py."""

from itertools import islice

import numpy as np
import pytest

from benchmarks.follower import Case, _clockwise
from benchmarks.hold import change, run, writing
from cartouche.core.teach.hold import LIES_STILL_S, AutoHold, Lies, lies

ALL, NONE = (True,) * 4, (False,) * 4


@pytest.mark.parametrize("number", [0, 3])
def test_a_changed_sheet_is_held_and_the_new_one_shown_within_a_second(number: int) -> None:
    case = Case(number)
    told = run(change(case, number), _clockwise(case.still()[1]))
    assert told.half == 0
    assert told.holds == 1
    assert told.shows_s is not None
    assert told.shows_s < 1.0


def test_a_writing_hand_holds_nothing() -> None:
    case = Case(2)
    assert run(islice(writing(case), 36), _clockwise(case.still()[1])).holds == 0


def test_sides_that_face_each_other_are_not_enough() -> None:
    """Of a page that is drawn off to one side, upper and lower edge still run where they did."""
    assert not Lies((True, False, True, False), NONE).calm
    assert Lies((True, True, False, False), NONE).calm
    assert Lies((True, False, False, True), NONE).calm
    assert not Lies((True, True, True, False), (False, False, False, True)).calm


def test_where_sides_lie_is_seen_in_the_picture() -> None:
    case = Case(1)
    frame, corners = case.still()
    assert lies(frame.y, _clockwise(corners)).in_place == ALL
    there = lies(frame.y, _clockwise(corners) + np.array([9.0, 0.0]))
    assert sum(there.moved) >= 1
    assert not there.calm
    assert lies(np.full_like(frame.y, 90), corners).in_place == NONE


def test_it_is_shown_again_once_it_has_lain_still() -> None:
    auto, there, gone = AutoHold(), Lies(ALL, NONE), Lies(NONE, NONE)
    assert auto.see(there, 0.0)
    assert not auto.see(gone, 0.1)
    assert auto.held_since_s == 0.1
    assert not auto.see(there, 0.2)
    assert not auto.see(gone, 0.3)  # it was not still yet
    assert not auto.see(there, 0.4)
    assert not auto.see(there, 0.4 + 0.9 * LIES_STILL_S)
    assert auto.see(there, 0.4 + LIES_STILL_S)
    assert auto.held_since_s is None
