"""Remotes over the network: they press by the same names, once for each press, and a token for something else presses nothing."""

import json
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from typing import Any

import pytest
from websockets.exceptions import ConnectionClosed

from tests.helpers import FEW, Application, eventually
from tests.lines import SecureLine
from tests.web.test_guests import Door, trusting

PRESS = "0123456789abcdef"


@pytest.fixture(scope="module")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    application = Application(tmp_path_factory.mktemp("remotes"), more=FEW).start()
    yield application
    application.stop()


def invited(app: Application, path: str = "/api/teach/remotes/invitation") -> tuple[Door, str]:
    shown = app.ask("POST", path, {"address": None})
    invitation = shown.get("invitation", shown)
    door = Door(invitation["address"].rsplit("/", 1)[0])
    return door, invitation["code"]


def remote(app: Application) -> tuple[Door, str]:
    door, code = invited(app)
    status, body = door.ask("POST", "/api/remote/enter", {"code": code, "name": "Tablet"})
    assert status == 201
    return door, json.loads(body)["token"]


def press(door: Door, token: str | None, action: str, name: str = PRESS, **more: Any) -> tuple[int, Any]:
    status, body = door.ask("POST", "/api/remote/do", {"action": action, "press": name, **more}, token)
    return status, json.loads(body)


def on(app: Application) -> str:
    return str(app.get("/api/teach")["plate_on"])


def test_a_remote_presses_and_a_press_sent_again_counts_once(app: Application) -> None:
    door, token = remote(app)
    plates = [plate["id"] for plate in app.get("/api/teach")["plates"]]
    app.ask("PUT", "/api/teach/plate", {"plate_id": plates[0]})
    for _ in range(3):  # its answer was lost twice
        status, view = press(door, token, "next")
        assert status == 200
        assert view["plate_on"] == plates[1]
    assert on(app) == plates[1]
    assert press(door, token, "plate", "fedcba9876543210", number=3)[1]["plate_on"] == plates[2]


def test_a_remote_sees_the_open_microphone_and_closes_it(app: Application) -> None:
    door, token = remote(app)
    app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
    opened = app.get("/api/live")["microphone"]["label"]
    assert json.loads(door.ask("GET", "/api/remote/state", None, token)[1])["microphone"] == opened
    assert door.ask("POST", "/api/remote/mute", {}, "of-nobody")[0] == 401
    assert app.get("/api/live")["microphone"] is not None
    status, body = door.ask("POST", "/api/remote/mute", {}, token)
    assert (status, json.loads(body)["microphone"]) == (200, None)
    assert app.get("/api/live")["microphone"] is None


def test_two_remotes_press_by_turns_and_one_does_not_answer_for_the_other(app: Application) -> None:
    (door, one), (_, two) = remote(app), remote(app)
    plates = [plate["id"] for plate in app.get("/api/teach")["plates"]]
    app.ask("PUT", "/api/teach/plate", {"plate_id": plates[0]})
    press(door, one, "next")
    assert press(door, two, "next")[1]["plate_on"] == plates[2]  # the same name, but of another remote


def test_what_is_no_remotes_token_presses_nothing(app: Application) -> None:
    door, code = invited(app, "/api/ways/invitation")
    assert door.ask("POST", "/api/remote/enter", {"code": code})[0] == 403  # a code for watching is none for pressing
    watcher = json.loads(door.ask("POST", "/api/watch/enter", {"code": code})[1])["token"]
    before = on(app)
    for token in (None, "", "forged", watcher, "x" * 300):
        assert press(door, token, "next")[0] == 401
        assert door.ask("GET", "/api/remote/state", None, token)[0] == 401
        assert door.ask("GET", "/api/remote/picture.jpg", None, token)[0] == 401
    assert on(app) == before
    door, code = invited(app)
    assert door.ask("POST", "/api/watch/enter", {"code": code})[0] == 403


def test_a_cameras_token_presses_only_where_the_teacher_allows_it(app: Application) -> None:
    network = app.get("/api/guests/networks")
    assert network is not None
    shown = app.ask("POST", "/api/guests/invitation", {})
    door = Door(shown["link"].split("/#")[0].rstrip("/"))
    entered = json.loads(door.ask("POST", "/api/guest/enter", {"code": shown["code"]})[1])
    token, device_id = entered["token"], entered["device_id"]
    assert press(door, token, "next")[0] == 401
    app.ask("PUT", f"/api/teach/remotes/cameras/{device_id}", {"on": True})
    assert press(door, token, "next", "allowed-by-now-1")[0] == 200
    app.ask("PUT", f"/api/teach/remotes/cameras/{device_id}", {"on": False})
    assert press(door, token, "next", "not-any-more-22")[0] == 401
    app.ask("DELETE", f"/api/kit/devices/{device_id}")


def test_one_that_is_ended_presses_nothing_at_once(app: Application) -> None:
    door, token = remote(app)
    assert press(door, token, "timer", "before-it-ended")[0] == 200
    for one in app.get("/api/teach/remotes")["remotes"]:
        app.ask("DELETE", f"/api/teach/remotes/{one['id']}")
    assert press(door, token, "timer", "after-it-ended")[0] == 401


