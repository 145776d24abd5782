"""Ready: faults are told and mended by their own press, symptoms lead to causes, home says what is ready."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.helpers import Application, eventually


def fault_on(app: Application, device: str, fault: str) -> None:
    app.ask("PUT", f"/api/kit/devices/{device}/fault", {"fault": fault})


@pytest.fixture
def ready(page: Page, app: Application) -> Page:
    app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
    page.goto("/ready")
    expect(page.get_by_role("listitem", name="Camera for the page: Desk camera")).to_contain_text("Good")
    return page


def test_each_line_has_value_limit_and_verdict(ready: Page) -> None:
    row = ready.get_by_role("listitem", name="Your face")
    expect(row).to_contain_text("Seen and lit.")
    expect(row).to_contain_text("of the picture")
    expect(ready.get_by_role("listitem", name="One open microphone")).to_contain_text("Your voice comes in well.")
    expect(ready.get_by_role("listitem", name="Room on the disk")).to_contain_text("GB free")
    for row in ready.get_by_role("listitem").all():
        expect(row).to_contain_text(re.compile("Good|Look at this|Mend this|Not measured"))


def test_a_black_camera_comes_first_and_its_press_mends_it(ready: Page, app: Application) -> None:
    fault_on(app, "desk-camera", "black")
    row = ready.get_by_role("listitem").first
    expect(row).to_contain_text("It is black.")
    expect(ready.get_by_role("status").filter(has_text="Not ready. Camera for the page: Desk camera")).to_be_visible()
    row.get_by_role("button", name="Bring it back").click()
    expect(ready.get_by_role("listitem", name="Camera for the page: Desk camera")).to_contain_text("Good")


def test_a_closed_microphone_is_opened_from_its_line(ready: Page, app: Application) -> None:
    app.ask("PUT", "/api/sound/open", {"id": None})
    row = ready.get_by_role("listitem", name="One open microphone")
    expect(row).to_contain_text("Nobody hears you yet.")
    row.get_by_role("button", name="Open it").click()
    eventually(lambda: (app.get("/api/live")["microphone"] or {}).get("id") == "bench-lapel")


def test_a_flipped_page_is_mended_by_its_line(ready: Page, app: Application) -> None:
    app.ask("PUT", "/api/square-up/desk-camera/way-up", {"flip": True})
    row = ready.get_by_role("listitem", name="The page", exact=True)
    expect(row).to_contain_text("reversed")
    row.get_by_role("button", name="Flip it").click()
    expect(row).to_contain_text("the right way round")


def test_exchanged_cameras_are_told_and_exchanged_back(ready: Page, app: Application) -> None:
    app.ask("POST", "/api/ready/exchange")
    roles = lambda: {device["serves"]: device["id"] for device in app.get("/api/kit")["devices"] if device["serves"]}  # noqa: E731
    assert roles() == {"page": "face-camera", "face": "desk-camera"}
    row = ready.get_by_role("listitem", name="Each camera on its own")
    expect(row).to_contain_text("The camera for the page shows you.")
    row.get_by_role("button", name="Exchange them").click()
    eventually(lambda: roles() == {"page": "desk-camera", "face": "face-camera"})


def test_the_real_page_is_tried_and_kept_with_the_lesson(ready: Page) -> None:
    card = ready.get_by_role("region", name="Try the real page")
    expect(ready.get_by_role("listitem", name="Reads for “Laptop, pinned”")).to_contain_text("readable")
    card.get_by_role("button", name="Try it now").click()
    expect(card.get_by_text("reads all")).to_be_visible()
    ready.reload()
    expect(card.get_by_text("its smallest print is")).to_be_visible()


def test_a_symptom_leads_to_its_cause_without_asking_what_is_measured(ready: Page, app: Application) -> None:
    fault_on(app, "desk-camera", "stuck")
    expect(ready.get_by_role("listitem").first).to_contain_text("It stands still.")
    walk = ready.get_by_role("region", name="Something is wrong")
    walk.get_by_role("button", name="They can’t see me").click()
    expect(walk.get_by_text("“Desk camera” stands still. Bring it back.").first).to_be_visible()
    walk.get_by_role("button", name="Bring it back").click()
    expect(ready.get_by_role("listitem", name="Camera for the page: Desk camera")).to_contain_text("Good")


def test_what_cannot_be_measured_is_asked_with_a_way_back(ready: Page) -> None:
    walk = ready.get_by_role("region", name="Something is wrong")
    walk.get_by_role("button", name="I can’t hear them").click()
    expect(walk.get_by_text("Is it only one learner?")).to_be_visible()
    walk.get_by_role("button", name="No", exact=True).click()
    expect(walk.get_by_text("pushed in fully")).to_be_visible()
    walk.get_by_role("button", name="Back").click()
    expect(walk.get_by_text("Is it only one learner?")).to_be_visible()
    walk.get_by_role("button", name="Yes", exact=True).click()
    expect(walk.get_by_text("That learner’s microphone is off or broken").first).to_be_visible()
    expect(walk.get_by_role("button", name="Copy for the help desk")).to_be_visible()
    ready.evaluate("() => { window.print = () => { document.body.dataset.printed = 'yes' } }")
    walk.get_by_role("button", name="Print it").click()
    expect(ready.locator("body")).to_have_attribute("data-printed", "yes")
    ready.emulate_media(media="print")
    expect(ready.locator("pre.report")).to_contain_text("That learner’s microphone is off or broken")
    expect(ready.locator("pre.report")).to_be_visible()
    expect(ready.get_by_role("navigation", name="The way to the lesson")).to_be_hidden()  # the report alone is printed
    ready.emulate_media(media="screen")
    walk.get_by_role("button", name="Another one").click()
    expect(walk.get_by_role("button", name="It lags")).to_be_visible()


def test_home_says_in_one_sentence_what_is_not_ready(page: Page, app: Application) -> None:
    app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
    page.goto("/")
    row = page.get_by_role("listitem").filter(has_text="9B")
    expect(row).to_contain_text("Ready, but look at this.")
    fault_on(app, "face-camera", "black")
    expect(row).to_contain_text("Not ready. Camera for the face: Face")
    expect(page.get_by_role("navigation", name="The way to the lesson").get_by_role("link", name="Ready")).to_have_class(
        re.compile("attention")
    )


CALENDAR = """BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//Larkmoor//EN
BEGIN:VEVENT
UID:1@larkmoor
DTSTAMP:20261101T000000Z
SUMMARY:7D Map scales
DTSTART:20240105T090000
DTEND:20240105T094500
RRULE:FREQ=DAILY
END:VEVENT
END:VCALENDAR
"""


def test_a_timetable_comes_in_and_a_broken_one_says_its_line(page: Page, tmp_path: Path, app: Application) -> None:
    good, bad = tmp_path / "lessons.ics", tmp_path / "broken.ics"
    good.write_text(CALENDAR)
    bad.write_text(CALENDAR.replace("SUMMARY:7D", "???"))
    page.goto("/")
    for file, says in ((bad, "Line 7: What stands there belongs to no entry."), (good, "Your timetable is in: 1 lessons new")):
        with page.expect_file_chooser() as chooser:
            page.get_by_role("button", name="Bring in a timetable").click()
        chooser.value.set_files(file)
        expect(page.get_by_text(says)).to_be_visible()
    expect(page.get_by_role("heading", name="Map scales · 7D")).to_be_visible()
    lesson = next(one for one in app.get("/api/lessons")["lessons"] if one["title"] == "Map scales")
    app.ask("DELETE", f"/api/lessons/{lesson['id']}")


def test_a_lesson_is_copied_for_another_class(page: Page, app: Application) -> None:
    page.goto("/")
    page.get_by_role("button", name="Copy: Slopes and profiles 8C").click()
    page.get_by_role("dialog").get_by_label("Class").fill("8D")
    page.get_by_role("button", name="Copy it").click()
    expect(page.get_by_role("heading", name="Slopes and profiles · 8D")).to_be_visible()
    copy = next(one for one in app.get("/api/lessons")["lessons"] if one["class_name"] == "8D")
    assert copy["kit_id"] == "map-room"
    app.ask("DELETE", f"/api/lessons/{copy['id']}")


def test_a_weekly_lesson_stands_under_other_days(page: Page, app: Application) -> None:
    page.goto("/")
    page.get_by_role("button", name="Add a lesson").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What it is about").fill("Map scales")
    dialog.get_by_label("Class").fill("8E")
    dialog.get_by_label("When").select_option("weekly")
    dialog.get_by_label("First on").fill("2036-01-07")
    dialog.get_by_role("button", name="Add it").click()
    page.get_by_text("Other days: 1").click()
    expect(page.get_by_role("listitem").filter(has_text="8E")).to_contain_text("Mon")
    lesson = next(one for one in app.get("/api/lessons")["lessons"] if one["class_name"] == "8E")
    assert (lesson["day"], lesson["weekly"]) == ("2036-01-07", True)
    app.ask("DELETE", f"/api/lessons/{lesson['id']}")
