"""Plates in the browser: built from nothing by mouse and by keys, dropped on, faded, captioned, exported and imported."""

import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.helpers import Application, eventually, settled


def plates(app: Application) -> list[dict[str, Any]]:
    return [one["plate"] for one in app.get("/api/plates")["plates"]]


def picture(page: Page) -> Locator:
    return page.locator("canvas[aria-label^='The plate'][data-shown=true]")


def place(page: Page, name: str) -> Locator:
    return page.get_by_role("button", name=name)


def new_plate(page: Page, begins_as: str = "Empty") -> None:
    page.goto("/plates")
    expect(picture(page)).to_be_visible()
    page.get_by_label("What a new plate begins as").select_option(label=begins_as)
    with page.expect_response("**/api/plates"):
        page.get_by_role("button", name="New plate").click()
    expect(page.get_by_label("Name of the plate")).to_have_value("New plate" if begins_as == "Empty" else begins_as)


def drag(page: Page, start: tuple[float, float], by: tuple[float, float]) -> None:
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(start[0] + by[0] / 2, start[1] + by[1] / 2)
    page.mouse.move(start[0] + by[0], start[1] + by[1])
    page.mouse.up()


def middle(spot: Locator) -> tuple[float, float]:
    box = spot.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_the_face_in_black_and_white_is_seen_first_and_one_key_takes_it_off(page: Page, app: Application) -> None:
    page.goto("/plates")
    expect(picture(page)).to_be_visible()
    place(page, "Place 2: Face").click()
    page.get_by_role("group", name="The face", exact=True).get_by_role("button", name="Black and white").click()

    def colour() -> float:
        """Of the face's upper right, in 8-bit steps from grey."""
        seen = app.picture("outgoing").astype(int)
        face = seen[120:320, int(0.76 * seen.shape[1]) : int(0.97 * seen.shape[1])]
        return float((face.max(axis=2) - face.min(axis=2)).mean())

    eventually(lambda: colour() < 12)
    page.goto("/teach")
    expect(page.locator(".plates canvas[data-shown=true]")).to_have_count(6)  # each plate as it would be now
    page.keyboard.press("e")
    expect(page.get_by_text("Faces go out as their cameras give them")).to_be_visible()
    eventually(lambda: colour() > 16)
    page.keyboard.press("e")
    eventually(lambda: colour() < 12)


def test_a_plate_built_from_nothing_with_the_mouse_is_the_same_after_a_reload(page: Page, app: Application) -> None:
    new_plate(page)
    page.get_by_label("Add a place").select_option(label="Whatever serves as page")
    page.get_by_label("Add a place").select_option(label="Whatever serves as face")
    face = place(page, "Place 2: Face")
    stage = page.locator(".stage").bounding_box()
    assert stage is not None
    drag(page, middle(face), (-0.4 * stage["width"], 0.5 * stage["height"]))
    eventually(lambda: abs(plates(app)[-1]["places"][1]["rect"]["x"] - 0.3) < 0.02)
    corner = page.locator(".handle.se")
    settled(lambda: plates(app)[-1]["places"][1]["rect"])
    drag(page, middle(corner), (0.2 * stage["width"], 0.0))
    page.get_by_text("Round", exact=True).click()
    page.get_by_text("Border", exact=True).click()
    eventually(lambda: plates(app)[-1]["places"][1]["border"])
    kept = settled(lambda: plates(app)[-1])
    assert kept["places"][1]["round"]
    assert kept["places"][1]["rect"]["width"] == pytest.approx(0.46, abs=0.02)
    page.reload()
    page.keyboard.press("7")
    expect(place(page, "Place 2: Face")).to_be_visible()
    assert plates(app)[-1] == kept
    page.keyboard.press("z")
    eventually(lambda: not plates(app)[-1]["places"][1]["border"])


