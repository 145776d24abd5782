"""A camera of this computer, from the browser to the outgoing picture."""

import re

import cv2
import numpy as np
from playwright.sync_api import Page, expect

from cartouche.bench.papers import contour_sheet
from cartouche.core.pictures import Size
from cartouche.core.plates.placing import placing
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain
from tests.helpers import Application, eventually, likeness

DRAWN = contour_sheet().picture
START = "serve"


def add_camera(page: Page, name: str = "My clip mirror") -> None:
    page.goto("/kit")
    page.get_by_role("button", name="Add a camera on this computer").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.locator("video")).to_be_visible()
    dialog.get_by_label("How it is held").select_option(label="Clip-on mirror on a laptop")
    dialog.get_by_label("Your name for it").fill(name)
    dialog.get_by_role("button", name="Use this one").click()
    expect(page.get_by_role("article", name=name).get_by_text("Live", exact=True)).to_be_visible()


def camera_id(app: Application) -> str:
    return next(device["id"] for device in app.get("/api/kit")["devices"] if device["kind"] == "camera")


def test_the_outgoing_picture_shows_the_captured_page_square_and_true(camera_page: Page, app: Application) -> None:
    add_camera(camera_page)
    camera_page.get_by_role("article", name="My clip mirror").get_by_role("link", name="Square up").click()
    expect(camera_page.locator("canvas[aria-label^='The raw picture'][data-shown=true]")).to_be_visible()
    camera_page.keyboard.press("q")
    expect(camera_page.get_by_text(re.compile("found, .* sure"))).to_be_visible()
    expect(camera_page.get_by_label("The light path").locator(".line").first).to_contain_text("Reads true")
    camera_page.get_by_role("link", name="Teach").click()
    expect(camera_page.get_by_role("button", name="Side by side")).to_be_visible()
    camera_page.keyboard.press("2")
    eventually(lambda: app.get("/api/live")["outgoing"]["plate_id"] == "page")
    found = app.get(f"/api/square-up/{camera_id(app)}")
    chain = Chain.model_validate(found["chain"])
    box = placing(FIRST_PLATES[1].places[0], chain, Size(found["feed_width"], found["feed_height"]), Size(1280, 720)).box

    def page_going_out() -> np.ndarray:
        return app.picture("outgoing")[box.y0 : box.y1, box.x0 : box.x1]

    drawn = cv2.resize(DRAWN, (box.x1 - box.x0, box.y1 - box.y0), interpolation=cv2.INTER_AREA)
    upper = slice(0, int(0.48 * drawn.shape[0]))  # the map; below it the hand has drawn
    eventually(lambda: likeness(page_going_out()[upper], drawn[upper]) > 0.8)
    seen = page_going_out()
    assert abs((box.x1 - box.x0) / (box.y1 - box.y0) - 210 / 297) < 0.01
    for wrong in (drawn[:, ::-1], drawn[::-1], drawn[::-1, ::-1]):
        assert likeness(seen[upper], wrong[upper]) < 0.5


def test_a_reload_brings_the_camera_back_by_itself(camera_page: Page, app: Application) -> None:
    add_camera(camera_page)
    camera_page.reload()
    expect(camera_page.get_by_role("article", name="My clip mirror").get_by_text("Live", exact=True)).to_be_visible()


def test_a_newer_tab_takes_the_camera_over_and_the_older_says_so(camera_page: Page, app: Application) -> None:
    add_camera(camera_page)
    other = camera_page.context.new_page()
    other.goto("/kit")
    expect(other.get_by_role("article", name="My clip mirror").get_by_text("Live", exact=True)).to_be_visible()
    expect(camera_page.get_by_text("now comes in through another tab")).to_be_visible()
    camera_page.get_by_role("button", name="Use it here").click()
    expect(camera_page.get_by_text("now comes in through another tab")).to_be_hidden()


def test_a_camera_pulled_out_mid_lesson_has_its_sentence_and_its_way_back(camera_page: Page, app: Application) -> None:
    camera_page.add_init_script(
        """const real = navigator.mediaDevices.getUserMedia.bind(navigator.mediaDevices); window.opened = []
        navigator.mediaDevices.getUserMedia = async (asked) => { opened.push(await real(asked)); return opened.at(-1) }"""
    )
    add_camera(camera_page)
    camera_page.evaluate("for (const s of opened) for (const t of s.getTracks()) { t.stop(); t.dispatchEvent(new Event('ended')) }")
    card = camera_page.get_by_role("article", name="My clip mirror")
    expect(card.get_by_text("was unplugged or switched off")).to_be_visible()
    card.get_by_role("button", name="Bring it back").click()
    expect(card.get_by_text("Live", exact=True)).to_be_visible()


def refuse(page: Page, name: str) -> None:
    page.add_init_script(f"navigator.mediaDevices.getUserMedia = async () => {{ throw new DOMException('', '{name}') }}")


def check_refusal(page: Page, name: str, sentence: str, press: str) -> None:
    refuse(page, name)
    page.goto("/kit")
    page.get_by_role("button", name="Add a camera on this computer").click()
    expect(page.get_by_role("dialog").get_by_text(sentence)).to_be_visible()
    expect(page.get_by_role("dialog").get_by_role("button", name=press)).to_be_enabled()


def test_denied(page: Page) -> None:
    check_refusal(page, "NotAllowedError", "Camera blocked", "Ask again")


def test_busy_in_another_program(page: Page) -> None:
    check_refusal(page, "NotReadableError", "Another program is using this camera", "Try again")


def test_none_found_for_real(page: Page) -> None:
    """This browser has no fake device: nothing is pretended here."""
    page.goto("/kit")
    page.get_by_role("button", name="Add a camera on this computer").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("finds no camera on this computer")).to_be_visible()
    dialog.get_by_role("button", name="Look again").click()
    expect(dialog.get_by_text("finds no camera on this computer")).to_be_visible()


def test_a_camera_of_yesterday_in_a_profile_that_was_never_asked_is_a_matter_of_permission(page: Page, app: Application) -> None:
    """Ids differ from profile to profile: without permission the browser says that the camera does not exist."""
    camera = {"kind": "camera", "source": "abc", "label": "Cam", "name": "Desk", "rig": "arm-own-side", "serves": "page"}
    app.ask("POST", "/api/kit/devices", camera)
    refuse(page, "OverconstrainedError")
    page.add_init_script("navigator.permissions.query = async () => ({ state: 'prompt' })")
    page.goto("/kit")
    card = page.get_by_role("article", name="Desk")
    expect(card.get_by_text("Camera blocked")).to_be_visible()
    expect(card.get_by_role("button", name="Ask again")).to_be_enabled()
    expect(card.get_by_text("was unplugged")).to_have_count(0)
