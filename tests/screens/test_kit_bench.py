"""Kit with the bench's devices: kits by room, faults and what mends them, rigs, sizes."""

import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from cartouche.store import tried
from cartouche.store.database import Database
from tests.helpers import Application, eventually


def test_a_kit_is_copied_for_another_room_and_taken_back(page: Page, app: Application) -> None:
    page.goto("/kit")
    page.get_by_role("button", name="Copy for another room").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Tower kit")
    dialog.get_by_label("Room").fill("Tower")
    dialog.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("heading", name="Tower kit")).to_be_visible()
    expect(page.get_by_role("article", name="Desk camera").get_by_text("Live", exact=True)).to_be_visible()
    page.get_by_label("Kit of this lesson").select_option(label="Map room kit · Map room")
    expect(page.get_by_role("heading", name="Map room kit")).to_be_visible()


def test_a_kit_goes_out_as_a_file_and_comes_in_again(page: Page, app: Application, tmp_path: Path) -> None:
    page.goto("/kit")
    with page.expect_download() as download:
        page.get_by_role("link", name="Export").click()
    path = tmp_path / "kit.json"
    download.value.save_as(path)
    content = json.loads(path.read_text())
    assert (content["format"], [one["name"] for one in content["devices"]]) == ("cartouche-kit", ["Desk camera", "Clip mirror", "Face"])
    content["name"], content["room"] = "Borrowed kit", "Annex"
    path.write_text(json.dumps(content))
    page.get_by_label("Kit file").set_input_files(path)
    expect(page.get_by_role("heading", name="Borrowed kit")).to_be_visible()
    path.write_text("{ broken")
    page.get_by_label("Kit file").set_input_files(path)
    expect(page.get_by_text("This file is no kit that Cartouche can read: it is not JSON.")).to_be_visible()


def fault(page: Page, name: str, which: str) -> Locator:
    card = page.get_by_role("article", name=name)
    card.get_by_label("Provoke a fault on this simulated device").select_option(label=f"Bench: {which}")
    return card


def test_a_low_battery_and_a_wrong_lens_are_told_and_the_lens_is_mended(page: Page) -> None:
    page.goto("/kit")
    card = fault(page, "Desk camera", "low battery")
    expect(card.get_by_text("Its battery is at 8%. Plug it in.")).to_be_visible()
    fault(page, "Desk camera", "wrong lens")
    expect(card.get_by_text("Wrong lens", exact=True)).to_be_visible()
    card.get_by_role("button", name="Use the rear lens").click()
    expect(card.get_by_text("Live", exact=True)).to_be_visible()
    expect(card.get_by_text("front lens")).to_be_hidden()


def test_a_slow_start_has_a_bar_the_second_time(page: Page, app: Application) -> None:
    page.goto("/kit")
    card = fault(page, "Clip mirror", "warming up")
    expect(card.get_by_text(re.compile(r"Warming up[.,]"))).to_be_visible()  # on a slow machine its usual time is known already
    expect(card.get_by_text("Live", exact=True)).to_be_visible()
    eventually(lambda: next(one for one in app.get("/api/kit")["devices"] if one["id"] == "clip-camera")["usual_start_s"])
    fault(page, "Clip mirror", "warming up")
    expect(card.get_by_role("progressbar")).to_be_visible()
    expect(card.get_by_text(re.compile(r"usually about \d+ s"))).to_be_visible()
    expect(card.get_by_text("Live", exact=True)).to_be_visible()


def test_each_rig_has_a_picture_and_a_price_and_sets_the_first_guess(page: Page, app: Application) -> None:
    page.goto("/kit")
    card = page.get_by_role("article", name="Clip mirror")
    choice = card.get_by_label("How it is held")
    rigs = app.get("/api/kit")["rigs"]
    assert len(rigs) == 10
    drawn = set()
    for rig in rigs:
        choice.select_option(value=rig["id"])
        expect(card.get_by_text(rig["price"])).to_be_visible()
        drawn.add(card.locator(".rig svg").inner_html())
    assert len(drawn) == len(rigs)
    choice.select_option(value="tablet-mirror")
    eventually(lambda: device_named(app, "Clip mirror")["rig"] == "tablet-mirror")
    eventually(lambda: (chain := app.get("/api/square-up/clip-camera")["chain"])["turn"]["quarters"] == 2 and chain["mirror"]["left_right"])


def device_named(app: Application, name: str) -> dict[str, Any]:
    return next(one for one in app.get("/api/kit")["devices"] if one["name"] == name)


@pytest.fixture
def tried_before(app: Application) -> None:
    """The desk camera's size was measured in another lesson: these tests ask for too few pictures to learn of it."""
    database = Database(app.folder)
    tried.keep(database, "desk-camera", tried.Tried(width=1280, height=720, fps=29.8, delay_ms=61))
    database.close()


@pytest.mark.usefixtures("tried_before")
def test_sharp_or_quick_shows_what_was_measured(page: Page, app: Application) -> None:
    page.goto("/kit")
    card = page.get_by_role("article", name="Desk camera")
    card.get_by_text("Picture and controls").click()
    expect(card.get_by_text("30 frames/s, 61 ms")).to_be_visible()
    card.get_by_text("Quick", exact=True).click()
    eventually(lambda: next(one["width"] for one in app.get("/api/live")["feeds"] if one["id"] == "desk-camera") == 1280)
    expect(card.get_by_text("1280×720: the largest that keeps up with a writing hand.")).to_be_visible()
    card.get_by_text("By the page", exact=True).click()
    expect(card.get_by_text(re.compile("10-point print needs"))).to_be_visible()
    eventually(lambda: next(one["width"] for one in app.get("/api/live")["feeds"] if one["id"] == "desk-camera") == 1920)
