"""Every settled chain of a device, with undo and redo."""

import itertools
import sqlite3
from typing import NamedTuple

from pydantic import ValidationError

from cartouche.core.straighten.chain import Chain
from cartouche.store.database import Database
from cartouche.store.errors import NotKept

_numbers = itertools.count()
KEEP_REVISIONS = 200  # an hour of steady dragging; older ones nobody steps back to


class KeptChain(NamedTuple):
    chain: Chain
    can_undo: bool
    can_redo: bool


_CURRENT = """
SELECT chain,
       EXISTS (SELECT 1 FROM chain_revision p WHERE p.device_id = d.id AND p.id < d.revision_id) AS can_undo,
       EXISTS (SELECT 1 FROM chain_revision n WHERE n.device_id = d.id AND n.id > d.revision_id) AS can_redo
FROM device d LEFT JOIN chain_revision r ON r.id = d.revision_id
WHERE d.id = ?
"""


_USUAL = """
INSERT INTO usual_chain (device_id, rig, chain, day) VALUES (?, ?, ?, date('now', 'localtime'))
ON CONFLICT (device_id, rig) DO UPDATE SET
    last_time = CASE WHEN day <> excluded.day THEN chain ELSE last_time END,
    chain = excluded.chain,
    day = excluded.day
"""


def usual(database: Database, device_id: str, rig: str) -> Chain | None:
    """The newest chain that this device had in this rig."""
    return _kept(database, "SELECT chain FROM usual_chain WHERE device_id = ? AND rig = ?", device_id, rig)


def last_time(database: Database, device_id: str, rig: str) -> Chain | None:
    """The last chain of an earlier day that this device had in this rig."""
    statement = (
        "SELECT CASE WHEN day < date('now', 'localtime') THEN chain ELSE last_time END AS chain"
        " FROM usual_chain WHERE device_id = ? AND rig = ?"
    )
    return _kept(database, statement, device_id, rig)


def _kept(database: Database, statement: str, device_id: str, rig: str) -> Chain | None:
    with database.reading() as reader:
        row = reader.execute(statement, (device_id, rig)).fetchone()
    return _read(row["chain"]) if row and row["chain"] else None


def _read(text: str) -> Chain | None:
    """None for what no version of Cartouche can read any more: the device then begins afresh, the lesson goes on."""
    try:
        return Chain.model_validate_json(text)
    except ValidationError:
        return None


def current(database: Database, device_id: str) -> KeptChain:
    with database.reading() as reader:
        row = reader.execute(_CURRENT, (device_id,)).fetchone()
    if row is None:
        raise NotKept("device", device_id)
    return KeptChain((_read(row["chain"]) if row["chain"] else None) or Chain(), bool(row["can_undo"]), bool(row["can_redo"]))


def settle(database: Database, device_id: str, chain: Chain) -> None:
    """Make this the chain in force; what had been undone is gone. Raises NotKept."""

    def work(c: sqlite3.Connection) -> None:
        row = c.execute("SELECT revision_id, rig FROM device WHERE id = ?", (device_id,)).fetchone()
        if row is None:
            raise NotKept("device", device_id)
        c.execute(_USUAL, (device_id, row[1], chain.model_dump_json()))
        c.execute("DELETE FROM chain_revision WHERE device_id = ? AND id > ?", (device_id, row[0] or 0))
        revision_id = c.execute(
            "INSERT INTO chain_revision (device_id, chain) VALUES (?, ?)", (device_id, chain.model_dump_json())
        ).lastrowid
        c.execute("UPDATE device SET revision_id = ? WHERE id = ?", (revision_id, device_id))
        c.execute(
            "DELETE FROM chain_revision WHERE device_id = ? AND id NOT IN"
            " (SELECT id FROM chain_revision WHERE device_id = ? ORDER BY id DESC LIMIT ?)",
            (device_id, device_id, KEEP_REVISIONS),
        )

    database.keep(f"chain:{device_id}:{next(_numbers)}", work)  # each is a step to undo: none takes the place of another


def amend(database: Database, device_id: str, chain: Chain) -> None:
    """In place of the one in force, without a step to undo: a closer look in mid-lesson is no correction."""

    def work(c: sqlite3.Connection) -> None:
        c.execute(
            "UPDATE chain_revision SET chain = ? WHERE id = (SELECT revision_id FROM device WHERE id = ?)",
            (chain.model_dump_json(), device_id),
        )

    database.keep(f"chain:{device_id}", work)


def undo(database: Database, device_id: str) -> None:
    """Step back by one; at the first one nothing happens."""
    _step(database, device_id, "SELECT max(id) FROM chain_revision WHERE device_id = ? AND id < ?")


def redo(database: Database, device_id: str) -> None:
    _step(database, device_id, "SELECT min(id) FROM chain_revision WHERE device_id = ? AND id > ?")


def _step(database: Database, device_id: str, find: str) -> None:
    def work(c: sqlite3.Connection) -> None:
        row = c.execute("SELECT revision_id FROM device WHERE id = ?", (device_id,)).fetchone()
        if row is None:
            raise NotKept("device", device_id)
        target = c.execute(find, (device_id, row[0] or 0)).fetchone()[0]
        if target is not None:
            c.execute("UPDATE device SET revision_id = ? WHERE id = ?", (target, device_id))

    database.write(work)
