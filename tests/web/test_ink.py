"""Ink by its socket and routes: drawn, kept while it is drawn, taken back, out and in as SVG; what is nonsense is passed over."""

import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from cartouche.store import ink
from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.live.conftest import viewer
from tests.web.conftest import OURS, SOCKETS, demo_state

GROUND = "desk-camera:1"


@pytest.fixture
def running(state: AppState) -> Iterator[AppState]:
    looking = viewer("outgoing")
    state.running.hub.join(looking)
    eventually(lambda: state.running.ink.ground, 30)
    yield state
    state.running.hub.leave(looking)


def begin(**more: Any) -> dict[str, Any]:
    return {"do": "begin", "tool": "pen", "colour": "#A93226", "width": 1.0, "x": 0.3, "y": 0.4, "p": 1.0, "t": 0.0, **more}


MOVES = {"do": "move", "points": [[0.3 + 0.01 * k, 0.4, 1.0, 0.02 * k] for k in range(20)]}


def strokes(state: AppState) -> int:
    return len(ink.inks(state.database, state.lesson_id or "").get(GROUND, ()))


def test_a_stroke_is_drawn_kept_and_taken_back(web: TestClient, running: AppState) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/teach/ink/hand", headers=OURS) as hand:
        for said in (begin(), MOVES, {"do": "end"}):
            hand.send_json(said)
        eventually(lambda: strokes(running) == 1)
    assert web.get("/api/teach/ink").json() == {"ground": GROUND, "count": 1, "hidden": False, "can_undo": True, "can_redo": False}
    assert web.post("/api/teach/ink", json={"do": "undo"}).json()["count"] == 0
    assert strokes(running) == 0
    assert web.post("/api/teach/ink", json={"do": "redo"}).json()["count"] == 1
    assert web.post("/api/teach/ink", json={"do": "redo"}).status_code == 422
    assert web.post("/api/teach/ink", json={"do": "hide"}).json()["hidden"]
    assert web.post("/api/teach/ink", json={"do": "clear"}).json()["count"] == 0


def test_killed_in_mid_stroke_what_was_drawn_is_there_again(web: TestClient, running: AppState, tmp_path: Path) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/teach/ink/hand", headers=OURS) as hand:
        for said in (begin(), MOVES):
            hand.send_json(said)
        eventually(lambda: strokes(running) == 1)
        copy = tmp_path / "after-the-kill"
        shutil.copytree(running.database.path.parent, copy, ignore=lambda folder, names: ["after-the-kill"])
    again = demo_state(copy)
    try:
        kept = again.running.ink.ink(GROUND).strokes
        assert len(kept) == 1
        assert len(kept[0].points) > 10
    finally:
        again.close()


def test_a_hand_that_vanishes_leaves_its_stroke_as_far_as_it_came(web: TestClient, running: AppState) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/teach/ink/hand", headers=OURS) as hand:
        hand.send_json(begin())
        hand.send_json(MOVES)
        eventually(lambda: [len(drawn[-1].points) for drawn in running.running.ink.unfinished().values()] == [21])
    eventually(lambda: running.running.ink.ink(GROUND).strokes and not running.running.ink.unfinished())
    eventually(lambda: strokes(running) == 1)


@pytest.mark.parametrize(
    "nonsense",
    [
        "", "[]", "{", '{"do": "explode"}', '{"do": "begin"}', '{"do": "move", "points": [[1e999, 0, 0, 0]]}',
        '{"do":"move","points":' + "[[0,0,1,0]]" * 500,
    ],
)  # fmt: skip
def test_nonsense_is_passed_over(web: TestClient, running: AppState, nonsense: str) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/teach/ink/hand", headers=OURS) as hand:
        hand.send_text(nonsense)
        for said in (begin(), MOVES, {"do": "end"}):
            hand.send_json(said)
        eventually(lambda: strokes(running) == 1)


def test_two_hands_draw_at_once(web: TestClient, running: AppState) -> None:
    path = f"{SOCKETS}/api/teach/ink/hand"
    with web.websocket_connect(path, headers=OURS) as one, web.websocket_connect(path, headers=OURS) as two:
        for hand in (one, two):
            hand.send_json(begin())
        for hand in (two, one):
            hand.send_json(MOVES)
            hand.send_json({"do": "end"})
        eventually(lambda: strokes(running) == 2)


def test_svg_out_and_in_again(web: TestClient, running: AppState) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/teach/ink/hand", headers=OURS) as hand:
        for said in (begin(), MOVES, {"do": "end"}):
            hand.send_json(said)
        eventually(lambda: strokes(running) == 1)
    content = web.get("/api/teach/ink/page.svg").content
    assert b"viewBox" in content
    web.post("/api/teach/ink", json={"do": "clear"})
    assert web.put("/api/teach/ink/page.svg", content=content).json()["count"] == 1
    refused = web.put("/api/teach/ink/page.svg", content=b"nothing")
    assert refused.status_code == 422
    assert "holds no ink" in refused.json()["detail"]
    assert web.put("/api/teach/ink/page.svg", content=b" " * 5_100_000).status_code == 413
    assert strokes(running) == 1


def test_without_a_page_there_is_nothing_to_draw_on(web: TestClient, running: AppState) -> None:
    web.post("/api/teach/actions", json={"action": "plate", "number": 3})  # the face alone
    eventually(lambda: running.running.ink.ground is None)
    assert web.post("/api/teach/ink", json={"do": "undo"}).status_code == 409
    with web.websocket_connect(f"{SOCKETS}/api/teach/ink/hand", headers=OURS) as hand:
        hand.send_json(begin())
        assert "No page is shown" in hand.receive_json()["says"]
