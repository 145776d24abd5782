"""Square up over its routes: card, lens, framings, advice, undo over everything, as last time."""

import time
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cartouche.core.straighten.geometry import transform
from cartouche.store import chains
from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.live.conftest import viewer

DESK, CLIP = "desk-camera", "clip-camera"


@pytest.fixture
def running(web: TestClient, state: AppState) -> Callable[..., Any]:
    """Asks for a route of one device once its feed has pictures."""

    def ask(method: str, device: str, path: str = "", **body: Any) -> Any:
        feed = state.running.feeds.get(device)
        assert feed is not None
        if not feed.wanted:
            feed.want(True, time.monotonic())
        until = time.monotonic() + 20
        while feed.latest is None and time.monotonic() < until:
            time.sleep(0.05)
        answer = web.request(method, f"/api/square-up/{device}{path}", json=body or None)
        assert answer.status_code == 200, answer.text
        return answer.json()

    return ask


def lay(web: TestClient, state: AppState, device: str, thing: str) -> None:
    assert web.put(f"/api/kit/devices/{device}/lies", json={"thing": thing}).status_code == 204
    feed = state.running.feeds.get(device)
    assert feed is not None
    before = feed.latest
    until = time.monotonic() + 20
    while (feed.latest is before or feed.latest is None) and time.monotonic() < until:
        time.sleep(0.05)
    time.sleep(0.3)


def test_the_card_sets_everything_and_undo_takes_it_back(web: TestClient, state: AppState, running: Callable[..., Any]) -> None:
    before = running("GET", CLIP)["chain"]
    lay(web, state, CLIP, "card")
    told = running("POST", CLIP, "/card")
    assert told["card"]["mirrored"] is True
    assert told["chain"]["mirror"]["left_right"] is True
    assert told["chain"]["square"]["paper"] == "A4"
    assert told["learners"]["reads_true"] is True
    assert told["card"]["took_ms"] < 2000
    assert running("POST", CLIP, "/undo")["chain"] == before
    assert running("POST", CLIP, "/redo")["chain"] == told["chain"]


def test_without_a_card_one_sentence_and_nothing_is_changed(web: TestClient, state: AppState, running: Callable[..., Any]) -> None:
    before = running("GET", DESK)["chain"]
    answer = web.post(f"/api/square-up/{DESK}/card")
    assert answer.status_code == 422
    assert "none of its eight marks" in answer.json()["detail"]
    assert running("GET", DESK)["chain"] == before


def test_the_lens_is_measured_from_the_page(running: Callable[..., Any]) -> None:
    told = running("POST", DESK, "/unbend")
    assert told["chain"]["unbend"]["on"] is True
    assert abs(told["distortion_percent"]) < 1.0  # the bench's own lens is straight


def test_framings_walk_and_show_their_part(running: Callable[..., Any]) -> None:
    running("POST", DESK, "/find")
    whole = running("PUT", DESK, "/frame", framing="whole")["visible"]
    band = running("PUT", DESK, "/frame", framing="band")["visible"]
    after = running("PUT", DESK, "/frame", framing="next")["visible"]
    assert whole == pytest.approx([0, 0, 1, 1], abs=0.02)
    assert band[3] - band[1] < 0.9
    assert after[1] > band[1]
    assert after[1] < band[3]


def test_the_board_is_mended_alone(running: Callable[..., Any]) -> None:
    def reads(view: Any) -> dict[str, bool]:
        return {line["who"].split(",")[0]: line["path"]["reads_true"] for line in view["paths"]}

    before = running("GET", DESK)
    assert reads(before) == {"Learners": True, "You": False}
    before = running("PUT", DESK, "/board", fed_by="call")
    assert reads(before) == {"Learners": True, "Board in the room": False, "You": False}
    after = running("PUT", DESK, "/board", fed_by="window")
    assert reads(after) == {"Learners": True, "Board in the room": True, "You": False}
    assert after["chain"] == before["chain"]


