"""The Way in screen's addresses: audiences of one's own, kinds of call, what was tried; and who watches from elsewhere."""

import asyncio
import json
import re
import time
import urllib.error
import urllib.request
from collections.abc import Iterator

import pytest
from aiortc import RTCPeerConnection, RTCRtpReceiver
from fastapi.testclient import TestClient

from cartouche.core.call.audience import MAX_VIEWERS
from cartouche.core.call.kinds import KINDS
from cartouche.store import watchers
from cartouche.web.guests import watching
from cartouche.web.state import AppState
from tests.helpers import FEW, Application, eventually, ran
from tests.web.test_guests import ADDRESS, Door, invite, trusting

BOARD = {"id": "board", "name": "Board", "count": 1, "screen": "board", "shown": "full"}


def viewers(web: TestClient) -> list[dict]:  # type: ignore[type-arg]
    return web.get("/api/ways").json()["viewers"]  # type: ignore[no-any-return]


def test_audiences_are_the_teachers_own_and_kept_with_the_class(web: TestClient, state: AppState) -> None:
    view = web.put("/api/ways/viewers", json={"viewers": [*viewers(web)[:1], BOARD]}).json()
    assert [one["name"] for one in view["viewers"]] == ["Laptop, pinned", "Board"]
    assert [got["id"] for got in view["ways"][0]["gets"]] == ["pinned", "board"]
    assert [one["id"] for one in web.get("/api/live").json()["audiences"]] == ["pinned", "board"]
    open_id = state.open_lesson().id
    same = web.post("/api/lessons", json={"title": "Again", "class_name": state.open_lesson().class_name, "starts": "10:00"}).json()
    other = web.post("/api/lessons", json={"title": "Else", "class_name": "11C", "starts": "11:00"}).json()

    def named(title: str) -> str:
        return next(one["id"] for one in web.get("/api/lessons").json()["lessons"] if one["title"] == title)

    assert same is not None
    assert other is not None
    web.put("/api/lessons/open", json={"lesson_id": named("Else")})
    assert len(viewers(web)) == 4
    web.put("/api/lessons/open", json={"lesson_id": named("Again")})
    assert len(viewers(web)) == 2
    web.put("/api/lessons/open", json={"lesson_id": open_id})
    assert len(viewers(web)) == 2


def test_the_practice_call_serves_other_audiences_at_once(web: TestClient, state: AppState) -> None:
    web.post("/api/teach/call/start")
    web.put("/api/ways/viewers", json={"viewers": [BOARD]})
    assert state.running.call.running
    assert [audience.id for audience in state.running.verdicts.by_webcam()] == ["board"]


@pytest.mark.parametrize(
    "wrong",
    [[], [BOARD, BOARD], [{**BOARD, "id": f"b{number}"} for number in range(MAX_VIEWERS + 1)], [{**BOARD, "count": 0}], "board"],
    ids=["none", "twice", "too many", "nobody", "no list"],
)
def test_audiences_that_are_none_are_refused_and_nothing_is_lost(web: TestClient, wrong: object) -> None:
    before = viewers(web)
    answer = web.put("/api/ways/viewers", json={"viewers": wrong})
    assert answer.status_code == 422
    assert viewers(web) == before


def test_the_kind_of_call_decides_and_is_kept(web: TestClient, state: AppState) -> None:
    program = next(kind for kind in KINDS if kind.id == "program").model_dump()
    view = web.put("/api/ways/call", json=program).json()
    assert next(way for way in view["ways"] if way["id"] == "extension")["impossible"]
    slow = {**program, "share": {**program["share"], "fps": 3}}
    view = web.put("/api/ways/call", json=slow).json()
    assert next(way for way in view["ways"] if way["id"] == "tab")["fps"] == 3
    state.reopen()
    assert web.get("/api/ways").json()["call"]["share"]["fps"] == 3
    assert web.put("/api/ways/call", json={**program, "webcam": []}).status_code == 422


def test_what_was_tried_is_shown_as_measured(web: TestClient) -> None:
    assert web.put("/api/ways/tried/tab", json={"width": 1280, "height": 720, "fps": 27.5, "codec": "VP8"}).status_code == 204
    assert web.put("/api/ways/tried/pigeon", json={"width": 1, "height": 1, "fps": 1}).status_code == 422
    tab = next(way for way in web.get("/api/ways").json()["ways"] if way["id"] == "tab")
    assert (tab["tried"]["width"], tab["tried"]["fps"], tab["tried"]["codec"]) == (1280, 27.5, "VP8")


