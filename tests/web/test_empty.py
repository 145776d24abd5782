"""With nothing kept: every screen opens, and whatever is pressed first brings a lesson and a kit into being."""

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES
from cartouche.live.running import RunningLesson
from cartouche.store.database import Database
from cartouche.web.app import create_app
from cartouche.web.state import AppState
from tests.web.conftest import HERE


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[TestClient]:
    state = AppState(Database(tmp_path), RunningLesson(CallCodec, CallVoice), DEVICES)
    with TestClient(create_app(state), base_url=HERE) as client:
        yield client


CAMERA = {"kind": "camera", "source": "abc", "label": "Cam", "name": "Desk", "rig": "arm-own-side", "serves": "page"}
PLATES = '{"format": "cartouche-plates", "version": 1, "plates": [{"id": "p", "name": "Mine", "places": []}]}'
KIT = '{"format": "cartouche-kit", "version": 1, "name": "Bag", "room": "Hall", "devices": []}'
JSON = {"content-type": "application/json"}
FIRST_PRESSES: dict[str, Callable[[TestClient], int]] = {
    "a lesson": lambda web: web.post("/api/lessons", json={"title": "Scales", "class_name": "7D", "starts": "09:00"}).status_code,
    "a camera": lambda web: web.post("/api/kit/devices", json=CAMERA).status_code,
    "a stream": lambda web: web.post("/api/kit/devices", json={**CAMERA, "kind": "stream", "source": "rtsp://c.local/1"}).status_code,
    "a kit": lambda web: web.post("/api/kits", json={"name": "Bag", "room": "Hall"}).status_code,
    "a kit file": lambda web: web.post("/api/kits/import", content=KIT, headers=JSON).status_code,
    "a plate": lambda web: web.post("/api/plates", json={"name": "Mine"}).status_code,
    "a plates file": lambda web: web.post("/api/plates/import", content=PLATES, headers=JSON).status_code,
    "a phone": lambda web: web.post("/api/guests/invitation", json={"rig": "in-hand", "address": "127.0.0.1"}).status_code,
}


@pytest.mark.parametrize(
    "path", ["/api/lessons", "/api/kit", "/api/kits", "/api/plates", "/api/teach", "/api/live", "/api/guests/networks"]
)
def test_every_screen_opens_empty(empty: TestClient, path: str) -> None:
    assert empty.get(path).status_code == 200


@pytest.mark.parametrize("first", FIRST_PRESSES)
def test_whatever_is_pressed_first_brings_a_lesson_into_being(empty: TestClient, first: str) -> None:
    assert FIRST_PRESSES[first](empty) == 201
    if first != "a phone":  # the lesson comes with the phone
        assert empty.get("/api/live").json()["lesson_id"] == empty.get("/api/lessons").json()["lessons"][0]["id"]
        assert len(empty.get("/api/lessons").json()["lessons"]) == 1
    assert FIRST_PRESSES["a camera"](empty) == 201
    assert empty.get("/api/kit").json()["devices"][-1]["name"] == ("Desk 2" if first in ("a camera", "a stream") else "Desk")
    assert empty.get("/api/live").json()["outgoing"]["plate_id"]


def test_a_phone_that_comes_first_brings_them_too(empty: TestClient) -> None:
    code = empty.post("/api/guests/invitation", json={"rig": "in-hand", "serves": "page", "address": "127.0.0.1"}).json()["code"]
    inviting = empty.app.state.guests.inviting  # type: ignore[attr-defined]
    device, _ = inviting.enter(code, "phone", "Phone")
    kit = empty.get("/api/kit").json()
    assert [one["id"] for one in kit["devices"]] == [device.id]
    assert kit["kit"]["name"] == "My kit"


def test_the_call_and_the_window_size_work_with_nothing_kept(empty: TestClient) -> None:
    assert empty.post("/api/teach/call/start").json()["running"]
    assert empty.put("/api/teach/outgoing", json={"size": "1080p"}).status_code == 200
    assert empty.post("/api/teach/call/stop").status_code == 200


def test_lessons_are_renamed_deleted_to_the_last_and_brought_back(empty: TestClient) -> None:
    first = empty.post("/api/lessons", json={"title": "Scales", "class_name": "7D", "starts": "09:00"}).json()
    second = empty.post("/api/lessons", json={"title": "Slopes", "class_name": "8C", "starts": "11:00"}).json()
    renamed = empty.patch(f"/api/lessons/{first['id']}", json={"title": "Map scales"}).json()
    assert (renamed["title"], renamed["class_name"]) == ("Map scales", "7D")
    assert empty.get("/api/live").json()["lesson_id"] == first["id"]
    assert empty.delete(f"/api/lessons/{first['id']}").status_code == 204
    assert empty.get("/api/live").json()["lesson_id"] == second["id"], "the next one is open"
    assert empty.delete(f"/api/lessons/{second['id']}").status_code == 204
    left = empty.get("/api/lessons").json()
    assert (left["lessons"], left["today"], left["others"], left["open_id"]) == ([], [], [], None)
    assert empty.delete(f"/api/lessons/{second['id']}").status_code == 404
    assert empty.post(f"/api/lessons/{first['id']}/restore").json()["title"] == "Map scales"
    assert empty.get("/api/live").json()["lesson_id"] == first["id"]
    assert len(empty.get("/api/plates").json()["plates"]) == 6, "with its plates"
    assert empty.post("/api/lessons/nothing/restore").status_code == 404


def test_what_was_deleted_is_gone_for_good_with_the_next_start(tmp_path: Path) -> None:
    for number in range(2):
        state = AppState(Database(tmp_path), RunningLesson(CallCodec, CallVoice), DEVICES)
        with TestClient(create_app(state), base_url=HERE) as web:
            if number == 0:
                made = web.post("/api/lessons", json={"title": "Scales", "class_name": "7D", "starts": "09:00"}).json()
                web.delete(f"/api/lessons/{made['id']}")
            else:
                assert web.post(f"/api/lessons/{made['id']}/restore").status_code == 404
