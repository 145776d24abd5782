"""Single values: the lesson that is open, the outgoing size."""

from cartouche.store.database import Database


def setting(database: Database, name: str) -> str | None:
    with database.reading() as reader:
        row = reader.execute("SELECT value FROM setting WHERE name = ?", (name,)).fetchone()
    return row["value"] if row else None


def set_setting(database: Database, name: str, value: str) -> None:
    statement = "INSERT INTO setting (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value"
    database.write(lambda c: c.execute(statement, (name, value)))