def test_the_delay_of_a_call_that_was_tried_here_takes_the_place_of_the_usual_one(web: TestClient) -> None:
    def delay_ms() -> float:
        return float(next(way["delay_ms"] for way in web.get("/api/ways").json()["ways"] if way["id"] == "tab"))

    practice = next(kind for kind in web.get("/api/ways").json()["kinds"] if kind["id"] == "practice")
    tried = {"width": 1280, "height": 720, "fps": 27.5, "delay_ms": 580.0}  # far from the usual: our own picture's delay changes meanwhile
    assert web.put("/api/ways/tried/tab", json=tried).status_code == 204
    assert delay_ms() < 450
    assert web.put("/api/ways/call", json=practice).status_code == 200
    assert delay_ms() > 550
    assert web.put("/api/ways/tried/tab", json={**tried, "delay_ms": -1}).status_code == 422


def test_a_server_is_only_reached_safely(web: TestClient) -> None:
    answer = web.put("/api/ways/server", json={"address": "http://calls.example.org/whip", "token": "secret"})
    assert answer.status_code == 422
    assert answer.json()["detail"].startswith("Type an address that begins with https://")
    assert web.get("/api/ways").json()["server"] == {"address": "", "state": "stopped", "says": None}


def test_a_server_that_is_not_there_is_said_and_given_up_by_a_press(web: TestClient, state: AppState) -> None:
    web.put("/api/ways/server", json={"address": "http://127.0.0.1:9/whip", "token": "very-secret"})
    eventually(lambda: web.get("/api/ways").json()["server"]["state"] == "waiting")
    assert "by itself" in web.get("/api/live").json()["outgoing"]["taker_says"]
    assert "very-secret" not in web.get("/api/ways").text
    web.delete("/api/ways/server")
    assert web.get("/api/ways").json()["server"]["state"] == "stopped"
    assert web.get("/api/live").json()["outgoing"]["taker_says"] is None
    for path in state.database.path.parent.glob("cartouche.sqlite3*"):
        assert b"very-secret" not in path.read_bytes()


def test_a_camera_device_that_is_none_is_refused(web: TestClient) -> None:
    assert web.put("/api/ways/device", json={"path": "/etc/passwd"}).status_code == 422
    assert web.put("/api/ways/device", json={"path": None}).status_code == 204


# from elsewhere


@pytest.fixture(scope="module")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    application = Application(tmp_path_factory.mktemp("watchers"), more=FEW).start()
    yield application
    application.stop()


def invited(app: Application) -> tuple[Door, str]:
    view = app.ask("POST", "/api/ways/invitation", {"address": ADDRESS})
    return Door(view["address"].removesuffix("/watch")), view["code"]


def entered(app: Application, name: str = "Board") -> tuple[Door, str]:
    door, code = invited(app)
    status, body = door.ask("POST", "/api/watch/enter", {"code": code, "name": name})
    assert status == 201
    return door, json.loads(body)["token"]


def offer(codec: str | None = None) -> bytes:
    """codec: the only one that is asked for."""

    async def made() -> str:
        connection = RTCPeerConnection()
        transceiver = connection.addTransceiver("video", direction="recvonly")
        known = RTCRtpReceiver.getCapabilities("video").codecs
        transceiver.setCodecPreferences([one for one in known if codec in (None, one.mimeType)])
        connection.addTransceiver("audio", direction="recvonly")
        await connection.setLocalDescription(await connection.createOffer())
        sdp: str = connection.localDescription.sdp
        await connection.close()
        return sdp

    return ran(made()).encode()


def sdp(door: Door, token: str | None, body: bytes) -> tuple[int, bytes]:
    return door.ask("POST", "/whep", body, token, **{"Content-Type": "application/sdp"})


def test_a_code_lets_one_screen_watch_once(app: Application) -> None:
    door, code = invited(app)
    assert door.ask("POST", "/api/watch/enter", {"code": code})[0] == 201
    assert door.ask("POST", "/api/watch/enter", {"code": code})[0] == 403
    assert door.ask("POST", "/api/watch/enter", {"code": "AAAAAA"})[0] == 403
    assert door.ask("GET", "/watch")[0] == 200


def test_a_watcher_gets_an_answer_and_nothing_of_the_phones(app: Application) -> None:
    door, token = entered(app)
    status, answer = sdp(door, token, offer())
    assert status == 201
    assert b"m=video" in answer
    assert re.search(rb"m=video \d+ \S+ (\d+)[^\n]*\n.*a=rtpmap:\1 H264/90000", answer, re.DOTALL)  # the first is the one that is sent
    eventually(lambda: [one["kind"] for one in app.get("/api/ways")["takers"]] == ["viewer"])
    assert door.ask("POST", "/api/guest/report", {"phase": "sending", "transport": "websocket"}, token)[0] == 401
    assert sdp(door, token, b"nonsense")[0] == 422
    assert door.ask("POST", "/whep", b"{}", token)[0] == 415
    assert sdp(door, token, b"x" * 70_000)[0] == 413