def test_a_plate_is_built_and_laid_with_the_keyboard_alone(page: Page, app: Application) -> None:
    page.goto("/plates")
    expect(picture(page)).to_be_visible()
    page.get_by_role("button", name="New plate").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_label("Name of the plate")).to_have_value("New plate")
    page.get_by_label("Add a place").focus()
    page.keyboard.press("w")  # the list's own keys: the first that begins so
    page.keyboard.press("Enter")
    spot = place(page, "Place 1: Page")
    expect(spot).to_be_visible()
    before = eventually(lambda: plates(app)[-1]["places"])[0]["rect"]
    spot.focus()
    for key in ("ArrowRight", "ArrowRight", "ArrowDown", "Shift+ArrowLeft"):
        page.keyboard.press(key)
    eventually(lambda: plates(app)[-1]["places"][0]["rect"]["width"] < before["width"])
    after = settled(lambda: plates(app)[-1]["places"][0]["rect"])
    assert after["x"] == pytest.approx(before["x"] + 0.02)
    assert after["y"] == pytest.approx(before["y"] + 0.01)
    assert after["width"] == pytest.approx(before["width"] - 0.01)
    page.keyboard.press("Escape")
    page.keyboard.press("g")
    eventually(lambda: app.get("/api/plates")["plate_on"] == plates(app)[-1]["id"])
    page.keyboard.press("1")  # before the screen has heard that the new one goes out
    page.keyboard.press("g")
    eventually(lambda: app.get("/api/plates")["plate_on"] == "page-and-face")


def test_a_feed_dropped_on_a_place_is_what_it_shows(page: Page, app: Application) -> None:
    page.goto("/plates")
    spot = place(page, "Place 2: Face")
    expect(spot).to_be_visible()
    page.locator(".feed", has_text="Clip mirror").drag_to(spot)
    expect(place(page, "Place 2: Clip mirror")).to_be_visible()
    eventually(lambda: plates(app)[0]["places"][1]["content"] == {"kind": "feed", "feed_id": "clip-camera"})


def test_dragging_snaps_to_the_middle_and_shows_it(page: Page, app: Application) -> None:
    new_plate(page)
    page.get_by_label("Add a place").select_option(label="Whatever serves as face")
    face = place(page, "Place 1: Face")
    stage = page.locator(".stage").bounding_box()
    assert stage is not None
    x, y = middle(face)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 30, y)
    page.mouse.move(stage["x"] + stage["width"] / 2 + 4, y)
    expect(page.locator(".guide.x")).to_be_visible()
    page.mouse.up()
    expect(page.locator(".guide")).to_have_count(0)
    eventually(lambda: plates(app)[-1]["places"][0]["rect"]["x"] < 0.6)
    rect = settled(lambda: plates(app)[-1]["places"][0]["rect"])
    assert rect["x"] + rect["width"] / 2 == pytest.approx(0.5, abs=1e-4)


def test_a_caption_with_accents_goes_out_and_off_again_with_one_key(page: Page, app: Application) -> None:
    page.goto("/plates")
    expect(picture(page)).to_be_visible()
    page.get_by_role("button", name="Caption", exact=True).click()
    page.get_by_label("Name", exact=True).fill("Zoë Müller · Ελένη · Наталья")
    page.get_by_label("A line below").fill("Höhenlinien lesen")
    eventually(lambda: plates(app)[0]["places"][-1]["content"].get("line") == "Höhenlinien lesen")
    page.keyboard.press("Escape")

    def captioned() -> bool:
        """Its near-white ground lies over the page."""
        return bool((app.picture("outgoing")[615:690, 60:300] > 244).all(axis=2).mean() > 0.5)

    eventually(captioned)
    page.get_by_label("Name", exact=True).fill("عائشة · שרה 🗺️")
    eventually(lambda: "عائشة" in plates(app)[0]["places"][-1]["content"]["name"])
    expect(page.get_by_text(re.compile("No typeface here has"))).to_have_count(0)
    page.get_by_label("Name", exact=True).fill("地図")
    expect(page.get_by_text("No typeface here has 地 図")).to_be_visible()
    page.locator("body").click(position={"x": 640, "y": 780})
    page.keyboard.press("a")
    expect(page.get_by_role("button", name=re.compile("Caption and frame on"))).to_be_visible()
    eventually(lambda: not captioned())


def test_a_plate_fades_in_when_it_is_told_to(page: Page, app: Application) -> None:
    page.goto("/plates")
    expect(picture(page)).to_be_visible()
    page.keyboard.press("3")
    page.get_by_label("How it comes").get_by_text("Fade", exact=True).click()
    eventually(lambda: plates(app)[2]["fade_s"] == 0.4)
    page.goto("/teach")
    expect(page.get_by_role("group", name="Plates").get_by_role("button").nth(1)).to_be_visible()
    page.keyboard.press("2")
    eventually(lambda: app.get("/api/plates")["plate_on"] == "page")
    page.keyboard.press("n")
    eventually(lambda: app.get("/api/plates")["plate_on"] == "face")
    page.keyboard.press("p")
    eventually(lambda: app.get("/api/plates")["plate_on"] == "page")


