"""Every screen, empty and in use, at three sizes: no clipped text, no overlapping controls, no sideways scrolling, few Tab stops."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.helpers import Application, eventually
from tests.screens.access import tab_stops
from tests.screens.conftest import as_demo, as_new
from tests.screens.layout import layout_faults

SIZES = [(1024, 768), (1280, 800), (1920, 1080)]
MOST_TABS = {"/kit": 35, "/plates": 40, "/square-up": 25, "/teach": 15}
SCREENS = ["/", "/first", "/kit", "/square-up", "/plates", "/sound", "/way-in", "/ready", "/teach", "/after", "/privacy"]
FIRST = {
    "/": "Show your page in a call",
    "/first": "Which camera shows your page?",
    "/kit": "Nothing is here yet",
    "/square-up": "There is no camera over a page yet",
    "/plates": "Six come with the first lesson",
    "/sound": "The browser finds no microphone",
    "/way-in": "Who watches",
    "/ready": "Something is wrong?",
    "/teach": "Through their eyes",
    "/after": "Nothing is kept yet",
    "/privacy": "No sheet, recording or ink is kept.",
}


@pytest.fixture
def app(warm_demo: Application) -> Application:
    as_demo(warm_demo)
    return warm_demo


def settled_layout(page: Page) -> list[str]:
    page.evaluate("document.fonts.ready")
    page.wait_for_timeout(500)  # pictures settle their sizes by what is measured on the page
    return layout_faults(page)


def at_each_size(page: Page) -> None:
    for width, height in SIZES:
        page.set_viewport_size({"width": width, "height": height})
        assert settled_layout(page) == [], (width, height)


@pytest.mark.parametrize("path", SCREENS)
def test_in_use_it_fits_and_takes_few_tabs(page: Page, app: Application, path: str) -> None:
    if path in ("/after", "/privacy"):
        app.ask("POST", "/api/teach/actions", {"action": "sheet"})
    page.goto(path)
    if path == "/sound":
        page.get_by_role("button", name="Add a computer, phone or board").click()
        expect(page.get_by_text("Good", exact=True).first).to_be_visible()
        page.get_by_role("button", name="Open this one").first.click()
        page.get_by_label("Microphone of Board").select_option("open")
        expect(page.get_by_text("it can howl").first).to_be_visible()
    elif path == "/way-in":
        page.get_by_role("button", name="Add an audience").click()
        page.get_by_role("button", name="As your webcam").click()
        expect(page.get_by_role("listitem", name="Board in the room")).to_be_visible()
    elif path == "/ready":
        expect(page.get_by_text("Reads for “Laptop, pinned”")).to_be_visible()
        page.get_by_role("button", name="They can’t see me").click()
        expect(page.get_by_role("button", name="Back")).to_be_visible()
    elif path == "/after":
        page.get_by_role("group", name="Kept sheets").get_by_role("button", name=re.compile("^Sheet 1")).click()
        expect(page.get_by_label("Title")).to_be_visible()
    elif path == "/privacy":
        expect(page.get_by_role("button", name="Delete sheets of Reading the ground 9B")).to_be_visible()
    elif path == "/first":
        expect(page.get_by_role("status", name="What to do")).to_be_visible()
    elif path == "/":
        expect(page.get_by_role("button", name="Teach this lesson: Reading the ground 9B")).to_be_visible()
    else:
        expect(page.locator("canvas[data-shown=true]").first).to_be_visible()
    if path == "/square-up":
        expect(page.get_by_text("Readable").first).to_be_visible()
        expect(page.get_by_text("Right way round", exact=True)).to_be_visible()
    if path in MOST_TABS:
        assert 5 < tab_stops(page) <= MOST_TABS[path]
    if path == "/teach":
        app.ask("POST", "/api/teach/call/start")
        expect(page.get_by_role("button", name="Stop practice call")).to_be_visible()
    if path == "/plates":
        page.get_by_role("button", name="Place 2: Face").click()
        expect(page.get_by_role("complementary").get_by_role("button", name="Remove")).to_be_visible()
    at_each_size(page)
    if path == "/teach":
        longest_says_fit(page, app)


def longest_says_fit(page: Page, app: Application) -> None:
    """The sentence beneath the picture, on the smallest screen, with each press beside it and without."""
    page.set_viewport_size({"width": 1024, "height": 768})
    line = page.get_by_label("State", exact=True)

    def act(action: str) -> object:
        return app.ask("POST", "/api/teach/actions", {"action": action})

    act("sheet")
    sheet = eventually(lambda: app.get("/api/teach/tools")["sheets"])[-1]["id"]
    for does, press, says in (
        (lambda: act("hold"), "Let it go on", "Held for 12:34. Do learners still need it?"),
        (lambda: app.ask("POST", f"/api/teach/sheets/{sheet}/show"), "Back to the page", "Learners see the sheet “Reading the ground”."),
        (lambda: act("live"), "", "This computer is at its limit: close other programs and tabs."),
    ):
        does()
        expect(line.get_by_role("button", name=press or None)).to_have_count(1 if press else 0)
        line.locator(".chip > span").last.evaluate(
            "(element, text) => ([...element.childNodes].find((one) => one.data?.trim()).data = text)", says
        )
        assert settled_layout(page) == [], says


def test_empty(page: Page, warm_serve: Application) -> None:
    as_new(warm_serve)
    for path in SCREENS:
        page.goto(warm_serve.address + path)
        expect(page.get_by_text(FIRST[path]).first).to_be_visible()
        at_each_size(page)


def test_the_check_itself_sees_faults(page: Page) -> None:
    """A screen spoilt on purpose in each of the ways."""
    page.goto("/kit")
    expect(page.locator("canvas[data-shown=true]").first).to_be_visible()
    page.evaluate(
        """() => {
          const [first, second, third] = document.querySelectorAll('article')
          first.querySelector('.ant-segmented').style.cssText = 'width: 60px; overflow: hidden'
          second.querySelector('select').style.transform = 'translateY(-44px)'
          const beyond = Object.assign(document.createElement('p'), { textContent: 'Beyond the edge' })
          beyond.style.cssText = 'position: absolute; left: 1270px; white-space: nowrap'
          third.append(beyond) // nothing of the screen's own, which may be drawn again meanwhile
        }"""
    )
    found = "\n".join(layout_faults(page))
    for words in ("wider than its room", "lies over", "leaves the screen"):
        assert words in found
