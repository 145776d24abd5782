"""Square up in the browser: the card end to end, the light path and its mends, small print and what helps, keys alone."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.helpers import Application, eventually
from tests.screens.test_job import chain_of, shown, square_up

CLIP = "clip-camera"


@pytest.fixture
def sheet_again(app: Application):  # type: ignore[no-untyped-def]
    """Whatever a test lays under the cameras is taken away after it."""
    yield
    for device in ("desk-camera", CLIP):
        app.ask("PUT", f"/api/kit/devices/{device}/lies", {"thing": "sheet"})
    app.ask("PUT", f"/api/square-up/{CLIP}/board", {"fed_by": "call"})


@pytest.mark.usefixtures("sheet_again")
def test_the_card_end_to_end_under_the_clip_mirror(page: Page, app: Application) -> None:
    app.ask("PUT", f"/api/square-up/{CLIP}/chain", {"chain": {}})
    page.goto(f"/square-up/{CLIP}")
    expect(shown(page, "The straightened page")).to_be_visible()
    with page.expect_response("**/lies"):
        page.get_by_label("Under the simulated camera").select_option("card")
    page.wait_for_timeout(700)  # a few pictures of it
    page.get_by_role("button", name=re.compile("Use the set-up card")).click()
    told = page.get_by_role("status").filter(has_text="Set-up card read. Take it away.")
    expect(told).not_to_contain_text("px/mm")
    told.get_by_role("button", name="Figures").click()
    expect(told).to_contain_text(re.compile(r"A4, mirrored, \d+° off straight above, [\d.]+ px/mm"))
    chain = chain_of(app, CLIP)
    assert chain["mirror"]["left_right"] is True
    assert chain["square"]["paper"] == "A4"
    page.get_by_label("Under the simulated camera").select_option("sheet")
    expect(page.get_by_label("The light path").get_by_text("Reads true").first).to_be_visible()
    expect(page.get_by_text("Right way round", exact=True)).to_be_visible()


@pytest.mark.usefixtures("sheet_again")
def test_what_the_server_refuses_is_said_in_a_sentence(page: Page, app: Application) -> None:
    page.goto(f"/square-up/{CLIP}")
    expect(shown(page, "The raw picture with four corners")).to_be_visible()
    page.get_by_label("Under the simulated camera").select_option("nothing")
    refused = page.get_by_role("alert").get_by_text("No page was found")

    def pressed() -> bool:  # until the page is away in what the camera gives
        page.keyboard.press("q")
        page.wait_for_timeout(200)
        return refused.is_visible()

    eventually(pressed)
    page.get_by_role("button", name="Close").click()
    expect(page.get_by_role("alert")).to_be_hidden()


@pytest.mark.usefixtures("sheet_again")
def test_without_the_card_the_sentence_says_what_to_do(page: Page, app: Application) -> None:
    square_up(page)
    before = chain_of(app)
    page.get_by_role("button", name=re.compile("Use the set-up card")).click()
    expect(page.get_by_text(re.compile("none of its eight marks is seen"))).to_be_visible()
    assert chain_of(app) == before


def test_the_page_contradicts_a_wrong_count_and_one_press_mends_it(page: Page, app: Application) -> None:
    chain = chain_of(app, CLIP)
    app.ask("PATCH", f"/api/kit/devices/{CLIP}", {"rig": "arm-far-side"})  # the mirror is forgotten
    app.ask("PUT", f"/api/square-up/{CLIP}/chain", {"chain": {**chain, "mirror": {"left_right": False}}})
    page.goto(f"/square-up/{CLIP}")
    paths = page.get_by_label("The light path")
    expect(paths.get_by_text(re.compile("The print is reversed"))).to_be_visible()
    expect(paths.get_by_text("Reads reversed").first).to_be_visible()
    page.get_by_role("button", name="Flip it").first.click()
    eventually(lambda: chain_of(app, CLIP)["mirror"]["left_right"] is True)
    expect(paths.get_by_text(re.compile("The print reads true.*Check which rig"))).to_be_visible()
    expect(paths.get_by_text("Reads true").first).to_be_visible()
    expect(page.get_by_role("button", name="Flip it")).to_have_count(0)  # a second flip would be wrong
    app.ask("PATCH", f"/api/kit/devices/{CLIP}", {"rig": "clip-mirror"})
    app.ask("PUT", f"/api/square-up/{CLIP}/chain", {"chain": {**chain, "mirror": {"left_right": True}}})
    expect(paths.get_by_text("Right way round", exact=True)).to_be_visible()


@pytest.mark.usefixtures("sheet_again")
def test_the_board_is_mended_for_itself_alone(page: Page, app: Application) -> None:
    square_up(page)
    before = chain_of(app)
    expect(page.get_by_text(re.compile("^Board in the room"))).to_have_count(0)
    page.get_by_role("button", name="I have a board in the room").click()
    with page.expect_popup():
        page.get_by_role("button", name="Open it for the board").click()
    expect(page.get_by_text("Board in the room, by the outgoing window")).to_be_visible()
    assert chain_of(app) == before
    page.get_by_role("button", name="Board shows my screen").click()
    expect(page.get_by_text("Board in the room, from your screen")).to_be_visible()
    page.get_by_role("button", name="No board in the room").click()
    expect(page.get_by_text(re.compile("^Board in the room"))).to_have_count(0)


def test_small_print_is_measured_and_a_press_helps(page: Page, app: Application) -> None:
    app.ask("PUT", "/api/square-up/desk-camera/frame", {"framing": "whole"})
    square_up(page)
    small = page.get_by_role("region", name="Small print")
    expect(small.get_by_text(re.compile("larger")).first).to_be_visible()
    assert app.get("/api/square-up/desk-camera")["advice"]

    def smallest() -> list[int]:
        return [one["smallest_print_pt"] for one in app.get("/api/live")["audiences"] if not one["is_teacher"]]

    at_first = smallest()
    small.get_by_role("button", name=re.compile("Zoom in|Show a band")).first.click()
    eventually(lambda: chain_of(app)["frame"]["zoom"] > 1.2)
    eventually(lambda: max(smallest()) < max(at_first))


def test_by_keys_alone(page: Page, app: Application) -> None:
    square_up(page)
    page.keyboard.press("0")
    eventually(lambda: chain_of(app)["frame"]["zoom"] == 1)
    expect(page.get_by_text(re.compile("smallest; most is"))).to_be_visible()  # a band goes by the lines that were read
    app.ask("PUT", "/api/square-up/desk-camera/frame", {"framing": "band"})
    top = chain_of(app)["frame"]["y"]
    page.keyboard.press("]")
    eventually(lambda: chain_of(app)["frame"]["y"] > top)
    page.keyboard.press("[")
    eventually(lambda: abs(chain_of(app)["frame"]["y"] - top) < 0.06)  # read again in between, lines and so steps differ a little
    page.keyboard.press("l")
    eventually(lambda: chain_of(app)["square"]["on"] is False)
    page.keyboard.press("z")
    eventually(lambda: chain_of(app)["square"]["on"] is True)
    page.keyboard.press("y")
    eventually(lambda: chain_of(app)["square"]["on"] is False)
    page.keyboard.press("q")
    eventually(lambda: chain_of(app)["square"]["on"] is True)


def test_even_light_shows_and_follow_says_its_state(page: Page, app: Application) -> None:
    square_up(page)
    page.wait_for_timeout(1500)
    before = app.pictures("page:desk-camera", 3)[-1]
    page.get_by_label("Even light on").click()
    page.get_by_label("Follow the page").click()
    eventually(lambda: chain_of(app)["light"]["on"] and chain_of(app)["square"]["follow"])
    expect(page.get_by_role("region", name="Square", exact=True)).to_contain_text(re.compile("Following|Waiting"))
    eventually(lambda: app.pictures("page:desk-camera", 2)[-1].mean() > before.mean() + 8)


def test_a_corner_by_hand_ends_following(page: Page, app: Application) -> None:
    app.ask("PUT", "/api/square-up/desk-camera/chain", {"chain": {**chain_of(app), "square": {**chain_of(app)["square"], "follow": True}}})
    square_up(page)
    page.get_by_role("button", name=re.compile("Lower right corner")).focus()
    page.keyboard.press("ArrowLeft")
    eventually(lambda: chain_of(app)["square"]["follow"] is False)
