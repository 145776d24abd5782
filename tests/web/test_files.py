"""Files over the network: right ones become devices, wrong ones one sentence each, and memory stays bounded."""

import json
import socket
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from cartouche.core.plates.ready_made import FIRST_PLATES
from tests import samples
from tests.helpers import FEW, Application, eventually

MAX_GROWTH_MB = 420  # the largest picture that is taken: 150 MB decoded, with room for its smaller copies


@pytest.fixture(scope="module")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    application = Application(tmp_path_factory.mktemp("data"), more=FEW).start()
    yield application
    application.stop()


def send(app: Application, content: bytes, name: str, kind: str = "pages", **more: str) -> tuple[int, dict[str, Any]]:
    query = urllib.parse.urlencode({"name": name, "kind": kind, **more})
    request = urllib.request.Request(f"{app.address}/api/kit/files?{query}", content, method="POST")
    try:
        with urllib.request.urlopen(request, timeout=60) as answer:
            return answer.status, json.loads(answer.read())
    except urllib.error.HTTPError as exc:
        with exc:
            return exc.code, json.loads(exc.read())


def peak_mb(app: Application) -> float:
    assert app.pid is not None
    status = Path(f"/proc/{app.pid}/status").read_text()
    return int(next(line for line in status.splitlines() if line.startswith("VmHWM")).split()[1]) / 1024


def grey(app: Application, device_id: str) -> int:
    return round(float(app.picture(f"raw:{device_id}", 320).mean()), -1)


def test_slides_turn_and_remember_their_page(app: Application, tmp_path: Path) -> None:
    sheets = samples.picture_pdf(tmp_path / "slides.pdf", (30, 120, 210))
    status, device = send(app, sheets.read_bytes(), "Contours.pdf", "slides")
    assert (status, device["name"], device["kind"], device["serves"]) == (201, "Contours", "slides", None)
    assert grey(app, device["id"]) == 30
    app.ask("PUT", f"/api/kit/devices/{device['id']}/page", {"page": 2})
    eventually(lambda: grey(app, device["id"]) == 210)
    app.ask("PUT", f"/api/kit/devices/{device['id']}/page", {"page": 50})
    assert next(one for one in app.get("/api/kit")["devices"] if one["id"] == device["id"])["page"] == 2
    assert app.get("/api/kit")["files"][device["id"]]["pages"] == 3


def test_pages_can_be_added_behind_each_other_and_serve_as_the_page(app: Application, tmp_path: Path) -> None:
    first, second = samples.picture_pdf(tmp_path / "a.pdf", (40,)), samples.picture_pdf(tmp_path / "b.pdf", (160, 200))
    _, device = send(app, first.read_bytes(), "Legend.pdf", serves="page")
    assert send(app, second.read_bytes(), "More.pdf", device_id=device["id"])[0] == 201
    app.ask("PUT", f"/api/kit/devices/{device['id']}/page", {"page": 1})
    app.ask("PUT", "/api/teach/plate", {"plate_id": FIRST_PLATES[1].id})
    eventually(lambda: abs(float(app.picture("outgoing", 640)[180, 320].mean()) - 160) < 12)  # and learners see it
    app.ask("PATCH", "/api/kit/devices/desk-camera", {"serves": "page"})


def test_a_clip_waits_once_learners_do_not_see_it_and_one_that_is_only_looked_at_goes_on(app: Application, tmp_path: Path) -> None:
    _, device = send(app, samples.clip(tmp_path / "clip.webm").read_bytes(), "walk.webm", "clip", serves="page")

    def plays() -> bool:
        return bool(next(one for one in app.get("/api/live")["feeds"] if one["id"] == device["id"])["clip"]["playing"])

    app.ask("PUT", "/api/teach/plate", {"plate_id": FIRST_PLATES[1].id})
    app.ask("PUT", f"/api/kit/devices/{device['id']}/clip", {"playing": True, "loops": True})
    app.ask("PUT", "/api/teach/plate", {"plate_id": FIRST_PLATES[0].id})
    assert plays()  # the page is on that plate too
    app.ask("POST", "/api/teach/actions", {"action": "plate", "number": 3})
    assert not plays()
    app.ask("PUT", f"/api/kit/devices/{device['id']}/clip", {"playing": True, "loops": True})
    assert plays()  # to look at it alone before it is shown
    app.ask("PUT", "/api/teach/plate", {"plate_id": FIRST_PLATES[1].id})
    app.ask("PATCH", "/api/kit/devices/desk-camera", {"serves": "page"})  # the paper again
    assert not plays()


