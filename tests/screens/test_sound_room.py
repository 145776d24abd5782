"""Who hears whom on the screen, the echo test, a microphone pulled out, push to talk, two at once, and what is kept."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.helpers import Application, eventually, settled
from tests.screens.access import accessible
from tests.screens.test_sound import hearing, rows  # noqa: F401  (hearing is a fixture)

START = "serve"
OPENED = """const real = navigator.mediaDevices.getUserMedia.bind(navigator.mediaDevices); window.opened = []
navigator.mediaDevices.getUserMedia = async (asked) => { opened.push(await real(asked)); return opened.at(-1) }"""


def open_ids(app: Application) -> list[str]:
    return [one["id"] for one in app.get("/api/sound")["microphones"] if one["open"]]


def open_first(page: Page, app: Application) -> None:
    rows(page)
    page.get_by_role("button", name="Open this one").first.click()
    expect(page.get_by_text("Mic open")).to_be_visible()
    eventually(lambda: len(open_ids(app)) == 1)


def test_a_loop_is_found_drawn_and_ended_by_one_press(hearing: Page, app: Application) -> None:  # noqa: F811
    open_first(hearing, app)
    wrong = hearing.get_by_role("region", name="What is wrong")
    expect(wrong.get_by_text("learners hear you once, and you hear them.")).to_be_visible()
    hearing.get_by_role("button", name="Add a computer, phone or board").click()
    hearing.get_by_label("Microphone of Board").select_option("open")
    expect(wrong.get_by_text("it can howl").first).to_be_visible()
    expect(hearing.get_by_role("img", name=re.compile("Board’s loudspeaker to"))).to_be_visible()
    expect(hearing.locator("path.wrong").first).to_be_attached()
    mine = open_ids(app)
    for _ in range(4):
        presses = wrong.get_by_role("button")
        if not settled(presses.count):
            break
        presses.first.click()
        hearing.wait_for_timeout(600)
    expect(wrong.get_by_text("learners hear you once, and you hear them.")).to_be_visible()
    assert open_ids(app) == mine, "the teacher's own choice stays open"
    assert app.get("/api/sound")["findings"] == []


def test_silence_is_said_and_the_press_opens_one(hearing: Page, app: Application) -> None:  # noqa: F811
    rows(hearing)
    wrong = hearing.get_by_role("region", name="What is wrong")
    expect(wrong.get_by_text("Learners hear nobody: no open microphone reaches the call.")).to_be_visible()
    wrong.get_by_role("button", name=re.compile("^Open")).click()
    expect(hearing.get_by_text("Mic open")).to_be_visible()
    expect(wrong.get_by_text("learners hear you once, and you hear them.")).to_be_visible()


def test_the_echo_test_tells_what_learners_get_and_keeps_the_one_before(hearing: Page, app: Application) -> None:  # noqa: F811
    rows(hearing)
    tests = hearing.get_by_role("button", name=re.compile("^Echo test of"))
    for number in range(2):
        tests.first.click()
        results = hearing.get_by_role("region", name="Echo test")
        expect(results.get_by_role("listitem")).to_have_count(number + 1)
        expect(tests.first).to_have_text("Echo test")
    expect(results.get_by_text("Learners hear you well.").first).to_be_visible()
    with hearing.expect_response(re.compile(r"echo/\d+\.wav")) as heard:
        results.get_by_role("button", name="Play again").first.click()
    assert heard.value.ok


def test_one_that_is_pulled_out_says_so_and_comes_back_with_its_device(hearing: Page, app: Application) -> None:  # noqa: F811
    hearing.add_init_script(OPENED)
    open_first(hearing, app)
    hearing.get_by_role("link", name="Teach").click()
    expect(hearing.get_by_text("Mic open")).to_be_visible()
    hearing.evaluate("for (const s of opened) for (const t of s.getTracks()) { t.stop(); t.dispatchEvent(new Event('ended')) }")
    expect(hearing.get_by_text("was unplugged: nobody hears you")).to_be_visible()
    expect(hearing.get_by_text("Mic open")).to_be_hidden()
    hearing.evaluate("navigator.mediaDevices.dispatchEvent(new Event('devicechange'))")
    expect(hearing.get_by_text("is back and open again")).to_be_visible()
    expect(hearing.get_by_text("Mic open")).to_be_visible()


def test_push_to_talk_and_push_to_mute_by_one_key(hearing: Page, app: Application) -> None:  # noqa: F811
    open_first(hearing, app)
    mine = open_ids(app)
    hearing.get_by_role("link", name="Teach").click()
    expect(hearing.get_by_role("heading", name="Through their eyes")).to_be_visible()
    hearing.keyboard.down("t")
    expect(hearing.get_by_text("Mic open")).to_be_hidden()
    eventually(lambda: open_ids(app) == [])
    hearing.keyboard.up("t")
    eventually(lambda: open_ids(app) == mine)
    hearing.keyboard.press("m")
    eventually(lambda: open_ids(app) == [])
    hearing.keyboard.down("t")
    eventually(lambda: open_ids(app) == mine)
    hearing.keyboard.up("t")
    eventually(lambda: open_ids(app) == [])


def test_a_second_one_opens_only_after_its_risk_was_said(hearing: Page, app: Application) -> None:  # noqa: F811
    open_first(hearing, app)
    hearing.get_by_role("button", name="Open beside…").first.click()
    asked = hearing.get_by_role("alertdialog")
    expect(asked.get_by_text("Learners hear your voice twice")).to_be_visible()
    asked.get_by_role("button", name="Open both").click()
    eventually(lambda: len(open_ids(app)) == 2)
    hearing.keyboard.press("m")
    eventually(lambda: open_ids(app) == [])


def test_names_rooms_and_pairs_are_kept_with_the_kit(hearing: Page, app: Application) -> None:  # noqa: F811
    rows(hearing)
    name = hearing.get_by_label(re.compile("^Name of")).first
    name.fill("Lapel, left")
    name.press("Enter")
    hearing.get_by_label("Worn (headset, lapel)").first.check()
    eventually(lambda: [(one["name"], one["worn"]) for one in app.get("/api/sound")["declared"]["microphones"]] == [("Lapel, left", True)])
    hearing.reload()
    expect(hearing.get_by_label(re.compile("^Name of")).first).to_have_value("Lapel, left")
    expect(hearing.get_by_label("Worn (headset, lapel)").first).to_be_checked()


def test_the_practice_call_hears_it_once_and_how_late(hearing: Page, app: Application) -> None:  # noqa: F811
    open_first(hearing, app)
    app.ask("POST", "/api/teach/call/start")
    learners = hearing.get_by_role("region", name="What learners hear")
    expect(learners.get_by_text("Heard once")).to_be_visible()
    app.ask("POST", "/api/teach/call/stop")
    expect(learners.get_by_text("Start the practice call")).to_be_visible()


def test_by_keyboard_alone_from_nothing_open_to_heard(hearing: Page, app: Application) -> None:  # noqa: F811
    rows(hearing)
    for _ in range(40):
        hearing.keyboard.press("Tab")
        if hearing.evaluate("document.activeElement.innerText").startswith("Open this one"):
            break
    hearing.keyboard.press("Enter")
    expect(hearing.get_by_text("Mic open")).to_be_visible()
    hearing.keyboard.press("m")
    expect(hearing.get_by_text("Mic open")).to_be_hidden()


@pytest.mark.parametrize("width", [1024, 1280])
def test_nothing_is_wrong_for_axe_with_all_of_it_shown(hearing: Page, app: Application, width: int) -> None:  # noqa: F811
    hearing.set_viewport_size({"width": width, "height": 800})
    open_first(hearing, app)
    hearing.get_by_role("button", name="Add a computer, phone or board").click()
    hearing.get_by_label("Microphone of Board").select_option("open")
    expect(hearing.get_by_role("region", name="What is wrong").get_by_role("button").first).to_be_visible()
    accessible(hearing)
    assert hearing.evaluate("document.documentElement.scrollWidth <= innerWidth")
