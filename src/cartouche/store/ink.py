"""Strokes of a lesson, by the page or sheet that they are on."""

import sqlite3
from collections.abc import Sequence

from pydantic import TypeAdapter, ValidationError

from cartouche.core.ink.strokes import Stroke
from cartouche.store.database import Database

_STROKES = TypeAdapter(tuple[Stroke, ...])


def inks(database: Database, lesson_id: str) -> dict[str, tuple[Stroke, ...]]:
    with database.reading() as reader:
        rows = reader.execute("SELECT ground, strokes FROM ink WHERE lesson_id = ?", (lesson_id,)).fetchall()
    found = {}
    for row in rows:
        try:
            found[row["ground"]] = _STROKES.validate_json(row["strokes"])
        except ValidationError:  # of a version that nobody knows any more: the page comes without
            continue
    return found


def keep(database: Database, lesson_id: str, ground: str, strokes: Sequence[Stroke]) -> None:
    database.write(lambda c: put(c, lesson_id, ground, strokes))


def put(c: sqlite3.Connection, lesson_id: str, ground: str, strokes: Sequence[Stroke]) -> None:
    """As a part of a larger change."""
    statement = """INSERT INTO ink (lesson_id, ground, strokes) VALUES (?, ?, ?)
        ON CONFLICT (lesson_id, ground) DO UPDATE SET strokes = excluded.strokes"""
    c.execute(statement, (lesson_id, ground, _STROKES.dump_json(tuple(strokes)).decode()))
