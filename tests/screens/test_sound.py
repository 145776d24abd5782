"""Sound in a browser whose fake microphone plays the bench's: heard, judged, opened, closed; what is closed does not leave the browser."""

from functools import cache

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from cartouche.bench.microphones import Case, microphone
from tests.helpers import Application, eventually, settled
from tests.screens.access import accessible
from tests.screens.player import Player

START = "serve"
COUNTED = """
window.bytes = 0
const send = WebSocket.prototype.send
WebSocket.prototype.send = function (data) {
    if (this.url.includes('/api/sound/')) window.bytes += data.byteLength
    return send.call(this, data)
}
"""


@cache
def heard(case: Case) -> np.ndarray:
    return microphone(case, 12.0, 3)


@pytest.fixture
def hearing(request: pytest.FixtureRequest, player: Player, playing_page: Page) -> Page:
    """A page of a browser whose microphone is this case of the bench's."""
    player.sounds(heard(getattr(request, "param", "well")))
    playing_page.add_init_script(COUNTED)
    return playing_page


def rows(page: Page) -> int:
    page.goto("/sound")
    expect(page.get_by_role("button", name="Open this one").first).to_be_enabled()
    return page.get_by_role("listitem").filter(has=page.get_by_role("meter")).count()


@pytest.mark.parametrize(
    ("hearing", "word"),
    [
        ("well", "Good"),
        ("far away", "Too quiet"),
        ("shouting", "Too loud"),
        ("fan", "Only noise"),
        ("muted on the device", "Nothing at all"),
    ],
    indirect=["hearing"],
)
def test_what_a_microphone_gives_is_said_in_a_word_and_a_sentence(hearing: Page, word: str) -> None:
    rows(hearing)
    expect(hearing.get_by_role("listitem").filter(has=hearing.get_by_role("meter")).first.get_by_text(word, exact=True)).to_be_visible()


def test_one_is_open_and_one_press_closes_all_from_every_screen(hearing: Page, app: Application) -> None:
    rows(hearing)
    hearing.get_by_role("button", name="Open this one").first.click()
    expect(hearing.get_by_text("Mic open")).to_be_visible()
    eventually(lambda: sum(one["open"] for one in app.get("/api/sound")["microphones"]) == 1)
    others = hearing.get_by_role("button", name="Open this one")
    if others.count():
        others.first.click()
        assert settled(lambda: [one["open"] for one in app.get("/api/sound")["microphones"]]).count(True) == 1
    hearing.get_by_role("link", name="Kit").click()
    expect(hearing.get_by_text("Mic open")).to_be_visible()
    hearing.keyboard.press("m")
    expect(hearing.get_by_text("Mic open")).to_be_hidden()
    hearing.keyboard.press("m")
    expect(hearing.get_by_text("All microphones are closed already.")).to_be_visible()


def test_what_is_closed_does_not_leave_the_browser(hearing: Page, app: Application) -> None:
    rows(hearing)
    hearing.get_by_role("button", name="Open this one").first.click()
    expect(hearing.get_by_text("Mic open")).to_be_visible()
    hearing.get_by_role("link", name="Teach").click()
    expect(hearing.get_by_role("heading", name="Through their eyes")).to_be_visible()
    before = hearing.evaluate("window.bytes")
    eventually(lambda: hearing.evaluate("window.bytes") > before)  # open: it goes on while other screens are looked at
    hearing.keyboard.press("m")
    expect(hearing.get_by_text("Mic open")).to_be_hidden()
    stopped = settled(lambda: hearing.evaluate("window.bytes"))
    hearing.wait_for_timeout(1500)  # as long as seventy blocks take
    assert hearing.evaluate("window.bytes") == stopped
    eventually(lambda: not any(one["here"] for one in app.get("/api/sound")["microphones"]))


def test_another_tab_that_closes_all_stops_it_here(hearing: Page, app: Application) -> None:
    rows(hearing)
    hearing.get_by_role("button", name="Open this one").first.click()
    expect(hearing.get_by_text("Mic open")).to_be_visible()
    hearing.get_by_role("link", name="Kit").click()
    other = hearing.context.new_page()
    other.goto("/outgoing")
    expect(other.locator("canvas[data-shown=true]")).to_be_visible()
    other.keyboard.press("m")
    expect(hearing.get_by_text("Mic open")).to_be_hidden()
    eventually(lambda: app.get("/api/sound")["microphones"] == [])


def test_leaving_the_screen_stops_what_was_only_measured(hearing: Page, app: Application) -> None:
    assert rows(hearing) >= 1
    eventually(lambda: any(one["here"] for one in app.get("/api/sound")["microphones"]))
    hearing.get_by_role("link", name="Kit").click()
    eventually(lambda: not app.get("/api/sound")["microphones"])


def test_denied_has_its_sentence_and_its_way_back(page: Page) -> None:
    page.add_init_script("navigator.mediaDevices.getUserMedia = async () => { throw new DOMException('', 'NotAllowedError') }")
    page.goto("/sound")
    expect(page.get_by_role("alert").get_by_text("Microphone blocked")).to_be_visible()
    expect(page.get_by_role("button", name="Ask again")).to_be_enabled()


def test_axe(hearing: Page) -> None:
    rows(hearing)
    accessible(hearing)
