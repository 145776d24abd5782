"""Plates over the network: made, changed, ordered, undone, exported and imported."""

import json
import re
from typing import Any

import pytest
from fastapi.testclient import TestClient

from cartouche.core.plates.model import MAX_PLACES
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.web.plates_file import MAX_PLATES, PlatesFile, schema
from cartouche.web.state import AppState
from tests.helpers import ROOT, eventually
from tests.live.conftest import viewer

PAGE, FACE = ({"kind": "role", "role": role} for role in ("page", "face"))
HALF = {"x": 0, "y": 0, "width": 0.5, "height": 1}


def names(web: TestClient) -> list[str]:
    return [one["plate"]["name"] for one in web.get("/api/plates").json()["plates"]]


def plate(web: TestClient, plate_id: str) -> dict[str, Any]:
    return next(one for one in web.get("/api/plates").json()["plates"] if one["plate"]["id"] == plate_id)


def changed(web: TestClient, plate_id: str, settled: bool = True, **more: Any) -> Any:
    body = {"plate": {**plate(web, plate_id)["plate"], **more}, "settled": settled}
    return web.put(f"/api/plates/{plate_id}", json=body)


def test_a_lesson_begins_with_the_ready_made_plates_laid_by_what_they_hold(web: TestClient) -> None:
    view = web.get("/api/plates").json()
    assert [one["plate"]["id"] for one in view["plates"]] == [one.id for one in FIRST_PLATES]
    page, face = view["plates"][0]["rects"]
    assert page["x"] + page["width"] <= face["x"], "beside each other"
    assert view["plate_on"] == "page-and-face"
    assert [one["on"] for one in view["plates"]] == [True, *[False] * (len(FIRST_PLATES) - 1)]


def test_a_plate_is_made_from_nothing_or_as_a_copy_named_ordered_and_deleted(web: TestClient) -> None:
    made = web.post("/api/plates", json={"name": "Two pages"}).json()["plates"][-1]["plate"]
    assert made["places"] == []
    assert (
        web.post("/api/plates", json={"name": "Copy", "copy_of": "side-by-side"}).json()["plates"][-1]["plate"]["layout"] == "side-by-side"
    )
    assert changed(web, made["id"], name="Renamed", places=[{"content": PAGE, "rect": HALF}]).status_code == 200
    ids = [one["plate"]["id"] for one in web.get("/api/plates").json()["plates"]]
    web.put("/api/plates/order", json={"ids": ids[::-1]})
    assert names(web)[:2] == ["Copy", "Renamed"]
    web.delete(f"/api/plates/{made['id']}")
    assert "Renamed" not in names(web)
    assert web.put("/api/plates/order", json={"ids": ids}).status_code == 404, "an older list of them"


def test_undo_and_redo_over_everything(web: TestClient) -> None:
    web.delete("/api/plates/side-by-side")
    changed(web, "page", name="Sheet")
    assert web.post("/api/plates/undo").json()["plates"][1]["plate"]["name"] == "Page"
    assert "Side by side" in [one["plate"]["name"] for one in web.post("/api/plates/undo").json()["plates"]]
    web.post("/api/plates/redo")
    view = web.post("/api/plates/redo").json()
    assert view["plates"][1]["plate"]["name"] == "Sheet"
    assert (view["can_undo"], view["can_redo"]) == (True, False)


def test_what_is_on_changes_while_it_goes_out_and_under_a_hand_it_is_not_kept(web: TestClient, state: AppState) -> None:
    web.put("/api/teach/plate", json={"plate_id": "page"})
    assert changed(web, "page", settled=False, places=[{"content": PAGE, "rect": HALF}]).status_code == 200
    assert state.running.setup.plate.places[0].rect.width == 0.5  # type: ignore[union-attr]
    assert plate(web, "page")["plate"]["places"][0]["rect"]["width"] == 0.5, "the editor sees it as it stands"
    assert web.get("/api/plates/export").json()["plates"][1]["places"][0]["rect"]["width"] == 1
    assert not web.get("/api/plates").json()["can_undo"]
    changed(web, "page", places=[{"content": PAGE, "rect": HALF}])
    assert plate(web, "page")["plate"]["places"][0]["rect"]["width"] == 0.5


def test_the_plate_that_is_on_is_deleted_and_the_next_goes_out(web: TestClient, state: AppState) -> None:
    web.put("/api/teach/plate", json={"plate_id": "face"})
    view = web.delete("/api/plates/face").json()
    assert view["plate_on"] == "side-by-side"
    assert state.running.setup.plate.id == "side-by-side"  # type: ignore[union-attr]
    for one in view["plates"][:-1]:
        web.delete(f"/api/plates/{one['plate']['id']}")
    refused = web.delete(f"/api/plates/{view['plates'][-1]['plate']['id']}")
    assert refused.status_code == 409
    assert "last plate" in refused.json()["detail"]


def test_a_plate_is_looked_at_before_it_goes_out(web: TestClient, state: AppState) -> None:
    looking = viewer("plate:face")
    state.running.hub.join(looking)
    eventually(lambda: hasattr(looking, "newest"))
    assert state.running.setup.plate.id == "page-and-face"  # type: ignore[union-attr]
    eventually(lambda: state.running.feeds.get("face-camera").wanted)  # type: ignore[union-attr]
    state.running.hub.leave(looking)


def test_a_glance_at_a_plate_shows_what_runs_anyway_and_turns_no_camera_on(web: TestClient, state: AppState) -> None:
    glances = [viewer(f"glance:{plate.id}") for plate in FIRST_PLATES]
    for looking in glances:
        state.running.hub.join(looking)
    eventually(lambda: all(hasattr(looking, "newest") for looking in glances))
    assert not any(feed.wanted for feed in state.running.feeds.all())
    for looking in glances:
        state.running.hub.leave(looking)


