"""Every key of every screen, from the table that `?` shows: it works or says why, four quick presses count, no list is picked from."""

import re
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.helpers import Application, eventually, settled
from tests.screens.conftest import windows

SCREENS = {"teach": "/teach", "plates": "/plates", "square up": "/square-up/desk-camera"}
QUICK = 4  # an even number: what goes on and off, as a recording, does not go on beside all keys that follow
WITHOUT_WORD = {"Escape", "?"}  # leaves what is chosen, shows the table
STANDS = """() => JSON.stringify([
    document.querySelector('.bar')?.innerText,
    document.querySelector('[aria-label="Name of the plate"]')?.value,
    [...document.querySelectorAll('[data-surface]')].map((one) => one.dataset.surface),
    [...document.querySelectorAll('[role=toolbar]')].map((one) => one.ariaLabel),
])"""


class Sent:
    """What a page asks of the server that changes something."""

    def __init__(self, page: Page) -> None:
        self._page, self._count, self._under_way = page, 0, 0
        page.on("request", lambda request: self._note(request, 1, 1))
        for over in ("requestfinished", "requestfailed"):
            page.on(over, lambda request: self._note(request, 0, -1))  # type: ignore[call-overload]

    def _note(self, request: Any, more: int, under_way: int) -> None:
        if request.method not in ("GET", "HEAD") and "/api/" in request.url:
            self._count += more
            self._under_way += under_way

    @property
    def count(self) -> int:
        self._page.wait_for_timeout(10)  # what the browser tells is heard meanwhile
        return self._count

    def all_answered(self) -> bool:
        self._page.wait_for_timeout(10)
        return self._under_way == 0


@pytest.fixture(params=SCREENS.values(), ids=SCREENS.keys())
def screen(request: pytest.FixtureRequest, page: Page) -> Iterator[Page]:
    page.goto(request.param)
    expect(page.locator("canvas[data-shown=true]").first).to_be_visible()
    return page


def keys_of(page: Page) -> list[str]:
    """As the table behind `?` says."""
    page.keyboard.press("?")
    rows = page.get_by_role("dialog").locator("kbd[data-keys]")
    expect(rows.first).to_be_visible()
    eventually(lambda: rows.count() > 8)  # the lesson's own keys are asked for
    settled(rows.count)
    keys = [key for row in rows.all() for key in (row.get_attribute("data-keys") or "").split()]
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    return [key for key in reversed(keys) if key not in WITHOUT_WORD]  # so that the first plate is not chosen when it is asked for


def quiet(page: Page, sent: Sent) -> None:
    """Nothing is on its way, and no sentence of an earlier press stands there."""
    eventually(sent.all_answered)
    page.evaluate("document.querySelector('.bar button')?.click()")  # it may just be going by itself
    expect(page.locator(".bar")).to_have_count(0)


def close_popups(page: Page) -> int:
    others = [one for one in windows(page.context) if one is not page]
    for one in others:
        one.close()
    return len(others)


@pytest.mark.timeout(300)  # forty keys, one after another
def test_every_key_works_or_says_why_and_four_quick_presses_are_four(screen: Page) -> None:
    """Each press is sent, or the screen says why it has no effect."""
    keys = keys_of(screen)
    assert len(keys) > 8
    sent = Sent(screen)
    for key in keys:
        quiet(screen, sent)
        before, already = screen.evaluate(STANDS), sent.count
        screen.keyboard.down(key)  # some work as long as they are held

        def has_told(before: str = before, already: int = already) -> bool:
            return sent.count > already or screen.evaluate(STANDS) != before or len(windows(screen.context)) > 1

        try:
            eventually(has_told)
        except AssertionError:
            pytest.fail(f"{key} does nothing, and does not say why")
        screen.keyboard.up(key)
        if close_popups(screen) or (sent.count == already and not settled(lambda already=already: sent.count - already)):  # type: ignore[misc]
            continue  # nothing that the server is asked for; a key pressed while a window opens may wait for ever in the browser
        for _ in range(QUICK - 1):
            screen.keyboard.press(key)
        said = screen.locator(".bar p")
        try:
            eventually(lambda already=already, said=said: sent.count - already >= QUICK or said.count() > 0)  # type: ignore[misc]
        except AssertionError:
            pytest.fail(f"of {QUICK} presses of {key}, {sent.count - already} came")
        assert sent.count - already <= QUICK, key


def test_no_key_picks_from_a_list(screen: Page) -> None:
    """The browser is told that the key is taken, so its list does not look for an entry that begins with it."""
    screen.evaluate("addEventListener('keydown', (event) => (window.taken = event.defaultPrevented))")
    lists = screen.locator("select:visible")
    for key in keys_of(screen):
        if len(key) > 1:
            continue  # arrows, Delete and the like stay the list's own
        for one in lists.all()[:2]:
            one.focus()
            screen.keyboard.press(key)
            assert screen.evaluate("window.taken") is True, key
        close_popups(screen)


def test_the_outgoing_window_hears_the_keys_of_its_plates(page: Page, app: Application) -> None:
    page.goto("/outgoing")
    expect(page.locator("canvas[data-shown=true]")).to_be_visible()
    ids = [one["plate"]["id"] for one in app.get("/api/plates")["plates"]]

    def on() -> str:
        return str(app.get("/api/plates")["plate_on"])

    for number in range(len(ids), 0, -1):
        page.keyboard.press(str(number))
        eventually(lambda number=number: on() == ids[number - 1])  # type: ignore[misc]
    for _ in range(3):
        page.keyboard.press("n")
    eventually(lambda: on() == ids[3 % len(ids)])
    for _ in range(3):
        page.keyboard.press("p")
    eventually(lambda: on() == ids[0])


def test_the_keys_are_behind_a_press_too(page: Page) -> None:
    for path in ("/", "/kit", "/teach"):
        page.goto(path)
        page.get_by_role("button", name="Keys of this screen").click()
        expect(page.get_by_role("dialog", name="Keys of this screen")).to_contain_text(re.compile("Show these keys"))
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
