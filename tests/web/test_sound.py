"""Sound over its socket and routes: what is no sound is refused, memory is bounded, nobody else may send."""

import time
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from cartouche.core.sound.loudness import RATE
from cartouche.live.sound.microphones import MAX_BLOCK, MAX_MICROPHONES
from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.web.conftest import OURS, SOCKETS

BLOCK = bytes(8) + np.zeros(960, "<i2").tobytes()


def test_a_microphone_comes_is_opened_and_goes(web: TestClient, state: AppState) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/sound/abc?label=Lapel", headers=OURS) as socket:
        socket.send_bytes(BLOCK)
        assert eventually(lambda: [one for one in web.get("/api/sound").json()["microphones"] if one["here"]])[0]["label"] == "Lapel"
        opened = web.put("/api/sound/open", json={"id": "abc"}).json()
        assert opened["microphones"][0]["open"]
        assert web.get("/api/live").json()["microphone"] == {"id": "abc", "label": "Lapel"}
        assert not web.put("/api/sound/open", json={"id": None}).json()["microphones"][0]["open"]
    eventually(lambda: web.get("/api/sound").json()["microphones"] == [])
    assert web.put("/api/sound/open", json={"id": "abc"}).status_code == 404
    assert web.put("/api/sound/open", json={"id": "../x"}).status_code == 422


def test_a_press_waits_for_no_closed_microphone_to_be_looked_through(web: TestClient, state: AppState) -> None:
    microphones, comes_s = state.running.sound.microphones, time.monotonic() + 60  # is here, however slow this machine is
    for name in ("a", "b"):
        assert microphones.join(name, f"Microphone {name}")
        microphones.take(name, 0, np.ones(2 * RATE, np.int16), comes_s)

    def heard(view: dict[str, Any]) -> list[bool]:
        return [one["heard"] is not None for one in view["microphones"]]

    assert not heard(web.put("/api/sound/open", json={"id": "a"}).json())[1]
    eventually(lambda: heard(web.get("/api/sound").json()) == [True, True])  # while another looks through them, what is known is told


@pytest.mark.parametrize(
    "content", [b"", b"x", bytes(8), bytes(11), bytes(8 + 2 * MAX_BLOCK + 2)], ids=["empty", "short", "no sample", "odd", "too much"]
)
def test_what_is_no_sound_ends_the_line(web: TestClient, content: bytes) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/sound/abc", headers=OURS) as socket:
        socket.send_bytes(content)
        with pytest.raises(WebSocketDisconnect) as ended:
            socket.receive_text()
    assert ended.value.code == 1003


def test_text_is_no_sound(web: TestClient) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/sound/abc", headers=OURS) as socket:
        socket.send_text("NaN")
        with pytest.raises(WebSocketDisconnect):
            socket.receive_text()


def test_other_pages_may_not_send(web: TestClient) -> None:
    elsewhere = {**OURS, "origin": "http://elsewhere.example"}
    with pytest.raises(WebSocketDisconnect), web.websocket_connect(f"{SOCKETS}/api/sound/abc", headers=elsewhere) as socket:
        socket.receive_text()


def test_there_are_only_so_many(web: TestClient, state: AppState) -> None:
    for number in range(MAX_MICROPHONES):
        state.running.sound.microphones.join(f"m{number}", "")
    with web.websocket_connect(f"{SOCKETS}/api/sound/more", headers=OURS) as socket, pytest.raises(WebSocketDisconnect) as ended:
        socket.receive_text()
    assert ended.value.code == 4429
    for number in range(MAX_MICROPHONES):
        state.running.sound.microphones.leave(f"m{number}")


def test_a_flood_is_bounded(web: TestClient, state: AppState) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/sound/abc", headers=OURS) as socket:
        for _ in range(400):
            socket.send_bytes(bytes(8) + np.ones(MAX_BLOCK, "<i2").tobytes())
        eventually(lambda: web.get("/api/sound").json()["microphones"][0]["here"])
        assert state.running.sound.microphones._by_id["abc"]._kept <= 5 * 48_000 + MAX_BLOCK