def test_signs_that_no_typeface_has_are_told(web: TestClient) -> None:
    caption = {"content": {"kind": "caption", "name": "Karte 地図", "line": "Größe"}, "rect": HALF, "adorns": True}
    changed(web, "page", places=[{"content": PAGE, "rect": HALF}, caption])
    assert plate(web, "page")["missing_signs"] == "地図"


def test_adornments_go_off_and_on(web: TestClient, state: AppState) -> None:
    assert web.put("/api/plates/adorned", json={"on": False}).json()["adorned"] is False
    assert not state.running.setup.adorned
    assert web.put("/api/plates/adorned", json={"on": True}).json()["adorned"] is True


def imported(web: TestClient, content: str | bytes) -> Any:
    return web.post("/api/plates/import", content=content, headers={"content-type": "application/json"})


def test_out_and_in_again_are_the_same_plates_under_numbered_names(web: TestClient) -> None:
    file = web.get("/api/plates/export").json()
    view = imported(web, json.dumps(file)).json()
    assert len(view["plates"]) == 2 * len(FIRST_PLATES)
    for old, new in zip(file["plates"], view["plates"][len(FIRST_PLATES) :], strict=True):
        assert {**new["plate"], "id": ""} == {**old, "id": "", "name": f"{old['name']} 2"}, "numbered, so that they can be told apart"
        assert new["plate"]["id"] != old["id"]


def test_the_schema_is_published_and_the_export_holds_to_it(web: TestClient) -> None:
    published = json.loads((ROOT / "docs" / "plates.schema.json").read_text())
    assert published == json.loads(json.dumps(schema())), "run ./run openapi"
    answer = web.get("/api/plates/export")
    PlatesFile.model_validate(answer.json())
    assert answer.headers["content-disposition"] == 'attachment; filename="reading-the-ground-plates.json"'


def one(**more: Any) -> str:
    made = {"id": "a", "name": "A", "places": [{"content": PAGE, "rect": HALF}], **more}
    return json.dumps({"format": "cartouche-plates", "version": 1, "plates": [made]})


@pytest.mark.parametrize(
    ("content", "says"),
    [
        ("", "not JSON"),
        ("{", "not JSON"),
        (b"\x89PNG\r\n\x1a\n", "not JSON"),
        (json.dumps({"format": "cartouche-kit", "version": 1, "name": "K", "room": "R", "devices": []}), "kind of file"),
        (json.dumps({"type": "FeatureCollection", "features": []}), "plates"),
        (json.dumps({"plates": []}), "plates"),
        (one(places=[{"content": PAGE, "rect": {**HALF, "x": 0.8}}]), "reaches beyond the outgoing picture"),
        (one(places=[{"content": FACE, "rect": HALF}] * (MAX_PLACES + 1)), "more than 6 places"),
        (one(background="blue"), r"background colour .*\(plate 1\)"),
        (one(fade_s=9), "length of the fade is too large: 1 at most"),
    ],
)
def test_a_file_that_holds_no_plates_is_refused_in_a_sentence(web: TestClient, content: str | bytes, says: str) -> None:
    answer = imported(web, content)
    assert answer.status_code == 422
    assert re.search(says, answer.json()["detail"])
    assert answer.json()["detail"].endswith(".")
    assert len(names(web)) == len(FIRST_PLATES)


def test_a_huge_file_is_refused_before_it_is_read(web: TestClient) -> None:
    answer = imported(web, b" " * 1_100_000)
    assert answer.status_code == 413
    assert answer.json()["detail"].endswith(".")


def test_a_lesson_holds_so_many_plates_and_no_more(web: TestClient) -> None:
    file = web.get("/api/plates/export").json()
    many = json.dumps({**file, "plates": file["plates"][:1] * (MAX_PLATES - len(FIRST_PLATES))})
    assert imported(web, many).status_code == 201
    for answer in (imported(web, one()), web.post("/api/plates", json={"name": "One more"})):
        assert answer.status_code == 409
        assert "Delete one" in answer.json()["detail"]


@pytest.mark.parametrize(("method", "path"), [("PUT", "/api/plates/no"), ("DELETE", "/api/plates/no")])
def test_a_plate_that_is_not_there_is_named(web: TestClient, method: str, path: str) -> None:
    body = {"plate": FIRST_PLATES[0].model_dump(mode="json")} if method == "PUT" else None
    answer = web.request(method, path, json=body)
    assert (answer.status_code, "no" in answer.json()["detail"]) == (404, True)


def test_an_import_adds_beside_or_takes_the_place_of_the_same_name(web: TestClient) -> None:
    before = [one["plate"] for one in web.get("/api/plates").json()["plates"]]
    file = web.get("/api/plates/export").json()
    file["plates"][1]["background"] = "#112233"
    file["plates"].append({**file["plates"][0], "name": "Quite new"})
    replaced = [one["plate"] for one in web.post("/api/plates/import?same=replace", json=file).json()["plates"]]
    assert [one["id"] for one in replaced[:-1]] == [one["id"] for one in before], "number and key stay"
    assert replaced[1]["background"].lower() == "#112233"
    assert replaced[-1]["name"] == "Quite new"
    web.post("/api/plates/undo")
    added = [one["plate"]["name"] for one in web.post("/api/plates/import", json=file).json()["plates"]]
    assert len(added) == 2 * len(before) + 1
    assert len(set(added)) == len(added)
