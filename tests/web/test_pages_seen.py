"""Another page under the camera: a finished one keeps itself, ink goes and comes with its page, after a new start too."""

import shutil
from pathlib import Path

import numpy as np
from fastapi.testclient import TestClient

from cartouche.core.ink.strokes import Stroke
from cartouche.live.page_keeper import Clean
from cartouche.web.ink_in import keep
from cartouche.web.state import AppState
from tests.core.straighten.test_known_pages import thumb
from tests.web.conftest import demo_state

PAGE = "desk-camera"
STROKE = Stroke(id="s", points=((10.0, 10.0, 1.0), (40.0, 40.0, 1.0)))


def clean(written: float) -> Clean:
    return Clean(np.full((120, 90, 3), 230, np.uint8), 210.0, 0.0, written)


def test_a_finished_page_keeps_itself_where_that_is_wished(web: TestClient, state: AppState) -> None:
    state.pages.another(PAGE, thumb(1), thumb(2), clean(0.02))
    assert web.get("/api/teach/tools").json()["sheets"] == []
    web.put("/api/teach/auto-sheets", json={"on": True})
    state.pages.another(PAGE, thumb(2), thumb(3), clean(0.0))  # nobody had written on it
    assert web.get("/api/teach/tools").json()["sheets"] == []
    state.pages.another(PAGE, thumb(3), thumb(4), clean(0.02))
    (kept,) = web.get("/api/teach/tools").json()["sheets"]
    assert (kept["by_itself"], kept["width"], kept["height"]) == (True, 90, 120)
    state.pages.another(PAGE, None, thumb(5), None)  # the first look after a start is no page that went
    assert len(web.get("/api/teach/tools").json()["sheets"]) == 1


def test_ink_goes_with_its_page_and_comes_back_with_it(state: AppState) -> None:
    room = state.running.ink
    first = room.ground_of(PAGE)
    room.change(first, lambda ink: ink.with_stroke(STROKE))
    state.pages.another(PAGE, thumb(1), thumb(2), None)
    assert room.ground_of(PAGE) != first
    assert room.ink(room.ground_of(PAGE)).strokes == ()
    state.pages.another(PAGE, thumb(2), thumb(1), None)
    assert room.ground_of(PAGE) == first
    assert room.ink(first).strokes == (STROKE,)


def test_after_a_new_start_the_page_that_lies_there_has_its_ink(state: AppState, tmp_path: Path) -> None:
    state.pages.another(PAGE, None, thumb(1), None)
    state.pages.another(PAGE, thumb(1), thumb(2), None)
    second = state.running.ink.ground_of(PAGE)
    state.running.ink.change(second, lambda ink: ink.with_stroke(STROKE))
    keep(state, second)
    copy = tmp_path / "next-start"
    shutil.copytree(state.database.path.parent, copy, ignore=lambda folder, names: ["next-start"])
    again = demo_state(copy)
    try:
        room = again.running.ink
        assert room.ground_of(PAGE) == second
        assert room.ink(second).strokes == (STROKE,)
        again.pages.another(PAGE, None, thumb(1), None)  # meanwhile the first was laid back
        assert room.ground_of(PAGE) == f"{PAGE}:1"
        again.pages.another(PAGE, thumb(1), thumb(2), None)
        assert room.ground_of(PAGE) == second
    finally:
        again.close()
