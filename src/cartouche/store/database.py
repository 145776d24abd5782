"""The database file: opening, migrating, one writing thread, read-only readers."""

import contextlib
import errno
import logging
import shutil
import sqlite3
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

from cartouche.store import copies
from cartouche.store.errors import CannotSave, DataFolderUnusable, StoreError
from cartouche.store.migrating import migrate

T = TypeVar("T")


START_WAIT_S = 5.0  # for whoever holds the file while we start: a copy is made, a virus is looked for
WAIT_S = 0.25  # in a lesson a press is answered before that is noticed
COPY_EVERY_S = 1800.0
MAX_READERS = 4  # at rest: a lesson of an hour reads on some forty threads, hardly ever on two at once
_log = logging.getLogger(__name__)
Work = Callable[[sqlite3.Connection], T]


class Database:
    """Opens `folder/cartouche.sqlite3`, bringing it up to date. Raises DataFolderUnusable, WrittenByNewer.

    A file that is damaged or gone is put aside, and the newest good copy, or a fresh one, is in use: `says` tells it.
    """

    def __init__(self, folder: Path) -> None:
        self.path = folder / "cartouche.sqlite3"
        self._writer = ThreadPoolExecutor(1, thread_name_prefix="store-writer")
        self._readers: list[sqlite3.Connection] = []  # at rest, of this generation
        self._readers_lock = threading.Lock()
        self._said = ""
        self._waiting: dict[str, Work[object]] = {}  # by key, what is kept as soon as it can be
        self._waits_for = ""
        self._let_go = False
        self._generation = 0  # a reader of an older file opens the one that took its place
        self._inode = self._copied_changes = -1
        self._copied_s = 0.0
        try:
            if not folder.exists():
                folder.mkdir(parents=True, mode=0o700)  # what is kept of lessons is the teacher's alone
            self._connection = self._writer.submit(self._open).result()
        except (OSError, sqlite3.Error) as exc:
            self._writer.shutdown()
            raise DataFolderUnusable(str(folder), _reason(exc)) from exc
        except BaseException:
            self._writer.shutdown()
            raise

    # the file

    def _open(self) -> sqlite3.Connection:
        if not self.path.exists() and (copied := copies.newest_good(self.path)) is not None:
            return self._from_copy(copied, "was gone")
        try:
            return self._opened()
        except sqlite3.DatabaseError as exc:
            if not copies.is_damage(exc):
                raise
        return self._without_the_damaged()

    def _opened(self) -> sqlite3.Connection:
        new = not self.path.exists()
        connection = sqlite3.connect(self.path, isolation_level=None, timeout=START_WAIT_S)
        try:
            with contextlib.suppress(OSError):  # somebody else's file system: it is opened all the same
                self.path.chmod(0o600)
            copies.require_sound(connection)
            connection.execute("PRAGMA journal_mode = WAL")
            connection.execute("PRAGMA synchronous = NORMAL")
            migrate(connection, self.path)  # before foreign keys hold: a table that is made anew must not take its dependants with it
            connection.execute("PRAGMA foreign_keys = ON")
            connection.execute("PRAGMA secure_delete = ON")  # what is deleted is overwritten, not only let go
            connection.execute(f"PRAGMA busy_timeout = {round(1000 * WAIT_S)}")
        except BaseException:
            connection.close()
            raise
        self._inode = self.path.stat().st_ino
        self._copied_changes = connection.total_changes if new else -1  # in a new one nothing stands yet
        return connection

    def _without_the_damaged(self) -> sqlite3.Connection:
        copied, aside = copies.newest_good(self.path), copies.put_aside(self.path)
        beside = f" and lies as {aside.name} in {self.path.parent}" if aside is not None else ""
        if copied is not None:
            return self._from_copy(copied, f"was damaged{beside}")
        self._said = f"The file in which Cartouche keeps things was damaged{beside}. There was no copy: it begins with an empty one."
        return self._opened()

    def _from_copy(self, copied: Path, what: str) -> sqlite3.Connection:
        shutil.copy2(copied, self.path)
        self._said = f"The file in which Cartouche keeps things {what}. The copy of {copies.made_at(copied)} is in use."
        return self._opened()

    def _settle(self) -> None:
        """On the writing thread: a file that was taken away while we ran is written again, from the one that is still open."""
        if self._let_go:
            self._take_over(self._opened())
        if self._in_place():
            return
        self.path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        copies.put_aside(self.path)  # somebody's other file, or the log of ours
        copies.write_to(self._connection, self.path)
        self._take_over(self._opened())
        self._said = "The file in which Cartouche keeps things was taken away while it ran. It was written again: nothing is lost."

    def _in_place(self) -> bool:
        """Whether the file that we opened lies where it did."""
        try:
            return self.path.stat().st_ino == self._inode
        except FileNotFoundError:
            return False
        except OSError:  # it cannot be told
            return True

    def _replace(self) -> None:
        """On the writing thread: damaged while we ran."""
        self._connection.close()
        self._let_go = True  # until another one is open: that may fail, and is tried again
        self._take_over(self._without_the_damaged())

    def _take_over(self, fresh: sqlite3.Connection) -> None:
        before, self._connection = self._connection, fresh
        self._let_go = False
        before.close()
        self._forget_readers()

    @property
    def says(self) -> str:
        """What happened to the file, or what cannot be kept yet; '' for nothing."""
        if self._waiting:
            return f"What you change now is kept as soon as it can be ({self._waits_for}). The lesson goes on."
        return self._said

    # writing

    def write(self, work: Work[T]) -> T:
        """Run work in one transaction on the writing thread and wait for it. Raises CannotSave when the disk refuses."""
        return self._writer.submit(self._write, work).result()

    def keep(self, key: str, work: Work[object]) -> None:
        """The same for what is in force already: where it cannot be written now, it is later, in its order. The newest of a key counts."""
        self._writer.submit(self._keep, key, work).result()

    def _write(self, work: Work[T]) -> T:
        self._keep_waiting()
        return self._transact(work)

    def _keep(self, key: str, work: Work[object]) -> None:
        self._waiting.pop(key, None)
        try:
            self._write(work)
        except CannotSave as exc:
            if not exc.passes:
                raise
            self._waiting[key], self._waits_for = work, exc.why

    def _keep_waiting(self) -> None:
        """First come, first kept: what is written now must not be overwritten by what waited before it."""
        for key, work in tuple(self._waiting.items()):
            try:
                self._transact(work)
            except StoreError as exc:
                if isinstance(exc, CannotSave) and exc.passes:
                    return
                _log.warning("what waited could not be kept: %s", type(exc).__name__)  # its device or lesson is gone
            del self._waiting[key]

    def _transact(self, work: Work[T]) -> T:
        try:
            self._settle()
            return self._transacted(work)
        except (sqlite3.Error, OSError) as exc:
            if not isinstance(exc, sqlite3.Error) or not copies.is_damage(exc):
                raise cannot_save(exc) from exc
        try:
            self._replace()
            return self._transacted(work)
        except (sqlite3.Error, OSError) as exc:
            raise cannot_save(exc) from exc

    def _transacted(self, work: Work[T]) -> T:
        try:
            self._connection.execute("BEGIN IMMEDIATE")
            result = work(self._connection)
            self._connection.execute("COMMIT")
        finally:
            if self._connection.in_transaction:  # a full disk has ended it by itself
                self._connection.execute("ROLLBACK")
        return result

    def look_after(self, now_s: float) -> None:
        """Now and then: what waited is kept, a file that was taken away is written again, half-hourly a copy is made."""
        self._writer.submit(self._look_after, now_s).result()

    def _look_after(self, now_s: float) -> None:
        with contextlib.suppress(sqlite3.Error, OSError):  # the next look tries again
            self._settle()
            self._keep_waiting()
            if now_s - self._copied_s >= COPY_EVERY_S:
                self._copied_s = now_s
                self._copy()

    def _copy(self) -> None:
        if self._connection.total_changes != self._copied_changes:
            copies.copy(self._connection, self.path)
            self._copied_changes = self._connection.total_changes

    def renew_copies(self) -> None:
        """Something was deleted for good: it is in no copy either. Raises CannotSave."""
        self._writer.submit(self._renew_copies).result()

    def _renew_copies(self) -> None:
        try:
            copies.clear(self.path)
            copies.copy(self._connection, self.path)
        except (sqlite3.Error, OSError) as exc:
            raise cannot_save(exc) from exc

    def scrub(self) -> None:
        """What was deleted stands in no file any more: neither in free pages, nor in the log, nor in a copy. Raises CannotSave."""

        def work() -> None:
            try:
                self._connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
                self._connection.execute("VACUUM")
                self._connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            except sqlite3.Error as exc:
                raise cannot_save(exc) from exc
            self._renew_copies()

        self._writer.submit(work).result()

    # reading

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """A read-only connection, for this caller alone until it has read."""
        generation, connection = self._borrow()
        try:
            yield connection
        except sqlite3.Error as exc:
            if copies.is_damage(exc):
                self._writer.submit(self._look_for_damage)
            raise StoreError(_reason(exc)) from exc
        finally:
            self._give_back(generation, connection)

    def _borrow(self) -> tuple[int, sqlite3.Connection]:
        with self._readers_lock:
            if self._readers:
                return self._generation, self._readers.pop()
        if not self._in_place():  # taken away just now: it is written again first, and never read as another file's log
            self._writer.submit(self._look_after, float("-inf")).result()
        generation = self._generation
        try:
            return generation, self._read_only()
        except sqlite3.Error as exc:
            raise StoreError(_reason(exc)) from exc

    def _give_back(self, generation: int, connection: sqlite3.Connection) -> None:
        with self._readers_lock:
            if generation == self._generation and len(self._readers) < MAX_READERS:
                self._readers.append(connection)
                return
        connection.close()

    def _forget_readers(self) -> None:
        """What reads still is closed once it has read."""
        with self._readers_lock:
            self._generation += 1
            resting, self._readers = self._readers, []
        for connection in resting:
            connection.close()

    def _read_only(self) -> sqlite3.Connection:
        address = f"{self.path.absolute().as_uri()}?mode=ro"  # spelled as an address: folders have names of all kinds
        connection = sqlite3.connect(address, uri=True, check_same_thread=False, timeout=WAIT_S)
        connection.row_factory = sqlite3.Row
        return connection

    def _look_for_damage(self) -> None:
        """On the writing thread: a reader met damage."""
        try:
            copies.require_sound(self._connection)
        except sqlite3.Error as exc:
            if copies.is_damage(exc):
                self._replace()

    def close(self) -> None:
        """Repeatable."""
        self._forget_readers()
        if self._connection is not None:
            self._writer.submit(self._close).result()
            self._writer.shutdown()

    def _close(self) -> None:
        self._look_after(float("inf"))
        closing, self._connection = self._connection, None  # type: ignore[assignment]
        closing.close()


