"""When lessons take place: any day, on one date, weekly, or at the times of a calendar. Local wall time throughout."""

from collections.abc import Iterable, Sequence
from datetime import date, datetime, timedelta
from typing import NamedTuple

OPENS_BEFORE = timedelta(minutes=15)
WEEK = timedelta(days=7)


class Time(NamedTuple):
    """One date of a calendar. starts: HH:MM."""

    day: date
    starts: str
    minutes: int


class Planned(NamedTuple):
    """starts, minutes: of a lesson by hand.  day: its date or, weekly, its first; None for any day.  times: from a calendar, instead."""

    id: str
    starts: str
    minutes: int
    day: date | None = None
    weekly: bool = False
    times: tuple[Time, ...] = ()

    @property
    def is_dated(self) -> bool:
        """Only then does it stand open by itself."""
        return self.day is not None or bool(self.times)

    def on(self, day: date) -> list[Time]:
        """Its times on that day."""
        if self.times:
            return sorted(time for time in self.times if time.day == day)
        if self.day is None or self.day == day or (self.weekly and day > self.day and (day - self.day) % WEEK == timedelta(0)):
            return [Time(day, self.starts, self.minutes)]
        return []

    def next_day(self, after: date, within: int = 400) -> date | None:
        """The first day on which it takes place, from `after` on; None where there is none within so many days."""
        if self.times:
            return min((time.day for time in self.times if time.day >= after), default=None)
        if self.day is None or self.day >= after:
            return self.day or after
        if not self.weekly:
            return None
        weeks = -(-(after - self.day) // WEEK)
        found = self.day + weeks * WEEK
        return found if (found - after).days <= within else None


class Due(NamedTuple):
    """A lesson on a day. begins, ends: local."""

    id: str
    begins: datetime
    ends: datetime


def begins(time: Time) -> datetime:
    hour, minute = (int(part) for part in time.starts.split(":"))
    return datetime(time.day.year, time.day.month, time.day.day, hour, minute)


def on_day(lessons: Iterable[Planned], day: date) -> list[Due]:
    """All that take place on a day, in order; one that does twice is there twice."""
    found = [Due(lesson.id, begins(time), begins(time) + timedelta(minutes=time.minutes)) for lesson in lessons for time in lesson.on(day)]
    return sorted(found, key=lambda due: (due.begins, due.id))


def stands_open(lessons: Sequence[Planned], now: datetime) -> Due | None:
    """The lesson that should be open now: the newest one with a date that begins within a quarter of an hour or has not ended."""
    dated = [lesson for lesson in lessons if lesson.is_dated]
    due = [one for one in on_day(dated, now.date()) if one.begins - OPENS_BEFORE <= now < one.ends]
    return due[-1] if due else None


def minutes_until(starts: str, now: datetime) -> float:
    """From now until HH:MM of the same day, in minutes; negative once it has begun."""
    return (begins(Time(now.date(), starts, 0)) - now).total_seconds() / 60
