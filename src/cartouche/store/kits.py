"""Kits and their devices."""

import sqlite3
from typing import Literal

from pydantic import BaseModel, ConfigDict

from cartouche.core.plates.model import Role
from cartouche.store.database import Database
from cartouche.store.errors import NotKept


class Kit(BaseModel):
    model_config = ConfigDict(frozen=True)
    id: str
    name: str
    room: str


class Device(BaseModel):
    """source: which bench device, or the browser's id of a camera.  label: what the browser or the bench calls it."""

    model_config = ConfigDict(frozen=True)
    id: str
    kit_id: str
    kind: Literal["bench", "camera"]
    source: str
    label: str
    name: str
    rig: str
    serves: Role | None


_COLUMNS = "id, kit_id, kind, source, label, name, rig, serves"


def kit(database: Database, kit_id: str) -> Kit:
    with database.reading() as reader:
        row = reader.execute("SELECT id, name, room FROM kit WHERE id = ?", (kit_id,)).fetchone()
    if row is None:
        raise NotKept("kit", kit_id)
    return Kit(**dict(row))


def add_kit(database: Database, new: Kit) -> None:
    database.write(lambda c: c.execute("INSERT INTO kit (id, name, room) VALUES (?, ?, ?)", (new.id, new.name, new.room)))


def devices(database: Database, kit_id: str) -> list[Device]:
    with database.reading() as reader:
        rows = reader.execute(f"SELECT {_COLUMNS} FROM device WHERE kit_id = ? ORDER BY position", (kit_id,)).fetchall()
    return [Device(**dict(row)) for row in rows]


def device(database: Database, device_id: str) -> Device:
    with database.reading() as reader:
        row = reader.execute(f"SELECT {_COLUMNS} FROM device WHERE id = ?", (device_id,)).fetchone()
    if row is None:
        raise NotKept("device", device_id)
    return Device(**dict(row))


def add_device(database: Database, new: Device) -> None:
    """Add at the end of its kit; if it serves as page or face, no other device of the kit does any more."""

    def work(c: sqlite3.Connection) -> None:
        _yield_role(c, new)
        c.execute(
            f"INSERT INTO device ({_COLUMNS}, position) VALUES (?, ?, ?, ?, ?, ?, ?, ?,"
            " (SELECT coalesce(max(position), 0) + 1 FROM device WHERE kit_id = ?))",
            (new.id, new.kit_id, new.kind, new.source, new.label, new.name, new.rig, new.serves, new.kit_id),
        )

    database.write(work)


def change_device(database: Database, changed: Device) -> None:
    def work(c: sqlite3.Connection) -> None:
        _yield_role(c, changed)
        c.execute(
            "UPDATE device SET name = ?, rig = ?, serves = ?, source = ?, label = ? WHERE id = ?",
            (changed.name, changed.rig, changed.serves, changed.source, changed.label, changed.id),
        )

    database.write(work)


def remove_device(database: Database, device_id: str) -> None:
    def work(c: sqlite3.Connection) -> None:
        c.execute("UPDATE device SET revision_id = NULL WHERE id = ?", (device_id,))
        c.execute("DELETE FROM device WHERE id = ?", (device_id,))

    database.write(work)


def _yield_role(c: sqlite3.Connection, device: Device) -> None:
    if device.serves is not None:
        c.execute("UPDATE device SET serves = NULL WHERE kit_id = ? AND serves = ? AND id <> ?", (device.kit_id, device.serves, device.id))
