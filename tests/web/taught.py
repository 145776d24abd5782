"""A lesson that is taught by its routes: the page seen, presses, and seconds of a recording."""

from typing import Any

from fastapi.testclient import TestClient

from cartouche.web.state import AppState
from tests.helpers import eventually

PAGE = "desk-camera"


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