def test_as_last_time_needs_an_earlier_day(web: TestClient, state: AppState, running: Callable[..., Any]) -> None:
    assert running("GET", DESK)["last_time"] is False
    answer = web.post(f"/api/square-up/{DESK}/last-time")
    assert answer.status_code == 422
    state.database.write(lambda c: c.execute("UPDATE usual_chain SET day = '2026-01-01' WHERE device_id = ?", (DESK,)))
    kept = running("GET", DESK)["chain"]
    changed = {**kept, "turn": {"on": True, "quarters": 1, "fine_deg": 3.0}}
    assert running("PUT", DESK, "/chain", chain=changed)["last_time"] is True
    assert running("POST", DESK, "/last-time")["chain"] == kept


def test_each_rig_remembers_its_own_chain(web: TestClient, state: AppState, running: Callable[..., Any]) -> None:
    kept = running("GET", DESK)["chain"]
    mine = {**kept, "turn": {"on": True, "quarters": 3, "fine_deg": -2.0}}
    running("PUT", DESK, "/chain", chain=mine)
    rig = state.device(DESK).rig
    for other in ("gooseneck", rig):
        assert web.patch(f"/api/kit/devices/{DESK}", json={"rig": other}).status_code == 200
    assert running("GET", DESK)["chain"] == mine


steps = st.lists(
    st.one_of(
        st.integers(0, 3).map(lambda q: ("turn", {"quarters": q})),
        st.booleans().map(lambda b: ("mirror", {"left_right": b})),
        st.floats(1, 8).map(lambda z: ("frame", {"zoom": z})),
        st.booleans().map(lambda b: ("light", {"on": b})),
        st.just(("undo", {})),
        st.just(("redo", {})),
    ),
    min_size=1,
    max_size=14,
)


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(steps)
def test_undo_after_any_sequence_gives_the_same_chain(state: AppState, asked: list[tuple[str, dict[str, Any]]]) -> None:
    first = chains.current(state.database, DESK).chain
    history, at = [first], 0
    for name, values in asked:
        if name == "undo" and at > 0:
            chains.undo(state.database, DESK)
            at -= 1
        elif name == "redo" and at < len(history) - 1:
            chains.redo(state.database, DESK)
            at += 1
        elif name not in ("undo", "redo"):
            link = getattr(history[at], name).model_copy(update=values)
            history, at = [*history[: at + 1], history[at].model_copy(update={name: link})], at + 1
            chains.settle(state.database, DESK, history[at])
        assert chains.current(state.database, DESK).chain == history[at]
    while at > 0:
        chains.undo(state.database, DESK)
        at -= 1
        assert chains.current(state.database, DESK).chain == history[at]


@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_the_card_is_served_as_pdf_and_picture(web: TestClient, paper: str) -> None:
    assert web.get(f"/api/card/{paper}.pdf").content.startswith(b"%PDF")
    assert web.get(f"/api/card/{paper}.png").content.startswith(b"\x89PNG")
    assert web.get("/api/card/B5.pdf").status_code == 422


def test_what_is_visible_is_read_off_the_plate_as_it_is_laid(web: TestClient, state: AppState, running: Callable[..., Any]) -> None:
    """The part of the page that Square up says goes out is the part that the desk has drawn."""
    viewing = viewer("outgoing")
    state.running.hub.join(viewing)
    composer = state.running.desk._composer

    def drawn() -> list[float]:
        placed = composer.placing_of(0)
        assert placed is not None
        ends = np.array([[placed.box.x0, placed.box.y0], [placed.box.x1, placed.box.y1]], float)
        on_canvas = transform(np.linalg.inv(placed.canvas_matrix), ends) / np.array(placed.straightened.canvas)
        return [float(value) for value in on_canvas.clip(0, 1).ravel()]

    for framing in ("whole", "upper", "band", "next"):
        said = running("PUT", DESK, "/frame", framing=framing)["visible"]
        eventually(lambda said=said: drawn() == pytest.approx(said, abs=0.01))  # type: ignore[misc]
        assert running("GET", DESK)["visible"] == pytest.approx(said, abs=0.01), framing
