"""Sheets are read by themselves when the lesson is over: a title is proposed, and a lesson is found by what its sheets say."""

import time
from collections.abc import Callable, Iterator
from typing import Any

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient

from cartouche.bench.papers import contour_sheet
from cartouche.live.demand import OUTGOING
from cartouche.live.page_keeper import Clean
from cartouche.models import print_reader
from cartouche.store import sheets
from cartouche.web import sheet_reading
from cartouche.web.sheet_keeping import forget, keep, path_of, turn
from cartouche.web.state import AppState
from tests.helpers import eventually

TITLE = "Sheet 3 - Reading the ground"

pytestmark = pytest.mark.skipif(print_reader() is None, reason="this system has no recogniser of print")


@pytest.fixture(autouse=True)
def soon(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sheet_reading, "LOOK_EVERY_S", 0.1)


@pytest.fixture
def out(state: AppState) -> Iterator[None]:
    """A picture goes out."""
    claim = state.running.demand.claim(OUTGOING)
    yield
    claim.release()


def kept(state: AppState) -> sheets.Sheet:
    picture = cv2.resize(contour_sheet().picture, (1240, 1754), interpolation=cv2.INTER_AREA)
    return keep(state, Clean(np.ascontiguousarray(picture), 210.0, 0.0), by_itself=False)


def shown(web: TestClient, words: str = "") -> Any:
    return web.get("/api/after", params={"words": words}).json()["lessons"]


def test_a_title_is_proposed_and_the_lesson_is_found_by_what_the_sheet_says(web: TestClient, state: AppState) -> None:
    sheet = kept(state)
    eventually(lambda: shown(web)[0]["sheets"][0]["proposed"], 60)
    one = shown(web)[0]["sheets"][0]
    assert one["proposed"].replace("·", "-") == TITLE
    assert one["name"] == "Sheet 1"  # until somebody takes it
    assert "steepest slope" in one["read"]
    assert shown(web, "contours crowd")
    assert not shown(web, "photosynthesis")
    web.put(f"/api/after/sheets/{sheet.id}", json={"name": one["proposed"], "turn": False})
    named = shown(web)[0]["sheets"][0]
    assert (named["name"], named["proposed"]) == (one["proposed"], "")


def test_nothing_is_read_while_a_picture_goes_out_unless_somebody_waits_for_it(web: TestClient, state: AppState, out: None) -> None:
    kept(state)
    time.sleep(1.0)
    assert sheets.unread(state.database) is not None
    shown(web)
    eventually(lambda: sheets.unread(state.database) is None, 60)


def test_a_sheet_that_was_turned_is_read_again(web: TestClient, state: AppState) -> None:
    sheet = kept(state)
    eventually(lambda: sheets.unread(state.database) is None, 60)
    for _ in range(4):
        web.put(f"/api/after/sheets/{sheet.id}", json={"turn": True})
    assert shown(web)[0]["sheets"][0]["proposed"] == ""
    eventually(lambda: shown(web)[0]["sheets"][0]["proposed"].replace("·", "-") == TITLE, 60)


def test_a_picture_that_is_gone_is_not_tried_for_ever(web: TestClient, state: AppState, out: None) -> None:
    path_of(state, kept(state)).unlink()
    shown(web)
    eventually(lambda: sheets.unread(state.database) is None, 60)
    assert shown(web)[0]["sheets"][0]["proposed"] == ""


def test_a_recogniser_that_fails_is_said_once_and_the_next_sheet_is_read(
    web: TestClient, state: AppState, out: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, second = kept(state), kept(state)
    real, calls = web.app.state.sheet_reader._reader, list[int]()  # type: ignore[attr-defined]

    def fails_first(page: np.ndarray) -> Any:
        calls.append(1)
        if len(calls) == 1:
            raise RuntimeError("no memory")
        return real(page)

    monkeypatch.setattr(web.app.state.sheet_reader, "_reader", fails_first)  # type: ignore[attr-defined]
    shown(web)
    eventually(lambda: sheets.unread(state.database) is None, 60)
    assert sheets.sheet(state.database, first.id).read == ""
    assert sheets.sheet(state.database, second.id).heading


def test_one_that_is_turned_or_deleted_while_it_is_read_is_not_told_otherwise(state: AppState) -> None:
    sheet, reader = kept(state), sheet_reading.SheetReader(state)
    meanwhile: list[Callable[[], None]] = [lambda: turn(state, sheet), lambda: None]

    def reads(picture: object) -> list[object]:
        meanwhile.pop(0)()
        return []

    reader._reader = reads  # type: ignore[assignment]
    reader._read(sheet)
    assert sheets.unread(state.database) is not None  # what was read lay another way
    reader._read(sheets.sheet(state.database, sheet.id))
    assert sheets.unread(state.database) is None
    meanwhile.append(lambda: forget(state, sheet))
    reader._read(sheet)
