"""Good copies of the database, for the day on which its file is damaged or gone.

They lie in `copies/` beside it, the newest three. What is deleted for good is gone from them too: see `Database.renew_copies`.
"""

import contextlib
import sqlite3
import time
from pathlib import Path

FOLDER, KEPT = "copies", 3
ASIDE = "put-aside"
BESIDE = ("", "-wal", "-shm")  # what SQLite keeps next to its file; a log of another file would be played into a new one


class Unsound(sqlite3.DatabaseError):
    """The file can be opened, and is damaged inside."""


def is_damage(exc: sqlite3.Error) -> bool:
    """Rather than a full disk, a lock or a statement that is wrong."""
    return isinstance(exc, Unsound) or str(getattr(exc, "sqlite_errorname", "")).startswith(("SQLITE_CORRUPT", "SQLITE_NOTADB"))


def require_sound(connection: sqlite3.Connection) -> None:
    """Raises sqlite3.DatabaseError: Unsound, or what SQLite says of a file that is none of its own."""
    said = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
    if said != "ok":
        raise Unsound(said)


def _all(path: Path) -> list[Path]:
    """The oldest first: their names are their times."""
    return sorted((path.parent / FOLDER).glob("cartouche-*.sqlite3"))


def copy(connection: sqlite3.Connection, path: Path) -> Path:
    """What stands in the database now, whole or not at all. Raises OSError, sqlite3.Error."""
    folder = path.parent / FOLDER
    folder.mkdir(mode=0o700, exist_ok=True)
    target = folder / f"cartouche-{time.strftime('%Y%m%d-%H%M%S')}.sqlite3"
    part = target.with_suffix(".part")
    part.unlink(missing_ok=True)
    try:
        write_to(connection, part)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)
    for old in _all(path)[:-KEPT]:
        if old != target:  # a clock that was set back makes the newest look old
            old.unlink(missing_ok=True)
    return target


def write_to(connection: sqlite3.Connection, target: Path) -> None:
    """SQLite's own backup, whoever reads or has unlinked the file meanwhile."""
    with contextlib.closing(sqlite3.connect(target)) as fresh:
        connection.backup(fresh)
        fresh.execute("PRAGMA journal_mode = DELETE")  # one file, nothing beside it
    with contextlib.suppress(OSError):
        target.chmod(0o600)


def newest_good(path: Path) -> Path | None:
    """The newest copy that is sound."""
    for found in reversed(_all(path)):
        with contextlib.suppress(sqlite3.Error), contextlib.closing(sqlite3.connect(found)) as connection:
            require_sound(connection)
            return found
    return None


def made_at(copied: Path) -> str:
    """As a teacher reads it."""
    moment = time.strptime(copied.stem.removeprefix("cartouche-"), "%Y%m%d-%H%M%S")
    return time.strftime("%d %B, %H:%M", moment).lstrip("0")


def put_aside(path: Path) -> Path | None:
    """Out of the way, with what lies beside it; None where nothing lay there. Raises OSError."""
    stem = f"{ASIDE}-{time.strftime('%Y%m%d-%H%M%S')}"
    for end in BESIDE:
        lying = path.with_name(path.name + end)
        if lying.exists():
            lying.replace(path.with_name(f"{stem}-{path.name}{end}"))
    aside = path.with_name(f"{stem}-{path.name}")
    return aside if aside.exists() else None


def clear(path: Path) -> None:
    """No copy is left, and nothing that was put aside."""
    for found in (*_all(path), *path.parent.glob(f"{ASIDE}-*")):
        found.unlink(missing_ok=True)