REASONS = {  # by SQLite's primary result code, in a teacher's words: why, and what to do about it
    "SQLITE_FULL": ("the disk is full", "Free some disk space, then try again."),
    "SQLITE_IOERR": ("the disk failed", "Check it, or start Cartouche with another data folder."),
    "SQLITE_READONLY": ("the data folder cannot be written", "Allow writing in it, then try again."),
    "SQLITE_CANTOPEN": ("the data folder cannot be written", "Allow writing in it, then try again."),
    "SQLITE_BUSY": ("another program holds Cartouche’s file", "Close it, then try again."),
    "SQLITE_LOCKED": ("another program holds Cartouche’s file", "Close it, then try again."),
    "SQLITE_CORRUPT": ("Cartouche’s file is damaged", "Start Cartouche again: it puts the file aside and opens the newest copy."),
    "SQLITE_NOTADB": ("Cartouche’s file is damaged", "Start Cartouche again: it puts the file aside and opens the newest copy."),
}


def cannot_save(exc: Exception) -> CannotSave:
    """With what to do about it, where that is known."""
    if isinstance(exc, OSError):
        why, mend = REASONS["SQLITE_FULL"] if exc.errno == errno.ENOSPC else (_reason(exc), "Try again.")
        return CannotSave(why, mend, passes=True)
    name = str(getattr(exc, "sqlite_errorname", ""))
    why, mend = next((words for code, words in REASONS.items() if name.startswith(code)), ("", ""))
    return CannotSave(why or _reason(exc), mend or "Try again.", passes=bool(why))


def _reason(exc: Exception) -> str:
    if isinstance(exc, OSError) and exc.strerror:
        return exc.strerror.lower()
    return str(exc) or type(exc).__name__
