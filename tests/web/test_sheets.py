"""The sheets of a lesson by their routes: ordered, turned, put away, with ink and without."""

import errno
from typing import Any

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient

from cartouche.core.ink.strokes import Ink, Stroke, sheet_ground
from cartouche.core.straighten.page_space import page_space
from cartouche.store import ink, sheets
from cartouche.store.database import cannot_save
from cartouche.web.ink_in import keep
from cartouche.web.state import AppState
from tests.web.taught import PAGE, act


def test_sheets_are_ordered_turned_put_away_and_put_back(web: TestClient, running: AppState) -> None:
    for _ in range(3):
        act(web, "sheet")
    first, second, third = (sheet["id"] for sheet in web.get("/api/after").json()["lessons"][0]["sheets"])

    def order(answer: Any) -> list[str]:
        return [sheet["id"] for sheet in answer.json()["lessons"][0]["sheets"]]

    assert order(web.put(f"/api/after/sheets/{third}", json={"before": first})) == [third, first, second]
    for _ in range(40):  # however often two change places
        assert order(web.put(f"/api/after/sheets/{second}", json={"before": first})) == [third, second, first]
        assert order(web.put(f"/api/after/sheets/{first}", json={"before": second})) == [third, first, second]
    assert order(web.put(f"/api/after/sheets/{third}", json={"before": ""})) == [first, second, third]
    before = web.get("/api/after").json()["lessons"][0]["sheets"][0]
    turned = web.put(f"/api/after/sheets/{first}", json={"turn": True}).json()["lessons"][0]["sheets"][0]
    assert (turned["width"], turned["height"]) == (before["height"], before["width"])
    picture = cv2.imdecode(np.frombuffer(web.get(f"/api/after/sheets/{first}.png").content, np.uint8), cv2.IMREAD_COLOR)
    assert picture.shape[:2] == (turned["height"], turned["width"])
    away = web.put(f"/api/after/sheets/{second}", json={"away": True}).json()["lessons"][0]
    assert [sheet["id"] for sheet in away["put_away"]] == [second]
    assert second not in {sheet["id"] for sheet in web.get("/api/teach/tools").json()["sheets"]}
    assert order(web.put(f"/api/after/sheets/{second}", json={"away": False})) == [first, second, third]
    assert web.delete(f"/api/after/sheets/{second}").status_code == 200
    assert web.get(f"/api/after/sheets/{second}.png").status_code == 404


def test_a_sheet_is_kept_with_the_ink_over_the_page_and_without(web: TestClient, running: AppState) -> None:
    feed = running.running.feeds.get(PAGE)
    assert feed is not None
    assert feed.latest is not None
    page, room = page_space(running.chain(PAGE), feed.latest.size).size, running.running.ink
    points = tuple((0.2 * page.width + k * 0.03 * page.width, 0.3 * page.height, 1.0) for k in range(12))
    red = Stroke(id="red", colour="#FF0000", width=0.02 * page.width, points=points)
    room.change(room.ground_of(PAGE), lambda ink: Ink((red,)))
    act(web, "sheet")
    sheet = web.get("/api/after").json()["lessons"][0]["sheets"][0]
    assert sheet["ink"]

    def reds(ink: bool) -> int:
        content = web.get(f"/api/after/sheets/{sheet['id']}.png", params={"ink": ink}).content
        picture = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_COLOR).astype(int)
        return int(((picture[..., 2] > 150) & (picture[..., 1] < 90) & (picture[..., 0] < 90)).sum())

    assert reds(True) > reds(False) + 500


def test_ink_on_a_sheet_turns_with_it(web: TestClient, running: AppState) -> None:
    act(web, "sheet")
    sheet = web.get("/api/after").json()["lessons"][0]["sheets"][0]
    address, ground = f"/api/after/sheets/{sheet['id']}", sheet_ground(sheet["id"])
    long = max(sheet["width"], sheet["height"])
    points = tuple((0.01 * k * sheet["width"] / long, 0.1 * sheet["height"] / long, 1.0) for k in range(10, 30))
    running.running.ink.change(ground, lambda _: Ink((Stroke(id="red", colour="#FF0000", width=0.02, points=points),)))
    keep(running, ground)

    def spot() -> tuple[float, float]:
        pages = [web.get(f"{address}.png", params={"ink": ink}).content for ink in (True, False)]
        over, bare = (cv2.imdecode(np.frombuffer(page, np.uint8), cv2.IMREAD_COLOR) for page in pages)
        high, wide = np.argwhere(cv2.absdiff(over, bare[: over.shape[0], : over.shape[1]]).max(axis=2) > 60).mean(axis=0)
        size = web.get("/api/after").json()["lessons"][0]["sheets"][0]
        return float(wide / size["width"]), float(high / size["height"])

    assert spot() == pytest.approx((0.2, 0.1), abs=0.01)
    web.put(address, json={"turn": True})
    assert spot() == pytest.approx((0.9, 0.2), abs=0.01)
    assert running.running.ink.ink(ground).strokes == ink.inks(running.database, running.open_lesson().id)[ground]
    web.put(address, json={"turn": True})
    assert spot() == pytest.approx((0.8, 0.9), abs=0.01)
    unkept = Stroke(id="new", colour="#FF0000", width=0.02, points=((0.1, 0.1, 1.0), (0.2, 0.1, 1.0)))  # the disk was full
    running.running.ink.change(ground, lambda drawn: drawn.with_stroke(unkept))
    web.put(address, json={"turn": True})
    assert len(running.running.ink.ink(ground).strokes) == len(ink.inks(running.database, running.open_lesson().id)[ground]) == 2


def test_a_shown_sheet_is_shown_as_it_is_turned_and_goes_with_its_ink(web: TestClient, running: AppState) -> None:
    act(web, "sheet")
    sheet = web.get("/api/after").json()["lessons"][0]["sheets"][0]
    address = f"/api/after/sheets/{sheet['id']}"
    assert web.post(f"/api/teach/sheets/{sheet['id']}/show").status_code == 200
    before = running.running.setup.holds[PAGE].frame.size
    web.put(address, json={"turn": True})
    after = running.running.setup.holds[PAGE].frame.size
    assert (after.width, after.height) == (before.height, before.width)
    ground = sheet_ground(sheet["id"])
    running.running.ink.change(ground, lambda _: Ink((Stroke(id="red", points=((0.1, 0.1, 1.0), (0.2, 0.1, 1.0))),)))
    keep(running, ground)
    web.delete(address)
    assert ground not in ink.inks(running.database, running.open_lesson().id)
    assert not running.running.ink.ink(ground).strokes


def test_a_sheet_that_cannot_be_turned_is_as_it_was(web: TestClient, running: AppState, monkeypatch: pytest.MonkeyPatch) -> None:
    act(web, "sheet")
    sheet = web.get("/api/after").json()["lessons"][0]["sheets"][0]
    folder = sheets.folder(running.database)
    before = {path.name: path.read_bytes() for path in folder.iterdir()}

    def refuses(*_: object) -> None:
        raise cannot_save(OSError(errno.ENOSPC, "no space"))

    monkeypatch.setattr(sheets, "turn", refuses)
    assert web.put(f"/api/after/sheets/{sheet['id']}", json={"turn": True}).status_code == 507
    assert {path.name: path.read_bytes() for path in folder.iterdir()} == before
    assert web.get("/api/after").json()["lessons"][0]["sheets"][0] == sheet
