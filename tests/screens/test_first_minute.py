"""From an empty start to page and face going out, and a known room by one press: presses and seconds counted."""

import time
from collections.abc import Iterator

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from tests.helpers import Application, eventually
from tests.screens.conftest import watched
from tests.screens.player import Player
from tests.screens.test_first import COUNTED, presses
from tests.screens.two_cameras import drawn_page, page_film, with_face_beside

START = "serve"
PRESSES, SECONDS = 5, 20.0
KNOWN_PRESSES = 1


@pytest.fixture
def context(player: Player, app: Application, request: pytest.FixtureRequest) -> Iterator[BrowserContext]:
    """A browser with a camera over a page and another at a face."""
    player.shows(page_film(drawn_page(*getattr(request, "param", (2, True)))))
    opened = with_face_beside(player.browser, app.address)
    yield opened
    opened.close()


def show_my_page(page: Page, app: Application) -> float:
    """What a teacher presses with nothing kept; how long it took to page and face going out."""
    page.add_init_script(COUNTED)
    page.goto("/")
    expect(page.get_by_role("button", name="Show my page")).to_be_visible()
    begun = time.monotonic()
    page.get_by_role("button", name="Show my page").click()
    expect(page.get_by_text("One shows a page, one shows you.")).to_be_visible()
    page.get_by_role("button", name="Yes, use these").click()
    with page.expect_popup():
        page.get_by_role("button", name="Go out").click()
    eventually(lambda: app.get("/api/live")["going_out"])
    return time.monotonic() - begun


def chain_of_page(app: Application) -> dict:  # type: ignore[type-arg]
    device = next(one for one in app.get("/api/kit")["devices"] if one["serves"] == "page")
    return dict(app.get(f"/api/square-up/{device['id']}"))


@pytest.mark.parametrize(
    "context", [(0, False), (2, True), (1, False)], indirect=True, ids=["upright", "mirrored and half turned", "sideways"]
)
def test_three_presses_from_nothing_to_page_and_face(context: BrowserContext, app: Application, troubles: list[str]) -> None:
    page = watched(context, troubles)
    show_my_page(page, app)
    assert presses(page) <= PRESSES
    eventually(lambda: [feed["state"] for feed in app.get("/api/live")["feeds"]] == ["live", "live"])
    assert app.get("/api/live")["outgoing"]["plate_id"] == "page-and-face"
    eventually(lambda: chain_of_page(app)["agreement"]["kind"] == "agrees")
    assert chain_of_page(app)["chain"]["square"]["on"]
    expect(page.get_by_role("status", name="What to do")).to_contain_text("Straight, the right way round")
    expect(page.get_by_text("In your call press")).to_be_visible()
    assert not troubles


def test_nothing_is_chosen_silently_and_the_teacher_may_choose_otherwise(
    context: BrowserContext, app: Application, troubles: list[str]
) -> None:
    page = watched(context, troubles)
    page.goto("/first")
    film, face = page.get_by_role("listitem", name="Document camera"), page.get_by_role("listitem", name="Built-in camera")
    expect(film.get_by_text("Page? 99% sure")).to_be_visible()
    expect(face.get_by_text("Face? ")).to_be_visible()
    assert app.get("/api/kit")["devices"] == []  # a proposal changes nothing
    face.get_by_role("button", name="Built-in camera shows the page").click()
    expect(film.get_by_text("Page?")).to_be_hidden()
    film.get_by_role("button", name="Document camera shows the face").click()
    page.get_by_role("button", name="Use these").click()
    eventually(lambda: len(app.get("/api/kit")["devices"]) == 2)
    serves = {device["label"]: device["serves"] for device in app.get("/api/kit")["devices"]}
    assert serves == {"Document camera": "face", "Built-in camera": "page"}
    page.goto("/")  # ends the search for a page where there is none
    assert not troubles


def test_a_known_room_goes_out_by_one_press(context: BrowserContext, app: Application, troubles: list[str]) -> None:
    first = watched(context, troubles)
    show_my_page(first, app)
    context.pages[-1].close()
    first.close()
    app.kill()
    begun = time.monotonic()
    app.start()
    page = watched(context, troubles)
    page.add_init_script(COUNTED)
    page.goto("/")
    teach = page.get_by_role("button", name="Teach this lesson: My lesson My class")
    expect(teach).to_be_visible()
    before = presses(page)
    with page.expect_popup():
        teach.click()
    eventually(lambda: app.get("/api/live")["going_out"])
    eventually(lambda: [feed["state"] for feed in app.get("/api/live")["feeds"]] == ["live", "live"])
    assert presses(page) - before <= KNOWN_PRESSES
    assert time.monotonic() - begun < 60
    assert chain_of_page(app)["chain"]["square"]["on"]
    assert not troubles


def test_a_camera_that_is_refused_has_its_sentence_and_a_way_on(page: Page) -> None:
    page.add_init_script("navigator.mediaDevices.getUserMedia = async () => { throw new DOMException('', 'NotAllowedError') }")
    page.goto("/first")
    expect(page.get_by_role("alert").get_by_text("Camera blocked.")).to_be_visible()
    expect(page.get_by_role("button", name="Show its code")).to_be_visible()
    page.get_by_role("button", name="Add a file, a window or a stream").click()
    expect(page.get_by_text("Nothing is here yet")).to_be_visible()
