"""Devices of every kind, what was measured of them, their files and their guests; and an older store brought up to date."""

import errno
import shutil
import sqlite3
import threading
from collections.abc import AsyncIterator
from importlib import resources
from pathlib import Path
from typing import Any

import pytest

from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.demo import lesson as demo
from cartouche.store import chains, files, guests, kits, tried
from cartouche.store.database import Database, cannot_save
from cartouche.store.errors import CannotSave, NotKept, TooLarge
from cartouche.store.files import File
from cartouche.store.guests import Guest
from cartouche.store.kits import Device, Kit
from cartouche.store.tried import Tried
from tests.helpers import ran


@pytest.fixture
def database(tmp_path: Path):  # type: ignore[no-untyped-def]
    opened = Database(tmp_path)
    demo.fill(opened)
    yield opened
    opened.close()


def device(**changed: object) -> Device:
    return Device(
        **{
            "id": "d",
            "kit_id": "map-room",
            "kind": "guest",
            "source": "s",
            "label": "l",
            "name": "n",
            "rig": "shelf",
            "serves": None,
            **changed,
        }
    )


def test_a_store_of_the_first_kind_keeps_its_devices_chains_and_undo(tmp_path: Path) -> None:
    first = resources.files("cartouche.store").joinpath("migrations", "0001_first.sql").read_text()
    with sqlite3.connect(tmp_path / "cartouche.sqlite3") as old:
        old.executescript(f"CREATE TABLE migration (number INTEGER PRIMARY KEY, name TEXT NOT NULL); {first}")
        old.execute("INSERT INTO migration VALUES (1, 'first')")
        old.execute("INSERT INTO kit VALUES ('k', 'Kit', 'Room')")
        old.execute("INSERT INTO device VALUES ('c', 'k', 1, 'camera', 'abc', 'Cam', 'Mine', 'in-hand', 'page', NULL)")
        for zoom in (1, 2):
            old.execute(
                "INSERT INTO chain_revision (device_id, chain) VALUES ('c', ?)", (Chain(frame=FrameLink(zoom=zoom)).model_dump_json(),)
            )
        old.execute("UPDATE device SET revision_id = 2")
    old.close()
    database = Database(tmp_path)
    found = kits.device(database, "c")
    assert (found.name, found.serves, found.wish, found.page) == ("Mine", "page", "auto", 0)
    assert chains.current(database, "c").chain.frame.zoom == 2
    chains.undo(database, "c")
    assert chains.current(database, "c").chain.frame.zoom == 1
    kits.remove_device(database, "c")
    with database.reading() as reader:
        assert reader.execute("SELECT count(*) FROM chain_revision").fetchone()[0] == 0
    database.close()


def test_a_device_keeps_all_that_is_known_of_it(database: Database) -> None:
    kits.add_device(database, device(max_width=1920, max_height=1080, wish="sharp", microphone="m", usual_start_s=4.5, page=3))
    kits.update_device(database, "d", width=1280, height=720)
    found = kits.device(database, "d")
    assert (found.max_size, found.wish, found.microphone, found.usual_start_s, found.page) == ((1920, 1080), "sharp", "m", 4.5, 3)
    assert (found.width, found.height) == (1280, 720)


def test_what_was_measured_is_the_newest_of_each_size(database: Database) -> None:
    for rate, width in ((10, 1920), (30, 640), (25, 1920)):
        tried.keep(database, "desk-camera", Tried(width=width, height=480, fps=rate, delay_ms=20))
    assert [(one.width, one.fps) for one in tried.tried(database, "desk-camera")] == [(640, 30), (1920, 25)]


def test_a_kit_goes_with_its_devices(database: Database) -> None:
    kits.add_kit(database, Kit(id="other", name="Other", room="Tower"))
    kits.add_device(database, device(kit_id="other"))
    chains.settle(database, "d", Chain())
    kits.remove_kit(database, "other")
    with pytest.raises(NotKept):
        kits.device(database, "d")
    assert [one.id for one in kits.kits(database)] == ["map-room"]


def test_a_guest_is_found_by_the_token_alone(database: Database) -> None:
    kits.add_device(database, device())
    guests.add(database, Guest(device_id="d", address="10.0.0.5", awaited_until=5), "token")
    assert guests.by_token(database, "token") == Guest(device_id="d", address="10.0.0.5", awaited_until=5)
    assert guests.by_token(database, "Token") is None
    guests.wait_for(database, "d", 9)
    assert [one.awaited_until for one in guests.of_kit(database, "map-room")] == [9]
    guests.add(database, Guest(device_id="d", address="10.0.0.5", awaited_until=5), "newer")
    assert guests.by_token(database, "token") is None
    kits.remove_device(database, "d")
    assert guests.by_token(database, "newer") is None


async def pieces(*content: bytes) -> AsyncIterator[bytes]:
    for piece in content:
        yield piece


