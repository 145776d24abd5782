"""Every press counts, and one that cannot do anything says why: pages, plates, windows, roles, lists, codes, dialogs."""

import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests import samples
from tests.helpers import Application, eventually, settled
from tests.screens.conftest import windows
from tests.screens.test_job import shown

START, FILLED = "serve", True


def plate_on(app: Application) -> str:
    return str(app.get("/api/live")["outgoing"]["plate_id"])


def device(app: Application, name: str) -> dict[str, Any]:
    return next(one for one in app.get("/api/kit")["devices"] if one["name"] == name)


@pytest.fixture
def slides(app: Application, tmp_path: Path) -> str:
    path = samples.picture_pdf(tmp_path / "Legend.pdf", tuple(range(20, 236, 18)))
    return str(app.send("/api/kit/files?name=Legend.pdf&kind=slides&serves=page", path.read_bytes())["id"])


def test_four_presses_turn_four_pages(page: Page, app: Application, slides: str) -> None:
    page.goto("/teach")
    for apart_ms in (0, 60, 400):
        expect(page.get_by_text("1 of 12")).to_be_visible()
        for _ in range(4):
            page.keyboard.press("PageDown")
            page.wait_for_timeout(apart_ms)
        expect(page.get_by_text("5 of 12")).to_be_visible()
        for _ in range(9):
            page.keyboard.press("PageUp")
        expect(page.get_by_text("1 of 12")).to_be_visible()
        assert settled(lambda: device(app, "Legend")["page"]) == 0


def test_four_presses_go_four_plates_on(page: Page, app: Application) -> None:
    page.goto("/teach")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    ids = [one["plate"]["id"] for one in app.get("/api/plates")["plates"]]
    for _ in range(4):
        page.keyboard.press("n")
    eventually(lambda: plate_on(app) == ids[4])
    for _ in range(3):
        page.keyboard.press("p")
    eventually(lambda: plate_on(app) == ids[1])
    page.keyboard.press("9")
    expect(page.get_by_role("alert").get_by_text("This lesson has no plate number 9.")).to_be_visible()
    assert plate_on(app) == ids[1]


def test_two_quick_presses_on_square_up_are_both_kept(page: Page, app: Application) -> None:
    sheet = device(app, "Contour sheet")["id"]
    app.ask("PATCH", f"/api/kit/devices/{sheet}", {"rig": "arm-own-side"})
    path = f"/api/square-up/{sheet}"
    page.goto(f"/square-up/{sheet}")
    expect(shown(page, "The straightened page")).to_be_visible()
    app.ask("PATCH", f"{path}/chain", {"link": "frame", "values": {"zoom": 8, "y": 0.1}})
    at_first = app.get(path)["chain"]["frame"]["y"]
    page.keyboard.press("]")
    once = settled(lambda: app.get(path)["chain"]["frame"]["y"])
    page.keyboard.press("]")
    page.keyboard.press("]")
    thrice = settled(lambda: app.get(path)["chain"]["frame"]["y"])
    assert thrice - at_first == pytest.approx(3 * (once - at_first), rel=0.25)
    page.get_by_role("button", name="Mirror", exact=True).click()
    page.keyboard.press("[")
    page.get_by_role("button", name="Left–right").click()
    page.get_by_role("button", name="Top–bottom").click()
    chain = settled(lambda: app.get(path)["chain"])
    assert chain["mirror"]["left_right"]
    assert chain["mirror"]["top_bottom"]
    assert chain["frame"]["y"] < thrice - 0.01, "the press before is not taken back"


def test_an_outgoing_window_that_is_closed_by_mistake_is_said_and_opened_again(page: Page, app: Application) -> None:
    page.goto("/teach")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    with page.expect_popup() as opened:
        page.keyboard.press("o")
    expect(shown(opened.value, "The outgoing picture")).to_be_visible()
    opened.value.close()
    lost = page.get_by_role("alert").filter(has_text="The outgoing window is closed")
    expect(lost).to_be_visible()
    page.get_by_role("link", name="Kit").click()
    expect(lost).to_be_visible()
    with page.expect_popup() as again:
        lost.get_by_role("button", name="Open it again").click()
    expect(shown(again.value, "The outgoing picture")).to_be_visible()
    expect(lost).to_be_hidden()
    again.value.close()
    lost.get_by_role("button", name="It was meant to end").click()
    expect(lost).to_be_hidden()


