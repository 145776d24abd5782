"""Recorded, ended, found again: the film plays in the browser by its chapters, all of it opens offline, and is deleted for good."""

import re
import urllib.request
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from cartouche.core.record.chapters import SHORTEST_S
from cartouche.demo.lesson import DEVICES
from tests.helpers import Application, eventually
from tests.screens.access import accessible

PLAYED = "document.querySelector('video')?.currentTime ?? 0"


def recorded_s(app: Application) -> float:
    return float(app.get("/api/teach/tools")["recording"]["length_s"])


def for_a_chapter(app: Application) -> None:
    """From now on, so long that what is on becomes one."""
    begun_s = recorded_s(app)
    eventually(lambda: recorded_s(app) > begun_s + SHORTEST_S + 0.5)


@pytest.fixture
def taught(page: Page, app: Application) -> Page:
    """A lesson recorded by keys: two plates, a step, a sheet, with a pause between."""
    for lesson in app.get("/api/after")["lessons"]:
        for one in lesson["recordings"]:
            app.ask("DELETE", f"/api/after/recordings/{one['id']}")
    app.ask("POST", "/api/teach/steps", {"name": "Draw the profile", "note": ""})
    page.goto("/teach")
    expect(page.locator("canvas[aria-label='The outgoing picture'][data-shown=true]")).to_be_visible()
    page.keyboard.press("r")
    recording = page.get_by_role("group", name="Recording")
    expect(recording.get_by_role("button", name="Pause")).to_be_visible()
    for_a_chapter(app)
    page.keyboard.press("3")
    expect(page.get_by_role("button", name="3 Face")).to_have_attribute("aria-pressed", "true")
    for_a_chapter(app)
    page.keyboard.press("r")
    expect(recording.get_by_role("button", name="Go on")).to_be_visible()
    page.keyboard.press("r")
    expect(recording.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("PageDown")
    eventually(lambda: app.get("/api/teach/tools")["at"] is not None)
    for_a_chapter(app)
    page.keyboard.press("k")
    eventually(lambda: app.get("/api/teach/tools")["sheets"])
    for_a_chapter(app)
    return page


def test_a_lesson_is_recorded_ended_and_played_again(taught: Page, app: Application, browser: Browser, tmp_path: Path) -> None:
    taught.get_by_role("button", name="End the lesson").click()
    dialog = taught.get_by_role("dialog", name="The end of the lesson")
    expect(dialog.get_by_text(re.compile("lies in"))).to_be_visible()
    expect(dialog.get_by_text("The call itself still runs")).to_be_visible()
    dialog.get_by_role("link", name="Sheets and recording").click()
    card = taught.get_by_role("region", name=re.compile("^Recording: Reading the ground"))
    chapters = card.get_by_role("group", name="Chapters").get_by_role("button")
    expect(chapters).to_have_count(4)
    expect(chapters.nth(2)).to_contain_text("Draw the profile")
    accessible(taught)
    chapters.nth(1).click()
    eventually(lambda: taught.evaluate(PLAYED) > 2.6)
    assert taught.evaluate("document.querySelector('video').error") is None
    taught.get_by_role("group", name="Kept sheets").get_by_role("button", name=re.compile("^Sheet 1")).click()
    taught.get_by_role("button", name="Hear what was said").click()
    eventually(lambda: taught.evaluate(PLAYED) > 6.0)
    card.get_by_role("button", name="Cut beginning and end").click()
    step_s = app.get("/api/after")["lessons"][0]["recordings"][0]["chapters"][2]["from_s"]
    card.get_by_label("To, seconds").fill(str(round(step_s + 0.8, 1)))  # whenever a busy machine came to it
    card.get_by_role("button", name="Keep this part only").click()
    expect(chapters).to_have_count(3)
    opens_offline(app, browser, tmp_path)
    card.get_by_role("button", name="Delete").click()
    taught.get_by_role("tooltip").get_by_role("button", name="Delete for good").click()
    expect(card).to_be_hidden()


def opens_offline(app: Application, browser: Browser, folder: Path) -> None:
    """What those who were absent get, unpacked and opened from the disk."""
    lesson = app.get("/api/after")["lessons"][0]["lesson_id"]
    with urllib.request.urlopen(f"{app.address}/api/after/lessons/{lesson}/share.zip", timeout=45) as answer:
        (folder / "share.zip").write_bytes(answer.read())
    with zipfile.ZipFile(folder / "share.zip") as share:
        share.extractall(folder)
    context = browser.new_context(offline=True)
    try:
        page = context.new_page()
        page.goto((folder / "open me.html").as_uri())
        page.get_by_role("button", name=re.compile(r"\d Face$")).click()
        eventually(lambda: page.evaluate(PLAYED) > 2.6)
        expect(page.get_by_role("link", name="Handout (PDF)")).to_be_visible()
    finally:
        context.close()


def test_a_sheet_takes_the_title_that_stands_on_it(page: Page, app: Application) -> None:
    eventually(lambda: app.picture(f"page:{DEVICES[0].id}").std() > 10)  # just started it has no page to keep

    def is_read() -> bool:
        """A hand that writes may lie over the title of the one kept first."""
        app.ask("POST", "/api/teach/actions", {"action": "sheet"})
        return "Reading the ground" in eventually(lambda: app.get("/api/after")["lessons"][0]["sheets"][-1]["proposed"], 60)

    eventually(is_read)
    page.goto("/after")
    page.get_by_role("group", name="Kept sheets").get_by_role("button").last.click()
    page.get_by_role("button", name=re.compile("^Call it “.*Reading the ground”")).click()
    expect(page.get_by_label("Title")).to_have_value(re.compile("Reading the ground"))
    expect(page.get_by_role("button", name=re.compile("^Call it"))).to_be_hidden()
    page.get_by_placeholder("Find by").fill("mark the steepest")
    expect(page.get_by_role("group", name="Kept sheets").get_by_role("button").last).to_be_visible()
    page.get_by_placeholder("Find by").fill("photosynthesis")
    expect(page.get_by_role("group", name="Kept sheets")).to_be_hidden()


def test_what_is_kept_is_told_and_deleted_for_good(page: Page, app: Application) -> None:
    app.ask("POST", "/api/teach/actions", {"action": "sheet"})
    page.goto("/after")
    page.get_by_role("link", name="What is kept, and where").click()
    page.get_by_role("button", name="Delete sheets of Reading the ground 9B").click()
    page.get_by_role("tooltip").get_by_role("button", name="Delete for good").click()
    expect(page.get_by_role("button", name="Delete sheets of Reading the ground 9B")).to_be_hidden()
    eventually(lambda: not app.get("/api/teach/tools")["sheets"])


def test_the_end_names_what_is_still_on(page: Page, app: Application) -> None:
    page.goto("/teach")
    with page.context.expect_page() as opened:
        page.evaluate("window.open('/outgoing', 'somebody-elses')")
    expect(opened.value.locator("canvas[data-shown=true]")).to_be_visible()
    eventually(lambda: app.get("/api/live")["outgoing"]["windows"] == 1)
    page.get_by_role("button", name="End the lesson").click()
    dialog = page.get_by_role("dialog", name="The end of the lesson")
    expect(dialog.get_by_text("Not off yet: The outgoing window")).to_be_visible()
    opened.value.close()
    eventually(lambda: app.get("/api/live")["outgoing"]["windows"] == 0)
    dialog.get_by_role("button", name="Look again").click()
    expect(dialog.get_by_text("All is off.")).to_be_visible()
