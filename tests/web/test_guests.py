"""The guests' door over the network: codes, tokens, and that a token opens nothing but its own feed."""

import asyncio
import contextlib
import json
import re
import socket
import ssl
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from functools import cache
from http.client import HTTPSConnection
from pathlib import Path
from typing import Any

import pytest
from websockets.asyncio.client import connect
from websockets.exceptions import ConnectionClosed, InvalidStatus

from cartouche.core.guests.invitation import MAX_WRONG_EACH
from cartouche.web.guests.certificate import kept
from cartouche.web.guests.door import networks_here
from cartouche.web.guests.first_word import FIRST_WORD_S
from cartouche.web.pictures_in import TAKEN_OVER
from tests.helpers import FEW, SLOWEST_S, Application, ran
from tests.live.test_camera_feed import UNITS, message

ADDRESS = next((one.address for one in networks_here()), "127.0.0.1")
REPORT = {"phase": "sending", "transport": "websocket"}


@pytest.fixture(scope="module")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    application = Application(tmp_path_factory.mktemp("guests"), more=FEW).start()
    yield application
    application.stop()


@cache  # what is trusted elsewhere is read each time one is made
def trusting() -> ssl.SSLContext:
    """As a person who has read the warning."""
    context = ssl.create_default_context()
    context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
    return context


class Door:
    """The guests' side, asked as a program would."""

    def __init__(self, address: str) -> None:
        self.address = address

    def ask(self, method: str, path: str, body: Any = None, token: str | None = None, **headers: str) -> tuple[int, Any]:
        data = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
        sent = {"Content-Type": "application/json", **({"Authorization": f"Bearer {token}"} if token else {}), **headers}
        request = urllib.request.Request(self.address + path, data, sent, method=method)
        try:
            with urllib.request.urlopen(request, timeout=10, context=trusting()) as answer:
                return answer.status, answer.read()
        except urllib.error.HTTPError as exc:
            with exc:
                return exc.code, exc.read()

    def enter(self, code: str) -> tuple[int, dict[str, Any]]:
        status, body = self.ask("POST", "/api/guest/enter", {"code": code})
        return status, json.loads(body)


def invite(app: Application, **asked: Any) -> dict[str, Any]:
    return dict(app.ask("POST", "/api/guests/invitation", {"address": ADDRESS, **asked}))


@pytest.fixture
def invitation(app: Application) -> dict[str, Any]:
    return invite(app)


@pytest.fixture
def door(invitation: dict[str, Any]) -> Door:
    return Door(invitation["address"])


@pytest.fixture
def token(door: Door, invitation: dict[str, Any]) -> str:
    status, body = door.enter(invitation["code"])
    assert status == 201
    return str(body["token"])


def test_a_code_lets_one_device_in_once(door: Door, invitation: dict[str, Any]) -> None:
    assert door.enter(invitation["code"])[0] == 201
    status, body = door.enter(invitation["code"])
    assert status == 403
    assert "used already" in body["detail"]


def test_a_newer_invitation_takes_the_older_codes_place(app: Application, door: Door, invitation: dict[str, Any]) -> None:
    newer = invite(app)
    status, body = door.enter(invitation["code"])
    assert status == 403
    assert "run out" in body["detail"]
    assert door.enter(newer["code"])[0] == 201


def test_what_is_stated_later_is_what_the_device_becomes(app: Application, door: Door, invitation: dict[str, Any]) -> None:
    app.ask("PUT", "/api/guests/invitation", {"address": ADDRESS, "name": "Ledge phone", "rig": "shelf", "serves": None})
    _, body = door.enter(invitation["code"])
    device = next(one for one in app.get("/api/kit")["devices"] if one["id"] == body["device_id"])
    assert (device["name"], device["rig"], device["serves"], device["kind"]) == ("Ledge phone", "shelf", None, "guest")
    assert app.get("/api/guests/invitation")["device_id"] == body["device_id"]


