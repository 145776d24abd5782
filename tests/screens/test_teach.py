"""The lesson itself in the real interface: tools by key and press, the small window, a remote on a phone, ink, steps without the mouse."""

import re

import numpy as np
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.helpers import Application, eventually, likeness
from tests.screens.access import accessible
from tests.screens.conftest import watched


@pytest.fixture
def teach(page: Page, app: Application) -> Page:
    page.goto("/teach")
    expect(page.locator("canvas[aria-label='The outgoing picture'][data-shown=true]")).to_be_visible()
    expect(page.get_by_role("toolbar", name="Tools").get_by_text("5:00")).to_be_visible()
    eventually(lambda: any(feed["id"] == "desk-camera" and feed["state"] == "live" for feed in app.get("/api/live")["feeds"]))
    return page


def page_of(picture: np.ndarray) -> np.ndarray:
    """The part of the outgoing picture where the demo's page is written on, without the face."""
    return picture[:, : int(0.6 * picture.shape[1])]


def test_held_by_key_the_page_stands_still_and_the_teacher_sees_it_go_on(teach: Page, app: Application) -> None:
    teach.keyboard.press("h")
    expect(teach.get_by_label("State").get_by_text("learners see the page as it was")).to_be_visible()
    expect(teach.locator("canvas[aria-label='The page as it lies there now'][data-shown=true]")).to_be_visible()
    first = page_of(app.picture("outgoing"))
    teach.wait_for_timeout(2500)  # the demo's hand draws on
    assert likeness(page_of(app.picture("outgoing")), first) > 0.999
    teach.get_by_label("State").get_by_role("button", name="Let it go on").click()
    expect(teach.get_by_text("learners see the page as it was")).to_be_hidden()
    eventually(lambda: app.get("/api/teach/tools")["held"] is None)


def test_a_sheet_is_kept_shown_and_left_by_keys_alone(teach: Page, app: Application) -> None:
    teach.keyboard.press("k")
    expect(teach.get_by_role("button", name="Sheet 1")).to_be_visible()
    teach.get_by_role("button", name="Sheet 1").focus()
    teach.keyboard.press("Enter")
    teach.get_by_role("button", name="Show it to learners").focus()
    teach.keyboard.press("Enter")
    expect(teach.get_by_label("State").get_by_text("Learners see the sheet")).to_be_visible()
    teach.get_by_role("dialog").get_by_role("button", name="Close", exact=True).press("Enter")
    teach.keyboard.press("l")
    eventually(lambda: app.get("/api/teach/tools")["held"] is None)


def test_the_timer_runs_in_the_outgoing_picture_and_on_the_screen(teach: Page, app: Application) -> None:
    before = app.picture("outgoing")
    teach.keyboard.press("d")
    expect(teach.get_by_role("toolbar", name="Tools").get_by_text(re.compile(r"4:5\d"))).to_be_visible()

    def shown() -> bool:
        corners = [(slice(0, 100), slice(-200, None)), (slice(0, 100), slice(0, 200)), (slice(-100, None), slice(-200, None))]
        now = app.picture("outgoing")
        return any(np.abs(now[part].astype(int) - before[part]).max() > 120 for part in corners)

    eventually(shown)
    teach.keyboard.press("j")
    expect(teach.get_by_role("toolbar", name="Tools").get_by_text(re.compile(r"5:5\d"))).to_be_visible()
    teach.keyboard.press("d")
    eventually(lambda: not app.get("/api/teach/tools")["timer"]["runs"])


def test_wheel_and_drag_move_the_closer_look(teach: Page, app: Application) -> None:
    app.ask("POST", "/api/teach/actions", {"action": "whole"})
    box = teach.locator("canvas[aria-label='The outgoing picture']").bounding_box()
    assert box is not None
    teach.mouse.move(box["x"] + 0.3 * box["width"], box["y"] + 0.5 * box["height"])
    teach.mouse.wheel(0, -400)
    eventually(lambda: app.get("/api/teach/tools")["frame"]["zoom"] > 1.6)
    before = app.get("/api/teach/tools")["frame"]
    teach.mouse.down()
    teach.mouse.move(box["x"] + 0.3 * box["width"], box["y"] + 0.3 * box["height"], steps=4)
    teach.mouse.up()
    eventually(lambda: app.get("/api/teach/tools")["frame"]["y"] > before["y"])
    teach.keyboard.press("0")
    eventually(lambda: app.get("/api/teach/tools")["frame"]["zoom"] == 1.0)


def standing(app: Application, row: tuple[slice, slice]) -> list[np.ndarray]:
    """That part of the outgoing picture, once two in a row are alike: the plate before has faded."""
    first, second = (picture[row] for picture in app.pictures("outgoing", 2))
    return [second] if np.abs(first.astype(int) - second).max() < 30 else []


