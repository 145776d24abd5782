"""Recordings by their routes: pressed, marked, made whole, found after a kill, cut, shared, deleted for good."""

import errno
import io
import json
import shutil
import sqlite3
import threading
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import pypdfium2
import pytest
from fastapi.testclient import TestClient

from cartouche.core.ink.strokes import Ink, Stroke, sheet_ground
from cartouche.core.record.chapters import SHORTEST_S, from_vtt
from cartouche.core.straighten.page_space import page_space
from cartouche.live.demand import OUTGOING
from cartouche.live.record.finish import key_before, length_of
from cartouche.live.record.webm import Wishes
from cartouche.store import ink, recordings, sheets
from cartouche.store.database import cannot_save
from cartouche.web import record_copies
from cartouche.web.app import create_app
from cartouche.web.ink_in import keep
from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.web.conftest import HERE, demo_state

PAGE = "desk-camera"


@pytest.fixture
def running(state: AppState) -> Iterator[AppState]:
    claim = state.running.demand.claim(OUTGOING)
    eventually(lambda: (feed := state.running.feeds.get(PAGE)) is not None and feed.latest is not None)
    yield state
    claim.release()


def act(web: TestClient, action: str, **more: Any) -> Any:
    answer = web.post("/api/teach/actions", json={"action": action, **more})
    assert answer.status_code == 200, answer.text
    return answer.json()


def written(state: AppState, seconds: float) -> None:
    """Until so much is recorded from now on."""
    begun_s = state.running.recorder.facts.pieces[-1].frames if state.running.recorder.facts.pieces else 0
    eventually(lambda: (file := state.running.recorder._file) is not None and file.frames > begun_s + 3)
    start = state.running.recorder.moment_s() or 0.0
    eventually(lambda: (state.running.recorder.moment_s() or 0.0) > start + seconds)


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
    eventually(lambda: web.get("/api/after").json()["lessons"][0]["recordings"][0]["pieces"][0]["webm"] == 1.0)


def test_record_pause_go_on_and_stop(web: TestClient, running: AppState) -> None:
    assert act(web, "stop")["said"] == "Nothing is being recorded."
    act(web, "record")
    written(running, 1.0)
    paused = act(web, "record")["recording"]
    assert paused["state"] == "paused"
    length_s = paused["length_s"]
    time.sleep(0.4)
    assert abs(web.get("/api/teach/tools").json()["recording"]["length_s"] - length_s) < 0.05
    assert act(web, "record")["recording"]["state"] == "recording"
    written(running, 0.8)
    said = act(web, "stop")
    assert "Recorded as" in said["said"]
    assert said["recording"]["state"] == "off"
    running.recording.wait()
    one = web.get("/api/after").json()["lessons"][0]["recordings"][0]
    assert one["state"] == "whole"
    assert one["length_s"] > length_s + 0.5
    assert one["pieces"][0]["bytes"] > 1000


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


def test_a_killed_process_leaves_a_film_that_the_next_start_mends(web: TestClient, running: AppState, tmp_path: Path) -> None:
    act(web, "record")
    written(running, 3.0)
    copy = tmp_path / "after-the-kill"
    shutil.copytree(running.database.path.parent, copy, ignore=lambda folder, names: ["after-the-kill"])
    again = demo_state(copy)
    try:
        again.recording.wait()
        left = recordings.recordings(again.database)
        assert [one.state for one in left] == ["mended"]
        piece = recordings.pieces(again.database, left[0].id)[0]
        assert piece.length_s > 1.0
        assert abs(length_of(recordings.folder(again.database) / piece.file) - piece.length_s) < 0.05
    finally:
        again.close()
    act(web, "stop")


def test_a_database_that_refuses_stops_no_recording_and_it_is_made_whole_later(
    web: TestClient, running: AppState, monkeypatch: pytest.MonkeyPatch
) -> None:
    web.put("/api/after/plan", json={"page": True})
    act(web, "record")
    written(running, 1.5)
    eventually(lambda: running.running.page_recorder.facts.state == "recording")

    def refuses(*_: object) -> None:
        raise cannot_save(OSError(errno.ENOSPC, "no space"))

    with monkeypatch.context() as full:
        full.setattr(recordings, "keep_piece", refuses)
        assert "Recorded as" in act(web, "stop")["said"]
        assert running.running.recorder.facts.state == running.running.page_recorder.facts.state == "off"
        running.recording.wait()
        assert {one.state for one in recordings.recordings(running.database)} == {"open"}
    eventually(lambda: {one.state for one in recordings.recordings(running.database)} == {"whole"})


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


