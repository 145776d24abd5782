"""Boards and computers that watch by an invitation: the hash of each one's token, and how long the door stays open for it."""

from typing import Literal

from pydantic import BaseModel, ConfigDict

from cartouche.store.database import Database
from cartouche.store.guests import hash_of

May = Literal["watch", "act"]


class Watcher(BaseModel):
    """address: the one it came in by.  awaited_until: seconds since 1970.  may: see the picture, or press the lesson's keys."""

    model_config = ConfigDict(frozen=True)
    id: str
    name: str
    address: str
    awaited_until: float
    may: May = "watch"


def add(database: Database, watcher: Watcher, token: str) -> None:
    values = (watcher.id, hash_of(token), watcher.name, watcher.address, watcher.awaited_until, watcher.may)
    statement = "INSERT INTO watcher (id, token_hash, name, address, awaited_until, may) VALUES (?, ?, ?, ?, ?, ?)"
    database.write(lambda c: c.execute(statement, values))


def by_token(database: Database, token: str) -> Watcher | None:
    """None for a token that is not known, or not any more."""
    with database.reading() as reader:
        row = reader.execute("SELECT id, name, address, awaited_until, may FROM watcher WHERE token_hash = ?", (hash_of(token),)).fetchone()
    return Watcher(**dict(row)) if row else None


def watchers(database: Database, now: float) -> list[Watcher]:
    """Those that are still awaited."""
    with database.reading() as reader:
        rows = reader.execute(
            "SELECT id, name, address, awaited_until, may FROM watcher WHERE awaited_until > ? ORDER BY rowid", (now,)
        ).fetchall()
    return [Watcher(**dict(row)) for row in rows]


def forget(database: Database, id_: str) -> None:
    database.write(lambda c: c.execute("DELETE FROM watcher WHERE id = ?", (id_,)))
