"""The extension's few addresses: paired once, by its origin and its key, and nothing else by either."""

import json
import struct
from typing import Any

import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from cartouche.core.call.pairing import MAX_ASKED
from cartouche.core.pictures import Size
from cartouche.web.app import create_app
from cartouche.web.pictures_in import MALFORMED
from cartouche.web.routers.extension import (
    CLOCK,
    HEADER,
    MAX_LINES,
    MAX_TEXTS_A_SECOND,
    NOT_PAIRED,
    PICTURE,
    SOUND,
    TOO_MANY,
    Wanted,
    encoded_size,
)
from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.web.conftest import OURS, SOCKETS

ORIGIN = "chrome-extension://" + "abcdefghijklmnop" * 2
OTHER = "chrome-extension://" + "ponmlkjihgfedcba" * 2
EXTENSION, FORGED = {"origin": ORIGIN}, {"origin": OTHER}
WANT = {"width": 640, "height": 360, "sound": True}
FOREIGN = ("https://calls.example.org", "null", "http://127.0.0.1:9", ORIGIN + ".example.org", "chrome-extension://short")


def paired(web: TestClient, headers: dict[str, str] = EXTENSION) -> str:
    asked = web.post("/api/extension/pair", json={}, headers=headers).json()
    assert web.post("/api/extension/paired", json={"secret": asked["secret"]}, headers=headers).json() == {"key": None}
    assert web.get("/api/ways").json()["code"] == asked["code"]
    assert web.post("/api/ways/pairing", json={"code": asked["code"]}).status_code == 204
    key: str = web.post("/api/extension/paired", json={"secret": asked["secret"]}, headers=headers).json()["key"]
    return key


def hello(key: str, **more: Any) -> str:
    return json.dumps({"key": key, "site": "https://calls.example.org", **WANT, **more})


def ended(web: TestClient, *texts: str, headers: dict[str, str] = EXTENSION) -> int:
    """The code that a line is closed with after these messages."""
    with web.websocket_connect(f"{SOCKETS}/api/extension/outgoing", headers=headers) as line:
        for text in texts:
            line.send_text(text)
        while (message := line.receive())["type"] != "websocket.close":
            assert message["type"] == "websocket.send"
    return int(message["code"])


def test_a_paired_extension_gets_pictures_and_sound(web: TestClient, state: AppState) -> None:
    key = paired(web)
    with web.websocket_connect(f"{SOCKETS}/api/extension/outgoing", headers=EXTENSION) as line:
        line.send_text(hello(key))
        came: dict[int, list[bytes]] = {PICTURE: [], SOUND: [], CLOCK: []}
        while len(came[PICTURE]) < 3 or len(came[SOUND]) < 3:
            message = line.receive_bytes()
            came[message[0]].append(message)
        what, is_key, _, _, captured_s = HEADER.unpack_from(came[PICTURE][0])
        assert (what, is_key) == (PICTURE, 1)
        assert came[PICTURE][0][HEADER.size :][:5] == b"\0\0\0\1\x67"
        assert len(came[SOUND][0]) == HEADER.size + 2 * 960
        assert 0 < captured_s <= HEADER.unpack_from(came[CLOCK][0])[4] + 5
        taken = web.get("/api/ways").json()["takers"]
        assert [(one["kind"], one["name"], one["sound"]) for one in taken] == [("extension", "https://calls.example.org", True)]
        assert web.get("/api/live").json()["going_out"]
        assert web.get("/api/live").json()["outgoing"]["taken_by"] == "Taken by calls.example.org"
        line.send_text(json.dumps({"do": "arrives", "width": 640, "height": 360, "fps": 29.5, "delay_ms": 44}))
        eventually(lambda: web.get("/api/ways").json()["takers"][0]["fps"] == 29.5)
        line.send_text(json.dumps({"do": "want", "want": {"width": 1280, "height": 720, "sound": False}}))
        eventually(lambda: [one.size for one in state.running.encodings.encoders] == [Size(1280, 720)])
    eventually(lambda: not web.get("/api/ways").json()["takers"])
    eventually(lambda: not state.running.encodings.encoders and not state.running.sound.mixer.claimed)


@pytest.mark.parametrize("origin", FOREIGN)
def test_a_page_cannot_ask_to_be_paired(web: TestClient, origin: str) -> None:
    assert web.post("/api/extension/pair", json={}, headers={"origin": origin}).status_code == 403


def test_neither_can_a_program_without_an_origin_or_our_own_page(web: TestClient) -> None:
    for headers in ({}, OURS):
        assert web.post("/api/extension/pair", json={}, headers=headers).status_code == 401


@pytest.mark.parametrize("origin", FOREIGN)
def test_a_foreign_origin_does_not_even_get_a_line(web: TestClient, origin: str) -> None:
    paired(web)
    with pytest.raises(WebSocketDisconnect), web.websocket_connect(f"{SOCKETS}/api/extension/outgoing", headers={"origin": origin}):
        pass


def test_the_key_opens_with_its_own_origin_alone(web: TestClient) -> None:
    key = paired(web)
    assert ended(web, hello(key), headers=FORGED) == NOT_PAIRED
    assert ended(web, hello(key), headers=OURS) == NOT_PAIRED
    assert ended(web, hello("x" * 43)) == NOT_PAIRED
    assert ended(web, hello("")) == NOT_PAIRED


