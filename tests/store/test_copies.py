"""The database's file locked, damaged, deleted, replaced: the lesson goes on, what happened is said, nothing lies where it should not."""

import contextlib
import shutil
import sqlite3
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.demo import lesson as demo
from cartouche.store import chains, copies, lessons, migrating, settings, teaching
from cartouche.store.database import COPY_EVERY_S, Database
from cartouche.store.errors import CannotSave, StoreError, WrittenByNewer

JUNK = b"not a database, but a teacher's shopping list" * 400


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    opened = Database(tmp_path)
    demo.fill(opened)
    opened.look_after(COPY_EVERY_S)
    yield opened
    opened.close()


def zoomed(zoom: float) -> Chain:
    return Chain(frame=FrameLink(zoom=zoom))


def titles(database: Database) -> list[str]:
    return [lesson.title for lesson in lessons.lessons(database)]


@contextlib.contextmanager
def locked(database: Database) -> Iterator[None]:
    """Somebody else writes, and does not come to an end."""
    with contextlib.closing(sqlite3.connect(database.path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        yield
        other.execute("ROLLBACK")


def filled(folder: Path) -> None:
    made = Database(folder)
    demo.fill(made)
    made.close()


def ruined(path: Path) -> None:
    """Its first pages are overwritten, in place."""
    with path.open("r+b") as file:
        file.write(JUNK)


# locked


def test_a_locked_file_is_told_at_once_and_read_meanwhile(database: Database) -> None:
    with locked(database):
        begun_s = time.monotonic()
        with pytest.raises(CannotSave, match="another program holds"):
            settings.set_setting(database, "a", "b")
        assert time.monotonic() - begun_s < 2.0
        assert len(titles(database)) == 3
    settings.set_setting(database, "a", "c")


def test_what_is_in_force_already_is_kept_once_the_lock_is_gone(database: Database) -> None:
    lesson = lessons.lessons(database)[0]
    with locked(database):
        lessons.put_plate_on(database, lesson.id, "face")
        lessons.put_plate_on(database, lesson.id, "page")
        assert lessons.lesson(database, lesson.id).plate_id not in ("face", "page")
        assert "kept as soon as it can be" in database.says
        database.look_after(0.0)
        assert database.says
    database.look_after(0.0)
    assert lessons.lesson(database, lesson.id).plate_id == "page", "the newest counts"
    assert database.says == ""


def test_an_older_value_that_waits_never_comes_after_a_newer_one(database: Database) -> None:
    lesson = lessons.lessons(database)[0]
    with locked(database):
        lessons.put_plate_on(database, lesson.id, "face")
    lessons.put_plate_on(database, lesson.id, "page")
    database.look_after(0.0)
    assert lessons.lesson(database, lesson.id).plate_id == "page"


def test_what_waits_comes_in_its_order_and_never_over_what_was_written_since(database: Database) -> None:
    with locked(database):
        chains.settle(database, "desk-camera", zoomed(2))
        chains.settle(database, "desk-camera", zoomed(3))
        chains.amend(database, "desk-camera", zoomed(4))
    chains.settle(database, "desk-camera", zoomed(5))
    database.look_after(0.0)
    seen = []
    for _ in range(3):
        seen.append(chains.current(database, "desk-camera").chain.frame.zoom)
        chains.undo(database, "desk-camera")
    assert seen == [5, 4, 2], "the one that was looked at more closely, and both settled ones"


def test_what_cannot_be_kept_at_all_waits_for_nothing(database: Database) -> None:
    with pytest.raises(CannotSave, match="FOREIGN KEY"):
        teaching.keep_step(database, "no such lesson", "step")
    lesson = lessons.lessons(database)[0]
    with locked(database):
        teaching.keep_step(database, lesson.id, "step")
        chains.settle(database, "desk-camera", zoomed(2))
    with contextlib.closing(sqlite3.connect(database.path)) as other:
        other.execute("DELETE FROM device WHERE id = 'desk-camera'")
        other.commit()
    database.look_after(0.0)
    assert database.says == ""
    assert teaching.kept(database, lesson.id).step_id == "step"


# at the start


@pytest.mark.parametrize("damage", ["no database", "pages", "gone"])
def test_at_the_start_the_newest_good_copy_takes_its_place(tmp_path: Path, damage: str) -> None:
    filled(tmp_path)
    path = tmp_path / "cartouche.sqlite3"
    before = path.read_bytes()
    if damage == "no database":
        path.write_bytes(JUNK)
    elif damage == "pages":
        path.write_bytes(before[:4096] + bytes(4096) + before[8192:])
    else:
        path.unlink()
    again = Database(tmp_path)
    try:
        assert len(titles(again)) == 3
        assert "copy of" in again.says
        aside = list(tmp_path.glob("put-aside-*.sqlite3"))
        assert len(aside) == (0 if damage == "gone" else 1)
        settings.set_setting(again, "goes", "on")
    finally:
        again.close()


def test_a_damaged_copy_is_passed_over(tmp_path: Path) -> None:
    filled(tmp_path)
    good = copies.newest_good(tmp_path / "cartouche.sqlite3")
    assert good is not None
    (good.parent / "cartouche-29991231-235959.sqlite3").write_bytes(JUNK)
    (tmp_path / "cartouche.sqlite3").write_bytes(JUNK)
    again = Database(tmp_path)
    try:
        assert len(titles(again)) == 3
    finally:
        again.close()


def test_without_a_copy_a_fresh_one_is_opened_and_the_damaged_one_stays_as_it_was(tmp_path: Path) -> None:
    (tmp_path / "cartouche.sqlite3").write_bytes(JUNK)
    opened = Database(tmp_path)
    try:
        assert titles(opened) == []
        assert "begins with an empty one" in opened.says
        (aside,) = tmp_path.glob("put-aside-*.sqlite3")
        assert aside.read_bytes() == JUNK
        assert aside.name in opened.says
    finally:
        opened.close()


def test_an_older_program_refuses_what_a_newer_one_wrote(tmp_path: Path) -> None:
    filled(tmp_path)
    with contextlib.closing(sqlite3.connect(tmp_path / "cartouche.sqlite3")) as raw:
        raw.execute("INSERT INTO migration VALUES (9999, 'of_tomorrow')")
        raw.commit()
    with pytest.raises(WrittenByNewer, match="newer Cartouche"):
        Database(tmp_path)
    assert not list(tmp_path.glob("put-aside-*")), "nothing of it is touched"


def test_before_it_is_brought_up_to_date_a_copy_is_put_away(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    known = migrating.migrations()
    older = sorted(known)[:-1]
    with monkeypatch.context() as patched:
        patched.setattr(migrating, "migrations", lambda: {number: known[number] for number in older})
        Database(tmp_path).close()
    shutil.rmtree(tmp_path / "copies", ignore_errors=True)
    again = Database(tmp_path)
    try:
        oldest = min((tmp_path / "copies").iterdir())
        for path, newest in ((oldest, older[-1]), (tmp_path / "cartouche.sqlite3", max(known))):
            with contextlib.closing(sqlite3.connect(path)) as raw:
                assert raw.execute("SELECT max(number) FROM migration").fetchone() == (newest,)
    finally:
        again.close()


# while it runs


@pytest.mark.parametrize("taken", ["file", "folder", "replaced"])
def test_a_file_that_is_taken_away_is_written_again_and_nothing_is_lost(database: Database, tmp_path: Path, taken: str) -> None:
    settings.set_setting(database, "before", "yes")
    assert len(titles(database)) == 3
    if taken == "file":
        database.path.unlink()
    elif taken == "folder":
        shutil.rmtree(tmp_path)
    else:
        other = tmp_path / "other"
        filled(other)
        database.path.with_name(f"{database.path.name}-wal").unlink()
        (other / "cartouche.sqlite3").replace(database.path)
    read: list[object] = []
    thread = threading.Thread(target=lambda: read.append(settings.setting(database, "before")))  # a reader that opens it only now
    thread.start()
    thread.join()
    settings.set_setting(database, "after", "yes")
    assert read == ["yes"]
    assert "nothing is lost" in database.says
    with contextlib.closing(sqlite3.connect(database.path)) as raw:
        assert dict(raw.execute("SELECT name, value FROM setting WHERE name IN ('before', 'after')")) == {"before": "yes", "after": "yes"}
    assert settings.setting(database, "after") == "yes"


def test_a_file_that_is_damaged_meanwhile_gives_way_to_the_copy_and_the_press_counts(database: Database) -> None:
    database._writer.submit(lambda: database._connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")).result()
    database._writer.submit(lambda: database._connection.execute("PRAGMA cache_size = 0")).result()
    ruined(database.path)
    with contextlib.suppress(StoreError):
        titles(database)
    settings.set_setting(database, "pressed", "now")
    assert settings.setting(database, "pressed") == "now"
    assert len(titles(database)) == 3
    assert "damaged" in database.says


# copies


def test_copies_are_few_and_the_teachers_alone(database: Database, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for number in range(6):
        settings.set_setting(database, "n", str(number))
        monkeypatch.setattr(time, "strftime", lambda shape, *_, number=number: f"29991128-10000{number}")
        database.look_after((number + 2) * COPY_EVERY_S)
    found = sorted((tmp_path / "copies").iterdir())
    assert [path.name for path in found] == [f"cartouche-29991128-10000{number}.sqlite3" for number in (3, 4, 5)]
    assert all(path.stat().st_mode & 0o077 == 0 for path in (*found, tmp_path / "copies"))


def test_what_is_deleted_for_good_is_in_no_copy(database: Database, tmp_path: Path) -> None:
    settings.set_setting(database, "secret", "a-learners-name")
    database.look_after(3 * COPY_EVERY_S)
    assert any(b"a-learners-name" in path.read_bytes() for path in (tmp_path / "copies").iterdir())
    database.write(lambda c: c.execute("DELETE FROM setting WHERE name = 'secret'"))
    database.scrub()
    assert not [path for path in tmp_path.rglob("*") if path.is_file() and b"a-learners-name" in path.read_bytes()]
