"""Kits and their devices."""

import sqlite3
from typing import Literal

from pydantic import BaseModel, ConfigDict

from cartouche.core.kit.sizes import Wish
from cartouche.core.plates.model import Role
from cartouche.store.database import Database
from cartouche.store.errors import NotKept


class Kit(BaseModel):
    model_config = ConfigDict(frozen=True)
    id: str
    name: str
    room: str


Kind = Literal["bench", "camera", "guest", "window", "pages", "slides", "clip", "stream"]


class Device(BaseModel):
    """source: which bench device, the browser's id of a camera, or a stream's address.  label: what the browser or the bench calls it.

    max_size: the largest size it offers; width, height: the size asked of it, by the wish; all px, None where not known.
    usual_start_s: how long it took to start before.  page: which of its pages is shown, from 0.
    """

    model_config = ConfigDict(frozen=True)
    id: str
    kit_id: str
    kind: Kind
    source: str
    label: str
    name: str
    rig: str
    serves: Role | None
    microphone: str = ""
    max_width: int | None = None
    max_height: int | None = None
    wish: Wish = "auto"
    width: int | None = None
    height: int | None = None
    usual_start_s: float | None = None
    page: int = 0

    @property
    def max_size(self) -> tuple[int, int] | None:
        return (self.max_width, self.max_height) if self.max_width and self.max_height else None


_COLUMNS = ", ".join(Device.model_fields)
_VALUES = ", ".join(f":{name}" for name in Device.model_fields)
_CHANGEABLE = frozenset(Device.model_fields) - {"id", "kit_id", "kind"}


def kit(database: Database, kit_id: str) -> Kit:
    with database.reading() as reader:
        row = reader.execute("SELECT id, name, room FROM kit WHERE id = ?", (kit_id,)).fetchone()
    if row is None:
        raise NotKept("kit", kit_id)
    return Kit(**dict(row))


def kits(database: Database) -> list[Kit]:
    with database.reading() as reader:
        rows = reader.execute("SELECT id, name, room FROM kit ORDER BY room, name").fetchall()
    return [Kit(**dict(row)) for row in rows]


def change_kit(database: Database, changed: Kit) -> None:
    database.write(lambda c: c.execute("UPDATE kit SET name = :name, room = :room WHERE id = :id", changed.model_dump()))


def remove_kit(database: Database, kit_id: str) -> None:
    """With its devices and their chains; lessons that used it have none."""

    def work(c: sqlite3.Connection) -> None:
        c.execute("UPDATE device SET revision_id = NULL WHERE kit_id = ?", (kit_id,))
        c.execute("DELETE FROM kit WHERE id = ?", (kit_id,))

    database.write(work)


def add_kit(database: Database, new: Kit) -> None:
    database.write(lambda c: c.execute("INSERT INTO kit (id, name, room) VALUES (?, ?, ?)", (new.id, new.name, new.room)))


def devices(database: Database, kit_id: str) -> list[Device]:
    with database.reading() as reader:
        rows = reader.execute(f"SELECT {_COLUMNS} FROM device WHERE kit_id = ? ORDER BY position", (kit_id,)).fetchall()
    return [Device(**dict(row)) for row in rows]


def device(database: Database, device_id: str) -> Device:
    """Raises NotKept."""
    with database.reading() as reader:
        return _row(reader, device_id)


def add_device(database: Database, new: Device) -> None:
    """Add at the end of its kit; if it serves as page or face, no other device of the kit does any more."""

    def work(c: sqlite3.Connection) -> None:
        _yield_role(c, new)
        c.execute(
            f"INSERT INTO device ({_COLUMNS}, position) VALUES ({_VALUES},"
            " (SELECT coalesce(max(position), 0) + 1 FROM device WHERE kit_id = :kit_id))",
            new.model_dump(),
        )

    database.write(work)


def update_device(database: Database, device_id: str, **changes: object) -> Device:
    """Change these fields of a device and no others: whoever changes another field at the same time is not undone.

    Returns the device as it then is. Raises NotKept.
    """
    assert changes.keys() <= _CHANGEABLE, changes.keys()

    def work(c: sqlite3.Connection) -> Device:
        before = _row(c, device_id)
        after = before.model_copy(update=changes)
        if after != before:
            _yield_role(c, after)
            c.execute(f"UPDATE device SET {', '.join(f'{name} = :{name}' for name in changes)} WHERE id = :id", after.model_dump())
        return after

    return database.write(work)


def _row(c: sqlite3.Connection, device_id: str) -> Device:
    row = c.execute(f"SELECT {_COLUMNS} FROM device WHERE id = ?", (device_id,)).fetchone()
    if row is None:
        raise NotKept("device", device_id)
    return Device(**dict(zip(Device.model_fields, tuple(row), strict=True)))


def remove_device(database: Database, device_id: str) -> None:
    """Where it served as page or face, the device that served before it does again."""

    def work(c: sqlite3.Connection) -> None:
        served = c.execute("SELECT kit_id, serves FROM device WHERE id = ? AND serves IS NOT NULL", (device_id,)).fetchone()
        c.execute("UPDATE device SET revision_id = NULL WHERE id = ?", (device_id,))
        c.execute("DELETE FROM device WHERE id = ?", (device_id,))
        if served is not None:
            c.execute(_TAKE_BACK, {"kit_id": served[0], "role": served[1]})

    database.write(work)


_TAKE_BACK = """
UPDATE device SET serves = :role, yielded = NULL WHERE id = (
    SELECT id FROM device WHERE kit_id = :kit_id AND yielded = :role AND serves IS NULL ORDER BY yielded_number DESC LIMIT 1)
"""
_YIELD = """
UPDATE device SET serves = NULL, yielded = serves, yielded_number = (SELECT max(yielded_number) + 1 FROM device)
WHERE kit_id = :kit_id AND serves = :serves AND id <> :id
"""


def _yield_role(c: sqlite3.Connection, device: Device) -> None:
    if device.serves is not None:
        c.execute(_YIELD, {"kit_id": device.kit_id, "serves": device.serves, "id": device.id})
