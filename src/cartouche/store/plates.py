"""The plates of a lesson, as one list: every settled list is kept, with undo and redo."""

import json
import sqlite3
from typing import NamedTuple

from pydantic import TypeAdapter, ValidationError

from cartouche.core.plates.model import Plate
from cartouche.store.database import Database
from cartouche.store.errors import NotKept

KEEP_REVISIONS = 200
_LIST = TypeAdapter(tuple[Plate, ...])
_CURRENT = """
SELECT plates,
       EXISTS (SELECT 1 FROM plates_revision p WHERE p.lesson_id = l.id AND p.id < l.plates_id) AS can_undo,
       EXISTS (SELECT 1 FROM plates_revision n WHERE n.lesson_id = l.id AND n.id > l.plates_id) AS can_redo
FROM lesson l LEFT JOIN plates_revision r ON r.id = l.plates_id
WHERE l.id = ?
"""
_STEPS = {
    "undo": "SELECT max(id) FROM plates_revision WHERE lesson_id = ? AND id < ?",
    "redo": "SELECT min(id) FROM plates_revision WHERE lesson_id = ? AND id > ?",
}


class KeptPlates(NamedTuple):
    plates: tuple[Plate, ...]
    can_undo: bool
    can_redo: bool


def current(database: Database, lesson_id: str) -> KeptPlates:
    with database.reading() as reader:
        row = reader.execute(_CURRENT, (lesson_id,)).fetchone()
    if row is None:
        raise NotKept("lesson", lesson_id)
    return KeptPlates(_read(row["plates"]) if row["plates"] else (), bool(row["can_undo"]), bool(row["can_redo"]))


def _read(text: str) -> tuple[Plate, ...]:
    """Those that this version can read: one that it cannot must not keep the lesson from opening."""
    try:
        return _LIST.validate_json(text)
    except ValidationError as exc:
        damaged = {error["loc"][0] for error in exc.errors() if error["loc"]}
        whole = [plate for at, plate in enumerate(json.loads(text)) if at not in damaged] if damaged else []
        return _LIST.validate_python(whole)


def settle(database: Database, lesson_id: str, plates: tuple[Plate, ...]) -> None:
    """Make these the lesson's plates; what had been undone is gone."""

    def work(c: sqlite3.Connection) -> None:
        at = _at(c, lesson_id)
        c.execute("DELETE FROM plates_revision WHERE lesson_id = ? AND id > ?", (lesson_id, at or 0))
        kept = _LIST.dump_json(plates).decode()
        revision_id = c.execute("INSERT INTO plates_revision (lesson_id, plates) VALUES (?, ?)", (lesson_id, kept)).lastrowid
        c.execute("UPDATE lesson SET plates_id = ? WHERE id = ?", (revision_id, lesson_id))
        c.execute(
            "DELETE FROM plates_revision WHERE lesson_id = ? AND id NOT IN"
            " (SELECT id FROM plates_revision WHERE lesson_id = ? ORDER BY id DESC LIMIT ?)",
            (lesson_id, lesson_id, KEEP_REVISIONS),
        )

    database.write(work)


def step(database: Database, lesson_id: str, way: str) -> None:
    """One settled list back ('undo') or forward ('redo'); at either end nothing happens."""

    def work(c: sqlite3.Connection) -> None:
        (to,) = c.execute(_STEPS[way], (lesson_id, _at(c, lesson_id))).fetchone()
        if to is not None:
            c.execute("UPDATE lesson SET plates_id = ? WHERE id = ?", (to, lesson_id))

    database.write(work)


def _at(c: sqlite3.Connection, lesson_id: str) -> int | None:
    row = c.execute("SELECT plates_id FROM lesson WHERE id = ?", (lesson_id,)).fetchone()
    if row is None:
        raise NotKept("lesson", lesson_id)
    return row[0]  # type: ignore[no-any-return]