def test_a_phone_invited_again_stays_the_same_device_and_its_old_token_ends(app: Application, door: Door, token: str) -> None:
    device = next(one for one in reversed(app.get("/api/kit")["devices"]) if one["kind"] == "guest")
    again = invite(app, device_id=device["id"])
    status, body = door.enter(again["code"])
    assert (status, body["device_id"]) == (201, device["id"])
    assert door.ask("POST", "/api/guest/report", REPORT, token)[0] == 401
    assert door.ask("POST", "/api/guest/report", REPORT, body["token"])[0] == 200


def test_a_token_tells_and_hears(app: Application, door: Door, token: str) -> None:
    status, body = door.ask("POST", "/api/guest/report", {**REPORT, "battery": {"level": 0.5, "charging": False}}, token)
    assert status == 200
    said = json.loads(body)
    assert said["state"] in ("off", "lost")
    assert said["fps"] == 5.0  # as many as go out
    assert set(said) == {"run", "name", "serves", "state", "arrives", "wanted", "fps", "width", "height", "orders"}
    begun = time.monotonic()
    assert door.ask("POST", "/api/guest/report", REPORT, token)[0] == 200
    assert 0.5 < time.monotonic() - begun < 4  # nothing to say: it waits a second


@pytest.mark.parametrize(
    "wrong",
    [
        {},
        {"phase": "flying"},
        {"phase": "sending", "battery": {"level": 7, "charging": True}},
        {"phase": "sending", "lenses": [{"id": "x", "label": "x", "facing": None}] * 40},
        {"phase": "sending", "settings": {"shutter": 1}},
        {"phase": "sending", "spans": {"zoom": {"min": "a", "max": 1}}},
        {"phase": "sending", "path_ms": -1},
        {"phase": "sending", "lost": 1.5},
        {"phase": "sending", "kbit_s": -3},
        {"phase": "sending", "more": 1},
        [],
    ],
)
def test_a_report_that_is_none_is_refused_in_a_sentence(door: Door, token: str, wrong: Any) -> None:
    status, body = door.ask("POST", "/api/guest/report", wrong, token)
    assert status == 422
    assert json.loads(body)["detail"].endswith(".")


def test_pictures_come_in_by_the_socket_with_the_token_alone(app: Application, door: Door, token: str) -> None:
    device = next(one for one in reversed(app.get("/api/kit")["devices"]) if one["kind"] == "guest")
    line_address = door.address.replace("https", "wss") + "/api/guest/pictures"

    def arrived() -> bool:
        return any(one["id"] == device["id"] and one["width"] == 1280 for one in app.get("/api/live")["feeds"])

    async def sends() -> bool:
        async with asyncio.timeout(30), connect(line_address, ssl=trusting(), origin=door.address) as line:  # type: ignore[arg-type]
            await line.send(token)
            await line.send("clock 12.5")
            assert await line.recv() == "clock 12.5", "the phone measures its way by when it comes back"
            await asyncio.to_thread(door.ask, "POST", "/api/guest/report", REPORT, token)
            while not await asyncio.to_thread(arrived):
                for unit in UNITS:
                    await line.send(message(unit))
        return True

    async def closed_with(wrong: str) -> int:
        async with asyncio.timeout(30), connect(line_address, ssl=trusting(), origin=door.address) as line:  # type: ignore[arg-type]
            await line.send(wrong)
            with pytest.raises(ConnectionClosed) as ended:
                await line.recv()
            return ended.value.rcvd.code if ended.value.rcvd else 0

    assert ran(sends())
    for wrong in ("", "x" * 43, token[:-1], token.upper()):
        assert ran(closed_with(wrong)) == 4404