def test_ink_is_drawn_over_the_picture_and_taken_back(teach: Page, app: Application) -> None:
    app.ask("POST", "/api/teach/actions", {"action": "hold"})  # so that nothing else changes
    teach.keyboard.press("i")
    expect(teach.get_by_role("toolbar", name="Ink")).to_be_visible()
    row = slice(int(0.29 * 720), int(0.31 * 720)), slice(int(0.25 * 1280), int(0.4 * 1280))
    (bare,) = eventually(lambda: standing(app, row))
    box = teach.locator("canvas[aria-label='The outgoing picture']").bounding_box()
    assert box is not None
    teach.mouse.move(box["x"] + 0.2 * box["width"], box["y"] + 0.3 * box["height"])
    teach.mouse.down()
    teach.mouse.move(box["x"] + 0.45 * box["width"], box["y"] + 0.3 * box["height"], steps=12)
    teach.mouse.up()
    eventually(lambda: np.abs(app.picture("outgoing")[row].astype(int) - bare).max() > 60)
    assert app.get("/api/teach/ink")["count"] == 1
    accessible(teach, "main")
    teach.get_by_role("toolbar", name="Ink").get_by_role("button", name="Undo").click()
    eventually(lambda: np.abs(app.picture("outgoing")[row].astype(int) - bare).max() < 40)
    teach.keyboard.press("i")
    expect(teach.get_by_role("toolbar", name="Ink")).to_be_hidden()


def test_six_steps_without_the_mouse(teach: Page, app: Application) -> None:
    plates = [plate["id"] for plate in app.get("/api/teach")["plates"]]
    for number in range(6):
        app.ask("POST", "/api/teach/actions", {"action": "plate", "number": number % len(plates) + 1})
        app.ask("POST", "/api/teach/steps", {"name": f"Moment {number + 1}", "note": f"Say this, {number + 1}."})
    card = teach.get_by_role("region", name="Steps of the lesson")
    for number in range(6):
        teach.keyboard.press("PageDown")
        expect(card.get_by_text(f"{number + 1} of 6 · Moment {number + 1}")).to_be_visible()
        expect(card.get_by_text(f"Say this, {number + 1}.")).to_be_visible()
        assert app.get("/api/teach")["plate_on"] == plates[number % len(plates)]
    teach.keyboard.press("PageDown")
    expect(teach.get_by_text("This is the last step")).to_be_visible()
    teach.keyboard.press("PageUp")
    expect(card.get_by_text("5 of 6 · Moment 5")).to_be_visible()
    accessible(teach, "main")


def test_steps_are_made_named_ordered_and_skipped_in_their_dialog(teach: Page, app: Application) -> None:
    teach.get_by_role("button", name="Make steps").click()
    dialog = teach.get_by_role("dialog", name="Steps of the lesson")
    for name in ("First", "Second"):
        dialog.get_by_label("Name of the new step").fill(name)
        dialog.get_by_label("Name of the new step").press("Enter")
        expect(dialog.get_by_role("listitem").filter(has=teach.locator(f"input[value='{name}']"))).to_be_visible()
    dialog.get_by_role("button", name="Step 2 up").click()
    eventually(lambda: [one["step"]["name"] for one in app.get("/api/teach/tools")["steps"]] == ["Second", "First"])
    expect(dialog.get_by_label("Name of step 1")).to_have_value("Second")
    dialog.get_by_role("switch", name="Skip").first.click()
    eventually(lambda: app.get("/api/teach/tools")["steps"][0]["step"]["skipped"])
    accessible(teach, "[role=dialog]")


def test_a_key_of_ones_own_is_pressed_once_and_a_taken_one_is_said(teach: Page, app: Application) -> None:
    teach.get_by_role("button", name="More", exact=True).click()
    teach.get_by_role("button", name="Change the key: Hold the page, or let it go on").click()
    teach.keyboard.press("n")
    expect(teach.get_by_text("already does this: Next plate")).to_be_visible()
    teach.get_by_role("button", name="Change the key: Hold the page, or let it go on").click()
    teach.keyboard.press("F9")
    eventually(lambda: {one["name"]: one["keys"] for one in app.get("/api/teach/tools")["actions"]}["hold"] == ["F9"])
    expect(teach.locator(".ant-drawer").get_by_text("F9", exact=True)).to_be_visible()
    teach.keyboard.press("Escape")
    expect(teach.locator(".ant-drawer-content-wrapper")).to_be_hidden()
    teach.keyboard.press("F9")
    eventually(lambda: app.get("/api/teach/tools")["held"])


