"""Cameras as teachers have them: slow to start, cut off, dark, of one colour, too far away. Each is told as what it is."""

from typing import Any

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from cartouche.bench.more_papers import Look, sheet
from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame, frame_from_bgr
from tests.helpers import Application, eventually, settled
from tests.screens.conftest import add_face
from tests.screens.player import Player
from tests.screens.test_camera import add_camera, camera_id
from tests.screens.test_job import shown

START = "serve"
SIZE = Size(640, 480)
STATES = """
window.states = []
const note = () => {
    const chip = document.querySelector('article[aria-label="My clip mirror"] .top .chip')
    const word = chip?.lastChild.textContent.trim()
    if (word && word !== states.at(-1)?.word) states.push({ word, at: performance.now() })
}
new MutationObserver(note).observe(document, { childList: true, subtree: true, characterData: true })
"""
PAUSES = """
let sends = 0
const sent = WebSocket.prototype.send
WebSocket.prototype.send = function (data) {
    if (data.byteLength > 200 && ++sends === 3) { window.held = true; setTimeout(() => (window.held = false), 1500) }
    sent.call(this, data)
}
"""


def one_colour(y: int, u: int, v: int) -> Frame:
    return blank_frame(SIZE, YuvColour(y, u, v))


def noise(seed: int) -> Frame:
    frame = one_colour(0, 128, 128)
    random = np.random.default_rng(seed)
    for plane in frame.planes:
        plane[:] = random.integers(0, 256, plane.shape, np.uint8)
    return frame


def black_beside_colour() -> Frame:
    """Plain black is then the plainest spot, and so the first that could be paper."""
    frame = one_colour(0, 128, 128)
    for plane, value in zip(frame.planes, (150, 60, 200), strict=True):
        plane[:, plane.shape[1] // 2 :] = value
    return frame


def far_page(px_per_mm: float) -> Frame:
    """A page of running text in small print that fills little of the picture."""
    text = np.tile(cv2.resize(sheet("A4", False, Look("text", 3)).picture, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), (2, 2, 1))
    small = cv2.resize(text, (round(210 * px_per_mm), round(297 * px_per_mm)), interpolation=cv2.INTER_AREA)
    picture = np.full((SIZE.height, SIZE.width, 3), (58, 70, 84), np.uint8)
    top, left = (SIZE.height - small.shape[0]) // 2, (SIZE.width - small.shape[1]) // 2
    picture[top : top + small.shape[0], left : left + small.shape[1]] = small
    return frame_from_bgr(picture)


ODD = [
    [one_colour(0, 0, 0)],
    [one_colour(255, 255, 255)],
    [one_colour(16, 128, 128)],
    [noise(seed) for seed in range(4)],
    [black_beside_colour()],
]


@pytest.fixture
def camera(request: pytest.FixtureRequest, player: Player, playing_page: Page) -> Page:
    """A browser whose camera plays these frames."""
    player.shows(request.param)
    playing_page.add_init_script(STATES)
    return playing_page


@pytest.mark.parametrize("camera", [[far_page(1.2), noise(1)]], indirect=True, ids=["a page"])
def test_a_camera_that_was_just_added_starts_and_is_never_asleep(camera: Page) -> None:
    camera.add_init_script(PAUSES)
    add_camera(camera)
    camera.wait_for_timeout(2500)  # the pause is over

    def words() -> list[str]:
        camera.wait_for_timeout(100)
        return [state["word"] for state in camera.evaluate("states")]

    eventually(lambda: words()[-1] == "Live")
    assert not {"Asleep", "Lost"} & set(words()), words()


@pytest.mark.parametrize("camera", ODD, indirect=True, ids=["black", "white", "dark grey", "noise", "black beside colour"])
def test_no_value_of_a_picture_divides_by_nothing(camera: Page, app: Application) -> None:
    camera.goto("/kit")
    camera.get_by_role("button", name="Add a camera on this computer").click()
    camera.get_by_role("dialog").get_by_role("button", name="Use this one").click()
    eventually(lambda: any(device["kind"] == "camera" for device in app.get("/api/kit")["devices"]))
    camera.goto(f"/square-up/{camera_id(app)}")
    expect(shown(camera, "The straightened page")).to_be_visible()
    camera.get_by_label("Even light on").click()
    with camera.expect_response("**/find"):
        camera.keyboard.press("q")
    camera.wait_for_timeout(1000)  # several looks of the watcher
    live = app.get("/api/live")
    assert not live["outgoing"]["trouble"]
    assert not [feed["sentence"] for feed in live["feeds"] if "could not" in (feed["sentence"] or "")]
    expect(shown(camera, "The straightened page")).to_be_visible()


def squared(camera: Page, app: Application) -> str:
    """The camera added and its page found; where its screen is."""
    add_camera(camera)
    square_up = f"/square-up/{camera_id(app)}"
    camera.goto(square_up)
    expect(camera.locator("canvas[aria-label^='The raw picture'][data-shown=true]")).to_be_visible()
    camera.get_by_role("button", name="Square it up").click()
    eventually(lambda: app.get(f"/api{square_up}")["chain"]["square"]["on"])
    return square_up


@pytest.mark.parametrize("camera", [[far_page(1.2)]], indirect=True, ids=["1.2 px/mm"])
def test_print_too_small_to_tell_is_said_as_that_with_what_helps(camera: Page, app: Application) -> None:
    squared(camera, app)
    path = camera.get_by_label("The light path")
    expect(path.get_by_text("its print is too small to tell. Zoom the camera in, bring it closer")).to_be_visible()
    expect(path.get_by_text("too little print")).to_have_count(0)


PRESSES = {"closer": "Zoom in", "band": "Show a band", "sharp": "Send more detail"}


@pytest.mark.parametrize("camera", [[far_page(1.55)]], indirect=True, ids=["1.55 px/mm"])
def test_what_an_advice_promises_comes_true(camera: Page, app: Application) -> None:
    """Each that is shown, taken by its press: print and words within a tenth. Beside a face: a closer look gets more room."""
    square_up = squared(camera, app)
    add_face(app)
    app.ask("PUT", "/api/teach/plate", {"plate_id": "side-by-side"})
    small = camera.get_by_role("region", name="Small print")
    taken: list[str] = []
    for number in range(2):
        if taken:
            app.ask("PUT", f"/api{square_up}/frame", {"framing": "whole"})
        expect(small.get_by_role("listitem").first).to_be_visible()
        advice = settled(lambda: app.get(f"/api{square_up}")["advice"][:2], still_s=2.0)
        if number < len(advice) and advice[number]["way"] in PRESSES:
            small.get_by_role("button", name=PRESSES[advice[number]["way"]]).click()
            check_outcome(app, advice[number])
            taken.append(advice[number]["way"])
    assert taken


def check_outcome(app: Application, advice: dict[str, Any]) -> None:
    def came_true() -> bool:
        found = [one for one in app.get("/api/live")["audiences"] if not one["is_teacher"]]
        worst, words = max(one["smallest_print_pt"] for one in found), {one["words"] for one in found}
        return abs(worst / advice["worst_pt"] - 1) < 0.1 and all(abs(each / advice["words"] - 1) < 0.1 for each in words)

    eventually(came_true)