@pytest.mark.parametrize("path", ["/api/guest/pictures", "/api/guest/sound", "/api/remote/hand"])
def test_a_line_that_says_nothing_is_not_held_open(door: Door, path: str) -> None:
    async def held_s() -> float:
        begun = time.monotonic()
        async with connect(door.address.replace("https", "wss") + path, ssl=trusting(), origin=door.address) as line:  # type: ignore[arg-type]
            with pytest.raises(ConnectionClosed):
                await line.recv()
        return time.monotonic() - begun

    assert FIRST_WORD_S - 0.5 < ran(held_s()) < FIRST_WORD_S + 20


def test_who_has_left_sends_pictures_to_nobody(door: Door, token: str) -> None:
    async def sends_on() -> int:
        address = door.address.replace("https", "wss") + "/api/guest/pictures"
        async with asyncio.timeout(30), connect(address, ssl=trusting(), origin=door.address) as line:  # type: ignore[arg-type]
            await line.send(token)
            await line.send(message(UNITS[0]))
            await asyncio.to_thread(door.ask, "POST", "/api/guest/leave", None, token)
            try:
                while True:
                    await line.send(message(UNITS[0]))
                    await asyncio.sleep(0.05)
            except ConnectionClosed as ended:
                return ended.rcvd.code if ended.rcvd else 0

    assert ran(sends_on()) == TAKEN_OVER


def test_what_was_told_just_before_leaving_keeps_no_door_open(app: Application, door: Door, token: str) -> None:
    async def leaves_while_it_tells() -> list[tuple[int, Any]]:
        told = [asyncio.create_task(asyncio.to_thread(door.ask, "POST", "/api/guest/report", REPORT, token)) for _ in range(6)]
        await asyncio.to_thread(door.ask, "POST", "/api/guest/leave", None, token)
        return await asyncio.gather(*told)

    ran(leaves_while_it_tells())
    kit = app.get("/api/kit")
    guest = kit["guests"][next(one["id"] for one in reversed(kit["devices"]) if one["kind"] == "guest")]
    assert (guest["left"], guest["awaited"]) == (True, False)


def test_who_has_left_comes_back_by_a_new_code_alone(door: Door, token: str) -> None:
    assert door.ask("POST", "/api/guest/report", REPORT, token)[0] == 200
    door.ask("POST", "/api/guest/leave", None, token)
    assert door.ask("POST", "/api/guest/report", REPORT, token)[0] == 401


def every_route() -> list[tuple[str, str]]:
    """All of the teacher's application, by its own document; and its sockets."""
    document = json.loads((Path(__file__).parents[2] / "frontend" / "openapi.json").read_text())
    found = [(method.upper(), re.sub(r"\{\w+\}", "desk-camera", path)) for path, ways in document["paths"].items() for method in ways]
    return [*found, ("GET", "/api/openapi.json"), ("GET", "/kit"), ("GET", "/teach"), ("GET", "/index.html")]


def test_no_route_of_the_teachers_is_at_the_guests_door(door: Door, token: str) -> None:
    assert len(every_route()) > 40
    for method, path in every_route():
        assert door.ask(method, path, {} if method in ("POST", "PUT", "PATCH") else None, token)[0] == 404, (method, path)


@pytest.mark.parametrize("path", ["/api/surfaces/outgoing", "/api/surfaces/raw:desk-camera", "/api/live", "/api/cameras/desk-camera"])
def test_no_socket_of_the_teachers_is_at_the_guests_door(door: Door, token: str, path: str) -> None:
    address, headers = door.address.replace("https", "wss") + path, {"Authorization": f"Bearer {token}"}
    origin: Any = door.address

    async def opens() -> None:
        async with asyncio.timeout(30), connect(address, ssl=trusting(), origin=origin, additional_headers=headers):
            pass

    with pytest.raises(InvalidStatus):
        ran(opens())


