"""The lesson's tools by their routes: each action, what outlives a killed process, what is refused and what is never lost."""

import errno
import json
import shutil
import time
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient

from cartouche.core.straighten.chain import FrameLink
from cartouche.live import feeds
from cartouche.live.page_keeper import PageKeeper
from cartouche.store import chains, sheets, steps
from cartouche.web import acts, sheet_keeping
from cartouche.web.state import AppState
from cartouche.web.steps_file import schema
from tests.helpers import ROOT, eventually
from tests.web.conftest import HERE, demo_state
from tests.web.taught import PAGE, act


def test_held_the_page_stands_still_and_goes_on_again(web: TestClient, running: AppState) -> None:
    held = act(web, "hold")["held"]
    assert (held["by"], held["device_id"], held["asks"]) == ("hand", PAGE, False)
    frame = running.running.setup.holds[PAGE].frame
    before = frame.y.copy()
    eventually(lambda: running.running.desk.latest is not None)
    assert np.array_equal(frame.y, before)  # its planes are its own, whatever the camera draws
    assert act(web, "hold")["held"] is None
    assert act(web, "live")["said"] == "The page is live already."


@pytest.mark.parametrize("action", ["sheet", "hold"])
def test_of_a_page_that_rested_what_lies_there_now_is_kept(
    web: TestClient, running: AppState, action: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its plate was off meanwhile: the last picture of before may show another page."""
    monkeypatch.setattr(feeds, "STALE_S", 0.3)
    feed = running.running.feeds.get(PAGE)
    assert feed is not None
    act(web, "plate", number=3)
    eventually(lambda: not feed.wanted)
    time.sleep(0.4)
    pressed_s = time.monotonic()
    taken: list[float] = []
    straight = PageKeeper._straight
    monkeypatch.setattr(
        PageKeeper, "_straight", lambda keeper, page, chain, frame: taken.append(frame.captured_s) or straight(keeper, page, chain, frame)
    )
    act(web, action)
    taken += [held.frame.captured_s for held in running.running.setup.holds.values()]
    assert taken
    assert min(taken) > pressed_s - 0.05


def test_a_face_made_the_best_of_goes_off_and_on_by_one_key(web: TestClient, running: AppState) -> None:
    assert "already" in act(web, "natural")["said"]  # nothing to take off
    plate = web.get("/api/plates").json()["plates"][0]["plate"]
    plate["places"][1]["grade"]["saturation"] = -1.0
    assert web.put("/api/plates/page-and-face", json={"plate": plate, "settled": True}).status_code == 200
    assert "same key" in act(web, "natural")["said"]
    assert web.get("/api/plates").json()["natural"]
    assert act(web, "natural")["said"] == ""
    assert not running.running.setup.natural


def test_the_pen_is_followed_closer_up_and_not_over_the_whole_page(web: TestClient, running: AppState) -> None:
    on = act(web, "pen")
    assert on["follow_pen"]
    assert on["frame"]["zoom"] > 1  # of the whole page there is nothing to follow
    assert not act(web, "pen")["follow_pen"]
    act(web, "pen")
    whole = act(web, "whole")
    assert (whole["follow_pen"], whole["frame"]["zoom"]) == (False, 1)
    assert "not followed" in whole["said"]


def test_held_and_timer_are_there_again_after_a_killed_process(web: TestClient, running: AppState, tmp_path: Path) -> None:
    act(web, "hold")
    act(web, "timer")
    web.put("/api/teach/auto-hold", json={"on": True})
    act(web, "pen")
    kept = running.running.setup.holds[PAGE]
    copy = tmp_path / "after-the-kill"
    shutil.copytree(running.database.path.parent, copy, ignore=lambda folder, names: ["after-the-kill"])
    again = demo_state(copy)
    try:
        setup = again.running.setup
        assert setup.holds[PAGE].by == "hand"
        assert setup.holds[PAGE].since_s == kept.since_s
        assert np.abs(setup.holds[PAGE].frame.y.astype(int) - kept.frame.y).mean() < 2
        assert setup.timer == running.running.setup.timer
        assert setup.timer.runs
        assert setup.auto_hold
        assert setup.follow_pen
    finally:
        again.close()


def test_a_sheet_is_kept_shown_named_and_deleted(web: TestClient, running: AppState) -> None:
    view = act(web, "sheet")
    assert view["said"].startswith("Kept as “Sheet 1”.")
    sheet = view["sheets"][0]
    picture = cv2.imdecode(np.frombuffer(web.get(f"/api/teach/sheets/{sheet['id']}.png").content, np.uint8), cv2.IMREAD_COLOR)
    assert picture.shape[:2] == (sheet["height"], sheet["width"])
    assert picture.std() > 20  # something is on it
    act(web, "closer")
    shown = web.post(f"/api/teach/sheets/{sheet['id']}/show").json()
    assert shown["held"]["sheet_id"] == sheet["id"]
    assert shown["frame"]["zoom"] == 1.0  # all of it
    assert running.running.setup.holds[PAGE].frame.size == (sheet["width"] // 2 * 2, sheet["height"] // 2 * 2)
    live = act(web, "live")
    assert live["held"] is None
    assert live["frame"]["zoom"] > 1.0  # as close as before
    named = web.put(f"/api/teach/sheets/{sheet['id']}", json={"name": "The profile"}).json()
    assert named["sheets"][0]["name"] == "The profile"
    web.post(f"/api/teach/sheets/{sheet['id']}/show")
    gone = web.delete(f"/api/teach/sheets/{sheet['id']}").json()
    assert (gone["sheets"], gone["held"]) == ([], None)
    assert [one["id"] for one in web.get("/api/after").json()["lessons"][0]["put_away"]] == [sheet["id"]]  # it can be put back
    web.delete(f"/api/after/sheets/{sheet['id']}")
    assert list(sheets.folder(running.database).iterdir()) == []
    assert web.get(f"/api/teach/sheets/{sheet['id']}.png").status_code == 404


def test_pictures_of_a_deleted_lesson_are_gone_with_the_next_start(web: TestClient, running: AppState, tmp_path: Path) -> None:
    act(web, "sheet")
    web.delete(f"/api/lessons/{running.lesson_id}")
    copy = tmp_path / "next-start"
    shutil.copytree(running.database.path.parent, copy, ignore=lambda folder, names: ["next-start"])
    assert len(list((copy / "sheets").glob("*.png"))) == 1
    again = demo_state(copy)
    try:
        assert list(sheets.folder(again.database).glob("*.png")) == []
    finally:
        again.close()


def test_on_a_full_disk_the_sheet_waits_and_nothing_else_stops(web: TestClient, running: AppState, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(self: Path, content: bytes) -> int:
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as patched:
        patched.setattr(Path, "write_bytes", full)
        view = act(web, "sheet")
        assert "disk" in view["said"]
        assert [sheet["waits"] for sheet in view["sheets"]] == [True]
        sheet_keeping.write_waiting(running)
        assert running.unwritten
    sheet_keeping.write_waiting(running)
    assert [sheet["waits"] for sheet in web.get("/api/teach/tools").json()["sheets"]] == [False]


def test_a_closer_look_ends_at_the_whole_and_is_no_step_to_undo(web: TestClient, running: AppState) -> None:
    act(web, "whole")
    for _ in range(3):
        zoom = act(web, "closer")["frame"]["zoom"]
    assert zoom == pytest.approx(1.3**3)
    before = act(web, "right")["frame"]["x"]
    assert act(web, "right")["frame"]["x"] >= before
    assert chains.current(running.database, PAGE).chain.frame.zoom == pytest.approx(zoom)
    web.put("/api/teach/look", json={"by": 1.5, "x": 0.9, "y": 0.1})
    assert act(web, "whole")["frame"] == FrameLink().model_dump()
    refused = web.post("/api/teach/actions", json={"action": "wider"})
    assert refused.status_code == 422
    assert "the whole page" in refused.json()["detail"]


def test_a_press_that_is_sent_again_counts_once(web: TestClient, state: AppState) -> None:
    first = state.plates()[0].id
    web.put("/api/teach/plate", json={"plate_id": first})
    for _ in range(3):
        act(web, "next", press="0123456789")
    assert state.running.setup.plate is not None
    assert state.running.setup.plate.id == state.plates()[1].id
    act(web, "next", press="another-one")
    assert state.running.setup.plate.id == state.plates()[2].id


def test_a_press_that_failed_is_done_when_it_is_sent_again(state: AppState, monkeypatch: pytest.MonkeyPatch) -> None:
    pressed, tries = acts._ACTS["next"], list[str]()

    def fails_at_first(state: AppState, number: int | None) -> str:
        tries.append("next")
        if len(tries) == 1:
            raise OSError("odd")
        return pressed(state, number)

    monkeypatch.setitem(acts._ACTS, "next", fails_at_first)
    before = state.running.setup.plate
    with pytest.raises(OSError, match="odd"):
        acts.act_once(state, "next", None, "press-0001")
    assert state.running.setup.plate == before
    for _ in range(2):
        acts.act_once(state, "next", None, "press-0001")
    assert state.running.setup.plate != before
    assert len(tries) == 2


def test_keys_that_collide_are_said_and_nothing_is_changed(web: TestClient) -> None:
    assert web.put("/api/teach/keys", json={"action": "hold", "key": "F9"}).json()["actions"][5]["keys"] == ["F9"]
    refused = web.put("/api/teach/keys", json={"action": "sheet", "key": "F9"})
    assert refused.status_code == 422
    assert "Hold the page" in refused.json()["detail"]
    assert web.put("/api/teach/keys", json={"action": "plate", "key": "q"}).status_code == 422
    keys = {one["name"]: one["keys"] for one in web.put("/api/teach/keys", json={"action": "hold"}).json()["actions"]}
    assert keys["hold"][0] == "h"
    assert keys["sheet"] == ["k"]


def test_steps_go_forth_and_back_and_say_what_they_lack(web: TestClient, running: AppState) -> None:
    plates = running.plates()
    for number, name in enumerate(("Opening", "The map", "The profile")):
        act(web, "plate", number=number + 1)
        made = web.post("/api/teach/steps", json={"name": name, "note": f"Note {number}"})
        assert made.status_code == 201
    ids = [one["step"]["id"] for one in made.json()["steps"]]
    assert web.put("/api/teach/steps/order", json={"ids": ids[:2]}).status_code == 404
    web.patch(f"/api/teach/steps/{ids[1]}", json={"skipped": True})
    assert act(web, "forward")["at"] == ids[0]
    assert running.running.setup.plate == plates[0]
    view = act(web, "forward")
    assert (view["at"], view["next"]) == (ids[2], None)  # the second is skipped
    assert running.running.setup.plate == plates[2]
    assert web.post("/api/teach/actions", json={"action": "forward"}).status_code == 422
    assert act(web, "back")["at"] == ids[0]
    copied = web.post(f"/api/teach/steps/{ids[0]}/copy").json()
    assert [one["step"]["name"] for one in copied["steps"]] == ["Opening", "Opening", "The map", "The profile"]
    web.delete(f"/api/plates/{plates[2].id}")
    lacks = {one["step"]["id"]: one["lacks"] for one in web.get("/api/teach/tools").json()["steps"]}
    assert "plate was deleted" in lacks[ids[2]]
    shown = web.post(f"/api/teach/steps/{ids[2]}/go").json()
    assert "plate was deleted" in shown["said"]
    assert shown["at"] == ids[2]  # as much of it as there is
    assert web.delete(f"/api/teach/steps/{ids[2]}").json()["at"] is None
    assert next(step.id for step in steps.steps(running.database, running.open_lesson().id)) == ids[0]


def test_a_step_starts_its_timer_and_shows_its_sheet(web: TestClient, running: AppState) -> None:
    sheet = act(web, "sheet")["sheets"][0]
    web.put("/api/teach/timer", json={"total_s": 90, "way": "down", "shown": True})
    web.post(f"/api/teach/sheets/{sheet['id']}/show")
    web.post("/api/teach/steps", json={"name": "Look at it"})
    act(web, "live")
    web.put("/api/teach/timer", json={"shown": False})
    view = act(web, "forward")
    assert view["held"]["sheet_id"] == sheet["id"]
    assert (view["timer"]["runs"], view["timer"]["shown"], view["timer"]["total_s"]) == (True, True, 90)


def test_without_steps_forward_turns_plates(web: TestClient, state: AppState) -> None:
    act(web, "plate", number=1)
    act(web, "forward")
    assert state.running.setup.plate == state.plates()[1]
    act(web, "back")
    assert state.running.setup.plate == state.plates()[0]


@pytest.mark.parametrize("body", [{"action": "explode"}, {"action": "plate", "number": 0}, {}, {"action": "hold", "more": 1}])
def test_what_is_no_action_is_refused(web: TestClient, body: dict[str, Any]) -> None:
    assert web.post("/api/teach/actions", json=body).status_code == 422


def test_tools_of_nothing_are_empty_and_refuse_in_a_sentence(web: TestClient, state: AppState) -> None:
    for lesson in web.get("/api/lessons").json()["lessons"]:
        web.delete(f"/api/lessons/{lesson['id']}")
    view = web.get("/api/teach/tools").json()
    assert (view["held"], view["sheets"], view["steps"], view["page_id"]) == (None, [], [], None)
    for action in ("hold", "sheet", "closer", "forward", "timer"):
        answer = web.post("/api/teach/actions", json={"action": action}, headers={"origin": HERE})
        assert answer.status_code in (409, 422), action
        assert answer.json()["detail"].endswith(".")


def test_steps_go_out_and_come_into_another_lesson_with_its_own_plates(web: TestClient, state: AppState) -> None:
    for number in (1, 2):
        act(web, "plate", number=number)
        web.post("/api/teach/steps", json={"name": f"Moment {number}", "note": "Slowly."})
    answer = web.get("/api/teach/steps/export")
    assert answer.headers["content-disposition"] == 'attachment; filename="reading-the-ground-steps.json"'
    assert json.loads((ROOT / "docs" / "steps.schema.json").read_text()) == json.loads(json.dumps(schema())), "run ./run openapi"
    web.post("/api/plates", json={"name": "Twin", "copy_of": state.plates()[0].id})
    file = answer.json()
    file["steps"][0]["plate_id"] = "of-another-lesson"
    file["plate_names"]["of-another-lesson"] = "Twin"
    view = web.post("/api/teach/steps/import", content=json.dumps(file))
    assert view.status_code == 201
    made = view.json()["steps"]
    assert [one["step"]["name"] for one in made] == ["Moment 1", "Moment 2", "Moment 1", "Moment 2"]
    assert len({one["step"]["id"] for one in made}) == 4
    twin = next(plate.id for plate in state.plates() if plate.name == "Twin")
    assert made[2]["step"]["plate_id"] == twin


OF_PLATES = '{"format": "cartouche-plates", "version": 1, "steps": []}'
EMPTY_STEP = '{"format": "cartouche-steps", "version": 1, "steps": [{}]}'


@pytest.mark.parametrize("content", ["", "[]", "{", OF_PLATES, EMPTY_STEP])
def test_a_file_without_steps_is_refused_in_a_sentence(web: TestClient, content: str) -> None:
    refused = web.post("/api/teach/steps/import", content=content)
    assert refused.status_code == 422
    assert refused.json()["detail"].startswith("This file holds no steps")
    assert web.post("/api/teach/steps/import", content=" " * 2_100_000).status_code == 413
    assert web.get("/api/teach/tools").json()["steps"] == []