@pytest.mark.parametrize(
    "body",
    [
        {"action": "next"}, {"action": "next", "press": "short"}, {"action": "nothing", "press": PRESS}, {"press": PRESS},
        {"action": "next", "press": PRESS, "x": 1},
    ],
)  # fmt: skip
def test_what_is_no_press_is_refused(app: Application, body: dict[str, Any]) -> None:
    door, token = remote(app)
    assert door.ask("POST", "/api/remote/do", body, token)[0] == 422


def test_it_is_told_of_what_others_press_and_sees_the_picture_when_it_asks(app: Application) -> None:
    door, token = remote(app)
    first = json.loads(door.ask("GET", "/api/remote/state", None, token)[1])
    app.ask("POST", "/api/teach/actions", {"action": "minute"})

    def told() -> bool:
        view = json.loads(door.ask("GET", f"/api/remote/state?version={first['version']}", None, token)[1])
        return bool(view["tools"]["timer"]["total_s"] == first["tools"]["timer"]["total_s"] + 60)

    eventually(told)
    status, picture = door.ask("GET", "/api/remote/picture.jpg", None, token)
    assert status == 200
    assert picture[:2] == b"\xff\xd8"


STROKE: tuple[dict[str, Any], ...] = (
    {"do": "begin", "tool": "pen", "colour": "#A93226", "width": 1.0, "x": 0.3, "y": 0.4, "p": 1.0, "t": 0.0},
    {"do": "move", "points": [[0.3 + 0.01 * k, 0.4, 1.0, 0.02 * k] for k in range(20)]},
    {"do": "end"},
)


@contextmanager
def hand_of(door: Door, token: str | bytes) -> Iterator[SecureLine]:
    with SecureLine(f"{door.address}/api/remote/hand", trusting()) as line:
        line.send(token)
        yield line


def draw(line: SecureLine) -> None:
    for said in STROKE:
        line.send(json.dumps(said))


def refused(line: SecureLine) -> bool:
    with pytest.raises(ConnectionClosed) as closed:
        line.recv(20)
    return closed.value.rcvd is not None and closed.value.rcvd.code == 4404


@pytest.fixture
def page(app: Application) -> Iterator[None]:
    """Somebody looks at a plate with a page, so there is something to draw on."""
    app.ask("PUT", "/api/teach/plate", {"plate_id": app.get("/api/teach")["plates"][0]["id"]})
    done = threading.Event()

    def look() -> None:
        while not done.is_set():
            app.pictures("outgoing", 5, 320, 30)

    looking = threading.Thread(target=look)
    looking.start()
    eventually(lambda: app.get("/api/teach/ink")["ground"])
    app.ask("POST", "/api/teach/ink", {"do": "clear"})
    yield
    done.set()
    looking.join()


def test_a_tablet_draws_on_the_page_and_takes_it_back(app: Application, page: None) -> None:
    door, token = remote(app)
    with hand_of(door, token) as line:
        line.send("no stroke")
        line.send(json.dumps({**STROKE[0], "x": 1e9}))
        draw(line)
        eventually(lambda: app.get("/api/teach/ink")["count"] == 1)
    assert door.ask("POST", "/api/remote/ink", {"do": "undo"}, token)[0] == 200
    assert app.get("/api/teach/ink")["count"] == 0
    status, said = door.ask("POST", "/api/remote/ink", {"do": "burn"}, token)
    assert status == 422
    assert json.loads(said)["detail"]


def test_only_a_remotes_hand_draws_and_only_until_it_is_ended(app: Application, page: None) -> None:
    door, token = remote(app)
    watching = json.loads(door.ask("POST", "/api/watch/enter", {"code": invited(app, "/api/ways/invitation")[1]})[1])["token"]
    for other in ("", "forged", watching, "x" * 300):
        with hand_of(door, other) as line:
            assert refused(line)
        assert door.ask("POST", "/api/remote/ink", {"do": "clear"}, other)[0] == 401
    with hand_of(door, token) as line:
        draw(line)
        eventually(lambda: app.get("/api/teach/ink")["count"] == 1)
        for one in app.get("/api/teach/remotes")["remotes"]:
            app.ask("DELETE", f"/api/teach/remotes/{one['id']}")
        with suppress(ConnectionClosed):  # it may be closed already
            draw(line)
        assert refused(line)
    with hand_of(door, b"\x00") as line:
        assert refused(line)
    assert app.get("/api/teach/ink")["count"] == 1


def test_a_remote_finds_the_lesson_again_after_a_killed_process(app: Application) -> None:
    door, token = remote(app)
    app.kill()
    app.guest_port = int(door.address.rsplit(":", 1)[1])
    app.start()
    assert eventually(lambda: _answers(door, token))


def _answers(door: Door, token: str) -> bool:
    try:
        return door.ask("GET", "/api/remote/state", None, token)[0] == 200
    except OSError:
        return False
