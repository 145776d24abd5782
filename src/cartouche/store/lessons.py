"""Lessons. A deleted one is kept until the next start, so that deleting can be undone."""

import sqlite3

from pydantic import BaseModel, ConfigDict

from cartouche.store.database import Database
from cartouche.store.errors import NotKept


class Lesson(BaseModel):
    """starts: local wall time, HH:MM.  kit_id: None until it has one.  plate_id: the plate that was on last."""

    model_config = ConfigDict(frozen=True)
    id: str
    kit_id: str | None
    title: str
    class_name: str
    starts: str
    plate_id: str | None = None


_COLUMNS = "id, kit_id, title, class_name, starts, plate_id"


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
    values = (new.id, new.kit_id, new.title, new.class_name, new.starts, new.plate_id)
    database.write(lambda c: c.execute(f"INSERT INTO lesson ({_COLUMNS}) VALUES (?, ?, ?, ?, ?, ?)", values))


def rename_lesson(database: Database, lesson_id: str, title: str, class_name: str, starts: str) -> None:
    values = (title, class_name, starts, lesson_id)
    database.write(lambda c: c.execute("UPDATE lesson SET title = ?, class_name = ?, starts = ? WHERE id = ?", values))


def delete_lesson(database: Database, lesson_id: str) -> None:
    """It can be restored until `purge`."""
    database.write(lambda c: c.execute("UPDATE lesson SET deleted = 1 WHERE id = ?", (lesson_id,)))


def restore_lesson(database: Database, lesson_id: str) -> None:
    database.write(lambda c: c.execute("UPDATE lesson SET deleted = 0 WHERE id = ?", (lesson_id,)))


def purge(database: Database) -> None:
    """What was deleted is gone for good."""

    def work(c: sqlite3.Connection) -> None:
        c.execute("UPDATE lesson SET plates_id = NULL WHERE deleted")
        c.execute("DELETE FROM lesson WHERE deleted")

    database.write(work)


def put_plate_on(database: Database, lesson_id: str, plate_id: str) -> None:
    database.write(lambda c: c.execute("UPDATE lesson SET plate_id = ? WHERE id = ?", (plate_id, lesson_id)))


def use_kit(database: Database, lesson_id: str, kit_id: str | None) -> None:
    database.write(lambda c: c.execute("UPDATE lesson SET kit_id = ? WHERE id = ?", (kit_id, lesson_id)))


def change_kits(database: Database, before: str, after: str | None) -> None:
    """Every lesson that takes place with one kit takes place with the other from now on."""
    database.write(lambda c: c.execute("UPDATE lesson SET kit_id = ? WHERE kit_id = ?", (after, before)))