def test_a_clip_plays_pauses_and_gives_its_sound(app: Application, tmp_path: Path) -> None:
    path = samples.clip(tmp_path / "clip.webm")
    _, device = send(app, path.read_bytes(), "walk.webm", "clip")

    def feed() -> dict[str, Any]:
        return next(one for one in app.get("/api/live")["feeds"] if one["id"] == device["id"])

    assert feed()["clip"] == {"playing": False, "loops": False, "position_s": 0.0, "duration_s": pytest.approx(samples.CLIP_S, abs=0.1)}
    assert app.get("/api/kit")["files"][device["id"]]["sound"] == "opus"
    app.ask("PUT", f"/api/kit/devices/{device['id']}/clip", {"playing": True, "loops": True})
    eventually(lambda: app.pictures(f"raw:{device['id']}", 5, 320) and feed()["clip"]["position_s"] > 0.2)
    assert feed()["clip"]["playing"]
    app.ask("PUT", f"/api/kit/devices/{device['id']}/clip", {"playing": False, "position_s": 1.0})
    app.pictures(f"raw:{device['id']}", 2, 320)
    assert feed()["clip"]["position_s"] == pytest.approx(1.0)
    with urllib.request.urlopen(f"{app.address}/api/kit/devices/{device['id']}/file") as answer:
        assert answer.read() == path.read_bytes()
        assert answer.headers["content-type"] == "video/webm"