def test_sheets_are_ordered_turned_put_away_and_put_back(web: TestClient, running: AppState) -> None:
    for _ in range(3):
        act(web, "sheet")
    first, second, third = (sheet["id"] for sheet in web.get("/api/after").json()["lessons"][0]["sheets"])

    def order(answer: Any) -> list[str]:
        return [sheet["id"] for sheet in answer.json()["lessons"][0]["sheets"]]

    assert order(web.put(f"/api/after/sheets/{third}", json={"before": first})) == [third, first, second]
    for _ in range(40):  # however often two change places
        assert order(web.put(f"/api/after/sheets/{second}", json={"before": first})) == [third, second, first]
        assert order(web.put(f"/api/after/sheets/{first}", json={"before": second})) == [third, first, second]
    assert order(web.put(f"/api/after/sheets/{third}", json={"before": ""})) == [first, second, third]
    before = web.get("/api/after").json()["lessons"][0]["sheets"][0]
    turned = web.put(f"/api/after/sheets/{first}", json={"turn": True}).json()["lessons"][0]["sheets"][0]
    assert (turned["width"], turned["height"]) == (before["height"], before["width"])
    picture = cv2.imdecode(np.frombuffer(web.get(f"/api/after/sheets/{first}.png").content, np.uint8), cv2.IMREAD_COLOR)
    assert picture.shape[:2] == (turned["height"], turned["width"])
    away = web.put(f"/api/after/sheets/{second}", json={"away": True}).json()["lessons"][0]
    assert [sheet["id"] for sheet in away["put_away"]] == [second]
    assert second not in {sheet["id"] for sheet in web.get("/api/teach/tools").json()["sheets"]}
    assert order(web.put(f"/api/after/sheets/{second}", json={"away": False})) == [first, second, third]
    assert web.delete(f"/api/after/sheets/{second}").status_code == 200
    assert web.get(f"/api/after/sheets/{second}.png").status_code == 404


def test_a_sheet_is_kept_with_the_ink_over_the_page_and_without(web: TestClient, running: AppState) -> None:
    feed = running.running.feeds.get(PAGE)
    assert feed is not None
    assert feed.latest is not None
    page, room = page_space(running.chain(PAGE), feed.latest.size).size, running.running.ink
    points = tuple((0.2 * page.width + k * 0.03 * page.width, 0.3 * page.height, 1.0) for k in range(12))
    red = Stroke(id="red", colour="#FF0000", width=0.02 * page.width, points=points)
    room.change(room.ground_of(PAGE), lambda ink: Ink((red,)))
    act(web, "sheet")
    sheet = web.get("/api/after").json()["lessons"][0]["sheets"][0]
    assert sheet["ink"]

    def reds(ink: bool) -> int:
        content = web.get(f"/api/after/sheets/{sheet['id']}.png", params={"ink": ink}).content
        picture = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_COLOR).astype(int)
        return int(((picture[..., 2] > 150) & (picture[..., 1] < 90) & (picture[..., 0] < 90)).sum())

    assert reds(True) > reds(False) + 500