def test_the_small_window_has_the_same_keys(teach: Page, app: Application) -> None:
    small = teach.context.new_page()
    small.set_viewport_size({"width": 400, "height": 640})
    small.goto("/small")
    expect(small.locator("canvas[data-shown=true]")).to_be_visible()
    small.get_by_role("button", name="Hold").click()
    eventually(lambda: app.get("/api/teach/tools")["held"])
    expect(teach.get_by_label("State").get_by_text("learners see the page as it was")).to_be_visible()
    small.keyboard.press("h")
    eventually(lambda: app.get("/api/teach/tools")["held"] is None)
    small.keyboard.press("2")
    eventually(lambda: app.get("/api/teach")["plate_on"] == app.get("/api/teach")["plates"][1]["id"])
    expect(small.get_by_text("All microphones are closed")).to_be_visible()
    for close in (lambda: small.keyboard.press("m"), lambda: small.get_by_role("button", name="is open").click()):
        app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
        expect(small.get_by_role("button", name="“Simulated lapel microphone” is open")).to_be_visible()
        accessible(small)
        close()
        expect(small.get_by_text("All microphones are closed")).to_be_visible()
        assert app.get("/api/live")["microphone"] is None
    assert small.evaluate("document.documentElement.scrollWidth <= innerWidth")


def test_a_phone_is_the_remote_and_a_press_waits_for_the_network(
    teach: Page, app: Application, browser: Browser, troubles: list[str]
) -> None:
    teach.get_by_role("button", name="More", exact=True).click()
    teach.get_by_role("button", name="Use a phone or tablet as remote").click()
    expect(teach.get_by_role("img", name="Code to scan with the phone")).to_be_visible()
    context = browser.new_context(viewport={"width": 390, "height": 780}, ignore_https_errors=True, has_touch=True)
    try:
        phone = watched(context, troubles)
        phone.goto(app.get("/api/teach/remotes")["invitation"]["link"])
        phone.get_by_role("button", name="Use as remote").click()
        phone.get_by_role("button", name="Hold").tap()
        eventually(lambda: app.get("/api/teach/tools")["held"])
        accessible(phone)
        small = "[...document.querySelectorAll('main button')].filter(e => e.getBoundingClientRect().height < 40).length"
        assert phone.evaluate(small) == 0
        plate = app.get("/api/teach")["plate_on"]
        context.set_offline(True)
        phone.get_by_role("button", name="3 Face").tap()
        expect(phone.get_by_role("status")).to_contain_text("the press waits")
        assert app.get("/api/teach")["plate_on"] == plate
        context.set_offline(False)
        eventually(lambda: app.get("/api/teach")["plate_on"] != plate)
        phone.get_by_role("button", name="Show the picture here").tap()
        expect(phone.get_by_role("img", name="The outgoing picture")).to_be_visible()
    finally:
        context.close()
    end_remotes(app)


def end_remotes(app: Application) -> None:
    for one in app.get("/api/teach/remotes")["remotes"]:
        app.ask("DELETE", f"/api/teach/remotes/{one['id']}")


def test_a_tablet_draws_on_the_page_that_it_shows(teach: Page, app: Application, browser: Browser, troubles: list[str]) -> None:
    context = browser.new_context(viewport={"width": 1100, "height": 1300}, ignore_https_errors=True)
    try:
        tablet = watched(context, troubles)
        tablet.goto(app.ask("POST", "/api/teach/remotes/invitation", {})["invitation"]["link"])
        tablet.get_by_role("button", name="Use as remote").click()
        tablet.get_by_role("button", name="Draw on the page").click()
        expect(tablet.get_by_role("img", name="The outgoing picture")).to_be_visible()
        accessible(tablet)
        before = reddish(app)
        box = tablet.get_by_role("application").bounding_box()
        assert box is not None
        tablet.mouse.move(box["x"] + 0.2 * box["width"], box["y"] + 0.4 * box["height"])
        tablet.mouse.down()
        tablet.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + 0.42 * box["height"], steps=12)
        tablet.mouse.up()
        eventually(lambda: app.get("/api/teach/ink")["count"] == 1)
        eventually(lambda: reddish(app) > before + 300)
        tablet.get_by_role("button", name="Undo").click()
        eventually(lambda: app.get("/api/teach/ink")["count"] == 0)
        tablet.get_by_role("button", name="Undo").click()
        expect(tablet.get_by_role("status")).to_contain_text("nothing")
        tablet.get_by_role("button", name="Stop drawing").click()
        expect(tablet.get_by_role("application")).to_have_count(0)
    finally:
        context.close()
    end_remotes(app)


def reddish(app: Application) -> int:
    """Pixels of the outgoing picture in the tablet's first colour."""
    picture = app.picture("outgoing").astype(int)
    return int(((picture[..., 2] - picture[..., 1] > 60) & (picture[..., 2] - picture[..., 0] > 60)).sum())
