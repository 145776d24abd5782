"""Pages that lay under a camera in a lesson, each with a small picture by which it is known again."""

import sqlite3
from typing import NamedTuple

from cartouche.store.database import Database


class SeenPage(NamedTuple):
    """thumb: as it was kept, None while nobody has looked.  here: it lies there now."""

    ground: str
    device_id: str
    thumb: bytes | None
    here: bool


def pages(database: Database, lesson_id: str) -> list[SeenPage]:
    """In the order in which they came."""
    with database.reading() as reader:
        rows = reader.execute(
            "SELECT ground, device_id, thumb, here FROM page_seen WHERE lesson_id = ? ORDER BY rowid", (lesson_id,)
        ).fetchall()
    return [SeenPage(row["ground"], row["device_id"], row["thumb"], bool(row["here"])) for row in rows]


def keep(database: Database, lesson_id: str, seen: SeenPage) -> None:
    """This one lies there now, if `here`; no other of its device does then."""

    def work(c: sqlite3.Connection) -> None:
        if seen.here:
            c.execute("UPDATE page_seen SET here = 0 WHERE lesson_id = ? AND device_id = ?", (lesson_id, seen.device_id))
        c.execute(
            "INSERT INTO page_seen (lesson_id, ground, device_id, thumb, here) VALUES (?, ?, ?, ?, ?)"
            " ON CONFLICT (lesson_id, ground) DO UPDATE SET thumb = coalesce(excluded.thumb, thumb), here = excluded.here",
            (lesson_id, seen.ground, seen.device_id, seen.thumb, int(seen.here)),
        )

    database.write(work)