def test_ink_on_a_sheet_turns_with_it(web: TestClient, running: AppState) -> None:
    act(web, "sheet")
    sheet = web.get("/api/after").json()["lessons"][0]["sheets"][0]
    address, ground = f"/api/after/sheets/{sheet['id']}", sheet_ground(sheet["id"])
    long = max(sheet["width"], sheet["height"])
    points = tuple((0.01 * k * sheet["width"] / long, 0.1 * sheet["height"] / long, 1.0) for k in range(10, 30))
    running.running.ink.change(ground, lambda _: Ink((Stroke(id="red", colour="#FF0000", width=0.02, points=points),)))
    keep(running, ground)

    def spot() -> tuple[float, float]:
        pages = [web.get(f"{address}.png", params={"ink": ink}).content for ink in (True, False)]
        over, bare = (cv2.imdecode(np.frombuffer(page, np.uint8), cv2.IMREAD_COLOR) for page in pages)
        high, wide = np.argwhere(cv2.absdiff(over, bare[: over.shape[0], : over.shape[1]]).max(axis=2) > 60).mean(axis=0)
        size = web.get("/api/after").json()["lessons"][0]["sheets"][0]
        return float(wide / size["width"]), float(high / size["height"])

    assert spot() == pytest.approx((0.2, 0.1), abs=0.01)
    web.put(address, json={"turn": True})
    assert spot() == pytest.approx((0.9, 0.2), abs=0.01)
    assert running.running.ink.ink(ground).strokes == ink.inks(running.database, running.open_lesson().id)[ground]
    web.put(address, json={"turn": True})
    assert spot() == pytest.approx((0.8, 0.9), abs=0.01)
    unkept = Stroke(id="new", colour="#FF0000", width=0.02, points=((0.1, 0.1, 1.0), (0.2, 0.1, 1.0)))  # the disk was full
    running.running.ink.change(ground, lambda drawn: drawn.with_stroke(unkept))
    web.put(address, json={"turn": True})
    assert len(running.running.ink.ink(ground).strokes) == len(ink.inks(running.database, running.open_lesson().id)[ground]) == 2


def test_a_shown_sheet_is_shown_as_it_is_turned_and_goes_with_its_ink(web: TestClient, running: AppState) -> None:
    act(web, "sheet")
    sheet = web.get("/api/after").json()["lessons"][0]["sheets"][0]
    address = f"/api/after/sheets/{sheet['id']}"
    assert web.post(f"/api/teach/sheets/{sheet['id']}/show").status_code == 200
    before = running.running.setup.holds[PAGE].frame.size
    web.put(address, json={"turn": True})
    after = running.running.setup.holds[PAGE].frame.size
    assert (after.width, after.height) == (before.height, before.width)
    ground = sheet_ground(sheet["id"])
    running.running.ink.change(ground, lambda _: Ink((Stroke(id="red", points=((0.1, 0.1, 1.0), (0.2, 0.1, 1.0))),)))
    keep(running, ground)
    web.delete(address)
    assert ground not in ink.inks(running.database, running.open_lesson().id)
    assert not running.running.ink.ink(ground).strokes


def test_a_sheet_that_cannot_be_turned_is_as_it_was(web: TestClient, running: AppState, monkeypatch: pytest.MonkeyPatch) -> None:
    act(web, "sheet")
    sheet = web.get("/api/after").json()["lessons"][0]["sheets"][0]
    folder = sheets.folder(running.database)
    before = {path.name: path.read_bytes() for path in folder.iterdir()}

    def refuses(*_: object) -> None:
        raise cannot_save(OSError(errno.ENOSPC, "no space"))

    monkeypatch.setattr(sheets, "turn", refuses)
    assert web.put(f"/api/after/sheets/{sheet['id']}", json={"turn": True}).status_code == 507
    assert {path.name: path.read_bytes() for path in folder.iterdir()} == before
    assert web.get("/api/after").json()["lessons"][0]["sheets"][0] == sheet


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


def test_what_is_kept_long_is_asked_about(web: TestClient, running: AppState) -> None:
    act(web, "sheet")
    assert web.put("/api/privacy/weeks", json={"weeks": 4}).json()["due"] == []
    running.database.write(lambda c: c.execute("UPDATE sheet SET made_at = made_at - ?", (5 * 7 * 86_400,)))
    due = web.get("/api/privacy").json()
    assert due["due"] == [due["lessons"][0]["lesson_id"]]
    assert web.put("/api/privacy/weeks", json={"weeks": None}).json()["due"] == []


def test_the_end_of_a_lesson_names_what_is_off_and_what_is_not(web: TestClient, running: AppState) -> None:
    act(web, "record")
    written(running, 1.0)
    web.post("/api/teach/call/start")
    window = object()
    running.running.windows.opened(window)
    told = web.post("/api/after/close-down").json()
    assert not told["all_off"]
    by_name = {thing["what"]: thing for thing in told["things"]}
    assert not by_name["The outgoing window"]["off"]
    assert "close it" in by_name["The outgoing window"]["says"]
    assert by_name["Recording"]["off"]
    assert "lies in" in by_name["Recording"]["says"]
    assert not running.running.call.running
    running.running.windows.closed(window)
    again = web.post("/api/after/close-down").json()
    assert again["all_off"]
    assert again["says"] == "All is off. The call itself still runs: leave it there."


