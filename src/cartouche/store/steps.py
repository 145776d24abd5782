"""Steps of lessons, in order."""

import sqlite3
from collections.abc import Sequence

from pydantic import ValidationError

from cartouche.core.teach.steps import Step
from cartouche.store.database import Database


def steps(database: Database, lesson_id: str) -> tuple[Step, ...]:
    with database.reading() as reader:
        rows = reader.execute("SELECT step FROM step WHERE lesson_id = ? ORDER BY place", (lesson_id,)).fetchall()
    found = []
    for row in rows:
        try:
            found.append(Step.model_validate_json(row["step"]))
        except ValidationError:  # of a version that nobody knows any more: the others stay
            continue
    return tuple(found)


def settle(database: Database, lesson_id: str, kept: Sequence[Step]) -> None:
    """These are the lesson's steps from now on."""

    def work(c: sqlite3.Connection) -> None:
        c.execute("DELETE FROM step WHERE lesson_id = ?", (lesson_id,))
        rows = [(step.id, lesson_id, place, step.model_dump_json()) for place, step in enumerate(kept)]
        c.executemany("INSERT INTO step (id, lesson_id, place, step) VALUES (?, ?, ?, ?)", rows)

    database.write(work)
