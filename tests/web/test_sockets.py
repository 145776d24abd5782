import asyncio
import json
import struct
import time

import pytest
from aiortc import RTCPeerConnection, RTCSessionDescription, VideoStreamTrack
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from cartouche.live.camera_feed import CameraFeed
from cartouche.web.guests.door import networks_here
from cartouche.web.pictures_in import MALFORMED, TAKEN_OVER, UNKNOWN
from cartouche.web.state import AppState
from tests.helpers import eventually, ran
from tests.live.conftest import viewer
from tests.live.test_camera_feed import UNITS, message
from tests.web.conftest import OURS, SOCKETS


def test_the_outgoing_picture_comes_newest_first_and_waits_to_be_drawn(web: TestClient) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/surfaces/outgoing?width=640", headers=OURS) as line:
        numbers = []
        for _ in range(4):
            number, _, width, height = struct.unpack_from("<IdHH", line.receive_bytes())
            numbers.append(number)
            assert (width, height) == (640, 360)
            line.send_text("drawn")
        assert numbers == sorted(set(numbers))


def test_the_clock_answers(web: TestClient) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/surfaces/audience:pinned", headers=OURS) as line:
        line.send_text("clock 12.5")
        word, token, moment = line.receive_text().split()
        assert (word, token) == ("clock", "12.5")
        assert float(moment) > 0


@pytest.mark.parametrize("wrong", ["", "draw", "drawn drawn", "clock " + "9" * 100, '{"drawn": true}', "\x00"])
def test_what_a_surface_does_not_take_ends_it(web: TestClient, wrong: str) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/surfaces/audience:pinned", headers=OURS) as line:
        line.send_text(wrong)
        with pytest.raises(WebSocketDisconnect) as ended:
            line.receive_text()
    assert ended.value.code == MALFORMED


@pytest.mark.parametrize("key", ["nothing", "raw:nobody", "page:", "audience:board", "raw:" + "x" * 500, "outgoing:1", "%00"])
def test_an_unknown_surface_is_named(web: TestClient, state: AppState, key: str) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/surfaces/{key}", headers=OURS) as line, pytest.raises(WebSocketDisconnect) as ended:
        line.receive_bytes()
    assert ended.value.code == UNKNOWN
    assert not state.running.demand.surfaces


@pytest.mark.parametrize("query", ["width=0", "width=99999", "fps=0", "fps=nan", "width=abc", "window=perhaps"])
def test_sizes_and_rates_have_bounds(web: TestClient, state: AppState, query: str) -> None:
    with pytest.raises(WebSocketDisconnect), web.websocket_connect(f"{SOCKETS}/api/surfaces/outgoing?{query}", headers=OURS) as line:
        line.receive_bytes()
    assert state.running.windows.count == 0


def test_an_outgoing_window_tells_how_it_stands(web: TestClient, state: AppState) -> None:
    def says() -> str:
        return web.get("/api/live").json()["outgoing"]["window_says"] or ""

    with web.websocket_connect(f"{SOCKETS}/api/surfaces/outgoing?window=true", headers=OURS) as line:
        line.receive_bytes()
        assert says() == ""
        line.send_text("window hidden 1280 720")
        eventually(lambda: "minimised or covered" in says())
        line.send_text("window visible 480 270")
        eventually(lambda: "480x270 of 1280x720" in says())
        line.send_text("window visible 1280 720")
        eventually(lambda: says() == "")


def test_an_outgoing_window_counts_as_going_out(web: TestClient, state: AppState) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/surfaces/outgoing?window=true", headers=OURS) as line:
        line.receive_bytes()
        assert web.get("/api/live").json()["going_out"]
    eventually(lambda: state.running.windows.count == 0)
    assert not web.get("/api/live").json()["going_out"]
    eventually(lambda: not state.running.demand.surfaces)


def test_the_state_is_pushed_and_a_change_comes_at_once(web: TestClient) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/live", headers=OURS) as line:
        first = json.loads(line.receive_text())
        web.put("/api/teach/plate", json={"plate_id": "face"})
        plates = [json.loads(line.receive_text())["outgoing"]["plate_id"] for _ in range(3)]
        assert first["outgoing"]["plate_id"] == "page-and-face"
        assert "face" in plates


def test_the_state_socket_takes_nothing(web: TestClient) -> None:
    def listen(line) -> None:  # type: ignore[no-untyped-def]
        for _ in range(50):
            line.receive_text()

    with web.websocket_connect(f"{SOCKETS}/api/live", headers=OURS) as line:
        line.send_text("hello")
        with pytest.raises(WebSocketDisconnect) as ended:
            listen(line)
    assert ended.value.code == MALFORMED


def to_its_end(line) -> None:  # type: ignore[no-untyped-def]
    """Hear `go` and `rest` until the line is closed."""
    while True:
        assert line.receive_text() in ("go 5", "rest")


def camera(web: TestClient) -> str:
    body = {"source": "abc", "name": "Mine", "rig": "in-hand", "serves": "page"}
    return str(web.post("/api/kit/devices", json=body).json()["id"])


