"""Timetables of several origins: recurrence, zones, changed and cancelled dates, folded lines, and broken files."""

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import icalendar
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cartouche.core.lessons.calendar import MAX_BYTES, BrokenCalendar, Timetable, read_calendar
from cartouche.core.lessons.timetable import Time

NOW = datetime(2026, 11, 28, 8, 0)
BERLIN = ZoneInfo("Europe/Berlin")
HEAD = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Larkmoor//Timetable//EN\r\n"
WEEKLY = (
    "BEGIN:VEVENT\r\nUID:1@larkmoor\r\nDTSTAMP:20261101T000000Z\r\nSUMMARY:9B Reading the ground\r\n"
    "DTSTART;TZID=Europe/Berlin:20261130T085500\r\nDTEND;TZID=Europe/Berlin:20261130T094000\r\n"
    "RRULE:FREQ=WEEKLY;COUNT=6\r\nEXDATE;TZID=Europe/Berlin:20261214T085500\r\nEND:VEVENT\r\n"
)
MOVED = (
    "BEGIN:VEVENT\r\nUID:1@larkmoor\r\nDTSTAMP:20261102T000000Z\r\nSUMMARY:9B Reading the ground\r\n"
    "RECURRENCE-ID;TZID=Europe/Berlin:20261207T085500\r\nDTSTART;TZID=Europe/Berlin:20261208T113000\r\n"
    "DTEND;TZID=Europe/Berlin:20261208T121500\r\nEND:VEVENT\r\n"
)
CANCELLED = (
    "BEGIN:VEVENT\r\nUID:1@larkmoor\r\nDTSTAMP:20261103T000000Z\r\nSUMMARY:9B Reading the ground\r\nSTATUS:CANCELLED\r\n"
    "RECURRENCE-ID;TZID=Europe/Berlin:20261221T085500\r\nDTSTART;TZID=Europe/Berlin:20261221T085500\r\n"
    "DTEND;TZID=Europe/Berlin:20261221T094000\r\nEND:VEVENT\r\n"
)


def read(text: str | bytes, zone: ZoneInfo = BERLIN) -> Timetable:
    return read_calendar(text.encode() if isinstance(text, str) else text, NOW, zone)


def calendar(*events: str) -> str:
    return HEAD + "".join(events) + "END:VCALENDAR\r\n"


def test_recurrence_with_a_moved_a_cancelled_and_a_left_out_date() -> None:
    (lesson,) = read(calendar(WEEKLY, MOVED, CANCELLED)).lessons
    assert (lesson.uid, lesson.title, lesson.class_name) == ("1@larkmoor", "Reading the ground", "9B")
    assert lesson.times == (
        Time(date(2026, 11, 30), "08:55", 45),
        Time(date(2026, 12, 8), "11:30", 45),
        Time(date(2026, 12, 28), "08:55", 45),
        Time(date(2027, 1, 4), "08:55", 45),
    )


def test_times_are_told_in_the_zone_of_this_computer_over_the_change_of_clocks() -> None:
    event = (
        WEEKLY.replace("20261130T", "20270322T").replace("COUNT=6", "COUNT=2").replace("EXDATE;TZID=Europe/Berlin:20261214T085500\r\n", "")
    )
    in_utc = read(calendar(event), ZoneInfo("UTC")).lessons[0].times
    assert [time.starts for time in in_utc] == ["07:55", "06:55"]
    assert [time.starts for time in read(calendar(event)).lessons[0].times] == ["08:55", "08:55"]


def test_a_zone_that_the_file_defines_itself() -> None:
    zone = (
        "BEGIN:VTIMEZONE\r\nTZID:School time\r\nBEGIN:STANDARD\r\nDTSTART:19700101T000000\r\nTZOFFSETFROM:+0200\r\nTZOFFSETTO:+0200\r\n"
        "END:STANDARD\r\nEND:VTIMEZONE\r\n"
    )
    text = calendar(zone, WEEKLY.replace("Europe/Berlin", "School time"))
    assert read(text).lessons[0].times[0].starts == "07:55"