def test_what_the_face_covers_is_said_and_mended_with_one_press(page: Page, app: Application) -> None:
    content = [{"kind": "role", "role": role} for role in ("page", "face")]
    rects = [{"x": 0, "y": 0, "width": 1, "height": 1}, {"x": 0.35, "y": 0.2, "width": 0.3, "height": 0.5}]
    places = [{"content": one, "rect": rect, "fit": "fill"} for one, rect in zip(content, rects, strict=True)]
    app.ask("PUT", "/api/plates/page", {"plate": {"id": "page", "name": "Page", "places": places}})
    app.ask("PUT", "/api/teach/plate", {"plate_id": "page"})
    page.goto("/teach")
    expect(page.get_by_text(re.compile(r"The face covers \d+% of the writing"))).to_be_visible()
    page.get_by_role("button", name="Keep it off the writing").click()
    eventually(lambda: plates(app)[1]["places"][1]["off_writing"])


NO_PLATES = {
    "not JSON": b"{broken",
    "too large": b" " * 1_100_000,
    "holds no plates": json.dumps({"type": "FeatureCollection", "features": []}).encode(),
}


def test_a_file_that_holds_no_plates_is_refused_in_one_sentence(page: Page, app: Application) -> None:
    page.goto("/plates")
    expect(picture(page)).to_be_visible()
    count = len(plates(app))
    for says, content in NO_PLATES.items():
        page.get_by_label("Plates file").set_input_files({"name": "plates.json", "mimeType": "application/json", "buffer": content})
        expect(page.get_by_role("alert").filter(has_text=says)).to_be_visible()
        assert len(plates(app)) == count


def test_an_exported_file_comes_in_again(page: Page, app: Application) -> None:
    page.goto("/plates")
    with page.expect_download() as coming:
        page.get_by_role("link", name="Export").click()
    path = coming.value.path()
    count = len(plates(app))
    page.get_by_label("Plates file").set_input_files({"name": "p.json", "mimeType": "application/json", "buffer": path.read_bytes()})
    page.get_by_role("button", name="Add beside, numbered").click()
    eventually(lambda: len(plates(app)) == 2 * count)


@pytest.mark.parametrize("device", ["desk-camera", "face-camera"])
def test_a_camera_that_is_pulled_out_leaves_its_place_to_the_other(page: Page, app: Application, device: str) -> None:
    page.goto("/teach")
    expect(page.locator("canvas[aria-label='The outgoing picture'][data-shown=true]")).to_be_visible()
    left, right = app.get("/api/plates")["plates"][0]["rects"]
    gap = slice(round((left["x"] + left["width"]) * 1280) + 4, round(right["x"] * 1280) - 4)

    def filled() -> bool:
        """Where ground lay between the two places, a picture lies; and nothing is black."""
        picture = app.picture("outgoing").astype(int)
        assert picture.max(axis=2).min() > 8
        return bool((abs(picture[40:680, gap] - picture[2, 2]).max(axis=2) < 6).mean() < 0.5)

    eventually(lambda: not filled())
    app.ask("PUT", f"/api/kit/devices/{device}/fault", {"fault": "pulled out"})
    expect(page.get_by_role("alert").filter(has_text="no picture")).to_be_visible()
    eventually(filled)
    app.ask("PUT", f"/api/kit/devices/{device}/fault", {"fault": None})
    expect(page.get_by_role("alert").filter(has_text="is away")).to_be_hidden()


def test_plates_that_are_here_already_are_asked_about(page: Page, app: Application, tmp_path: Path) -> None:
    kept = app.get("/api/plates/export")
    kept["plates"][0]["background"] = "#123456"
    file = tmp_path / "plates.json"
    file.write_text(json.dumps(kept))
    before = len(plates(app))
    page.goto("/plates")
    for press, count in (("Cancel", before), ("Add beside, numbered", 2 * before), ("Replace them", 2 * before)):
        page.get_by_label("Plates file").set_input_files(file)
        page.get_by_role("dialog", name="Plates of the same name").get_by_role("button", name=press).click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        assert len(settled(lambda: plates(app))) == count
        assert (plates(app)[0]["background"].lower() == "#123456") == (press == "Replace them")
