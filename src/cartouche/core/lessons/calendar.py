"""A timetable from iCalendar (RFC 5545): each event is a lesson, with every date that its recurrence gives, local wall time."""

import re
from collections import defaultdict
from datetime import date, datetime, timedelta
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

import icalendar
import recurring_ical_events

from cartouche.core.errors import CartoucheError
from cartouche.core.lessons.timetable import Time

MAX_BYTES = 5_000_000
MAX_LESSONS, MAX_TIMES = 400, 20_000
BACK, AHEAD = timedelta(days=14), timedelta(days=400)
LONGEST_MIN = 24 * 60
LONGEST_NAME = 60
_LINE = re.compile(r"^(?:[A-Za-z0-9-]+(?:[;:]|$))")
_BREAK = re.compile(r"\r\n|\n|\r")  # no other sign ends a line
_CLASS = re.compile(r"(?<![\w.])((?:\d{1,2}\s?[A-Za-z]{1,2})|(?:(?:Year|Class|Grade)\s\d{1,2}\w?))(?![\w.])")


class BrokenCalendar(CartoucheError, ValueError):
    """line: the first that cannot be read, from 1; None where it is not one line's."""

    sentence = "This calendar cannot be read. {where}{why}."

    def __init__(self, why: str, line: int | None = None) -> None:
        self.line, self.why = line, why
        self.where = f"Line {line}: " if line else ""
        super().__init__(why, line)


class CalendarLesson(NamedTuple):
    """uid: the event's own, the same in a newer file.  class_name: '' where nothing names it."""

    uid: str
    title: str
    class_name: str
    times: tuple[Time, ...]


class Timetable(NamedTuple):
    """left_out: how many events were no lessons: whole days, or none within the dates that are looked at."""

    lessons: tuple[CalendarLesson, ...]
    left_out: int


def read_calendar(content: bytes, now: datetime, zone: ZoneInfo) -> Timetable:
    """now: local.  zone: of this computer, for times that name another. Raises BrokenCalendar."""
    if len(content) > MAX_BYTES:
        raise BrokenCalendar(f"It is larger than {MAX_BYTES // 1_000_000} MB. Export fewer months")
    text = _text(content)
    _check_lines(text)
    try:
        calendar = icalendar.Calendar.from_ical(text)
        found = recurring_ical_events.of(calendar, skip_bad_series=True).between(now - BACK, now + AHEAD)
    except (ValueError, KeyError, TypeError, AttributeError, IndexError, OverflowError) as exc:
        raise BrokenCalendar(_reason(exc)) from exc
    return _timetable(found, sum(1 for _ in calendar.walk("VEVENT")), zone)  # type: ignore[union-attr]


def _text(content: bytes) -> str:
    try:
        return content.removeprefix(b"\xef\xbb\xbf").decode("utf-8")
    except UnicodeDecodeError as exc:
        raise BrokenCalendar("It is not in UTF-8. Export it once more as iCalendar", content.count(b"\n", 0, exc.start) + 1) from exc


def _check_lines(text: str) -> None:
    """Where the file breaks off or is no calendar at all, said with its line."""
    opened: list[tuple[str, int]] = []
    for number, line in enumerate(_BREAK.split(text), 1):
        if not line.strip() or line[0] in " \t":  # a folded line goes on
            continue
        if number == 1 and line.strip().upper() != "BEGIN:VCALENDAR":
            raise BrokenCalendar("It does not begin as a calendar does. Choose a file that ends in .ics", 1)
        if not _LINE.match(line):
            raise BrokenCalendar("What stands there belongs to no entry", number)
        name, _, value = line.partition(":")
        if name.upper() == "BEGIN":
            opened.append((value.strip().upper(), number))
        elif name.upper() == "END":
            ended = value.strip().upper()
            if opened and opened[-1][0] != ended and any(name == ended for name, _ in opened):
                break  # what stands within it was not ended
            if not opened or opened[-1][0] != ended:
                raise BrokenCalendar(f"It ends {ended[:40]}, which was not begun", number)
            opened.pop()
    if opened:
        raise BrokenCalendar(f"What begins there ({opened[-1][0][:40]}) has no end: the file breaks off", opened[-1][1])
    if not text.strip():
        raise BrokenCalendar("It is empty")


def _reason(exc: Exception) -> str:
    return f"One of its entries has no meaning ({str(exc)[:80].rstrip('.')})" if str(exc) else "One of its entries has no meaning"


def _timetable(found: list[Any], events: int, zone: ZoneInfo) -> Timetable:
    times: dict[str, list[Time]] = defaultdict(list)
    names: dict[str, tuple[str, str]] = {}
    count = 0
    for event in found:
        uid = str(event.get("UID", ""))[:200] or str(event.get("SUMMARY", ""))[:200]
        time = _time(event, zone)
        if time is None or str(event.get("STATUS", "")).upper() == "CANCELLED":
            continue
        count += 1
        if count > MAX_TIMES or len(times) > MAX_LESSONS:
            raise BrokenCalendar("It holds more dates than a school year. Export fewer months")
        times[uid].append(time)
        names.setdefault(uid, _names(event))
    lessons = tuple(CalendarLesson(uid, *names[uid], tuple(sorted(set(its)))) for uid, its in times.items())
    return Timetable(lessons, max(0, events - len(lessons)))


def _time(event: Any, zone: ZoneInfo) -> Time | None:
    """None for a whole day."""
    start = event["DTSTART"].dt
    if not isinstance(start, datetime):
        return None
    end = event["DTEND"].dt if "DTEND" in event else start
    local = start.astimezone(zone).replace(tzinfo=None) if start.tzinfo is not None else start
    minutes = (
        round((end - start).total_seconds() / 60) if isinstance(end, datetime) and (end.tzinfo is None) == (start.tzinfo is None) else 0
    )
    return Time(date(local.year, local.month, local.day), local.strftime("%H:%M"), min(max(minutes, 0), LONGEST_MIN) or 45)


def _names(event: Any) -> tuple[str, str]:
    """Title and class: a class is named in the title itself or in the categories."""
    title = _clean(str(event.get("SUMMARY", ""))) or "Lesson"
    named = _CLASS.search(title)
    if named:
        left = _clean((title[: named.start()] + " " + title[named.end() :]).strip(" -–·,:()/"))
        return (left or title)[:LONGEST_NAME], _clean(named.group(1))[:LONGEST_NAME]
    categories = event.get("CATEGORIES")
    cats = getattr(categories, "cats", None)
    return title[:LONGEST_NAME], _clean(str(cats[0]))[:LONGEST_NAME] if cats else ""


def _clean(text: str) -> str:
    return " ".join("".join(sign if sign.isprintable() else " " for sign in text).split())
