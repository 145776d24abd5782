"""Every settled chain of a device, with undo and redo."""

import sqlite3
from typing import NamedTuple

from cartouche.core.straighten.chain import Chain
from cartouche.store.database import Database
from cartouche.store.errors import NotKept

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


def current(database: Database, device_id: str) -> KeptChain:
    with database.reading() as reader:
        row = reader.execute(_CURRENT, (device_id,)).fetchone()
    if row is None:
        raise NotKept("device", device_id)
    chain = Chain.model_validate_json(row["chain"]) if row["chain"] else Chain()
    return KeptChain(chain, bool(row["can_undo"]), bool(row["can_redo"]))


def settle(database: Database, device_id: str, chain: Chain) -> None:
    """Make this the chain in force; what had been undone is gone."""

    def work(c: sqlite3.Connection) -> None:
        row = c.execute("SELECT revision_id FROM device WHERE id = ?", (device_id,)).fetchone()
        if row is None:
            raise NotKept("device", device_id)
        c.execute("DELETE FROM chain_revision WHERE device_id = ? AND id > ?", (device_id, row[0] or 0))
        made = c.execute("INSERT INTO chain_revision (device_id, chain) VALUES (?, ?)", (device_id, chain.model_dump_json())).lastrowid
        c.execute("UPDATE device SET revision_id = ? WHERE id = ?", (made, device_id))
        c.execute(
            "DELETE FROM chain_revision WHERE device_id = ? AND id NOT IN"
            " (SELECT id FROM chain_revision WHERE device_id = ? ORDER BY id DESC LIMIT ?)",
            (device_id, device_id, KEEP_REVISIONS),
        )

    database.write(work)


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
