"""Bringing a database up to date: numbered files of plain SQL, each applied once."""

import re
import sqlite3
from importlib import resources
from importlib.resources.abc import Traversable
from pathlib import Path

from cartouche.store import copies
from cartouche.store.errors import WrittenByNewer


def migrate(connection: sqlite3.Connection, path: Path) -> None:
    """Apply what is new, each file together with its own record; a copy of an older database is made first. Raises WrittenByNewer."""
    connection.execute("CREATE TABLE IF NOT EXISTS migration (number INTEGER PRIMARY KEY, name TEXT NOT NULL)")
    done = {row[0] for row in connection.execute("SELECT number FROM migration")}
    known = migrations()
    if max(done, default=0) > max(known):
        raise WrittenByNewer(str(path.parent))
    new = sorted(known.keys() - done)
    if new and done:
        copies.copy(connection, path)
    for number in new:
        name, file = known[number]
        record = f"INSERT INTO migration VALUES ({number}, '{name}');"
        connection.executescript(f"BEGIN;\n{file.read_text()}\n{record}\nCOMMIT;")


def migrations() -> dict[int, tuple[str, Traversable]]:
    """By number, the name and the file."""
    found = {}
    for file in resources.files("cartouche.store").joinpath("migrations").iterdir():
        if (matched := re.fullmatch(r"(\d{4})_(\w+)\.sql", file.name)) is not None:
            found[int(matched[1])] = (matched[2], file)
    return found
