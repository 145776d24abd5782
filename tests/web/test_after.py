"""What is done after a lesson, by its routes: cut, copied, handed out, shared, found, deleted for good."""

import errno
import io
import json
import shutil
import sqlite3
import threading
import time
import zipfile
from pathlib import Path
from typing import Any

import av
import pypdfium2
import pytest
from fastapi.testclient import TestClient

from cartouche.core.record.chapters import from_vtt
from cartouche.live.demand import OUTGOING
from cartouche.live.record.finish import key_before
from cartouche.live.record.webm import Wishes
from cartouche.store import recordings
from cartouche.store.database import cannot_save
from cartouche.store.recordings import Recording
from cartouche.web import record_copies
from cartouche.web.app import create_app
from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.web.conftest import HERE, demo_state
from tests.web.taught import PAGE, act, written


def recorded(web: TestClient, state: AppState) -> Any:
    """One recording with a plate, a sheet and a step's worth of time."""
    assert act(web, "record")["recording"]["state"] == "recording"
    written(state, 2.5)
    act(web, "plate", number=2)
    written(state, 2.5)
    act(web, "sheet")
    written(state, 2.2)
    act(web, "stop")
    state.recording.wait()
    return web.get("/api/after").json()["lessons"][0]


@pytest.fixture(scope="module")
def kept(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """All that is kept of a lesson that was recorded: made once, since it takes as long as it lasts."""
    folder = tmp_path_factory.mktemp("recorded")
    state = demo_state(folder)
    with TestClient(create_app(state), base_url=HERE, client=("127.0.0.1", 50000)) as web:
        claim = state.running.demand.claim(OUTGOING)
        eventually(lambda: (feed := state.running.feeds.get(PAGE)) is not None and feed.latest is not None)
        recorded(web, state)
        claim.release()
    return folder


@pytest.fixture
def lesson(kept: Path, tmp_path: Path, request: pytest.FixtureRequest) -> Any:
    """That lesson, as After shows it, in a folder of the test's own."""
    assert not list(tmp_path.iterdir()), "asked for before the application is started"
    shutil.copytree(kept, tmp_path, dirs_exist_ok=True)
    return request.getfixturevalue("web").get("/api/after").json()["lessons"][0]


def copied(web: TestClient) -> None:
    """It gives way to all else."""
    eventually(lambda: web.get("/api/after").json()["lessons"][0]["recordings"][0]["pieces"][0]["webm"] == 1.0, 180)


def test_chapters_of_plates_and_sheets_in_the_file_and_beside_it(lesson: Any, web: TestClient) -> None:
    one = lesson["recordings"][0]
    titles = [chapter["title"] for chapter in one["chapters"]]
    assert titles == ["Page and face", "Page", "Sheet 1"]
    assert one["chapters"][2]["sheet_id"] == lesson["sheets"][0]["id"]
    beside = from_vtt(web.get(f"/api/after/recordings/{one['id']}/chapters.vtt").text)
    assert [chapter.title for chapter in beside] == titles
    assert abs(beside[1].from_s - one["chapters"][1]["from_s"]) < 0.01
    film = web.get(f"/api/after/recordings/{one['id']}/1.mp4", headers={"Range": "bytes=0-99"})
    assert film.status_code == 206
    assert len(film.content) == 100


def test_a_beginning_and_an_end_are_cut_away(lesson: Any, web: TestClient, state: AppState) -> None:
    """It begins with the key picture before, and what its chapters are of is where they say."""
    one = lesson["recordings"][0]
    refused = web.post(f"/api/after/recordings/{one['id']}/cut", json={"from_s": 5, "to_s": 2, "of_s": one["length_s"]})
    assert refused.status_code == 422
    assert "Nothing would be left" in refused.json()["detail"]
    plate_s = one["chapters"][1]["from_s"]
    with av.open(str(next(recordings.folder(state.database).glob("*.mp4")))) as film:
        begins_s = key_before(film, plate_s / 2)
    assert begins_s < plate_s / 2
    wanted = {"from_s": plate_s / 2, "to_s": plate_s + 1.5, "of_s": one["length_s"]}
    cut = web.post(f"/api/after/recordings/{one['id']}/cut", json=wanted).json()["lessons"][0]["recordings"][0]
    assert cut["length_s"] == pytest.approx(wanted["to_s"] - begins_s, abs=1.5)  # the last picture stands as long as it stood
    assert [chapter["title"] for chapter in cut["chapters"]] == ["Page and face", "Page"]
    assert cut["chapters"][1]["from_s"] == pytest.approx(plate_s - begins_s, abs=0.01)
    with av.open(str(next(recordings.folder(state.database).glob("*.mp4")))) as film:
        within = [float(chapter["start"] * chapter["time_base"]) for chapter in film.chapters()]
    assert within == pytest.approx([0.0, plate_s - begins_s], abs=0.01)
    again = web.post(f"/api/after/recordings/{one['id']}/cut", json=wanted)
    assert again.status_code == 422, "a second press, or one from another tab, cuts nothing more"
    assert "shortened meanwhile" in again.json()["detail"]
    assert web.get("/api/after").json()["lessons"][0]["recordings"][0] == cut


def test_a_film_that_cannot_be_played_is_not_cut(lesson: Any, web: TestClient, state: AppState) -> None:
    one, film = lesson["recordings"][0], next(recordings.folder(state.database).glob("*.mp4"))
    film.write_bytes(b"no film")
    refused = web.post(f"/api/after/recordings/{one['id']}/cut", json={"from_s": 0, "to_s": 4.0, "of_s": one["length_s"]})
    assert refused.status_code == 422
    assert "cannot be played" in refused.json()["detail"]
    assert [path.read_bytes() for path in recordings.folder(state.database).iterdir()] == [b"no film"]
    assert web.get("/api/after").json()["lessons"][0]["recordings"][0]["length_s"] == one["length_s"]


def test_a_cut_that_cannot_be_kept_leaves_all_as_it_was(
    lesson: Any, web: TestClient, state: AppState, monkeypatch: pytest.MonkeyPatch
) -> None:
    one = lesson["recordings"][0]
    folder, address = recordings.folder(state.database), f"/api/after/recordings/{one['id']}/cut"
    before = {path.name: path.read_bytes() for path in folder.iterdir()}
    wanted = {"from_s": 0, "to_s": 4.0, "of_s": one["length_s"]}

    def refuses(*_: object) -> None:
        raise cannot_save(OSError(errno.ENOSPC, "no space"))

    with monkeypatch.context() as full:
        full.setattr(recordings, "keep_cut", refuses)
        assert web.post(address, json=wanted).status_code == 507
    assert {path.name: path.read_bytes() for path in folder.iterdir()} == before
    assert web.get("/api/after").json()["lessons"][0]["recordings"][0] == one
    assert web.post(address, json=wanted).json()["lessons"][0]["recordings"][0]["length_s"] < one["length_s"]


def test_what_was_cut_away_is_in_no_copy_either(lesson: Any, web: TestClient, state: AppState) -> None:
    one = lesson["recordings"][0]
    web.post(f"/api/after/recordings/{one['id']}/1.webm")
    copied(web)
    wanted = {"from_s": 0, "to_s": 4.0, "of_s": one["length_s"]}
    cut = web.post(f"/api/after/recordings/{one['id']}/cut", json=wanted).json()["lessons"][0]["recordings"][0]
    assert cut["pieces"][0]["webm"] is None
    (film,) = recordings.folder(state.database).iterdir()
    assert film.suffix == ".mp4"
    assert web.get(f"/api/after/recordings/{one['id']}/1.mp4").content == film.read_bytes()


def test_deleted_while_its_copy_is_being_made(lesson: Any, web: TestClient, state: AppState, monkeypatch: pytest.MonkeyPatch) -> None:
    one = lesson["recordings"][0]
    begun = threading.Event()

    def slow(path: Path, out: Path, wishes: Wishes) -> None:
        begun.set()
        eventually(wishes.ended)
        out.write_bytes(b"the last of it")

    monkeypatch.setattr(record_copies, "webm_copy", slow)
    assert web.post(f"/api/after/recordings/{one['id']}/1.webm").status_code == 202
    assert begun.wait(20)
    assert web.delete(f"/api/after/recordings/{one['id']}").status_code == 200
    assert not list(recordings.folder(state.database).iterdir())


def test_what_a_cut_left_behind_is_gone_with_the_next_start(lesson: Any, web: TestClient, state: AppState) -> None:
    one = lesson["recordings"][0]
    folder = recordings.folder(state.database)
    (film,) = (path.name for path in folder.iterdir())
    left = [f"{one['id']}-0badcafe.mp4", f"{one['id']}-0badcafe.webm", f"arriving-{film}", "recording-gone-01.webm"]
    for name in left:
        (folder / name).write_bytes(b"half of it")
    recordings.sweep(state.database)
    assert [path.name for path in folder.iterdir()] == [film]


def test_a_copy_in_webm_is_made_and_saved(lesson: Any, web: TestClient) -> None:
    one = lesson["recordings"][0]
    address = f"/api/after/recordings/{one['id']}/1.webm"
    assert web.get(address).status_code == 404
    assert web.post(address).status_code == 202
    copied(web)
    film = web.get(address)
    assert film.content[:4] == b"\x1a\x45\xdf\xa3"
    assert web.get("/api/after").json()["lessons"][0]["recordings"][0]["pieces"][0]["webm"] == 1.0


def test_the_handout_is_read_by_another_library(lesson: Any, web: TestClient, running: AppState) -> None:
    act(web, "sheet")
    sheet = lesson["sheets"][0]
    web.put(f"/api/after/sheets/{sheet['id']}", json={"name": "Profile A to B", "words": "A hill seen from the side"})
    address = f"/api/after/lessons/{lesson['lesson_id']}/handout.pdf"
    for per_page, pages in ((1, 2), (2, 1), (4, 1)):
        made = web.get(address, params={"per_page": per_page, "paper": "Letter"})
        assert len(made.content) < 2 * 300_000
        document = pypdfium2.PdfDocument(made.content)
        assert len(document) == pages
        assert tuple(round(value) for value in document[0].get_size()) == (612, 792)
        text = document[0].get_textpage().get_text_range()
        assert "Reading the ground" in text
        assert "Profile A to B" in text
        document.close()
    assert b"/StructTreeRoot" in made.content
    assert b"/Lang" in made.content


def test_all_of_it_for_those_who_were_absent(lesson: Any, web: TestClient, state: AppState) -> None:
    made = web.get(f"/api/after/lessons/{lesson['lesson_id']}/share.zip")
    with zipfile.ZipFile(io.BytesIO(made.content)) as share:
        names = share.namelist()
        page = share.read("open me.html").decode()
        assert {"handout.pdf", "open me.html"} < set(names)
        film = next(name for name in names if name.endswith(".mp4"))
        assert film in page
        assert "http" not in page.replace("http-equiv", "")
    assert not list(state.database.path.parent.glob("arriving-*")), "what was put together for it is gone"


def test_lessons_are_found_by_what_stands_in_them(lesson: Any, web: TestClient) -> None:
    web.put(f"/api/after/sheets/{lesson['sheets'][0]['id']}", json={"words": "contour interval"})
    for words, found in (("interval 9b", 1), ("READING", 1), (lesson["day"], 1), ("volcano", 0)):
        assert len(web.get("/api/after", params={"words": words}).json()["lessons"]) == found


def test_deleted_for_good_no_byte_of_it_stays(lesson: Any, web: TestClient, state: AppState) -> None:
    secret = "Wonderful unrepeatable heading"
    web.put(f"/api/after/sheets/{lesson['sheets'][0]['id']}", json={"name": secret})
    folder = state.database.path.parent
    view = web.get("/api/privacy").json()
    kinds = {one["kind"]: one for one in view["lessons"][0]["kinds"]}
    assert kinds["recordings"]["bytes"] > 1000
    assert kinds["sheets"]["count"] == 1
    for kind in ("sheets", "recordings"):
        assert web.delete(f"/api/privacy/lessons/{lesson['lesson_id']}/{kind}").status_code == 200
    assert not list((folder / "recordings").glob("*"))
    assert not list((folder / "sheets").glob("*.png"))
    for path in folder.glob("cartouche.sqlite3*"):
        assert secret.encode() not in path.read_bytes(), path.name
    with sqlite3.connect(state.database.path) as reader:
        assert reader.execute("SELECT count(*) FROM mark").fetchone() == (0,)
    reader.close()
    assert web.get("/api/after").json()["lessons"] == []


def test_everything_is_taken_along_as_open_files(lesson: Any, web: TestClient) -> None:
    with zipfile.ZipFile(io.BytesIO(web.get("/api/privacy/export.zip").content)) as export:
        names = export.namelist()
        assert any(name.endswith(".mp4") for name in names)
        assert any(name.endswith("sheets/Sheet 1.png") for name in names)
        told = json.loads(export.read(next(name for name in names if name.endswith("lesson.json"))))
        assert told["title"]


def test_all_is_taken_along_while_the_first_piece_is_still_being_recorded(web: TestClient, state: AppState) -> None:
    lesson_id = web.get("/api/lessons").json()["lessons"][0]["id"]
    recordings.add(state.database, Recording(id="begun", lesson_id=lesson_id, name="Begun", made_at=time.time(), state="open"))
    assert web.get("/api/privacy/export.zip").status_code == 200
    assert web.get("/api/after/recordings/begun/chapters.vtt").status_code == 404


def test_what_is_kept_long_is_asked_about(web: TestClient, running: AppState) -> None:
    act(web, "sheet")
    assert web.put("/api/privacy/weeks", json={"weeks": 4}).json()["due"] == []
    running.database.write(lambda c: c.execute("UPDATE sheet SET made_at = made_at - ?", (5 * 7 * 86_400,)))
    due = web.get("/api/privacy").json()
    assert due["due"] == [due["lessons"][0]["lesson_id"]]
    assert web.put("/api/privacy/weeks", json={"weeks": None}).json()["due"] == []
