import json
import os
import sqlite3
import threading
from pathlib import Path

import psutil
import pytest

from cartouche import store
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.demo import lesson as demo
from cartouche.store import chains, kits, lessons, plates, settings
from cartouche.store.database import Database
from cartouche.store.errors import CannotSave, DataFolderUnusable, NotKept

MIGRATIONS = Path(store.__file__).parent / "migrations"


@pytest.fixture
def database(tmp_path: Path):  # type: ignore[no-untyped-def]
    opened = Database(tmp_path)
    demo.fill(opened)
    yield opened
    opened.close()


def zoomed(zoom: float) -> Chain:
    return Chain(frame=FrameLink(zoom=zoom))


def test_migrations_run_once_and_are_recorded(tmp_path: Path) -> None:
    for _ in range(2):
        Database(tmp_path).close()
    with sqlite3.connect(tmp_path / "cartouche.sqlite3") as reader:
        assert reader.execute("SELECT number, name FROM migration").fetchall() == [
            (1, "first"),
            (2, "every_kind"),
            (3, "as_last_time"),
            (4, "plates_with_undo"),
            (5, "names_of_the_trade"),
            (6, "lessons_without_a_kit"),
            (7, "who_served_before"),
            (8, "sound"),
            (9, "ways"),
            (10, "timetable"),
            (11, "teaching"),
            (12, "remotes"),
            (13, "ink"),
            (14, "pen"),
            (15, "recordings"),
            (16, "read_sheets"),
        ]
        assert reader.execute("PRAGMA journal_mode").fetchone() == ("wal",)
    reader.close()


def test_filling_twice_changes_nothing(database: Database) -> None:
    chains.settle(database, "desk-camera", zoomed(3))
    demo.fill(database)
    assert chains.current(database, "desk-camera").chain == zoomed(3)
    assert len(lessons.lessons(database)) == 3


def test_the_demos_chains_read_true_and_are_squared(database: Database) -> None:
    for device in kits.devices(database, "map-room"):
        chain = chains.current(database, device.id).chain
        assert chain.square.on == (device.serves != "face")


def test_undo_and_redo_walk_through_the_settled_chains(database: Database) -> None:
    for zoom in (2, 3, 4):
        chains.settle(database, "desk-camera", zoomed(zoom))
    seen = []
    for step in (chains.undo, chains.undo, chains.redo, chains.redo, chains.redo):
        step(database, "desk-camera")
        seen.append(chains.current(database, "desk-camera").chain.frame.zoom)
    assert seen == [3, 2, 3, 4, 4]
    assert not chains.current(database, "desk-camera").can_redo


def test_a_new_chain_ends_what_could_be_redone(database: Database) -> None:
    for zoom in (2, 3):
        chains.settle(database, "desk-camera", zoomed(zoom))
    chains.undo(database, "desk-camera")
    chains.settle(database, "desk-camera", zoomed(5))
    kept = chains.current(database, "desk-camera")
    assert (kept.chain.frame.zoom, kept.can_undo, kept.can_redo) == (5, True, False)


def test_undo_at_the_first_chain_does_nothing(database: Database) -> None:
    for _ in range(3):
        chains.undo(database, "face-camera")
    assert not chains.current(database, "face-camera").can_undo


