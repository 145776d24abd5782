"""Kept sheets: what is known of each; their pictures lie in the data folder."""

import sqlite3
from collections.abc import Sequence
from pathlib import Path

from pydantic import BaseModel, ConfigDict

from cartouche.core.ink.strokes import Stroke, sheet_ground
from cartouche.store import ink
from cartouche.store.database import Database
from cartouche.store.errors import NotKept


class Sheet(BaseModel):
    """file: its name in the data folder's `sheets/`.  made_at: seconds since 1970.  width, height: px.  width_mm: None without a paper.
    by_itself: kept because its page was finished.  place: among the others.  words: what the teacher says of it.  away: put away, until it
    is put back or deleted for good.  read: what was read on it by itself, None before that.  heading: the page's own, '' where none is."""

    model_config = ConfigDict(frozen=True)
    id: str
    lesson_id: str
    name: str
    file: str
    made_at: float
    width: int
    height: int
    width_mm: float | None = None
    by_itself: bool = False
    place: float = 0.0
    words: str = ""
    away: bool = False
    read: str | None = None
    heading: str = ""


def folder(database: Database) -> Path:
    return database.path.parent / "sheets"


def sweep(database: Database) -> None:
    """Pictures of sheets whose lesson was deleted for good, or that never came whole, are gone."""
    with database.reading() as reader:
        known = {row["file"] for row in reader.execute("SELECT file FROM sheet")}
    for path in folder(database).glob("*.png"):
        if path.name.replace("-ink.png", ".png") not in known:
            path.unlink(missing_ok=True)


_COLUMNS = "id, lesson_id, name, file, made_at, width, height, width_mm, by_itself, place, words, away, read, heading"


def sheets(database: Database, lesson_id: str, *, away: bool = False) -> list[Sheet]:
    """In their order. away: those that were put away instead."""
    statement = f"SELECT {_COLUMNS} FROM sheet WHERE lesson_id = ? AND away = ? ORDER BY place, made_at, id"
    with database.reading() as reader:
        rows = reader.execute(statement, (lesson_id, int(away))).fetchall()
    return [Sheet(**dict(row)) for row in rows]


def sheet(database: Database, sheet_id: str) -> Sheet:
    """Raises NotKept."""
    with database.reading() as reader:
        row = reader.execute(f"SELECT {_COLUMNS} FROM sheet WHERE id = ?", (sheet_id,)).fetchone()
    if row is None:
        raise NotKept("sheet", sheet_id)
    return Sheet(**dict(row))


def unread(database: Database) -> Sheet | None:
    """The oldest that has not been read."""
    with database.reading() as reader:
        row = reader.execute(f"SELECT {_COLUMNS} FROM sheet WHERE read IS NULL AND away = 0 ORDER BY made_at, id LIMIT 1").fetchone()
    return None if row is None else Sheet(**dict(row))


def add(database: Database, new: Sheet) -> None:
    names = ", ".join(f":{name.strip()}" for name in _COLUMNS.split(","))
    values = {**new.model_dump(), "by_itself": int(new.by_itself), "away": int(new.away), "place": new.place or new.made_at}
    database.write(lambda c: c.execute(f"INSERT INTO sheet ({_COLUMNS}) VALUES ({names})", values))


def change(database: Database, sheet_id: str, **news: object) -> None:
    """Some of name, words, away, read, heading."""
    assert news.keys() <= {"name", "words", "away", "read", "heading"}
    sets = ", ".join(f"{name} = :{name}" for name in news)
    database.write(lambda c: c.execute(f"UPDATE sheet SET {sets} WHERE id = :id", {**news, "id": sheet_id}))


def move(database: Database, moved: Sheet, before: str) -> None:
    """To stand before that one, or at the end. Those that were put away keep their places among them."""

    def work(c: sqlite3.Connection) -> None:
        statement = "SELECT id FROM sheet WHERE lesson_id = ? AND id <> ? ORDER BY place, made_at, id"
        ids = [row[0] for row in c.execute(statement, (moved.lesson_id, moved.id))]
        ids.insert(ids.index(before) if before in ids else len(ids), moved.id)
        c.executemany("UPDATE sheet SET place = ? WHERE id = ?", list(enumerate(ids)))

    database.write(work)


def turn(database: Database, turned: Sheet, strokes: Sequence[Stroke]) -> None:
    """A quarter: its sides change places. turned: as it was.  strokes: its ink as it lies then. It is read again."""

    def work(c: sqlite3.Connection) -> None:
        statement = "UPDATE sheet SET width = ?, height = ?, width_mm = ?, read = NULL, heading = '' WHERE id = ?"
        width_mm = None if turned.width_mm is None else turned.width_mm * turned.height / turned.width
        c.execute(statement, (turned.height, turned.width, width_mm, turned.id))
        if strokes:
            ink.put(c, turned.lesson_id, sheet_ground(turned.id), strokes)

    database.write(work)


def forget(database: Database, sheet_id: str) -> None:
    """With the ink on it."""

    def work(c: sqlite3.Connection) -> None:
        c.execute("DELETE FROM sheet WHERE id = ?", (sheet_id,))
        c.execute("DELETE FROM ink WHERE ground = ?", (sheet_ground(sheet_id),))

    database.write(work)
    database.renew_copies()