def test_the_teachers_door_does_not_know_tokens_and_not_that_address(app: Application, door: Door, token: str) -> None:
    """By its network address the teacher's application is not there; by a foreign name it refuses whoever asks."""
    for method, path in every_route():
        body = {} if method in ("POST", "PUT", "PATCH") else None
        assert Door(app.address).ask(method, path, body, token, Host=f"{ADDRESS}:{app.port}")[0] == 403, (method, path)
    if ADDRESS != "127.0.0.1":
        with pytest.raises(ConnectionRefusedError):
            socket.create_connection((ADDRESS, app.port), SLOWEST_S)


@pytest.mark.parametrize(
    ("method", "path"),
    [("POST", "/api/guest/report"), ("POST", "/api/guest/leave"), ("POST", "/whip"), ("DELETE", "/whip/guest-1")],
)
@pytest.mark.parametrize("wrong", [None, "", "x" * 43, "../../etc/passwd", "' OR 1=1 --", "é" * 20])
def test_without_a_token_nothing_opens(door: Door, method: str, path: str, wrong: str | None) -> None:
    token = wrong.encode().decode("latin-1") if wrong else wrong
    body = REPORT if "report" in path else (b"v=0" if path == "/whip" else None)
    status, said = door.ask(method, path, body, token)
    assert status == 401
    assert "not known here" in json.loads(said)["detail"]


def test_one_guest_cannot_hang_up_another(app: Application, door: Door, token: str) -> None:
    assert door.ask("DELETE", "/whip/desk-camera", None, token)[0] == 401
    device = next(one for one in reversed(app.get("/api/kit")["devices"]) if one["kind"] == "guest")
    assert door.ask("DELETE", f"/whip/{device['id']}", None, token)[0] == 200


@pytest.mark.parametrize("offer", [b"", b"v=0", b"\xff" * 100, b"m=video 9 UDP/TLS/RTP/SAVPF 96\r\n" * 50, b"v=0\r\n" + b"a=x\r\n" * 5000])
def test_an_offer_that_is_none_is_refused_in_a_sentence(door: Door, token: str, offer: bytes) -> None:
    status, said = door.ask("POST", "/whip", offer, token, **{"Content-Type": "application/sdp"})
    assert status == 422
    assert json.loads(said)["detail"].endswith(".")


def test_whip_speaks_as_the_standard_says(door: Door, token: str) -> None:
    assert door.ask("POST", "/whip", b"v=0", token)[0] == 415
    assert door.ask("OPTIONS", "/whip")[0] == 204
    assert door.ask("PATCH", "/whip/guest-1", b"a=candidate", token)[0] == 405
    assert door.ask("GET", "/whip", None, token)[0] == 405
    assert door.ask("POST", "/whip", b"x" * 70_000, token, **{"Content-Type": "application/sdp"})[0] == 413


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1", "localhost", ""])
def test_the_door_answers_to_its_own_address_alone(door: Door, host: str) -> None:
    if host != ADDRESS:
        assert door.ask("GET", "/", None, None, Host=host)[0] == 403


def test_another_page_may_not_speak_for_the_phone(door: Door, token: str) -> None:
    assert door.ask("POST", "/api/guest/report", REPORT, token, Origin="https://evil.example")[0] == 403


def test_only_what_the_page_is_built_of_is_served(door: Door) -> None:
    status, page = door.ask("GET", "/")
    assert status == 200
    needed = re.findall(r'(?:src|href)="(/assets/[^"]+)"', page.decode())
    assert needed
    for path in needed:
        assert door.ask("GET", path)[0] == 200, path
    teachers = [one.name for one in (Path(__file__).parents[2] / "src/cartouche/web/static/assets").glob("KitScreen*.js")]
    for path in [
        *(f"/assets/{name}" for name in teachers),
        "/assets/../index.html",
        "/assets/%2e%2e/index.html",
        "/assets/",
        "/guest.html",
        "/.vite/manifest.json",
    ]:
        assert door.ask("GET", path)[0] == 404, path


