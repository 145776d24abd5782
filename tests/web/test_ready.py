"""Ready, the first minute's proposals and timetables, by their routes: what is refused, bounded, and not kept."""

from datetime import datetime, timedelta
from typing import Any

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient

from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Size, bgr_from_frame
from cartouche.store import lessons
from cartouche.store.lessons import Lesson
from cartouche.web.state import AppState
from cartouche.web.timetable import open_due
from tests.screens.two_cameras import drawn_page

TAB = "abcdefgh"


def jpeg(picture: np.ndarray) -> bytes:
    return cv2.imencode(".jpg", picture)[1].tobytes()


def saw(web: TestClient, camera: int, picture: np.ndarray | bytes, tab: str = TAB) -> Any:
    content = picture if isinstance(picture, bytes) else jpeg(picture)
    return web.post(f"/api/first/{tab}/cameras/{camera}", content=content, headers={"Content-Type": "image/jpeg"})


def test_page_and_face_are_proposed_and_nothing_is_kept(web: TestClient, state: AppState) -> None:
    before = [device.id for device in state.devices()]
    first = saw(web, 0, drawn_page(2, True)).json()
    assert first["page"]["camera"] == 0
    assert first["face"] is None
    assert first["rig"] == "clip-mirror"
    both = saw(web, 1, bgr_from_frame(Presenter(Size(1280, 720)).picture(1.0, 0.0))).json()
    assert (both["page"]["camera"], both["face"]["camera"]) == (0, 1)
    assert min(both["page"]["sure"], both["face"]["sure"]) > 0.9
    assert saw(web, 0, np.zeros((480, 640, 3), np.uint8), "hgfedcba").json()["says"].startswith("Every picture is dark")
    assert [device.id for device in state.devices()] == before


@pytest.mark.parametrize("content", [b"", b"nonsense", b"\xff\xd8\xff\xe0" + b"0" * 100, jpeg(np.zeros((8, 8, 3), np.uint8))])
def test_what_is_no_picture_is_refused_in_a_sentence(web: TestClient, content: bytes) -> None:
    answer = saw(web, 0, content)
    assert answer.status_code == 422
    assert answer.json()["detail"].endswith(".")


def test_a_picture_that_is_too_large_and_too_many_cameras_are_refused(web: TestClient) -> None:
    assert saw(web, 0, b"\xff\xd8" + bytes(300_000)).status_code == 413
    assert saw(web, 12, drawn_page()).status_code == 422
    assert saw(web, 0, drawn_page(), "no.tab").status_code == 422


def test_the_check_has_every_line_and_asks_for_what_only_it_measures(web: TestClient, state: AppState) -> None:
    view = web.get("/api/ready").json()
    ids = {check["id"] for check in view["checks"]}
    assert {"page-live", "face-live", "page", "microphone", "loop", "lips", "way", "computer", "disk", "lesson"} <= ids
    assert all(check["says"] for check in view["checks"])
    assert view["summary"]["says"]
    assert any(surface.kind == "page" for surface in state.running.demand.surfaces) or state.running.ready._asked()


def test_without_a_lesson_it_says_so(web: TestClient, state: AppState) -> None:
    for lesson in web.get("/api/lessons").json()["lessons"]:
        web.delete(f"/api/lessons/{lesson['id']}")
    checks = {check["id"]: check for check in web.get("/api/ready").json()["checks"]}
    assert checks["lesson"]["press"] == "open-lesson"
    assert checks["page-live"]["press"] == "first"
    assert web.get("/api/live").json()["ready"] is None
    assert web.post("/api/ready/trial").status_code == 409


def test_exchange_is_its_own_undo(web: TestClient, state: AppState) -> None:
    before = {device.id: device.serves for device in state.devices()}
    web.post("/api/ready/exchange")
    after = {device.id: device.serves for device in state.devices()}
    assert after["desk-camera"] == "face"
    assert after["face-camera"] == "page"
    web.post("/api/ready/exchange")
    assert {device.id: device.serves for device in state.devices()} == before


def test_the_walk_takes_only_symptoms_it_knows(web: TestClient) -> None:
    assert len(web.get("/api/ready/symptoms").json()) == 6
    assert web.post("/api/ready/walk", json={"symptom": "hungry"}).status_code == 422
    step = web.post("/api/ready/walk", json={"symptom": "cannot-hear", "answers": {"one-learner": "yes"}}).json()
    assert step["end"]["cause"] == "one"
    assert "What is wrong: I can’t hear them" in step["end"]["report"]
    assert "9B" not in step["end"]["report"]


CALENDAR = """BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//Larkmoor//EN
BEGIN:VEVENT
UID:{uid}
DTSTAMP:20261101T000000Z
SUMMARY:7D Map scales
DTSTART:{start}
DURATION:PT45M
END:VEVENT
END:VCALENDAR
"""


def timetable(web: TestClient, text: str) -> Any:
    return web.post("/api/lessons/calendar", content=text.encode(), headers={"Content-Type": "text/calendar"})


