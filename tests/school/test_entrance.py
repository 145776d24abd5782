"""The entrance of a teacher's process: its own path, its own teacher, guests by the door; the hub by a stand-in that knows who is who."""

import asyncio
import socket
import threading
import time
from collections.abc import Iterator
from http.client import HTTPConnection
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

import pytest
import uvicorn
from fastapi.testclient import TestClient
from starlette.responses import JSONResponse
from starlette.types import Receive, Scope, Send
from starlette.websockets import WebSocketDisconnect
from tornado.web import HTTPError

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.live.running import RunningLesson
from cartouche.school import entrance
from cartouche.school.entrance import ANOTHERS, SIGN_IN, UNASKED, Entrance
from cartouche.school.inner_door import InnerDoor
from cartouche.school.place import NotAtASchool, Place, place_of
from cartouche.store.database import Database
from cartouche.web.app import create_app
from cartouche.web.server import ALONE_S, config
from cartouche.web.state import AppState

HOST = "https://school.example"
PLACE = Place("anna", "/user/anna", "127.0.0.1", 0, HOST + "/user/anna")
HTML = {"accept": "text/html"}


class StandIn:
    """Knows two tokens, and one code that brings anna's."""

    cookie_name, login_url, pkce_enabled = "jupyterhub-user-anna", "/hub/api/oauth2/authorize?client_id=anna", True
    access_scopes = {"access:servers!user=anna"}

    def __init__(self) -> None:
        self.silent, self.deaf_s, self.asked = False, 0.0, 0
        self.tokens = {"annas": "anna", "berts": "bert", "heads": "head"}
        self.states: dict[str, dict[str, str]] = {}

    def generate_pkce_code_challenge(self) -> tuple[str, str, str]:
        return "verifier", "challenge", "S256"

    def generate_state(self, next_url: str, **more: str) -> str:
        self.states["state-1"] = {"next_url": next_url, **more}
        return "state-1"

    def get_next_url(self, state_id: str) -> str:
        return self.states[state_id]["next_url"]

    def get_code_verifier(self, state_id: str) -> str | None:
        return self.states[state_id]["code_verifier"]

    def clear_oauth_state(self, state_id: str) -> None:
        del self.states[state_id]

    async def token_for_code(self, code: str, *, code_verifier: str | None, sync: bool) -> str:
        if (code, code_verifier) != ("right", "verifier"):
            raise HTTPError(500)
        return "annas"

    async def user_for_token(self, token: str, *, sync: bool) -> dict[str, Any] | None:
        self.asked += 1
        await asyncio.sleep(self.deaf_s)
        if self.silent:
            raise HTTPError(500)
        name = self.tokens.get(token)
        return None if name is None else {"name": name, "scopes": [f"access:servers!user={name}"]}

    def check_scopes(self, required_scopes: set[str], user: dict[str, Any]) -> bool:
        return user["name"] == "head" or required_scopes <= set(user["scopes"])  # the head of the hub may go everywhere, by the hub


@pytest.fixture
def hub() -> StandIn:
    return StandIn()


@pytest.fixture
def school(tmp_path: Path, hub: StandIn) -> Iterator[TestClient]:
    state = AppState(Database(tmp_path), RunningLesson(CallCodec, CallVoice), {})
    app = create_app(state, make_door=lambda make_app: InnerDoor(make_app, lambda: HOST + "/user/anna"))
    guarded = Entrance(app, app.state.guests.keeper.doors, hub, PLACE)
    with TestClient(guarded, base_url=HOST, follow_redirects=False) as client:
        yield client


def signed_in(school: TestClient, token: str = "annas") -> TestClient:
    school.cookies.set("jupyterhub-user-anna", token)
    return school