def test_a_blocked_window_is_said(page: Page) -> None:
    page.add_init_script("window.open = () => null")
    page.goto("/teach")
    page.get_by_role("button", name="Open the outgoing window").click()
    expect(page.get_by_role("alert").filter(has_text="The browser has blocked the outgoing window")).to_be_visible()


def test_there_is_one_outgoing_window_whoever_opens_it(page: Page, app: Application) -> None:
    sheet = device(app, "Contour sheet")["id"]
    app.ask("PATCH", f"/api/kit/devices/{sheet}", {"rig": "arm-own-side"})
    page.goto("/teach")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    with page.expect_popup() as opened:
        page.keyboard.press("o")
    expect(shown(opened.value, "The outgoing picture")).to_be_visible()
    page.goto(f"/square-up/{sheet}")
    page.get_by_role("button", name="I have a board in the room").click()
    page.get_by_role("button", name="Open it for the board").click()
    expect(page.get_by_text("Board in the room, by the outgoing window")).to_be_visible()
    assert len(windows(page.context)) == 2
    app.ask("PUT", f"/api/square-up/{sheet}/board", {"fed_by": "nothing"})


def test_keys_work_in_the_outgoing_window_too(page: Page, app: Application) -> None:
    page.goto("/outgoing")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    for key, plate in (("2", "page"), ("3", "face"), ("p", "page"), ("n", "face")):
        page.keyboard.press(key)
        eventually(lambda plate=plate: plate_on(app) == plate)  # type: ignore[misc]
    assert page.locator("body").inner_text().strip() == ""


def test_a_key_without_effect_says_why(page: Page) -> None:
    page.goto("/teach")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    page.keyboard.press("a")
    expect(page.get_by_role("alert").get_by_text("Nothing on this plate to hide")).to_be_visible()
    page.goto("/plates")
    expect(page.locator("canvas[data-shown=true]").first).to_be_visible()
    page.keyboard.press("g")
    expect(page.get_by_role("alert").get_by_text("This plate is outgoing already.")).to_be_visible()


def test_the_device_that_served_before_serves_again_when_the_other_is_removed(page: Page, app: Application, slides: str) -> None:
    assert device(app, "Contour sheet")["serves"] is None
    page.goto("/kit")
    page.get_by_role("article", name="Legend").get_by_role("button", name="Remove").click()
    page.get_by_role("button", name=re.compile("Remove it")).click()
    eventually(lambda: device(app, "Contour sheet")["serves"] == "page")
    app.ask("PATCH", f"/api/kit/devices/{device(app, 'Contour sheet')['id']}", {"serves": "nothing"})
    page.goto("/teach")
    expect(page.get_by_role("alert").filter(has_text="No camera is the page")).to_be_visible()


def test_a_shortcut_on_a_list_works_and_never_picks_from_it(page: Page, app: Application) -> None:
    page.goto("/plates")
    expect(page.locator("canvas[data-shown=true]").first).to_be_visible()
    places = len(app.get("/api/plates")["plates"][0]["plate"]["places"])
    page.get_by_label("Add a place").focus()
    for key in ("z", "y", "n", "p"):
        page.keyboard.press(key)
    assert settled(lambda: len(app.get("/api/plates")["plates"][0]["plate"]["places"])) == places
    sheet = device(app, "Contour sheet")["id"]
    app.ask("PATCH", f"/api/kit/devices/{sheet}", {"rig": "arm-own-side"})
    app.ask("PUT", f"/api/square-up/{sheet}/chain", {"chain": {"square": {"paper": "A4", "aspect": 0.707}}})
    page.goto(f"/square-up/{sheet}")
    expect(shown(page, "The straightened page")).to_be_visible()
    page.get_by_label("Paper", exact=True).focus()
    page.keyboard.press("l")
    eventually(lambda: app.get(f"/api/square-up/{sheet}")["chain"]["square"]["on"] is False)
    assert app.get(f"/api/square-up/{sheet}")["chain"]["square"]["paper"] == "A4"


