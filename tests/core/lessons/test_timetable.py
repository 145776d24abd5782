"""When a lesson takes place, and which one stands open."""

from datetime import date, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cartouche.core.lessons.timetable import Planned, Time, begins, minutes_until, on_day, stands_open

MONDAY = date(2026, 11, 30)
ANY = Planned("any", "08:55", 45)
ONCE = Planned("once", "10:40", 45, MONDAY)
WEEKLY = Planned("weekly", "13:15", 90, MONDAY, weekly=True)
CALENDAR = Planned(
    "calendar", "00:00", 0, times=(Time(MONDAY, "11:30", 45), Time(MONDAY, "08:00", 45), Time(date(2026, 12, 2), "08:00", 45))
)


def test_a_day_holds_what_takes_place_on_it_in_order() -> None:
    due = on_day([ANY, ONCE, WEEKLY, CALENDAR], MONDAY)
    assert [(one.id, f"{one.begins:%H:%M}", f"{one.ends:%H:%M}") for one in due] == [
        ("calendar", "08:00", "08:45"),
        ("any", "08:55", "09:40"),
        ("once", "10:40", "11:25"),
        ("calendar", "11:30", "12:15"),
        ("weekly", "13:15", "14:45"),
    ]
    assert [one.id for one in on_day([ANY, ONCE, WEEKLY, CALENDAR], MONDAY + timedelta(days=1))] == ["any"]
    assert [one.id for one in on_day([ONCE, WEEKLY], MONDAY + timedelta(days=7))] == ["weekly"]
    assert on_day([WEEKLY], MONDAY - timedelta(days=7)) == []


@given(st.integers(-400, 400), st.integers(0, 800))
def test_the_next_day_is_one_on_which_it_takes_place_and_none_lies_before_it(first: int, after: int) -> None:
    lesson = Planned("weekly", "09:00", 45, MONDAY + timedelta(days=first), weekly=True)
    looked = MONDAY + timedelta(days=after)
    found = lesson.next_day(looked)
    assert found is not None
    assert found >= looked
    assert lesson.on(found)
    assert not any(lesson.on(looked + timedelta(days=day)) for day in range((found - looked).days))


def test_what_is_over_has_no_next_day() -> None:
    late = MONDAY + timedelta(days=30)
    assert ONCE.next_day(late) is None
    assert CALENDAR.next_day(late) is None
    assert CALENDAR.next_day(MONDAY + timedelta(days=1)) == date(2026, 12, 2)
    assert ANY.next_day(late) == late


@pytest.mark.parametrize(
    ("now", "opened"),
    [
        ("10:24", None),
        ("10:25", "once"),  # a quarter of an hour before
        ("11:20", "calendar"),  # the newer one, though the other has not ended
        ("12:14", "calendar"),
        ("12:16", None),
        ("13:01", "weekly"),
    ],
)
def test_the_one_that_is_due_stands_open(now: str, opened: str | None) -> None:
    due = stands_open([ANY, ONCE, WEEKLY, CALENDAR], begins(Time(MONDAY, now, 0)))
    assert (due.id if due else None) == opened


def test_a_lesson_for_any_day_never_opens_by_itself() -> None:
    assert stands_open([ANY], datetime(2026, 11, 30, 9, 0)) is None


def test_minutes_until() -> None:
    assert minutes_until("09:30", datetime(2026, 11, 30, 9, 0)) == 30
    assert minutes_until("08:30", datetime(2026, 11, 30, 9, 0)) == -30
