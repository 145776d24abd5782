"""Every screen: fits, is reachable by keyboard, has no serious accessibility fault, fetches nothing from elsewhere."""

import pytest
from playwright.sync_api import Page, expect

from tests.helpers import Application, eventually
from tests.screens.access import accessible

FOCUSED = "(document.activeElement.matches('body') ? '' : document.activeElement.ariaLabel || document.activeElement.textContent) || ''"
START, FILLED = "serve", True
SCREENS = ["/", "/first", "/kit", "/square-up", "/plates", "/way-in", "/ready", "/teach", "/after", "/privacy", "/outgoing"]
PRESSED_FIRST = ("/", "/kit", "/square-up", "/plates", "/teach")
OVERFLOWING = """() => [...document.querySelectorAll('body, main, section, aside, article')]
  .filter((e) => !['visible'].includes(getComputedStyle(e).overflowY) || e === document.body)
  .filter((e) => e.scrollHeight > e.clientHeight + 1 && e.clientHeight > 0)
  .map((e) => `${e.tagName}.${e.className} ${e.scrollHeight} > ${e.clientHeight}`)"""


def open_screen(page: Page, path: str) -> None:
    page.goto(path)
    if path == "/":
        expect(page.get_by_role("button", name="Teach this lesson: Reading the ground 9B")).to_be_visible()
    elif path == "/way-in":
        expect(page.get_by_role("status").first).to_contain_text("Take “")
        expect(page.locator("canvas[data-shown=true]").first).to_be_visible()
    elif path in ("/after", "/privacy"):
        expect(page.get_by_role("main")).to_be_visible()
    else:
        expect(page.locator("canvas[data-shown=true]").first).to_be_visible()


@pytest.mark.parametrize("path", SCREENS)
def test_a_screen_fits_is_usable_by_everybody_and_fetches_nothing_from_elsewhere(page: Page, app: Application, path: str) -> None:
    """At 1280x800 nothing scrolls and axe finds nothing serious; at other sizes what is to be pressed first is in sight."""
    if path == "/teach":
        app.ask("POST", "/api/teach/call/start")
    asked = asks(page)
    open_screen(page, path)
    accessible(page)
    if path not in ("/way-in", "/ready"):  # as long as there are audiences and checks
        assert page.evaluate(OVERFLOWING) == []
    if path in PRESSED_FIRST:
        in_sight_at_other_sizes(page)
    assert len(asked) > 5
    assert [url for url in asked if not url.startswith((app.address, "blob:", "data:"))] == []


def asks(page: Page) -> list[str]:
    """What it fetches from now on."""
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.on("websocket", lambda socket: asked.append(socket.url.replace("ws://", "http://")))
    return asked


def in_sight_at_other_sizes(page: Page) -> None:
    for width, height in ((1024, 768), (1920, 1080)):
        page.set_viewport_size({"width": width, "height": height})
        eventually(lambda: page.evaluate("document.documentElement.scrollWidth <= innerWidth"))
        box = page.locator("main .ant-btn-primary").first.bounding_box()
        assert box is not None
        assert box["x"] >= 0
        assert box["x"] + box["width"] <= width
        assert box["y"] + box["height"] <= height
        header = page.evaluate("[...document.querySelectorAll('header > *, header nav > *')].map(e => e.getBoundingClientRect().right)")
        assert max(header) <= width


DIALOGS = {
    "Add a camera on this computer": "Look again",
    "Invite a phone or tablet": "Close",
    "A window or a browser tab": "Choose the window",
    "Pages, slides or a clip": "Choose the file",
    "A network stream": "Use this stream",
}


def test_axe_on_the_dialogs(page: Page) -> None:
    page.goto("/kit")
    for opener, inside in DIALOGS.items():
        if opener.startswith(("Add", "Invite")):
            page.get_by_role("button", name=opener).click()
        else:
            page.get_by_role("button", name="Add something else").click()
            page.get_by_role("menuitem", name=opener).click()
        expect(page.get_by_role("dialog").get_by_role("button", name=inside)).to_be_visible()
        accessible(page, "[role=dialog]")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)


def test_the_path_has_eight_words_and_no_dead_links(page: Page) -> None:
    page.goto("/")
    path = page.get_by_role("navigation", name="The way to the lesson")
    for word in ("Kit", "Square up", "Plates", "Sound", "Way in", "Ready", "Teach", "After"):
        expect(path.get_by_text(word)).to_be_visible()
    assert path.get_by_role("link").count() == 8
    for link in path.get_by_role("link").all():
        link.click()
        expect(page.locator("main.screen")).to_be_visible()
        expect(path.locator("a.on")).to_have_count(1)


def test_an_unknown_address_leads_home(page: Page) -> None:
    page.goto("/nowhere/at/all")
    expect(page.get_by_role("heading", name="Today, ")).to_be_visible()


def test_the_lesson_is_started_with_the_keyboard_alone(page: Page, app: Application) -> None:
    page.goto("/")
    expect(page.get_by_role("button", name="Teach this lesson: Reading the ground 9B")).to_be_visible()

    def tab_to(name: str) -> None:
        for _ in range(60):
            if name in (
                page.evaluate(
                    "document.activeElement.matches('body') ? '' : document.activeElement.ariaLabel || document.activeElement.textContent"
                )
                or ""
            ):
                return
            page.keyboard.press("Tab")
        raise AssertionError(f"{name} is not reached by the tab key")

    tab_to("Teach this lesson: Reading the ground 9B")
    page.keyboard.press("Enter")
    expect(page.locator("canvas[data-shown=true]").first).to_be_visible()
    tab_to("Start practice call")
    page.keyboard.press("Enter")
    eventually(lambda: app.get("/api/live")["going_out"])
