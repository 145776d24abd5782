"""The database locked or taken away in mid-lesson: presses take effect, nothing stands still, what happened is said."""

import contextlib
import sqlite3
import time
from collections.abc import Iterator

from fastapi.testclient import TestClient

from cartouche.core.teach.actions import ACTIONS
from cartouche.live.demand import OUTGOING
from cartouche.store import chains, lessons
from cartouche.web.state import AppState
from tests.helpers import eventually

GOES_ON = ("plate", "hold", "live", "timer", "closer", "right", "whole", "pen", "sheet", "adorn")


@contextlib.contextmanager
def locked(state: AppState) -> Iterator[None]:
    with contextlib.closing(sqlite3.connect(state.database.path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        yield
        other.execute("ROLLBACK")


def act(web: TestClient, action: str, **more: object) -> dict[str, object]:
    answer = web.post("/api/teach/actions", json={"action": action, **more})
    assert answer.status_code in (200, 409, 422), answer.text
    return dict(answer.json())


def test_the_lesson_goes_on_while_somebody_else_holds_the_file(web: TestClient, state: AppState) -> None:
    claim = state.running.demand.claim(OUTGOING)
    eventually(lambda: (feed := state.running.feeds.get("desk-camera")) is not None and feed.latest is not None)
    assert set(GOES_ON) <= {action.name for action in ACTIONS}
    with locked(state):
        for name in GOES_ON:
            begun_s = time.monotonic()
            act(web, name, number=2)
            assert time.monotonic() - begun_s < 4.0, name
            assert web.get("/api/teach").status_code == 200
        assert state.running.setup.plate is not None
        assert state.running.setup.plate.id == state.plates()[1].id
        assert state.running.setup.timer.started_s is not None
        assert "The lesson goes on" in web.get("/api/live").json()["kept_says"]
        chain = {**web.get("/api/square-up/face-camera").json()["chain"], "turn": {"on": True, "quarters": 1, "fine_deg": 0.0}}
        assert web.put("/api/square-up/face-camera/chain", json={"chain": chain}).status_code == 200
        assert state.running.setup.chains["face-camera"].turn.quarters == 1
        refused = web.put("/api/plates/order", json={"ids": [plate.id for plate in reversed(state.plates())]})
        assert refused.status_code == 507
        assert "another program holds" in refused.json()["detail"]
    eventually(lambda: web.get("/api/live").json()["kept_says"] == "")
    eventually(lambda: lessons.lesson(state.database, state.open_lesson().id).plate_id == state.plates()[1].id)
    assert chains.current(state.database, "face-camera").chain.turn.quarters == 1
    tools = web.get("/api/teach/tools").json()
    eventually(lambda: any(not sheet["waits"] for sheet in web.get("/api/teach/tools").json()["sheets"]))
    assert tools["sheets"]
    claim.release()


def test_nothing_fails_when_the_file_is_deleted_under_a_lesson(web: TestClient, state: AppState) -> None:
    before = [plate.id for plate in state.plates()]
    state.database.path.unlink()
    for address in ("/api/live", "/api/lessons", "/api/kit", "/api/plates", "/api/teach", "/api/after", "/api/privacy", "/api/sound"):
        assert web.get(address).status_code == 200, address
    act(web, "plate", number=3)
    eventually(state.database.path.exists)
    assert [one["plate"]["id"] for one in web.get("/api/plates").json()["plates"]] == before
    assert "nothing is lost" in web.get("/api/live").json()["kept_says"]
