"""Files that a device shows: bytes in the folder `files`, one row each. Written to a temporary name, then renamed."""

import os
import threading
from collections.abc import AsyncIterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Literal

from anyio import to_thread
from pydantic import BaseModel, ConfigDict

from cartouche.store.database import Database, cannot_save
from cartouche.store.errors import StoreError, TooLarge

MAX_BYTES = 400_000_000  # a scanned book or ten minutes of clip; more is a film
MAX_MB = MAX_BYTES // 1_000_000

_in_use_lock = threading.Lock()
_in_use: set[str] = set()  # names that bytes are on their way to: a sweep leaves them alone

FileKind = Literal["pdf", "picture", "clip"]


class File(BaseModel):
    model_config = ConfigDict(frozen=True)
    id: str
    device_id: str
    name: str
    kind: FileKind
    pages: int


def folder(database: Database) -> Path:
    return database.path.parent / "files"


def path_of(database: Database, file: File) -> Path:
    return folder(database) / file.id


@contextmanager
def arriving(database: Database) -> Iterator[Path]:
    """A temporary name for bytes on their way in; gone afterwards unless `keep` has moved it. Raises CannotSave."""
    where = folder(database)
    path = where / f"arriving-{os.urandom(6).hex()}"
    with _in_use_lock:
        _in_use.add(path.name)
    try:
        where.mkdir(exist_ok=True)
        path.touch()
    except OSError as exc:
        raise cannot_save(exc) from exc
    try:
        yield path
    finally:
        with suppress(FileNotFoundError):
            path.unlink()
        with _in_use_lock:
            _in_use.discard(path.name)


async def write(path: Path, pieces: AsyncIterable[bytes]) -> int:
    """The number of bytes written. Raises CannotSave on a full disk, TooLarge beyond MAX_BYTES."""
    written = 0
    try:
        with path.open("wb") as target:
            async for piece in pieces:
                written += len(piece)
                if written > MAX_BYTES:
                    raise TooLarge(MAX_MB)
                await to_thread.run_sync(target.write, piece)
    except OSError as exc:
        if isinstance(exc, TooLarge):
            raise
        raise cannot_save(exc) from exc
    return written


_ADD = """
INSERT INTO file (id, device_id, position, name, kind, pages) VALUES (:id, :device_id,
    (SELECT coalesce(max(position), 0) + 1 FROM file WHERE device_id = :device_id), :name, :kind, :pages)
"""


def keep(database: Database, file: File, arrived: Path) -> None:
    """Take the bytes over under the file's id and add it at the end of its device. Raises CannotSave."""
    target = path_of(database, file)
    with _in_use_lock:
        _in_use.add(target.name)
    try:
        os.replace(arrived, target)
        database.write(lambda c: c.execute(_ADD, file.model_dump()))
    except OSError as exc:
        if isinstance(exc, StoreError):  # no row speaks of it: the next sweep takes it
            raise
        raise cannot_save(exc) from exc
    finally:
        with _in_use_lock:
            _in_use.discard(target.name)


def of_device(database: Database, device_id: str) -> list[File]:
    with database.reading() as reader:
        rows = reader.execute(
            "SELECT id, device_id, name, kind, pages FROM file WHERE device_id = ? ORDER BY position", (device_id,)
        ).fetchall()
    return [File(**dict(row)) for row in rows]


def sweep(database: Database) -> None:
    """Remove bytes that no row speaks of: what a killed process left, and files of devices that were removed.

    What is on its way in stays: its name is looked for before the rows are read, so that it is in one or the other.
    """
    where = folder(database)
    if not where.is_dir():
        return
    there = list(where.iterdir())
    with _in_use_lock:
        arriving = set(_in_use)
    with database.reading() as reader:
        known = {row[0] for row in reader.execute("SELECT id FROM file")}
    for path in there:
        if path.name not in known and path.name not in arriving:
            with suppress(OSError):
                path.unlink()