def arrive(database: Database, *content: bytes, keep: str | None = None) -> int:
    with files.arriving(database) as path:
        written = ran(files.write(path, pieces(*content)))
        if keep:
            files.keep(database, File(id=keep, device_id="desk-camera", name=keep, kind="pdf", pages=2), path)
    return written


def test_files_are_kept_in_the_order_they_came(database: Database) -> None:
    assert arrive(database, b"ab", b"cd", keep="file-1") == 4
    arrive(database, b"ef", keep="file-2")
    kept = files.of_device(database, "desk-camera")
    assert [files.path_of(database, one).read_bytes() for one in kept] == [b"abcd", b"ef"]


def test_what_is_not_kept_leaves_nothing(database: Database) -> None:
    arrive(database, b"abc")
    assert not list(files.folder(database).iterdir())


def test_a_file_beyond_the_bound_is_cut_off(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(files, "MAX_BYTES", 5)
    with pytest.raises(TooLarge, match="MB"):
        arrive(database, b"abc", b"def", keep="file-1")
    assert not list(files.folder(database).iterdir())
    assert not files.of_device(database, "desk-camera")


def test_a_full_disk_is_told_and_leaves_nothing(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    async def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(files.to_thread, "run_sync", full)
    with pytest.raises(CannotSave, match="Free some disk space"):
        arrive(database, b"abc", keep="file-1")
    assert not list(files.folder(database).iterdir())


def test_a_folder_that_cannot_be_written_is_told(database: Database) -> None:
    shutil.rmtree(files.folder(database), ignore_errors=True)
    files.folder(database).write_text("a file where the folder should be")
    with pytest.raises(CannotSave):
        arrive(database, b"abc")


def test_sweeping_keeps_what_is_known(database: Database) -> None:
    arrive(database, b"ab", keep="file-1")
    (files.folder(database) / "arriving-77").touch()
    (files.folder(database) / "file-of-a-device-taken-out").touch()
    files.sweep(database)
    assert [path.name for path in files.folder(database).iterdir()] == ["file-1"]


def test_a_sweep_leaves_what_is_on_its_way_in(database: Database) -> None:
    """Bytes that are still being written, and bytes that have their name already and no row yet."""
    where, device_id = files.folder(database), a_device(database)
    with files.arriving(database) as arriving:
        arriving.write_bytes(b"half a file")
        files.sweep(database)
        assert arriving.read_bytes() == b"half a file"
        renamed: list[bytes] = []

        def write(work: Any) -> Any:
            files.sweep(database)  # from another request, just now
            renamed.append((where / "file-1").read_bytes())
            return original(work)

        original, database.write = database.write, write  # type: ignore[method-assign]
        files.keep(database, File(id="file-1", device_id=device_id, name="p.png", kind="picture", pages=1), arriving)
    assert renamed == [b"half a file"]
    files.sweep(database)
    assert [path.name for path in where.iterdir()] == ["file-1"]
    (where / "left-behind").write_bytes(b"by a killed process")
    files.sweep(database)
    assert [path.name for path in where.iterdir()] == ["file-1"]


def a_device(database: Database) -> str:
    if not kits.kits(database):
        kits.add_kit(database, Kit(id="k", name="Kit", room="Room"))
    device = Device(
        id="pages-1", kit_id=kits.kits(database)[0].id, kind="pages", source="file", label="", name="P", rig="as-it-is", serves=None
    )
    kits.add_device(database, device)
    return device.id


def test_two_who_change_different_fields_at_once_undo_nothing(database: Database) -> None:
    """The caretaker measures, the teacher renames and gives a role: each writes what it changed and no more."""
    device_id = a_device(database)

    def each(field: str, values: list[Any]) -> None:
        for value in values:
            kits.update_device(database, device_id, **{field: value})

    changes = [
        ("name", [f"N{n}" for n in range(60)]),
        ("usual_start_s", [n / 10 for n in range(60)]),
        ("serves", ["page", None] * 29 + ["face"]),
    ]
    threads = [threading.Thread(target=each, args=change) for change in changes]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    found = kits.device(database, device_id)
    assert (found.name, found.usual_start_s, found.serves) == ("N59", 5.9, "face")


def test_a_device_that_is_gone_is_not_changed(database: Database) -> None:
    with pytest.raises(NotKept, match="device is not here any more"):
        kits.update_device(database, "nobody", name="X")


@pytest.mark.parametrize(
    ("name", "says"),
    [
        ("SQLITE_FULL", "Free some disk space"),
        ("SQLITE_READONLY_DBMOVED", "the data folder cannot be written"),
        ("SQLITE_BUSY_SNAPSHOT", "another program holds"),
        ("SQLITE_CORRUPT", "Start Cartouche again"),
        ("SQLITE_CONSTRAINT", "Try again."),
    ],
)
def test_each_kind_of_refusal_says_what_helps_against_it(name: str, says: str) -> None:
    error = sqlite3.OperationalError("as SQLite words it")
    error.sqlite_errorname = name  # type: ignore[misc]
    sentence = str(cannot_save(error))
    assert says in sentence
    assert ("disk space" in sentence) == (name == "SQLITE_FULL")
