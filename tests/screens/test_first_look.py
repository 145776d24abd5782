"""Square up at first look: one sentence, one press, small pictures of each turn; the whole chain behind More."""

import cv2
import numpy as np
from playwright.sync_api import Browser, Page, expect

from tests.helpers import Application, eventually, likeness
from tests.screens.conftest import watched
from tests.screens.test_layout import settled_layout

DESK = "desk-camera"


def first_looked(browser: Browser, app: Application, troubles: list[str], size: tuple[int, int] = (1280, 800)) -> Page:
    """Square up as it opens for somebody who never pressed More."""
    context = browser.new_context(viewport={"width": size[0], "height": size[1]}, base_url=app.address)
    context.add_init_script("localStorage.getItem('square-up-more') ?? localStorage.setItem('square-up-more', 'false')")
    page = watched(context, troubles)
    page.goto("/square-up")
    expect(page.get_by_role("status", name="What to do")).to_be_visible()
    return page


def test_the_first_look_is_small_and_more_is_kept(browser: Browser, app: Application, troubles: list[str]) -> None:
    page = first_looked(browser, app, troubles)
    expect(page.locator("canvas[data-shown=true]").first).to_be_visible()
    handles = page.get_by_role("button", name="corner")
    assert page.locator("main").get_by_role("button").count() - handles.count() <= 12
    assert settled_layout(page) == []
    page.get_by_role("button", name="More").click()
    expect(page.get_by_role("heading", name="Corrections")).to_be_visible()
    page.reload()
    expect(page.get_by_role("heading", name="Corrections")).to_be_visible()
    page.context.close()
    assert not troubles


def test_squaring_up_turns_and_flips_too_and_one_key_takes_it_back(browser: Browser, app: Application, troubles: list[str]) -> None:
    page = first_looked(browser, app, troubles)
    before = app.get(f"/api/square-up/{DESK}")["chain"]
    wrong = {"turn": {"on": True, "quarters": (before["turn"]["quarters"] + 1) % 4}, "mirror": {"on": True, "left_right": True}}
    app.ask("PUT", f"/api/square-up/{DESK}/chain", {"chain": {**before, **{k: {**before[k], **v} for k, v in wrong.items()}}})
    page.get_by_role("button", name="Square it up").click()
    expect(page.get_by_text("By its own print")).to_be_visible()
    after = app.get(f"/api/square-up/{DESK}")["chain"]
    assert (after["turn"]["quarters"], after["mirror"]["left_right"]) == (before["turn"]["quarters"], False)
    page.keyboard.press("z")
    eventually(lambda: app.get(f"/api/square-up/{DESK}")["chain"]["mirror"]["left_right"])
    page.context.close()


def resized(picture: np.ndarray) -> np.ndarray:
    return cv2.resize(picture, (300, 300), interpolation=cv2.INTER_AREA)


def test_each_small_picture_is_one_press(browser: Browser, app: Application, troubles: list[str]) -> None:
    page = first_looked(browser, app, troubles)
    for press, turned_by in (("Turn left", 3), ("Half a turn", 2), ("Turn right", 1)):
        before = app.picture(f"page:{DESK}", 400)
        page.get_by_role("button", name=press).click()
        wanted = np.ascontiguousarray(np.rot90(before, -turned_by))
        aspect = wanted.shape[1] / wanted.shape[0]

        def as_wanted(wanted: np.ndarray = wanted, aspect: float = aspect) -> bool:
            now = app.picture(f"page:{DESK}", 400)
            return abs(now.shape[1] / now.shape[0] - aspect) < 0.02 and likeness(resized(now), resized(wanted)) > 0.8

        eventually(as_wanted)
    page.context.close()


def test_what_it_says_has_its_press(browser: Browser, app: Application, troubles: list[str]) -> None:
    page = first_looked(browser, app, troubles)
    told = page.get_by_role("status", name="What to do")
    page.get_by_role("button", name="Flip").click()
    expect(told).to_contain_text("reversed")
    told.get_by_role("button", name="Flip it").click()
    expect(told).to_contain_text("the right way round")
    page.get_by_role("button", name="Leave as it is").click()
    expect(told).to_contain_text("goes out as the camera sees it")
    told.get_by_role("button", name="Square it up").click()
    expect(told).to_contain_text("Straight")
    page.context.close()