@pytest.fixture(scope="module")
def wrong(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    folder = tmp_path_factory.mktemp("wrong")
    text, empty = folder / "notes.pdf", folder / "empty.mp4"
    text.write_text("Dear colleagues, the map room is closed on Friday.\n" * 40)
    empty.touch()
    return {
        "long": samples.pdf(folder / "long.pdf", 2000),
        "huge": samples.huge_png(folder / "huge.png"),
        "text": text,
        "locked": samples.locked_pdf(folder / "locked.pdf"),
        "empty": empty,
    }


@pytest.mark.parametrize(
    ("which", "kind", "says"),
    [
        ("long", "pages", "has 2,000 pages; Cartouche takes up to 500"),
        ("huge", "pages", "more than 180 million pixels large"),
        ("text", "pages", "isn't really a PDF"),
        ("locked", "slides", "locked with a password"),
        ("empty", "clip", "is empty"),
    ],
)
def test_a_wrong_file_is_one_sentence_and_nothing_is_lost(
    app: Application, wrong: dict[str, Path], which: str, kind: str, says: str
) -> None:
    devices, kept = app.get("/api/kit")["devices"], sorted((app.folder / "files").glob("*"))
    before = peak_mb(app)
    status, said = send(app, wrong[which].read_bytes(), wrong[which].name, kind)
    assert status == 422
    assert says in said["detail"]
    assert said["detail"].count("\n") == 0
    assert peak_mb(app) - before < MAX_GROWTH_MB
    assert app.get("/api/kit")["devices"] == devices
    assert sorted((app.folder / "files").glob("*")) == kept


def test_the_largest_picture_that_is_taken_stays_within_bounds(app: Application, tmp_path: Path) -> None:
    before = peak_mb(app)
    assert send(app, samples.huge_png(tmp_path / "large.png", 7000).read_bytes(), "large.png")[0] == 201
    assert peak_mb(app) - before < MAX_GROWTH_MB


@pytest.mark.parametrize(("kind", "chosen_as"), [("clip", "pages"), ("pages", "clip"), ("clip", "slides")])
def test_a_file_is_taken_as_what_it_is(app: Application, tmp_path: Path, kind: str, chosen_as: str) -> None:
    path = samples.clip(tmp_path / "a.mp4") if kind == "clip" else samples.pdf(tmp_path / "a.pdf", 1)
    status, device = send(app, path.read_bytes(), path.name, chosen_as)
    assert status == 201
    assert device["kind"] == kind


def test_a_clip_does_not_go_behind_pages(app: Application, tmp_path: Path) -> None:
    _, pages = send(app, samples.pdf(tmp_path / "a.pdf", 1).read_bytes(), "a.pdf")
    status, said = send(app, samples.clip(tmp_path / "b.mp4").read_bytes(), "b.mp4", device_id=pages["id"])
    assert status == 422
    assert "isn't really a page" in said["detail"]


def test_pages_go_behind_pages_alone(app: Application, tmp_path: Path) -> None:
    content = samples.pdf(tmp_path / "a.pdf", 1).read_bytes()
    assert send(app, content, "a.pdf", device_id="desk-camera")[0] == 404
    assert send(app, content, "a.pdf", device_id="nobody")[0] == 404


@pytest.mark.parametrize("name", ["", " a", "a\nb", "x" * 61])
def test_a_name_has_bounds(app: Application, name: str) -> None:
    assert send(app, b"%PDF-", name)[0] == 422


def test_a_file_that_says_it_is_too_large_is_refused_before_it_comes(app: Application) -> None:
    request = urllib.request.Request(
        f"{app.address}/api/kit/files?name=film.mp4&kind=clip", b"x", {"Content-Length": "900000000"}, method="POST"
    )
    with pytest.raises(urllib.error.HTTPError) as refused:
        urllib.request.urlopen(request, timeout=10)
    refused.value.close()
    assert refused.value.code == 413


def test_what_a_killed_upload_left_and_what_is_taken_out_is_swept(app: Application, tmp_path: Path) -> None:
    _, device = send(app, samples.pdf(tmp_path / "a.pdf", 1).read_bytes(), "a.pdf")
    (app.folder / "files" / "arriving-0123").write_bytes(b"half a file")
    before = len(list((app.folder / "files").iterdir()))
    app.ask("DELETE", f"/api/kit/devices/{device['id']}")
    assert len(list((app.folder / "files").iterdir())) == before - 2


def test_pages_are_there_again_after_a_power_cut(tmp_path: Path) -> None:
    application = Application(tmp_path / "data", more=FEW).start()
    try:
        _, device = send(application, samples.picture_pdf(tmp_path / "a.pdf", (30, 200)).read_bytes(), "a.pdf")
        application.ask("PUT", f"/api/kit/devices/{device['id']}/page", {"page": 1})
        application.kill()
        application.start()
        assert grey(application, device["id"]) == 200
        next((tmp_path / "data" / "files").glob("file-*")).unlink()
        application.kill()
        application.start()
        assert device["id"] in [one["id"] for one in application.get("/api/kit")["devices"]]
    finally:
        application.stop()


def test_an_upload_that_is_cut_off_leaves_nothing(app: Application) -> None:
    before = sorted((app.folder / "files").iterdir())
    with socket.create_connection(("127.0.0.1", app.port)) as line:
        head = f"POST /api/kit/files?name=a.pdf HTTP/1.1\r\nHost: 127.0.0.1:{app.port}\r\nContent-Length: 100000\r\n\r\n"
        line.sendall(head.encode() + b"%PDF-1.4" + bytes(5000))
        eventually(lambda: len(list((app.folder / "files").iterdir())) == len(before) + 1)
    eventually(lambda: sorted((app.folder / "files").iterdir()) == before)
    assert app.get("/api/live")