def test_only_so_many_chains_are_kept(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(chains, "KEEP_REVISIONS", 5)
    for number in range(12):
        chains.settle(database, "desk-camera", zoomed(1 + number / 10))
    for _ in range(20):
        chains.undo(database, "desk-camera")
    assert chains.current(database, "desk-camera").chain.frame.zoom == pytest.approx(1.7)


def test_one_device_serves_as_page(database: Database) -> None:
    clip = kits.device(database, "clip-camera")
    kits.update_device(database, clip.id, serves="page")
    assert {d.id: d.serves for d in kits.devices(database, "map-room")} == {
        "desk-camera": None,
        "clip-camera": "page",
        "face-camera": "face",
    }


def test_a_removed_device_takes_its_chains_along(database: Database) -> None:
    kits.remove_device(database, "desk-camera")
    with pytest.raises(NotKept, match="device is not here any more"):
        kits.device(database, "desk-camera")
    with database.reading() as reader:
        assert reader.execute("SELECT count(*) FROM chain_revision WHERE device_id = 'desk-camera'").fetchone()[0] == 0


@pytest.mark.parametrize(
    "ask",
    [
        lambda d: chains.current(d, "no"),
        lambda d: chains.settle(d, "no", Chain()),
        lambda d: chains.undo(d, "no"),
        lambda d: kits.kit(d, "no"),
        lambda d: lessons.lesson(d, "no"),
    ],
)
def test_what_is_not_kept_is_named(database: Database, ask) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(NotKept, match="no"):
        ask(database)


def test_plates_come_back_as_they_were(database: Database) -> None:
    assert plates.current(database, "reading-the-ground-9b").plates == FIRST_PLATES


def test_plates_are_undone_and_redone_as_a_whole(database: Database) -> None:
    lesson = "reading-the-ground-9b"
    fewer = FIRST_PLATES[:2]
    plates.settle(database, lesson, fewer)
    plates.step(database, lesson, "undo")
    assert plates.current(database, lesson) == (FIRST_PLATES, False, True)
    plates.step(database, lesson, "undo")
    assert plates.current(database, lesson).plates == FIRST_PLATES, "at the first list nothing happens"
    plates.step(database, lesson, "redo")
    assert plates.current(database, lesson) == (fewer, True, False)
    plates.step(database, lesson, "undo")
    plates.settle(database, lesson, FIRST_PLATES[:3])
    assert not plates.current(database, lesson).can_redo, "what had been undone is gone"
    for number in range(plates.KEEP_REVISIONS + 5):
        plates.settle(database, lesson, FIRST_PLATES[: 1 + number % 4])
    with database.reading() as reader:
        assert reader.execute("SELECT count(*) FROM plates_revision WHERE lesson_id = ?", (lesson,)).fetchone()[0] <= 200


def test_plates_of_an_older_database_are_taken_over_in_order(tmp_path: Path) -> None:
    raw = sqlite3.connect(tmp_path / "cartouche.sqlite3")
    for name in sorted(path.name for path in MIGRATIONS.iterdir() if path.name < "0004"):
        raw.executescript((MIGRATIONS / name).read_text())
    raw.execute("CREATE TABLE migration (number INTEGER PRIMARY KEY, name TEXT NOT NULL)")
    raw.executemany("INSERT INTO migration VALUES (?, ?)", [(1, "first"), (2, "every_kind"), (3, "as_last_time")])
    raw.execute("INSERT INTO kit VALUES ('k', 'K', 'R')")
    raw.execute("INSERT INTO lesson VALUES ('l', 'k', 'T', '9B', '08:00', 'page')")
    for position, plate in enumerate(FIRST_PLATES[1:3]):
        places = json.dumps([place.model_dump() for place in plate.places])
        raw.execute("INSERT INTO plate VALUES (?, 'l', ?, ?, ?)", (plate.id, 1 - position, plate.name, places))
    raw.commit()
    raw.close()
    opened = Database(tmp_path)
    try:
        assert plates.current(opened, "l").plates == (FIRST_PLATES[2], FIRST_PLATES[1])
    finally:
        opened.close()


def test_settings_are_replaced(database: Database) -> None:
    assert settings.setting(database, "nothing") is None
    settings.set_setting(database, "outgoing_size", "720p")
    settings.set_setting(database, "outgoing_size", "1080p")
    assert settings.setting(database, "outgoing_size") == "1080p"


def test_a_failed_write_leaves_nothing_half_done(database: Database) -> None:
    def half(c: sqlite3.Connection) -> None:
        c.execute("INSERT INTO setting VALUES ('half', 'done')")
        c.execute("INSERT INTO setting VALUES ('half', 'again')")

    with pytest.raises(CannotSave, match="UNIQUE"):
        database.write(half)
    assert settings.setting(database, "half") is None
    settings.set_setting(database, "half", "later")


def test_a_full_disk_is_one_sentence_and_the_store_goes_on(database: Database) -> None:
    with database.reading() as reader:
        pages = reader.execute("PRAGMA page_count").fetchone()[0]
    database._writer.submit(lambda: database._connection.execute(f"PRAGMA max_page_count = {pages}")).result()
    with pytest.raises(CannotSave, match=r"could not be saved .*full"):
        settings.set_setting(database, "large", "x" * 1_000_000)
    assert len(lessons.lessons(database)) == 3


def test_many_threads_read_while_one_writes(database: Database) -> None:
    def read() -> None:
        for _ in range(50):
            seen.append(chains.current(database, "desk-camera").chain.frame.zoom)

    seen: list[float] = []
    threads = [threading.Thread(target=read) for _ in range(4)]
    for thread in threads:
        thread.start()
    for number in range(30):
        chains.settle(database, "desk-camera", zoomed(2 + number / 100))
    for thread in threads:
        thread.join()
    assert len(seen) == 200


def test_readers_of_a_hundred_threads_leave_no_file_open(database: Database) -> None:
    def ours() -> int:
        return sum(Path(file.path).name.startswith(database.path.name) for file in psutil.Process().open_files())

    before = ours()
    for _ in range(100):
        thread = threading.Thread(target=lambda: lessons.lessons(database))
        thread.start()
        thread.join()
    assert ours() <= before + 2, "one reader: the file and its log"


def test_what_reads_while_the_store_closes_reads_to_its_end(tmp_path: Path) -> None:
    database = Database(tmp_path)
    settings.set_setting(database, "a", "b")
    with database.reading() as reader:
        database.close()
        assert reader.execute("SELECT count(*) FROM setting").fetchone()[0] == 1
    with pytest.raises(sqlite3.ProgrammingError):
        reader.execute("SELECT 1")


def test_a_file_where_the_folder_should_be(tmp_path: Path) -> None:
    (tmp_path / "data").write_text("not a folder")
    with pytest.raises(DataFolderUnusable, match="--data FOLDER"):
        Database(tmp_path / "data")


@pytest.mark.skipif(not os.path.isdir("/sys/kernel"), reason="needs a file system that refuses even root")
def test_a_folder_that_cannot_be_written() -> None:
    with pytest.raises(DataFolderUnusable, match="cannot write"):
        Database(Path("/sys/kernel/cartouche"))
