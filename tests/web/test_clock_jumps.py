"""The computer's clock is set in mid-lesson: what counts seconds goes on, and nothing answers with a fault."""

import time

import pytest
from fastapi.testclient import TestClient

from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.live.conftest import viewer

DAY_S = 86_400.0
REAL = time.time
ASKED = ("/api/live", "/api/lessons", "/api/kit", "/api/ready", "/api/teach/tools", "/api/after", "/api/privacy", "/api/sound", "/api/ways")


@pytest.mark.parametrize("jump_s", [DAY_S, -DAY_S, -10 * 365 * DAY_S], ids=["a day ahead", "a day back", "ten years back"])
def test_a_lesson_goes_on(web: TestClient, state: AppState, monkeypatch: pytest.MonkeyPatch, jump_s: float) -> None:
    web.put("/api/teach/timer", json={"way": "up", "total_s": 600.0})
    web.post("/api/teach/actions", json={"action": "timer"})
    code = web.post("/api/guests/invitation", json={"name": "Phone", "address": "127.0.0.1"}).json()["code"]
    looks = viewer("outgoing", 320)
    state.running.hub.join(looks)
    eventually(lambda: state.running.desk.latest)
    before = web.get("/api/teach/tools").json()["timer"]
    monkeypatch.setattr(time, "time", lambda: REAL() + jump_s)
    for path in ASKED:
        assert web.get(path).status_code == 200, path
    later = web.get("/api/teach/tools").json()["timer"]
    assert before["runs"]
    assert later["runs"]
    assert 0 <= later["counted_s"] - before["counted_s"] < 30
    assert web.get("/api/guests/invitation").json()["code"] == code
    eventually(lambda: web.post("/api/teach/actions", json={"action": "sheet"}).status_code == 200)  # once the page is known
    last = state.running.desk.latest
    looks.drawn = looks.given
    eventually(lambda: state.running.desk.latest is not last)
    state.running.hub.leave(looks)
