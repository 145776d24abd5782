"""Pages tried beforehand: what each audience would read, one for a lesson."""

from cartouche.store.database import Database


def trial(database: Database, lesson_id: str) -> str | None:
    """As it was kept, JSON; None where no page was tried."""
    with database.reading() as reader:
        row = reader.execute("SELECT found FROM trial WHERE lesson_id = ?", (lesson_id,)).fetchone()
    return row["found"] if row else None


def keep(database: Database, lesson_id: str, found: str) -> None:
    """In place of an earlier one."""
    statement = "INSERT INTO trial (lesson_id, found) VALUES (?, ?) ON CONFLICT (lesson_id) DO UPDATE SET found = excluded.found"
    database.write(lambda c: c.execute(statement, (lesson_id, found)))
