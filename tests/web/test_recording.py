"""Recordings by their routes: pressed, made whole, found after a kill, the page alone, and what is off at the end."""

import errno
import shutil
import time
from pathlib import Path

import cv2
import pytest
from fastapi.testclient import TestClient

from cartouche.core.ink.strokes import Ink, Stroke
from cartouche.core.record.chapters import SHORTEST_S
from cartouche.core.straighten.page_space import page_space
from cartouche.live.record.finish import length_of
from cartouche.store import recordings
from cartouche.store.database import cannot_save
from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.web.conftest import demo_state
from tests.web.taught import PAGE, act, written


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
    assert abs(out["length_s"] - alone["length_s"] - apart_s) < 1.5  # of six: there the last picture is older than the press too
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