@pytest.mark.parametrize(
    "text",
    ["", "{", "null", "[]", '{"key": 7}', hello("k" * 43, width=-1), hello("k" * 43, site="javascript:alert(1)"), "x" * 5000],
    ids=range(8),
)
def test_a_first_message_that_is_none_is_refused(web: TestClient, text: str) -> None:
    paired(web)
    assert ended(web, text) == NOT_PAIRED


def test_nothing_of_it_can_be_replayed(web: TestClient) -> None:
    first = paired(web)
    asked = web.post("/api/extension/pair", json={}, headers=EXTENSION).json()
    assert web.post("/api/ways/pairing", json={"code": "WRONG2"}).status_code == 422
    assert web.post("/api/ways/pairing", json={"code": asked["code"]}).status_code == 204
    assert web.post("/api/extension/paired", json={"secret": asked["secret"]}, headers=FORGED).status_code == 401
    second = web.post("/api/extension/paired", json={"secret": asked["secret"]}, headers=EXTENSION).json()["key"]
    assert web.post("/api/extension/paired", json={"secret": asked["secret"]}, headers=EXTENSION).status_code == 401
    assert web.post("/api/ways/pairing", json={"code": asked["code"]}).status_code == 422
    assert ended(web, hello(first)) == NOT_PAIRED  # a newer pairing took its place
    with web.websocket_connect(f"{SOCKETS}/api/extension/outgoing", headers=EXTENSION) as line:
        line.send_text(hello(second))
        assert line.receive_bytes()


def test_unpaired_is_unpaired(web: TestClient) -> None:
    key = paired(web)
    assert web.get("/api/ways").json()["paired"]
    web.delete("/api/ways/extension")
    assert not web.get("/api/ways").json()["paired"]
    assert ended(web, hello(key)) == NOT_PAIRED


def test_refused_pairing_is_told_to_the_asker(web: TestClient) -> None:
    asked = web.post("/api/extension/pair", json={}, headers=EXTENSION).json()
    web.delete("/api/ways/pairing")
    assert web.get("/api/ways").json()["code"] is None
    assert web.post("/api/extension/paired", json={"secret": asked["secret"]}, headers=EXTENSION).status_code == 401


def test_the_extension_reaches_nothing_else(web: TestClient) -> None:
    paired(web)
    for path in create_app(None).openapi()["paths"]:
        if not path.startswith("/api/extension/"):
            assert web.get(path, headers=EXTENSION).status_code == 403, path
    for path in ("/api/live", "/api/surfaces/outgoing", "/api/cameras/desk-camera", "/api/sound/x"):
        with pytest.raises(WebSocketDisconnect), web.websocket_connect(f"{SOCKETS}{path}", headers=EXTENSION):
            pass


def test_a_flood_of_pairings_is_refused(web: TestClient) -> None:
    answers = [web.post("/api/extension/pair", json={}, headers=EXTENSION).status_code for _ in range(MAX_ASKED + 3)]
    assert answers == [201] * MAX_ASKED + [429] * 3


def test_a_flood_of_messages_ends_the_line(web: TestClient) -> None:
    assert ended(web, hello(paired(web)), *['{"do": "key"}'] * (3 * MAX_TEXTS_A_SECOND)) == MALFORMED


@pytest.mark.parametrize("wrong", ["{", '{"do": "everything"}', '{"do": "arrives", "fps": NaN}', "[" * 500, "x" * 2000])
def test_a_later_message_that_is_none_ends_the_line(web: TestClient, wrong: str) -> None:
    assert ended(web, hello(paired(web)), wrong) == MALFORMED


def test_lines_are_bounded(web: TestClient) -> None:
    key = paired(web)
    lines = [web.websocket_connect(f"{SOCKETS}/api/extension/outgoing", headers=EXTENSION) for _ in range(MAX_LINES)]
    try:
        for number, line in enumerate(lines):
            line.__enter__()
            line.send_text(hello(key, sound=False))
            eventually(lambda count=number + 1: len(web.get("/api/ways").json()["takers"]) == count)  # type: ignore[misc]
        assert ended(web, hello(key)) == TOO_MANY
    finally:
        for line in lines:
            line.__exit__(None, None, None)


def test_neither_key_nor_secret_is_kept_or_logged(web: TestClient, state: AppState, caplog: pytest.LogCaptureFixture) -> None:
    key = paired(web)
    ended(web, hello("wrong" * 8))
    assert key not in caplog.text
    assert "wrong" * 8 not in caplog.text
    for path in state.database.path.parent.glob("cartouche.sqlite3*"):
        assert key.encode() not in path.read_bytes()


@pytest.mark.parametrize(
    ("wide", "high", "outgoing", "size"),
    [
        (640, 360, (1280, 720), (640, 360)),
        (641, 361, (1280, 720), (1280, 720)),
        (640, 480, (1280, 720), (1280, 720)),
        (1920, 1080, (1280, 720), (1280, 720)),
        (1920, 1080, (1920, 1080), (1920, 1080)),
        (100, 50, (1280, 720), (320, 180)),
        (3840, 2160, (1280, 720), (1280, 720)),
    ],
)
def test_few_sizes_are_encoded_and_never_more_than_there_is(wide: int, high: int, outgoing: tuple[int, int], size: tuple[int, int]) -> None:
    assert encoded_size(Wanted(width=wide, height=high), Size(*outgoing)) == Size(*size)


def test_the_header_is_sixteen_bytes() -> None:
    assert HEADER.size == struct.calcsize("<BBHId") == 16