def test_learners_are_never_recorded(web: TestClient, running: AppState) -> None:
    """The recorder is given the outgoing picture's packets and the mixer's blocks; what learners hear and say goes elsewhere."""
    act(web, "record")
    web.post("/api/teach/call/start")
    taken = {type(source).__name__ for source in running.running.sound._sources()}
    assert not any("Call" in name or "Learn" in name for name in taken)
    assert {claim.taker.__self__ for claim in running.running.sound.mixer._claims} >= {running.running.recorder}  # type: ignore[attr-defined]
    assert all(one.size == running.running.desk.size for one in running.running.encodings.encoders)
    act(web, "stop")


def test_the_page_alone_becomes_a_second_film_with_its_ink(web: TestClient, running: AppState) -> None:
    assert web.put("/api/after/plan", json={"page": True}).json()["recording"]["page"]
    made = running.running
    feed = made.feeds.get(PAGE)
    assert feed is not None
    assert feed.latest is not None
    page = page_space(made.setup.chains[PAGE], feed.latest.size)
    line = tuple((0.5 * page.size.width, share * page.size.height, 1.0) for share in (0.2, 0.8))
    made.ink.change(made.ink.ground_of(PAGE), lambda ink: Ink((Stroke(id="s", colour="#FF0000", width=12.0, points=line),)))
    act(web, "record")
    written(running, 1.5)
    act(web, "record")
    assert made.page_recorder.facts.state == "paused"
    act(web, "record")
    eventually(lambda: (made.page_recorder.moment_s() or 0.0) > SHORTEST_S)  # what is passed sooner is no chapter
    act(web, "plate", number=2)
    written(running, 1.5)
    # beside other work an encoder may have its first picture later than the other
    apart_s = (made.recorder.moment_s() or 0.0) - (made.page_recorder.moment_s() or 0.0)
    act(web, "stop")
    running.recording.wait()
    out, alone = web.get("/api/after").json()["lessons"][0]["recordings"]
    assert alone["name"] == f"{out['name']}, the page"
    assert (out["state"], alone["state"]) == ("whole", "whole")
    assert abs(out["length_s"] - alone["length_s"] - apart_s) < 0.5
    assert [chapter["title"] for chapter in alone["chapters"]] == [chapter["title"] for chapter in out["chapters"]]
    reader = cv2.VideoCapture(str(recordings.folder(running.database) / f"{alone['id']}-01.mp4"))
    there, picture = reader.read()
    reader.release()
    assert there
    high, wide = picture.shape[:2]
    assert abs(wide / high - page.size.width / page.size.height) < 0.02
    assert max(high, wide) > 720, "as sharp as the camera sees it"
    blue, green, red = picture[high // 2, wide // 2].astype(int)
    assert red > 150
    assert max(blue, green) < 90
    assert made.demand.ids("raw") == set(), "the camera is let go"


def test_without_a_page_what_goes_out_is_recorded_alone(web: TestClient, running: AppState) -> None:
    web.put("/api/after/plan", json={"page": True})
    assert web.patch(f"/api/kit/devices/{PAGE}", json={"serves": "nothing"}).status_code == 200
    said = act(web, "record")
    assert said["said"] == "No page is seen, so what goes out is recorded alone."
    assert said["recording"]["state"] == "recording"
    assert web.patch(f"/api/kit/devices/{PAGE}", json={"serves": "page"}).status_code == 200
    running.recording.look_after()
    assert running.running.page_recorder.facts.state == "recording", "as soon as there is one, its film begins"
    act(web, "stop")


def test_a_page_film_that_ends_by_itself_is_said_and_the_other_goes_on(web: TestClient, running: AppState) -> None:
    web.put("/api/after/plan", json={"page": True})
    act(web, "record")
    written(running, 0.5)
    running.running.page_recorder._failed(OSError("the disk refused"))
    told = web.get("/api/teach/tools").json()["recording"]
    assert told["state"] == "recording"
    assert told["says"] == "The page’s own film has stopped. What goes out is still recorded."
    running.recording.look_after()
    act(web, "stop")
    running.recording.wait()
    assert len(web.get("/api/after").json()["lessons"][0]["recordings"]) == 2
