"""Recordings: what is known of each; their files lie in the data folder."""

import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import Literal, NamedTuple

from pydantic import BaseModel, ConfigDict

from cartouche.core.record.chapters import Mark
from cartouche.store.database import Database
from cartouche.store.errors import NotKept

State = Literal["open", "whole", "mended", "broken"]


class Recording(BaseModel):
    """made_at: seconds since 1970.  state: open while it is being written, or after a pulled plug until it is mended."""

    model_config = ConfigDict(frozen=True)
    id: str
    lesson_id: str
    name: str
    made_at: float
    state: State = "open"


class Piece(NamedTuple):
    """number: from 1.  file: its name in the folder.  at_s: where it begins in the recording.  length_s: 0 while it is open."""

    number: int
    file: str
    at_s: float
    length_s: float


def folder(database: Database) -> Path:
    return database.path.parent / "recordings"


def sweep(database: Database) -> None:
    """Files that nothing speaks of are gone, with their copies: of recordings that are known no more, and what a cut left behind."""
    known = {one.id: one.state for one in recordings(database)}
    named = {Path(piece.file).stem for recording_id in known for piece in pieces(database, recording_id)}
    for path in (*folder(database).glob("*.mp4"), *folder(database).glob("*.webm")):
        state = known.get(path.stem.rsplit("-", 1)[0])
        if state is None or (state != "open" and path.stem not in named):
            path.unlink(missing_ok=True)


def adopt(database: Database, recording_id: str, length_of: Callable[[Path], float]) -> None:
    """Pieces that were begun just before the plug was pulled: their files lie there, nobody wrote them down."""
    known = pieces(database, recording_id)
    for path in sorted(folder(database).glob(f"{recording_id}-*.mp4")):
        if path.name in {piece.file for piece in known}:
            continue
        at_s = known[-1].at_s + length_of(folder(database) / known[-1].file) if known else 0.0
        known.append(Piece(int(path.stem.rsplit("-", 1)[1]), path.name, at_s, 0.0))
        keep_piece(database, recording_id, known[-1])


_COLUMNS = "id, lesson_id, name, made_at, state"


def recordings(database: Database, lesson_id: str | None = None) -> list[Recording]:
    """Of one lesson or of all, in order."""
    where = "WHERE lesson_id = ?" if lesson_id is not None else ""
    values = (lesson_id,) if lesson_id is not None else ()
    with database.reading() as reader:
        rows = reader.execute(f"SELECT {_COLUMNS} FROM recording {where} ORDER BY made_at, id", values).fetchall()
    return [Recording(**dict(row)) for row in rows]


def recording(database: Database, recording_id: str) -> Recording:
    """Raises NotKept."""
    with database.reading() as reader:
        row = reader.execute(f"SELECT {_COLUMNS} FROM recording WHERE id = ?", (recording_id,)).fetchone()
    if row is None:
        raise NotKept("recording", recording_id)
    return Recording(**dict(row))


def add(database: Database, new: Recording) -> None:
    statement = f"INSERT INTO recording ({_COLUMNS}) VALUES (:id, :lesson_id, :name, :made_at, :state)"
    database.write(lambda c: c.execute(statement, new.model_dump()))


def rename(database: Database, recording_id: str, name: str) -> None:
    database.write(lambda c: c.execute("UPDATE recording SET name = ? WHERE id = ?", (name, recording_id)))


def settle(database: Database, recording_id: str, state: State) -> None:
    database.write(lambda c: c.execute("UPDATE recording SET state = ? WHERE id = ?", (state, recording_id)))


def forget(database: Database, recording_id: str) -> None:
    database.write(lambda c: c.execute("DELETE FROM recording WHERE id = ?", (recording_id,)))
    database.renew_copies()


def pieces(database: Database, recording_id: str) -> list[Piece]:
    with database.reading() as reader:
        statement = "SELECT number, file, at_s, length_s FROM piece WHERE recording_id = ? ORDER BY number"
        return [Piece(*row) for row in reader.execute(statement, (recording_id,))]


def keep_piece(database: Database, recording_id: str, piece: Piece) -> None:
    database.write(lambda c: c.execute("INSERT OR REPLACE INTO piece VALUES (?, ?, ?, ?, ?)", (recording_id, *piece)))


def marks(database: Database, recording_id: str) -> list[Mark]:
    with database.reading() as reader:
        statement = "SELECT at_s, kind, title, ref FROM mark WHERE recording_id = ? ORDER BY at_s"
        return [Mark(*row) for row in reader.execute(statement, (recording_id,))]


def add_mark(database: Database, recording_id: str, mark: Mark) -> None:
    database.write(lambda c: c.execute("INSERT INTO mark VALUES (?, ?, ?, ?, ?)", (recording_id, *mark)))


def keep_cut(database: Database, recording_id: str, kept: list[Piece], moved: list[Mark]) -> None:
    """All pieces and marks are these now."""

    def work(c: sqlite3.Connection) -> None:
        c.execute("DELETE FROM piece WHERE recording_id = ?", (recording_id,))
        c.execute("DELETE FROM mark WHERE recording_id = ?", (recording_id,))
        c.executemany("INSERT INTO piece VALUES (?, ?, ?, ?, ?)", [(recording_id, *piece) for piece in kept])
        c.executemany("INSERT INTO mark VALUES (?, ?, ?, ?, ?)", [(recording_id, *mark) for mark in moved])

    database.write(work)
