"""Only this computer, only our own pages, only so much."""

import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from cartouche.store.database import Database
from cartouche.web.app import STATIC, create_app
from cartouche.web.pages import ASK_AGAIN, FOR_EVER
from cartouche.web.security import MAX_BODY_BYTES
from cartouche.web.state import AppState
from tests.helpers import ROOT
from tests.web.conftest import HERE, SOCKETS


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "192.168.1.9:8427", "", "localhost.", "[::2]"])
def test_a_foreign_host_is_refused(web: TestClient, host: str) -> None:
    assert web.get("/api/live", headers={"host": host}).status_code == 403


@pytest.mark.parametrize("host", ["localhost:8427", "127.0.0.1", "[::1]:8427", "LOCALHOST"])
def test_our_own_names_are_let_in(web: TestClient, host: str) -> None:
    assert web.get("/api/live", headers={"host": host}).status_code == 200


@pytest.mark.parametrize(
    "origin", ["http://evil.example", "null", "http://127.0.0.1:9999", "http://127.0.0.1:8427.evil.example", "http://[", f"https{HERE[4:]}"]
)
def test_a_foreign_page_changes_nothing(web: TestClient, origin: str) -> None:
    answer = web.post("/api/teach/call/start", headers={"origin": origin})
    assert answer.status_code == 403
    assert not web.get("/api/live").json()["call_running"]


@pytest.mark.parametrize("path", ["/api/surfaces/outgoing", "/api/live", "/api/cameras/desk-camera"])
@pytest.mark.parametrize("origin", ["http://evil.example", None])
def test_sockets_open_for_our_pages_only(web: TestClient, path: str, origin: str | None) -> None:
    headers = {"origin": origin} if origin else {}
    with pytest.raises(WebSocketDisconnect) as refused, web.websocket_connect(SOCKETS + path, headers=headers):
        pass
    assert refused.value.code == 1008


def test_a_large_body_is_refused_before_it_is_read(web: TestClient) -> None:
    answer = web.post("/api/lessons", content=b"x" * (MAX_BODY_BYTES + 1))
    assert answer.status_code == 413
    assert answer.json()["detail"].endswith(".")


def test_a_body_that_hides_its_length_is_cut_off(web: TestClient) -> None:
    def endless() -> Iterator[bytes]:
        for _ in range(60):
            yield b"x" * 10_000

    assert web.post("/api/lessons", content=endless()).status_code in (400, 413, 422)


def test_a_length_that_is_no_number_is_refused(web: TestClient) -> None:
    assert web.post("/api/lessons", content=b"{}", headers={"content-length": "many"}).status_code == 413


def test_pages_carry_a_policy_and_load_nothing_from_elsewhere(state: AppState, tmp_path) -> None:  # type: ignore[no-untyped-def]
    (tmp_path / "static" / "assets").mkdir(parents=True)
    (tmp_path / "static" / "index.html").write_text("<p>here</p>")
    with TestClient(create_app(state, tmp_path / "static"), base_url=HERE) as web:
        for path in ("/", "/teach", "/square-up/desk-camera", "/../../etc/passwd", "/%2e%2e/secret"):
            answer = web.get(path)
            assert answer.text == "<p>here</p>", path
            assert "script-src 'self'" in answer.headers["content-security-policy"]
        assert web.get("/api/nothing").status_code == 404
        assert web.get("/assets/../index.html").status_code in (200, 404)
        assert web.get("/assets/%2e%2e/%2e%2e/cartouche.sqlite3").status_code == 404


def test_what_is_named_by_its_content_is_kept_for_ever_and_nothing_else(web: TestClient) -> None:
    names = sorted(path.name for path in (STATIC / "assets").iterdir())
    kept = {name: web.head(f"/assets/{name}").headers["cache-control"] for name in names}
    assert {name for name, how in kept.items() if how == ASK_AGAIN} == {"mark.svg", "sound-worklet.js"}
    assert {how for how in kept.values() if how != ASK_AGAIN} == {FOR_EVER}
    again = web.get(f"/assets/{names[0]}", headers={"if-none-match": web.head(f"/assets/{names[0]}").headers["etag"]})
    assert (again.status_code, again.headers["cache-control"]) == (304, FOR_EVER)
    assert web.get("/teach").headers["cache-control"] == ASK_AGAIN
    assert "cache-control" not in web.get("/assets/gone-0badcafe.js").headers


def test_the_model_runtime_tells_nobody_and_leaves_no_folder(tmp_path: Path) -> None:
    look = "import numpy; from cartouche.models import way_net; way_net()(numpy.zeros((1, 1, 32, 128), numpy.float32))"
    home = {"HOME": str(tmp_path), "XDG_CACHE_HOME": "", "PATH": os.environ["PATH"], "PYTHONPATH": str(ROOT / "src")}
    subprocess.run([sys.executable, "-c", look], env=home, check=True)
    assert not list(tmp_path.rglob("*"))


def test_what_is_kept_is_the_teachers_alone(tmp_path: Path) -> None:
    database = Database(tmp_path / "new")
    try:
        assert (tmp_path / "new").stat().st_mode & 0o077 == 0
        assert all(path.stat().st_mode & 0o077 == 0 for path in (tmp_path / "new").glob("cartouche.sqlite3*"))
    finally:
        database.close()


@pytest.mark.parametrize("address", ["rtsp://camera/a\r\nTEARDOWN x", "rtsp://camera/\x00", "http://camera/\x7f"])
def test_an_address_with_lines_of_its_own_is_refused(web: TestClient, address: str) -> None:
    asked = {"kind": "stream", "source": address, "label": "", "name": "Wall camera", "rig": "shelf", "serves": None}
    assert web.post("/api/kit/devices", json=asked).status_code == 422
