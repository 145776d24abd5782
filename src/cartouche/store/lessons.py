"""Lessons."""

from pydantic import BaseModel, ConfigDict

from cartouche.store.database import Database
from cartouche.store.errors import NotKept


class Lesson(BaseModel):
    """starts: local wall time, HH:MM.  plate_id: the plate that was on last."""

    model_config = ConfigDict(frozen=True)
    id: str
    kit_id: str
    title: str
    class_name: str
    starts: str
    plate_id: str | None = None


_COLUMNS = "id, kit_id, title, class_name, starts, plate_id"


def lessons(database: Database) -> list[Lesson]:
    with database.reading() as reader:
        return [Lesson(**dict(row)) for row in reader.execute(f"SELECT {_COLUMNS} FROM lesson ORDER BY starts, id")]


def lesson(database: Database, lesson_id: str) -> Lesson:
    with database.reading() as reader:
        row = reader.execute(f"SELECT {_COLUMNS} FROM lesson WHERE id = ?", (lesson_id,)).fetchone()
    if row is None:
        raise NotKept("lesson", lesson_id)
    return Lesson(**dict(row))


def add_lesson(database: Database, new: Lesson) -> None:
    values = (new.id, new.kit_id, new.title, new.class_name, new.starts, new.plate_id)
    database.write(lambda c: c.execute(f"INSERT INTO lesson ({_COLUMNS}) VALUES (?, ?, ?, ?, ?, ?)", values))


def put_plate_on(database: Database, lesson_id: str, plate_id: str) -> None:
    database.write(lambda c: c.execute("UPDATE lesson SET plate_id = ? WHERE id = ?", (plate_id, lesson_id)))


def use_kit(database: Database, lesson_id: str, kit_id: str) -> None:
    database.write(lambda c: c.execute("UPDATE lesson SET kit_id = ? WHERE id = ?", (kit_id, lesson_id)))