def test_a_cameras_pictures_come_in(web: TestClient, state: AppState) -> None:
    device_id = camera(web)
    with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS) as line:
        for unit in UNITS[:4]:
            line.send_bytes(message(unit))
        eventually(lambda: (feed := state.running.feeds.get(device_id)) and feed.latest)


def test_a_camera_that_hangs_up_is_lost_and_one_that_falls_silent_asleep(web: TestClient, state: AppState) -> None:
    device_id = camera(web)
    state.running.hub.join(viewer(f"raw:{device_id}"))

    def said() -> str:
        return str(next(one["state"] for one in web.get("/api/live").json()["feeds"] if one["id"] == device_id))

    with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS) as line:
        for unit in UNITS[:3]:
            line.send_bytes(message(unit))
        eventually(lambda: said() == "asleep")
    eventually(lambda: said() == "lost")


def answered(line, offer: str) -> str:  # type: ignore[no-untyped-def]
    line.send_text(f"offer:{offer}")
    while not (text := line.receive_text()).startswith("answer:"):
        assert text in ("go 5", "rest")
    return text.removeprefix("answer:")


def test_a_browser_that_gives_no_frames_offers_webrtc_over_its_cameras_socket(web: TestClient, state: AppState) -> None:
    if not networks_here():
        pytest.skip("WebRTC needs an address besides loopback")
    device_id = camera(web)
    with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS) as line:

        async def sends() -> None:
            sender = RTCPeerConnection()
            sender.addTransceiver(VideoStreamTrack(), "sendonly")
            await sender.setLocalDescription(await sender.createOffer())
            answer = await asyncio.to_thread(answered, line, sender.localDescription.sdp)
            await sender.setRemoteDescription(RTCSessionDescription(answer, "answer"))
            for _ in range(400):
                if state.running.feeds.get(device_id).latest is not None:  # type: ignore[union-attr]
                    break
                await asyncio.sleep(0.05)
            with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS) as newer:
                newer.receive_text()
                with pytest.raises(WebSocketDisconnect) as ended:  # its pictures pass its socket by, which ends all the same
                    await asyncio.to_thread(to_its_end, line)
            assert ended.value.code == TAKEN_OVER
            await sender.close()

        ran(sends())
        feed = state.running.feeds.get(device_id)
        assert feed is not None
        assert feed.latest is not None
        assert feed.latest.size.width == 640


def test_a_browser_says_how_long_its_way_by_webrtc_is(web: TestClient, state: AppState) -> None:
    device_id = camera(web)
    feed = state.running.feeds.get(device_id)
    assert isinstance(feed, CameraFeed)
    with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS) as line:
        line.send_text("path 9000")
        eventually(lambda: feed.path_s == 9.0)
        came_s = time.monotonic()
        for unit in UNITS[:4]:
            line.send_bytes(message(unit))
        eventually(lambda: feed.latest)
        assert feed.latest is not None
        assert feed.latest.captured_s < came_s, "dated by when it was taken"
    with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS):
        eventually(lambda: feed.path_s == 0.0)  # a newer one has measured nothing yet
    for odd in ("path", "path -5", "path 99999", "path 1e3"):
        with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS) as line:
            line.send_text(odd)
            with pytest.raises(WebSocketDisconnect) as ended:
                to_its_end(line)
            assert ended.value.code == MALFORMED


@pytest.mark.parametrize("offer", ["", "nonsense", "v=0\r\n" + "m=video 9 UDP/TLS/RTP/SAVPF 96\r\n" * 50])
def test_an_offer_that_cannot_be_taken_is_answered_by_nothing_and_pictures_still_come(web: TestClient, state: AppState, offer: str) -> None:
    device_id = camera(web)
    with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS) as line:
        assert answered(line, offer) == ""
        for unit in UNITS[:4]:
            line.send_bytes(message(unit))
        eventually(lambda: (feed := state.running.feeds.get(device_id)) and feed.latest)


@pytest.mark.parametrize("wrong", [b"", b"\x05\x00\x00", b"\x01"])
def test_bytes_that_are_no_picture_end_the_camera_with_a_sentence(web: TestClient, state: AppState, wrong: bytes) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/cameras/{camera(web)}", headers=OURS) as line:
        line.send_bytes(wrong)
        with pytest.raises(WebSocketDisconnect) as ended:
            to_its_end(line)
    assert ended.value.code == MALFORMED
    assert ended.value.reason.startswith("What this camera sends")


@pytest.mark.parametrize("device_id", ["nobody", "desk-camera", "x" * 300])
def test_only_cameras_of_the_kit_may_send(web: TestClient, device_id: str) -> None:
    with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS) as line, pytest.raises(WebSocketDisconnect) as ended:
        line.receive_bytes()
    assert ended.value.code == UNKNOWN


def test_the_newer_tab_wins(web: TestClient) -> None:
    device_id = camera(web)
    with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS) as older:
        older.send_bytes(message(UNITS[0]))
        with web.websocket_connect(f"{SOCKETS}/api/cameras/{device_id}", headers=OURS) as newer:
            newer.send_bytes(message(UNITS[0]))
            older.send_bytes(message(UNITS[1]))
            with pytest.raises(WebSocketDisconnect) as ended:
                to_its_end(older)
    assert ended.value.code == TAKEN_OVER