def test_the_teacher_signs_in_at_the_hub_and_comes_back_to_the_same_page(school: TestClient) -> None:
    away = school.get("/user/anna/square-up?x=1", headers=HTML)
    assert away.status_code == 302
    asked = {name: values[0] for name, values in parse_qs(urlsplit(away.headers["location"]).query).items()}
    assert asked == {"client_id": "anna", "state": "state-1", "code_challenge": "challenge", "code_challenge_method": "S256"}
    kept = away.headers["set-cookie"]
    assert all(word in kept for word in ("HttpOnly", "Secure", "Path=/user/anna/", "SameSite=lax"))
    back = school.get("/user/anna/oauth_callback?code=right&state=state-1")
    assert back.headers["location"] == "/user/anna/square-up?x=1"
    assert school.get("/user/anna/api/live").status_code == 200


@pytest.mark.parametrize("query", ["code=right&state=another", "state=state-1", "code=right", ""])
def test_an_answer_that_nobody_asked_for_signs_nobody_in(school: TestClient, query: str) -> None:
    school.get("/user/anna/", headers=HTML)
    assert school.get(f"/user/anna/oauth_callback?{query}").headers["location"] == "/user/anna/"
    assert school.get("/user/anna/api/live").status_code == 403


def test_a_wrong_code_is_told(school: TestClient) -> None:
    school.get("/user/anna/", headers=HTML)
    assert school.get("/user/anna/oauth_callback?code=wrong&state=state-1").json() == {"detail": UNASKED}


@pytest.mark.parametrize("path", ["api/live", "api/kit", "api/surfaces/outgoing", "assets/mark.svg", "api/privacy/export.zip"])
def test_nobody_gets_in_without_signing_in(school: TestClient, path: str) -> None:
    answer = school.get(f"/user/anna/{path}")
    assert (answer.status_code, answer.json()) == (403, {"detail": SIGN_IN})


@pytest.mark.parametrize("token", ["berts", "heads"])
def test_no_other_teacher_and_no_administrator_gets_in(school: TestClient, token: str) -> None:
    for path in ("", "api/live", "api/kit"):
        answer = signed_in(school, token).get(f"/user/anna/{path}", headers=HTML)
        assert (answer.status_code, answer.json()) == (403, {"detail": ANOTHERS})
    with pytest.raises(WebSocketDisconnect), school.websocket_connect("wss://school.example/user/anna/api/live", headers={"origin": HOST}):
        pass


def test_sockets_need_the_teacher_and_the_own_page(school: TestClient) -> None:
    address = "wss://school.example/user/anna/api/live"
    for headers in ({"origin": HOST}, {"origin": "https://elsewhere.example"}):
        with pytest.raises(WebSocketDisconnect), school.websocket_connect(address, headers=headers):
            pass
    signed_in(school)
    with pytest.raises(WebSocketDisconnect), school.websocket_connect(address, headers={"origin": "https://elsewhere.example"}):
        pass
    with school.websocket_connect(address, headers={"origin": HOST}) as line:
        assert "version" in line.receive_json()


def test_other_paths_are_not_there(school: TestClient) -> None:
    for path in ("/", "/user/ann", "/user/annabel/api/live", "/api/live", "/user/bert/api/live"):
        assert signed_in(school).get(path).status_code == 404


def test_a_hub_that_does_not_answer_is_told_and_lets_nobody_in(school: TestClient, hub: StandIn) -> None:
    hub.silent = True
    assert signed_in(school).get("/user/anna/api/live").status_code == 503
    hub.silent = False
    assert school.get("/user/anna/api/live").status_code == 200


