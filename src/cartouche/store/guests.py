"""Phones and tablets that have joined: the hash of each one's token, and how long the door stays open for it."""

import hashlib

from pydantic import BaseModel, ConfigDict

from cartouche.store.database import Database


class Guest(BaseModel):
    """address: the one it came in by.  awaited_until: seconds since 1970; 0 for one that has left and comes back by a new code."""

    model_config = ConfigDict(frozen=True)
    device_id: str
    address: str
    awaited_until: float


def add(database: Database, guest: Guest, token: str) -> None:
    """An older token of the same device opens nothing any more."""
    database.write(
        lambda c: c.execute(
            "INSERT OR REPLACE INTO guest (device_id, token_hash, address, awaited_until)"
            " VALUES (:device_id, :hash, :address, :awaited_until)",
            {"hash": hash_of(token), **guest.model_dump()},
        )
    )


def by_token(database: Database, token: str) -> Guest | None:
    """None for one that has left."""
    asked = "SELECT device_id, address, awaited_until FROM guest WHERE token_hash = ? AND awaited_until > 0"
    with database.reading() as reader:
        row = reader.execute(asked, (hash_of(token),)).fetchone()
    return None if row is None else Guest(**dict(row))


def of_kit(database: Database, kit_id: str) -> list[Guest]:
    with database.reading() as reader:
        rows = reader.execute(
            "SELECT device_id, address, awaited_until FROM guest JOIN device ON device.id = device_id WHERE kit_id = ?", (kit_id,)
        ).fetchall()
    return [Guest(**dict(row)) for row in rows]


def wait_for(database: Database, device_id: str, until: float) -> None:
    """Nothing for one that has left: what it told just before comes late."""
    database.write(lambda c: c.execute("UPDATE guest SET awaited_until = ? WHERE device_id = ? AND awaited_until > 0", (until, device_id)))


def leave(database: Database, device_id: str) -> None:
    database.write(lambda c: c.execute("UPDATE guest SET awaited_until = 0 WHERE device_id = ?", (device_id,)))


def hash_of(token: str) -> str:
    """A token is 32 random bytes: a plain hash of it tells nothing and needs no salt."""
    return hashlib.sha256(token.encode()).hexdigest()