def test_floating_and_utc_times_folded_lines_and_all_writing() -> None:
    event = (
        "BEGIN:VEVENT\r\nUID:2@larkmoor\r\nDTSTAMP:20261101T000000Z\r\nDTSTART:20261201T101500\r\nDURATION:PT1H30M\r\n"
        "SUMMARY:Höhenlinien\\, Täler – längere Beschrei\r\n bung im Gelände\r\nCATEGORIES:Klasse 8C,Erdkunde\r\nEND:VEVENT\r\n"
    )
    (lesson,) = read(calendar(event)).lessons
    assert lesson.title == "Höhenlinien, Täler – längere Beschreibung im Gelände"
    assert lesson.class_name == "Klasse 8C"
    assert lesson.times == (Time(date(2026, 12, 1), "10:15", 90),)
    folded = event.replace("\r\n bung", "\n bung").encode()
    assert read(b"\xef\xbb\xbf" + HEAD.encode() + folded + b"END:VCALENDAR\n").lessons[0].title == lesson.title


def test_whole_days_are_no_lessons_and_are_counted() -> None:
    holiday = "BEGIN:VEVENT\r\nUID:3\r\nDTSTAMP:20261101T000000Z\r\nSUMMARY:Holiday\r\nDTSTART;VALUE=DATE:20261224\r\nEND:VEVENT\r\n"
    found = read(calendar(WEEKLY, holiday))
    assert len(found.lessons) == 1
    assert found.left_out == 1


@pytest.mark.parametrize(("title", "named"), [("9B Maps", "9B"), ("Maps (Year 9)", "Year 9"), ("Maps 10a", "10a"), ("Map 1:25000", "")])
def test_the_class_stands_in_the_title(title: str, named: str) -> None:
    assert read(calendar(WEEKLY.replace("9B Reading the ground", title))).lessons[0].class_name == named


@given(st.lists(st.tuples(st.integers(0, 300), st.integers(0, 23), st.integers(5, 300), st.text(min_size=1, max_size=40)), max_size=8))
def test_what_another_library_wrote_comes_back(events: list[tuple[int, int, int, str]]) -> None:
    written = icalendar.Calendar()
    written.add("prodid", "-//Larkmoor//EN")
    written.add("version", "2.0")
    for number, (day, hour, minutes, title) in enumerate(events):
        event = icalendar.Event()
        start = datetime(2026, 12, 1, hour, 0) + timedelta(days=day)
        event.add("uid", f"{number}@larkmoor")
        event.add("summary", title)
        event.add("dtstamp", NOW)
        event.add("dtstart", start)
        event.add("dtend", start + timedelta(minutes=minutes))
        written.add_component(event)
    found = read(written.to_ical())
    times = {lesson.uid: lesson.times for lesson in found.lessons}
    for number, (day, hour, minutes, _) in enumerate(events):
        assert times[f"{number}@larkmoor"] == (Time(date(2026, 12, 1) + timedelta(days=day), f"{hour:02}:00", minutes),)


BROKEN = [
    ("", "empty", None),
    ("Dear all, the timetable is attached.\n", "does not begin as a calendar does", 1),
    (calendar(WEEKLY).replace("END:VCALENDAR\r\n", ""), "has no end", 1),
    (calendar(WEEKLY).replace("END:VEVENT\r\n", ""), "has no end", 4),
    (calendar(WEEKLY.replace("END:VEVENT", "END:VTODO")), "which was not begun", 12),
    (calendar(WEEKLY).replace("SUMMARY:9B", "???"), "belongs to no entry", 7),
]


@pytest.mark.parametrize(("text", "why", "line"), BROKEN)
def test_a_broken_file_gets_a_sentence_with_its_line(text: str, why: str, line: int | None) -> None:
    with pytest.raises(BrokenCalendar, match=why) as raised:
        read(text)
    assert str(raised.value).endswith(".")
    if line is not None:
        assert raised.value.line == line
        assert f"Line {line}:" in str(raised.value)


def test_an_entry_without_meaning_gives_no_lesson() -> None:
    assert not read(calendar(WEEKLY.replace("20261130T085500", "next Monday", 1))).lessons


def test_another_encoding_and_too_large_are_said() -> None:
    with pytest.raises(BrokenCalendar, match="Line 7: It is not in UTF-8"):
        read(calendar(WEEKLY).replace("Reading", "Höhen").encode("latin-1"))
    with pytest.raises(BrokenCalendar, match="larger than 5 MB"):
        read(b" " * (MAX_BYTES + 1))


@given(st.binary(max_size=400))
def test_whatever_comes_it_is_read_or_refused(content: bytes) -> None:
    for file in (content, HEAD.encode() + content, calendar(WEEKLY).encode()[: len(content) * 2] + content):
        try:
            read(file)
        except BrokenCalendar:
            continue