def test_a_silent_hub_ends_no_lesson(school: TestClient, hub: StandIn, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(entrance, "DEAF_S", 0.0)

    def look(token: str) -> int:
        return signed_in(school, token).get("/user/anna/api/live").status_code

    assert [look("annas"), look("heads"), look("nobodys")] == [200, 403, 403]
    hub.silent = True
    assert [look("annas"), look("heads"), look("nobodys")] == [200, 503, 503]
    with monkeypatch.context() as later:
        later.setattr(entrance, "SILENT_HUB_S", 0.0)
        assert look("annas") == 503
    hub.silent = False
    assert look("annas") == 200
    del hub.tokens["annas"]  # signed out
    assert look("annas") == 403
    hub.silent = True
    assert look("annas") == 503


def test_a_hub_that_hangs_is_waited_for_once_and_not_with_every_press(
    school: TestClient, hub: StandIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(entrance, "KNOWN_WITHIN_S", 0.1)
    signed_in(school).get("/user/anna/api/live")
    hub.deaf_s, hub.asked = 3600.0, 0
    for _ in range(3):
        assert school.get("/user/anna/api/live").status_code == 200
    assert hub.asked == 1
    monkeypatch.setattr(entrance, "ANSWERS_WITHIN_S", 0.1)
    assert signed_in(school, "nobodys").get("/user/anna/api/live").json() == {"detail": UNASKED}


def test_a_connection_that_a_proxy_keeps_is_not_closed_under_its_next_request() -> None:
    async def answers(scope: Scope, receive: Receive, send: Send) -> None:
        await JSONResponse({"ok": True})(scope, receive, send)

    listening = socket.create_server(("127.0.0.1", 0))
    settings = config(answers, forwarded_allow_ips="*")
    settings.lifespan = "off"
    serving = uvicorn.Server(settings)
    thread = threading.Thread(target=lambda: asyncio.run(serving.serve([listening])))
    thread.start()
    proxy = HTTPConnection(*listening.getsockname(), timeout=60)
    try:
        for pause_s in (0.0, ALONE_S + 1.0):
            time.sleep(pause_s)
            proxy.request("GET", "/")
            assert proxy.getresponse().read() == b'{"ok":true}'
    finally:
        proxy.close()
        serving.should_exit = True
        thread.join(60)
        listening.close()


def test_the_page_knows_where_it_stands(school: TestClient) -> None:
    page = signed_in(school).get("/user/anna/teach", headers=HTML)
    if page.status_code == 404:
        pytest.skip("the pages are not built")
    assert 'name="base" content="/user/anna"' in page.text
    assert '"./' not in page.text
    assert school.get("/user/anna/assets/mark.svg").status_code == 200


def test_health_is_told_to_everybody(school: TestClient) -> None:
    assert school.get("/user/anna/health").json() == {"ok": True}


def test_the_door_is_a_path_and_shut_while_nobody_is_invited(school: TestClient) -> None:
    assert school.get("/user/anna/door/").status_code == 404
    signed_in(school)
    link = school.post("/user/anna/api/guests/invitation", json={"name": "Phone", "serves": "page"}, headers={"origin": HOST}).json()[
        "link"
    ]
    assert link.startswith(HOST + "/user/anna/door/#")
    school.cookies.clear()
    page = school.get("/user/anna/door/")
    assert page.status_code == 200
    assert 'content="/user/anna/door"' in page.text
    entered = school.post("/user/anna/door/api/guest/enter", json={"code": link.split("#")[1]}, headers={"origin": HOST})
    assert entered.status_code == 201
    assert school.get("/user/anna/door/api/kit").status_code == 404  # the guests' own application, and no more
    assert school.get("/user/anna/api/kit").status_code == 403


def test_the_extension_comes_by_its_key_alone(school: TestClient) -> None:
    extension = {"origin": "chrome-extension://" + "a" * 32}
    assert school.post("/user/anna/api/extension/pair", json={}, headers=extension).status_code == 201
    assert school.get("/user/anna/api/kit", headers=extension).status_code == 403


def test_what_the_hub_says_of_the_place() -> None:
    told = {
        "JUPYTERHUB_USER": "anna", "JUPYTERHUB_SERVICE_PREFIX": "/user/anna%40x/", "JUPYTERHUB_SERVICE_URL": "http://0.0.0.0:51234/user/anna%40x/",
        "JUPYTERHUB_API_TOKEN": "t", "JUPYTERHUB_PUBLIC_URL": "https://school.example/user/anna%40x/", "MEM_LIMIT": "3221225472",
    }  # fmt: skip
    place = place_of(told)
    assert place == Place("anna", "/user/anna%40x", "0.0.0.0", 51234, "https://school.example/user/anna%40x", 3221225472, None)
    assert place.path == "/user/anna@x"
    for name in ("JUPYTERHUB_USER", "JUPYTERHUB_API_TOKEN"):
        with pytest.raises(NotAtASchool, match=name):
            place_of({key: value for key, value in told.items() if key != name})