def test_a_newer_file_brings_a_lesson_up_to_date_and_keeps_its_plates(web: TestClient, state: AppState) -> None:
    now = datetime.now()
    first = CALENDAR.format(uid="1@larkmoor", start=f"{now:%Y%m%d}T101500")
    assert timetable(web, first).json() == {"added": 1, "changed": 0, "left_out": 0}
    view = web.get("/api/lessons").json()
    lesson = next(one for one in view["lessons"] if one["calendar_uid"])
    assert (lesson["title"], lesson["class_name"]) == ("Map scales", "7D")
    assert any(one["lesson_id"] == lesson["id"] and one["starts"] == "10:15" for one in view["today"])
    web.patch(f"/api/lessons/{lesson['id']}", json={"class_name": "7E"})
    moved = CALENDAR.format(uid="1@larkmoor", start=f"{now + timedelta(days=3):%Y%m%d}T113000").replace("7D Map", "Map")
    assert timetable(web, moved).json() == {"added": 0, "changed": 1, "left_out": 0}
    view = web.get("/api/lessons").json()
    again = next(one for one in view["lessons"] if one["id"] == lesson["id"])
    assert again["class_name"] == "7E"
    later = next(one for one in view["others"] if one["lesson_id"] == lesson["id"])
    assert (later["day"], later["starts"]) == (f"{now + timedelta(days=3):%Y-%m-%d}", "11:30")
    web.put("/api/lessons/open", json={"lesson_id": lesson["id"]})
    assert len(web.get("/api/teach").json()["plates"]) == 6


def test_a_broken_or_endless_timetable_changes_nothing(web: TestClient) -> None:
    before = web.get("/api/lessons").json()
    refused = timetable(web, CALENDAR.replace("SUMMARY:7D", "???"))
    assert refused.status_code == 422
    assert "Line 7" in refused.json()["detail"]
    assert timetable(web, "x" * 5_200_000).status_code == 413
    assert web.get("/api/lessons").json() == before


def test_dates_and_lengths_are_bounded(web: TestClient) -> None:
    new = {"title": "Maps", "class_name": "7D", "starts": "09:00"}
    for wrong in ({"day": "2026-02-30"}, {"minutes": 2}, {"minutes": 5000}, {"starts": "9:00"}, {"weekly": "often"}):
        assert web.post("/api/lessons", json={**new, **wrong}).status_code == 422
    made = web.post("/api/lessons", json={**new, "day": "2036-01-07", "weekly": True, "minutes": 90}).json()
    assert web.patch(f"/api/lessons/{made['id']}", json={"any_day": True}).json()["day"] is None


def test_a_copy_is_changed_on_its_own(web: TestClient) -> None:
    copy = web.post("/api/lessons/slopes-and-profiles-8c/copy", json={"class_name": "8D"}).json()
    assert copy["kit_id"] == "map-room"
    web.patch(f"/api/lessons/{copy['id']}", json={"title": "Another"})
    titles = {one["id"]: one["title"] for one in web.get("/api/lessons").json()["lessons"]}
    assert titles["slopes-and-profiles-8c"] == "Slopes and profiles"
    assert web.post("/api/lessons/nobody/copy", json={"class_name": "8D"}).status_code == 404


def test_the_lesson_whose_time_has_come_stands_open_once(state: AppState) -> None:
    now = datetime.now().replace(hour=10, minute=0, second=0, microsecond=0)
    due = Lesson(id="due", kit_id=None, title="Maps", class_name="7D", starts="10:10", day=now.date())
    state.add_lesson(due)
    assert state.lesson_id == "reading-the-ground-9b"
    assert open_due(state, now)
    assert state.lesson_id == "due"
    state.take_lesson("reading-the-ground-9b")  # the teacher chose otherwise
    assert not open_due(state, now)
    assert state.lesson_id == "reading-the-ground-9b"


def test_a_lesson_that_goes_out_is_not_taken_away(state: AppState) -> None:
    now = datetime.now().replace(hour=10, minute=0, second=0, microsecond=0)
    state.add_lesson(Lesson(id="due", kit_id=None, title="Maps", class_name="7D", starts="10:10", day=now.date()))
    state.running.windows.opened("a window")
    assert not open_due(state, now)
    state.running.windows.closed("a window")
    assert open_due(state, now + timedelta(minutes=5))


def test_a_lesson_that_is_recorded_is_not_taken_away(state: AppState) -> None:
    now = datetime.now().replace(hour=10, minute=0, second=0, microsecond=0)
    state.add_lesson(Lesson(id="due", kit_id=None, title="Maps", class_name="7D", starts="10:10", day=now.date()))
    with state.lock:
        state.recording.press()
    assert not open_due(state, now)
    assert state.recording.current is not None
    with state.lock:
        state.recording.stop()
    assert open_due(state, now + timedelta(minutes=5))


def test_times_of_a_calendar_go_with_their_lesson(web: TestClient, state: AppState) -> None:
    timetable(web, CALENDAR.format(uid="1@larkmoor", start=f"{datetime.now():%Y%m%d}T101500"))
    (lesson_id,) = lessons.times_of(state.database)
    web.delete(f"/api/lessons/{lesson_id}")
    assert lesson_id in lessons.times_of(state.database)  # it can still be brought back
    lessons.purge(state.database)
    assert lessons.times_of(state.database) == {}