def test_a_browser_without_h264_watches_and_one_without_either_is_told(app: Application) -> None:
    door, token = entered(app)
    status, answer = sdp(door, token, offer("video/VP8"))
    assert status == 201
    assert b"VP8/90000" in answer
    assert b"H264" not in answer
    status, answer = sdp(door, token, offer("video/VP8").replace(b"VP8", b"XX8"))
    assert status == 422
    assert "takes neither H.264 nor VP8" in json.loads(answer)["detail"]


def test_who_never_comes_through_costs_nothing_any_more(state: AppState, monkeypatch: pytest.MonkeyPatch) -> None:
    offered, watcher = offer().decode(), watchers.Watcher(id="one", name="Board", address=ADDRESS, awaited_until=0.0, may="watch")

    async def settled() -> None: ...

    async def run() -> None:
        held = watching.Watching(state, settled, list)
        await held.answer(watcher, offered, lambda _: True)
        assert state.running.encodings.encoders
        await held.look_after()
        assert [taker.kind for taker in state.running.takers.all()] == ["viewer"]
        monkeypatch.setattr(watching, "CONNECTS_WITHIN_S", 0.3)
        async with asyncio.timeout(20):
            while state.running.takers.all():
                await asyncio.sleep(0.1)
                await held.look_after()
        assert not state.running.encodings.encoders

    ran(run())


def test_one_watcher_cannot_end_another_and_a_phones_token_does_not_watch(app: Application) -> None:
    door, mine = entered(app, "Mine")
    _, other = entered(app, "Other")
    request = urllib.request.Request(
        f"{door.address}/whep", offer(), {"Content-Type": "application/sdp", "Authorization": f"Bearer {mine}"}, method="POST"
    )
    with urllib.request.urlopen(request, timeout=10, context=trusting()) as answer:
        session = answer.headers["Location"]
    assert door.ask("DELETE", session, None, other)[0] == 401
    assert door.ask("POST", f"{session}/end", other.encode())[0] == 401
    assert door.ask("DELETE", session, None, mine)[0] == 200
    assert door.ask("DELETE", session, None, mine)[0] == 401
    invitation = invite(app)
    _, guest = door.enter(invitation["code"])
    assert sdp(door, guest["token"], offer())[0] == 401
    app.ask("DELETE", "/api/guests/invitation")


@pytest.mark.parametrize("token", [None, "", "x" * 43, "'; DROP TABLE watcher; --"])
def test_without_its_token_nobody_watches(app: Application, token: str | None) -> None:
    door, _ = entered(app)
    assert sdp(door, token, offer())[0] == 401


def test_ended_by_the_teacher_it_sees_nothing_any_more(app: Application) -> None:
    door, token = entered(app, "To be ended")
    watcher = next(one for one in app.get("/api/ways")["watchers"] if one["name"] == "To be ended")
    app.ask("DELETE", f"/api/ways/watchers/{watcher['id']}")
    assert sdp(door, token, offer())[0] == 401


def test_who_guesses_codes_is_made_to_wait(app: Application) -> None:
    door, _ = invited(app)
    answers = [door.ask("POST", "/api/watch/enter", {"code": f"AAAAA{number}"})[0] for number in range(2, 9)]
    assert answers[-1] == 403
    app.ask("DELETE", "/api/ways/invitation")


def test_a_room_system_sees_pictures_while_it_is_on(app: Application) -> None:
    app.ask("PUT", "/api/ways/network-camera", {"on": True, "address": ADDRESS})
    address = app.get("/api/ways")["network_camera"]
    with urllib.request.urlopen(address, timeout=10, context=trusting()) as stream:
        assert stream.headers["Content-Type"].startswith("multipart/x-mixed-replace")
        came = b""
        until = time.monotonic() + 15
        while came.count(b"image/jpeg") < 4 and time.monotonic() < until:
            came += stream.read1(65536)
        assert came.count(b"\xff\xd8\xff") >= 3
        assert "network camera" in [one["kind"] for one in app.get("/api/ways")["takers"]]
        app.ask("PUT", "/api/ways/network-camera", {"on": False})
        while stream.read1(65536):
            assert time.monotonic() < until + 15
    with pytest.raises(urllib.error.URLError):  # another key, or the door has closed
        urllib.request.urlopen(address, timeout=10, context=trusting())
    app.ask("PUT", "/api/ways/network-camera", {"on": True, "address": ADDRESS})
    assert app.get("/api/ways")["network_camera"] != address
    app.ask("PUT", "/api/ways/network-camera", {"on": False})


def test_an_address_that_is_not_ours_cannot_be_picked(app: Application) -> None:
    with pytest.raises(urllib.error.HTTPError):
        app.ask("POST", "/api/ways/invitation", {"address": "203.0.113.7"})
    app.ask("DELETE", "/api/ways/invitation")
