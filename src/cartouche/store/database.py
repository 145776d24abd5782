"""The database file: opening, migrating, one writing thread, read-only readers."""

import contextlib
import errno
import re
import sqlite3
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from importlib import resources
from pathlib import Path
from typing import TypeVar

from cartouche.store.errors import CannotSave, DataFolderUnusable, StoreError

T = TypeVar("T")


class Database:
    """Opens `folder/cartouche.sqlite3`, bringing it up to date. Raises DataFolderUnusable."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / "cartouche.sqlite3"
        self._writer = ThreadPoolExecutor(1, thread_name_prefix="store-writer")
        self._local = threading.local()
        try:
            if not folder.exists():
                folder.mkdir(parents=True, mode=0o700)  # what is kept of lessons is the teacher's alone
            self._connection = self._writer.submit(self._open).result()
        except (OSError, sqlite3.Error) as exc:
            self._writer.shutdown()
            raise DataFolderUnusable(str(folder), _reason(exc)) from exc

    def _open(self) -> sqlite3.Connection:
        connection = sqlite3.connect(self.path, isolation_level=None)
        with contextlib.suppress(OSError):  # somebody else's file system: it is opened all the same
            self.path.chmod(0o600)
        connection.execute("PRAGMA journal_mode = WAL")
        connection.execute("PRAGMA synchronous = NORMAL")
        _migrate(connection)  # before foreign keys hold: a table that is made anew must not take its dependants with it
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA secure_delete = ON")  # what is deleted is overwritten, not only let go
        return connection

    def write(self, work: Callable[[sqlite3.Connection], T]) -> T:
        """Run work in one transaction on the writing thread and wait for it. Raises CannotSave when the disk refuses."""
        return self._writer.submit(self._transact, work).result()

    def _transact(self, work: Callable[[sqlite3.Connection], T]) -> T:
        try:
            self._connection.execute("BEGIN IMMEDIATE")
            result = work(self._connection)
            self._connection.execute("COMMIT")
        except sqlite3.Error as exc:
            raise cannot_save(exc) from exc
        finally:
            if self._connection.in_transaction:  # a full disk has ended it by itself
                self._connection.execute("ROLLBACK")
        return result

    def scrub(self) -> None:
        """What was deleted stands in no file any more: neither in free pages nor in the log. Raises CannotSave."""

        def work() -> None:
            try:
                self._connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
                self._connection.execute("VACUUM")
                self._connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            except sqlite3.Error as exc:
                raise cannot_save(exc) from exc

        self._writer.submit(work).result()

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """This thread's own read-only connection."""
        connection = getattr(self._local, "connection", None)
        if connection is None:
            connection = sqlite3.connect(f"file:{self.path}?mode=ro", uri=True, check_same_thread=False)
            connection.row_factory = sqlite3.Row
            self._local.connection = connection
        try:
            yield connection
        except sqlite3.Error as exc:
            raise StoreError(_reason(exc)) from exc

    def close(self) -> None:
        """Repeatable. Readers of other threads close with their threads."""
        connection = getattr(self._local, "connection", None)
        if connection is not None:
            connection.close()
            self._local.connection = None
        if self._connection is not None:
            closing, self._connection = self._connection, None  # type: ignore[assignment]
            self._writer.submit(closing.close).result()
            self._writer.shutdown()


def _migrate(connection: sqlite3.Connection) -> None:
    """Apply what is new, each file together with its own record."""
    connection.execute("CREATE TABLE IF NOT EXISTS migration (number INTEGER PRIMARY KEY, name TEXT NOT NULL)")
    done = {row[0] for row in connection.execute("SELECT number FROM migration")}
    files = sorted(resources.files("cartouche.store").joinpath("migrations").iterdir(), key=lambda file: file.name)
    for file in files:
        matched = re.fullmatch(r"(\d{4})_(\w+)\.sql", file.name)
        if matched and int(matched[1]) not in done:
            record = f"INSERT INTO migration VALUES ({int(matched[1])}, '{matched[2]}');"
            connection.executescript(f"BEGIN;\n{file.read_text()}\n{record}\nCOMMIT;")


MENDS = {  # by SQLite's primary result code: what a teacher can do about it
    "SQLITE_FULL": "Free some disk space, then try again.",
    "SQLITE_IOERR": "The disk failed. Check it, or start Cartouche with another data folder.",
    "SQLITE_READONLY": "Allow writing in the data folder, then try again.",
    "SQLITE_CANTOPEN": "Allow writing in the data folder, then try again.",
    "SQLITE_BUSY": "Another program holds the file. Close it, then try again.",
    "SQLITE_LOCKED": "Another program holds the file. Close it, then try again.",
    "SQLITE_CORRUPT": "The file is damaged. Start Cartouche with another data folder and keep this one.",
    "SQLITE_NOTADB": "The file is damaged. Start Cartouche with another data folder and keep this one.",
}


def cannot_save(exc: Exception) -> CannotSave:
    """With what to do about it, where that is known."""
    if isinstance(exc, OSError):
        return CannotSave(_reason(exc), MENDS["SQLITE_FULL"] if exc.errno == errno.ENOSPC else "Try again.")
    name = str(getattr(exc, "sqlite_errorname", ""))
    mend = next((words for code, words in MENDS.items() if name.startswith(code)), "Try again.")
    return CannotSave(_reason(exc), mend)


def _reason(exc: Exception) -> str:
    if isinstance(exc, OSError) and exc.strerror:
        return exc.strerror.lower()
    return str(exc) or type(exc).__name__