def test_who_guesses_is_made_to_wait(app: Application) -> None:
    """And nobody else."""
    made = invite(app, address="127.0.0.1")
    host = made["address"].removeprefix("https://")

    def entered(code: str) -> tuple[int, str]:
        line = HTTPSConnection(host, context=trusting(), timeout=SLOWEST_S, source_address=("127.0.0.7", 0))
        with contextlib.closing(line):
            line.request("POST", "/api/guest/enter", json.dumps({"code": code}), {"Content-Type": "application/json"})
            answer = line.getresponse()
            return answer.status, answer.read().decode()

    for n in range(MAX_WRONG_EACH):
        assert "not right" in entered(f"22222{n + 2}")[1]
    status, told = entered(made["code"])
    assert status == 403
    assert "Wait a minute" in told
    assert Door(made["address"]).enter(made["code"])[0] == 201


def test_the_token_is_kept_as_a_hash_and_the_key_for_its_owner_alone(app: Application, token: str) -> None:
    for path in app.folder.glob("cartouche.sqlite3*"):
        assert token.encode() not in path.read_bytes()
    assert (app.folder / "guests-key.pem").stat().st_mode & 0o077 == 0


def test_a_device_taken_out_is_known_no_more(app: Application, door: Door, token: str) -> None:
    device = next(one for one in reversed(app.get("/api/kit")["devices"]) if one["kind"] == "guest")
    app.ask("DELETE", f"/api/kit/devices/{device['id']}")
    assert door.ask("POST", "/api/guest/report", REPORT, token)[0] == 401


def test_the_certificate_is_made_once_and_again_for_a_new_address(tmp_path: Path) -> None:
    chain, key = kept(tmp_path, ["10.0.0.5", "127.0.0.1"])
    first = chain.read_bytes()
    assert kept(tmp_path, ["10.0.0.5"])[0].read_bytes() == first
    assert kept(tmp_path, ["10.0.0.6"])[0].read_bytes() != first
    key.unlink()
    kept(tmp_path, ["10.0.0.6"])
    assert key.exists()
    chain.write_text("no certificate")
    assert b"BEGIN CERTIFICATE" in kept(tmp_path, ["10.0.0.6"])[0].read_bytes()


def test_a_schools_own_certificate_is_used_and_a_wrong_one_told(tmp_path: Path) -> None:
    chain, key = kept(tmp_path, [ADDRESS])
    chain, key = chain.rename(tmp_path / "school.pem"), key.rename(tmp_path / "school.key")
    application = Application(tmp_path / "data", more=("--certificate", str(chain), "--key", str(key), *FEW)).start()
    try:
        made = invite(application)
        host, port = made["address"].removeprefix("https://").split(":")
        assert ssl.get_server_certificate((host, int(port))).strip() == chain.read_text().strip()
        assert not (tmp_path / "data" / "guests-certificate.pem").exists()
    finally:
        application.stop()


def test_an_address_that_is_not_ours_cannot_be_picked(app: Application) -> None:
    with pytest.raises(urllib.error.HTTPError) as refused:
        app.ask("POST", "/api/guests/invitation", {"address": "203.0.113.7"})
    assert refused.value.code == 422
    with refused.value as answer:
        assert "no network" in json.loads(answer.read())["detail"]


def test_what_a_phone_says_of_itself_is_cleaned_and_nonsense_is_left_out(app: Application, door: Door, token: str) -> None:
    lens = {"id": "1", "label": "Rear\u202egpj.exe\x07", "facing": "rear"}
    spans = {"zoom": {"min": 5, "max": 1, "step": 0}, "brightness": {"min": 0, "max": 10, "step": 0}, "torch": {"min": 1, "max": 1}}
    assert door.ask("POST", "/api/guest/report", {**REPORT, "lenses": [lens], "lens": "1", "spans": spans}, token)[0] == 200
    told = next(one for one in app.get("/api/kit")["guests"].values() if one["lenses"])
    assert [one["label"] for one in told["lenses"]] == ["Reargpj.exe"]
    assert set(told["spans"]) == {"brightness"}