def test_an_outgoing_window_that_cannot_be_seen_is_told_at_once(page: Page, app: Application) -> None:
    page.goto("/teach")
    expect(page.locator("canvas[data-shown=true]").first).to_be_visible()
    with page.expect_popup() as opened:
        page.keyboard.press("o")
    window = opened.value
    expect(window.locator("canvas[data-shown=true]")).to_be_visible()
    told = page.get_by_role("alert").filter(has_text="minimised or covered")
    expect(told).to_have_count(0)
    state = """() => {
      Object.defineProperty(document, 'visibilityState', { configurable: true, get: () => '%s' })
      document.dispatchEvent(new Event('visibilitychange'))
    }"""
    window.evaluate(state % "hidden")
    expect(told).to_be_visible()
    expect(told.get_by_role("button", name="Bring it to the front")).to_be_enabled()
    window.evaluate(state % "visible")
    expect(told).to_have_count(0)
    window.set_viewport_size({"width": 480, "height": 270})
    expect(page.get_by_role("alert").filter(has_text="480x270 of 1280x720")).to_be_visible()
    window.close()


def test_escape_leaves_the_code_alive_until_it_is_withdrawn(page: Page, app: Application) -> None:
    page.goto("/kit")
    page.get_by_role("button", name="Invite a phone or tablet").click()
    dialog = page.get_by_role("dialog")
    code = dialog.get_by_label("The code").inner_text()
    page.keyboard.press("Escape")
    expect(dialog).to_be_hidden()
    assert app.get("/api/guests/invitation")["code"] == code
    page.get_by_role("button", name="Invite a phone or tablet").click()
    expect(dialog.get_by_label("The code")).to_have_text(code)
    dialog.get_by_role("button", name="Withdraw this code").click()
    eventually(lambda: app.get("/api/guests/invitation") is None)


def test_enter_sends_in_the_dialogs_of_kits(page: Page, app: Application) -> None:
    page.goto("/kit")
    for opener, name in (("New kit", "Bag"), ("Copy for another room", "Second bag")):
        page.get_by_role("button", name=opener).click()
        page.get_by_role("dialog").get_by_label("Name", exact=True).fill(name)
        page.get_by_role("dialog").get_by_label("Room", exact=True).fill("Hall")
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name=name, exact=True)).to_be_visible()


def test_undoing_the_deletion_of_the_outgoing_plate_sends_it_out_again(page: Page, app: Application) -> None:
    page.goto("/plates")
    expect(page.locator("canvas[data-shown=true]").first).to_be_visible()
    page.get_by_role("button", name="Delete", exact=True).click()
    eventually(lambda: plate_on(app) == "page")
    page.keyboard.press("z")
    eventually(lambda: plate_on(app) == "page-and-face")


def test_a_clip_is_played_and_paused_by_key_while_teaching(page: Page, app: Application, tmp_path: Path) -> None:
    path = samples.clip(tmp_path / "River.mp4")
    app.send("/api/kit/files?name=River.mp4&kind=pages&serves=page", path.read_bytes())  # taken as what it is
    assert device(app, "River")["kind"] == "clip"
    page.goto("/teach")
    clip = page.get_by_role("group", name="Clip: River")
    expect(clip).to_be_visible()

    def playing() -> bool:
        return bool(next(feed["clip"] for feed in app.get("/api/live")["feeds"] if feed["clip"])["playing"])

    before = settled(playing)
    page.keyboard.press("v")
    eventually(lambda: playing() != before)
    page.keyboard.press("v")
    eventually(lambda: playing() == before)


STANDS_STILL = """(shown) => [shown.getBoundingClientRect().width, shown.offsetWidth, getComputedStyle(shown).transform]"""


@pytest.mark.parametrize(
    ("path", "comes_up"),
    [
        ("/kit", {"Add a camera on this computer": ".ant-modal", "Add something else": ".ant-dropdown"}),
        ("/teach", {"More": ".ant-drawer-content-wrapper", "Set the timer": ".ant-popover"}),
    ],
    ids=["kit", "teach"],
)
def test_what_comes_up_stands_at_once_where_it_will_stay(page: Page, path: str, comes_up: dict[str, str]) -> None:
    """Else a quick press goes down on one thing and comes up on another, and is lost."""
    page.goto(path)
    session = page.context.new_cdp_session(page)
    session.send("Animation.enable")
    for press, what in comes_up.items():
        button = page.get_by_role("button", name=press).first
        expect(button).to_be_visible()
        session.send("Animation.setPlaybackRate", {"playbackRate": 0.01})  # so that its beginning can be looked at
        button.click()
        measured = page.locator(what).first.evaluate(STANDS_STILL)
        assert measured == [pytest.approx(measured[1], abs=1), measured[1], "none"]
        session.send("Animation.setPlaybackRate", {"playbackRate": 1})
        page.keyboard.press("Escape")  # the first of them is closed by it
    session.detach()
