"""Lessons. A deleted one is kept until the next start, so that deleting can be undone."""

import sqlite3
from collections.abc import Sequence
from datetime import date

from pydantic import BaseModel, ConfigDict

from cartouche.core.lessons.timetable import Time
from cartouche.store.database import Database
from cartouche.store.errors import NotKept


class Lesson(BaseModel):
    """starts: local wall time, HH:MM.  kit_id: None until it has one.  plate_id: the plate that was on last.

    day: its date, or the first where it is weekly; None for any day.  minutes: its length.  calendar_uid: of the calendar's event that it
    came from; its dates then stand in `times_of`.
    """

    model_config = ConfigDict(frozen=True)
    id: str
    kit_id: str | None
    title: str
    class_name: str
    starts: str
    plate_id: str | None = None
    day: date | None = None
    weekly: bool = False
    minutes: int = 45
    calendar_uid: str | None = None


_COLUMNS = "id, kit_id, title, class_name, starts, plate_id, day, weekly, minutes, calendar_uid"


def lessons(database: Database) -> list[Lesson]:
    with database.reading() as reader:
        rows = reader.execute(f"SELECT {_COLUMNS} FROM lesson WHERE NOT deleted ORDER BY starts, id").fetchall()
    return [Lesson(**dict(row)) for row in rows]


def lesson(database: Database, lesson_id: str) -> Lesson:
    """Raises NotKept."""
    with database.reading() as reader:
        row = reader.execute(f"SELECT {_COLUMNS} FROM lesson WHERE id = ? AND NOT deleted", (lesson_id,)).fetchone()
    if row is None:
        raise NotKept("lesson", lesson_id)
    return Lesson(**dict(row))


def add_lesson(database: Database, new: Lesson) -> None:
    database.write(lambda c: _insert(c, new))


def _insert(c: sqlite3.Connection, new: Lesson) -> None:
    names = [name.strip() for name in _COLUMNS.split(",")]
    c.execute(f"INSERT INTO lesson ({_COLUMNS}) VALUES ({', '.join(f':{name}' for name in names)})", _values(new))


def _values(lesson: Lesson) -> dict[str, object]:
    return {**lesson.model_dump(), "day": lesson.day.isoformat() if lesson.day else None, "weekly": int(lesson.weekly)}


def change_lesson(database: Database, changed: Lesson) -> None:
    """Its title, class and times; kit and plates stay."""
    statement = """UPDATE lesson SET title = :title, class_name = :class_name, starts = :starts, day = :day, weekly = :weekly,
        minutes = :minutes WHERE id = :id"""
    database.write(lambda c: c.execute(statement, _values(changed)))


def by_calendar(database: Database) -> dict[str, Lesson]:
    """Lessons that came from a calendar, deleted ones too, by the event's uid."""
    with database.reading() as reader:
        rows = reader.execute(f"SELECT {_COLUMNS} FROM lesson WHERE calendar_uid IS NOT NULL").fetchall()
    return {row["calendar_uid"]: Lesson(**dict(row)) for row in rows}


def times_of(database: Database) -> dict[str, tuple[Time, ...]]:
    """The dates of every lesson that came from a calendar, by lesson."""
    with database.reading() as reader:
        rows = reader.execute("SELECT lesson_id, day, starts, minutes FROM lesson_time ORDER BY day, starts").fetchall()
    found: dict[str, tuple[Time, ...]] = {}
    for row in rows:
        found[row["lesson_id"]] = (*found.get(row["lesson_id"], ()), Time(date.fromisoformat(row["day"]), row["starts"], row["minutes"]))
    return found


def keep_calendar(database: Database, kept: Sequence[tuple[Lesson, bool, Sequence[Time]]]) -> None:
    """All of a calendar's lessons or, where anything fails, none: (lesson, whether it is new, its dates)."""

    def work(c: sqlite3.Connection) -> None:
        for lesson, is_new, times in kept:
            if is_new:
                _insert(c, lesson)
            else:
                c.execute("UPDATE lesson SET title = :title, class_name = :class_name, deleted = 0 WHERE id = :id", _values(lesson))
                c.execute("DELETE FROM lesson_time WHERE lesson_id = ?", (lesson.id,))
            rows = [(lesson.id, time.day.isoformat(), time.starts, time.minutes) for time in times]
            c.executemany("INSERT OR IGNORE INTO lesson_time (lesson_id, day, starts, minutes) VALUES (?, ?, ?, ?)", rows)

    database.write(work)


def delete_lesson(database: Database, lesson_id: str) -> None:
    """It can be restored until `purge`."""
    database.write(lambda c: c.execute("UPDATE lesson SET deleted = 1 WHERE id = ?", (lesson_id,)))


def restore_lesson(database: Database, lesson_id: str) -> None:
    database.write(lambda c: c.execute("UPDATE lesson SET deleted = 0 WHERE id = ?", (lesson_id,)))


def purge(database: Database) -> None:
    """What was deleted is gone for good."""

    def work(c: sqlite3.Connection) -> int:
        c.execute("UPDATE lesson SET plates_id = NULL WHERE deleted")
        return c.execute("DELETE FROM lesson WHERE deleted").rowcount

    if database.write(work):
        database.renew_copies()


def put_plate_on(database: Database, lesson_id: str, plate_id: str) -> None:
    statement = "UPDATE lesson SET plate_id = ? WHERE id = ?"
    database.keep(f"plate:{lesson_id}", lambda c: c.execute(statement, (plate_id, lesson_id)))


def use_kit(database: Database, lesson_id: str, kit_id: str | None) -> None:
    database.write(lambda c: c.execute("UPDATE lesson SET kit_id = ? WHERE id = ?", (kit_id, lesson_id)))


def change_kits(database: Database, before: str, after: str | None) -> None:
    """Every lesson that takes place with one kit takes place with the other from now on."""
    database.write(lambda c: c.execute("UPDATE lesson SET kit_id = ? WHERE kit_id = ?", (after, before)))
