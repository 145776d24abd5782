"""Way in: what each way gives, how it is taken, who watches, and a practice call by any camera."""

import asyncio
import json
import threading
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from playwright.sync_api import Browser, Page, Playwright, expect

from cartouche.bench.whip_server import WhipServer
from cartouche.web.guests.door import networks_here
from tests.helpers import Application, eventually
from tests.screens.conftest import SHELL, watched
from tests.screens.player import FAKE_CAMERA

EXTENSION = "chrome-extension://" + "abcdefghijklmnop" * 2
WITHOUT = "This browser has no WebRTC, which this needs. Open the same address in another browser."
needs_network = pytest.mark.skipif(not networks_here(), reason="WebRTC needs an address besides loopback")


@pytest.fixture
def ways(page: Page, app: Application) -> Page:
    page.goto("/way-in")
    expect(page.get_by_role("status").first).to_contain_text("learners can read")
    return page


def way(page: Page, name: str):  # type: ignore[no-untyped-def]
    return page.get_by_role("button", name=name).first


def test_the_best_way_is_said_and_taken_by_one_press(ways: Page) -> None:
    first = ways.locator("button.way").first
    expect(first).to_contain_text("Best for this lesson")
    way(ways, "Shared as a tab").click()
    with ways.expect_popup() as opened:
        ways.get_by_role("button", name="Open the outgoing window").click()
    expect(opened.value.locator("canvas[data-shown=true]")).to_be_visible()
    expect(way(ways, "Shared as a tab")).to_contain_text("In use")
    opened.value.close()
    expect(way(ways, "Shared as a tab")).not_to_contain_text("In use")


def test_each_way_says_how_and_what_each_audience_gets(ways: Page) -> None:
    for name in ("As your webcam", "Straight to a server", "As a network camera", "Join twice"):
        way(ways, name).click()
        details = ways.get_by_role("region", name=name)
        expect(details.get_by_role("list", name="What each audience gets").get_by_role("listitem")).to_have_count(4)
        expect(details.get_by_text("Print from").first).to_be_visible()
    expect(ways.get_by_text("This computer has no loopback camera device.")).to_be_visible()


def test_audiences_are_added_changed_and_removed(ways: Page, app: Application) -> None:
    card = ways.get_by_role("region", name="Who watches")
    card.get_by_role("button", name="Add an audience").click()
    board = card.get_by_role("listitem", name="Board in the room")
    expect(board).to_be_visible()
    board.get_by_label("Distance of Board in the room").fill("400")
    board.get_by_label("Distance of Board in the room").press("Enter")
    eventually(lambda: app.get("/api/ways")["viewers"][-1]["distance_mm"] == 4000)
    card.get_by_label("How many: Laptop, pinned").fill("20")
    card.get_by_label("How many: Laptop, pinned").press("Enter")
    eventually(lambda: app.get("/api/ways")["viewers"][0]["count"] == 20)
    ways.goto("/teach")
    expect(ways.get_by_role("complementary").get_by_text("Board in the room")).to_be_visible()
    ways.goto("/way-in")
    ways.get_by_role("button", name="Remove Board in the room").click()
    eventually(lambda: len(app.get("/api/ways")["viewers"]) == 4)


def test_a_call_that_is_a_program_of_its_own_leaves_the_extension_out(ways: Page) -> None:
    ways.get_by_label("Kind of call").select_option(label="A call in a program of its own")
    expect(way(ways, "As your webcam")).to_contain_text("a browser’s extension does not reach it")
    ways.get_by_label("Kind of call").select_option(label="A usual call in the browser")
    expect(way(ways, "As your webcam")).to_contain_text("To be set up first")


def test_an_extension_that_asks_is_compared_and_paired(ways: Page, app: Application) -> None:
    request = urllib.request.Request(
        f"{app.address}/api/extension/pair", b"{}", {"Content-Type": "application/json", "Origin": EXTENSION}, method="POST"
    )
    with urllib.request.urlopen(request, timeout=10) as answer:
        code = json.loads(answer.read())["code"]
    way(ways, "As your webcam").click()
    asked = ways.get_by_role("alert").filter(has_text="An extension asks to be paired")
    expect(asked).to_contain_text(code)
    asked.get_by_role("button", name="Not the same").click()
    expect(asked).to_be_hidden()
    assert not app.get("/api/ways")["paired"]


@contextmanager
def whip_server() -> Iterator[WhipServer]:
    server, loop = WhipServer(), asyncio.new_event_loop()
    thread = threading.Thread(target=loop.run_forever, daemon=True)
    thread.start()
    asyncio.run_coroutine_threadsafe(server.start(), loop).result(10)
    try:
        yield server
    finally:
        asyncio.run_coroutine_threadsafe(server.stop(), loop).result(10)
        loop.call_soon_threadsafe(loop.stop)
        thread.join(5)
        loop.close()


@needs_network
def test_straight_to_a_server_and_stopped(ways: Page, app: Application) -> None:
    with whip_server() as server:
        way(ways, "Straight to a server").click()
        details = ways.get_by_role("region", name="Straight to a server")
        details.get_by_label("Address", exact=True).first.fill(server.address)
        details.get_by_label("Token").fill(server.token)
        details.get_by_role("button", name="Start sending").click()
        expect(details.get_by_text("The server takes it.")).to_be_visible()
        expect(way(ways, "Straight to a server")).to_contain_text("In use")
        eventually(lambda: any(arrived.pictures > 5 for _, arrived in server.sessions.values()))
        details.get_by_role("button", name="Stop sending").click()
        expect(details.get_by_role("button", name="Start sending")).to_be_visible()
        assert server.deleted
    assert not app.get("/api/ways")["takers"]


def test_an_unsafe_address_is_refused_in_a_sentence(ways: Page) -> None:
    way(ways, "Straight to a server").click()
    details = ways.get_by_role("region", name="Straight to a server")
    details.get_by_label("Address", exact=True).first.fill("http://calls.example.org/whip")
    details.get_by_role("button", name="Start sending").click()
    expect(ways.get_by_text("Type an address that begins with https://")).to_be_visible()


@needs_network
def test_a_board_watches_by_an_invitation(ways: Page, app: Application, browser: Browser, troubles: list[str]) -> None:
    ways.get_by_role("button", name="Invite a screen to watch").click()
    expect(ways.get_by_role("img", name="QR code of the address")).to_be_visible()
    link = app.get("/api/ways")["invitation"]["link"]
    context = browser.new_context(ignore_https_errors=True, viewport={"width": 1280, "height": 720})
    board = watched(context, troubles)
    board.goto(link)
    board.get_by_label("What this screen is called").fill("Board by the door")
    board.get_by_role("button", name="Watch").click()
    playing = "() => document.querySelector('video').getVideoPlaybackQuality().totalVideoFrames"
    eventually(lambda: board.evaluate(playing) > 10)
    assert board.evaluate("() => document.querySelector('video').videoWidth") == 1280
    assert board.evaluate("() => document.querySelector('video').muted")
    expect(ways.get_by_text("Board by the door")).to_be_visible()
    expect(ways.get_by_text("watches", exact=True)).to_be_visible()
    board.reload()  # it is known: no new code
    eventually(lambda: board.evaluate(playing) > 10)
    ways.get_by_role("button", name="End Board by the door").click()
    expect(board.get_by_text("This screen is not invited any more.")).to_be_visible()
    context.close()
    eventually(lambda: not app.get("/api/ways")["takers"])


def test_a_browser_without_webrtc_says_so_before_a_code_is_spent(
    ways: Page, app: Application, browser: Browser, troubles: list[str]
) -> None:
    link = app.ask("POST", "/api/ways/invitation", {})["link"]
    context = browser.new_context(ignore_https_errors=True, permissions=["camera"])
    context.add_init_script("delete window.RTCPeerConnection")
    board = watched(context, troubles)
    board.goto(link)
    expect(board.get_by_role("status")).to_have_text(WITHOUT)
    expect(board.get_by_role("button", name="Watch")).to_be_hidden()
    board.goto(f"{app.address}/call")
    board.get_by_role("button", name="Join").click()
    expect(board.get_by_role("alert")).to_have_text(WITHOUT)
    assert not board.evaluate("document.querySelector('video').srcObject"), "no camera is opened in vain"
    context.close()


@needs_network
def test_a_browser_that_takes_no_codec_of_ours_says_so(ways: Page, app: Application, browser: Browser, troubles: list[str]) -> None:
    link = app.ask("POST", "/api/ways/invitation", {})["link"]
    context = browser.new_context(ignore_https_errors=True)
    context.add_init_script(
        "const asked = window.fetch;"
        "window.fetch = (at, how) => asked(at, String(at).includes('whep') ? { ...how, body: how.body.replace(/H264|VP8/g, 'X') } : how)"
    )
    board = watched(context, troubles)
    board.goto(link)
    board.get_by_role("button", name="Watch").click()
    expect(board.get_by_role("status")).to_contain_text("takes neither H.264 nor VP8")
    context.close()


SECOND = "--screen-info={1280x800}{1920x1080 label=board}"


@pytest.fixture(scope="module")
def two_screens(playwright: Playwright) -> Iterator[Browser]:
    launched = playwright.chromium.launch(executable_path=SHELL, headless=True, args=[SECOND])
    yield launched
    launched.close()


@pytest.mark.parametrize(("screens", "allowed"), [(2, True), (1, True), (2, False)], ids=["two", "one", "not allowed"])
def test_the_board_on_a_second_screen(
    two_screens: Browser, browser: Browser, app: Application, troubles: list[str], screens: int, allowed: bool
) -> None:
    context = (two_screens if screens == 2 else browser).new_context(viewport={"width": 1280, "height": 800}, base_url=app.address)
    page = watched(context, troubles)
    if allowed:
        session = context.new_cdp_session(page)
        whose = session.send("Target.getTargetInfo")["targetInfo"]["browserContextId"]
        grant = {"permissions": ["windowManagement"], "origin": app.address, "browserContextId": whose}
        session.send("Browser.grantPermissions", grant)
    page.goto("/way-in")
    show = page.get_by_role("button", name="Show on the board")
    if screens == 2 and allowed:
        with page.expect_popup() as opened:
            show.click()
        expect(opened.value.locator("canvas[data-shown=true]")).to_be_visible()
        assert opened.value.title() == "Cartouche board"
        assert opened.value.evaluate("() => screenX") >= 1280
    else:
        show.click()
        why = "This computer has one screen only." if allowed else "The browser was not allowed to see the screens."
        expect(page.get_by_text(why)).to_be_visible()
    context.close()


def test_the_boards_window_is_silent_and_not_the_shared_one(page: Page, app: Application) -> None:
    page.goto("/outgoing?board")
    expect(page.locator("canvas[data-shown=true]")).to_be_visible()
    assert page.title() == "Cartouche board"
    page.keyboard.press("s")
    assert page.locator("main").get_attribute("data-sound") == "false"
    assert app.get("/api/live")["outgoing"]["windows"] == 0


def test_the_shared_window_plays_the_lessons_sound_when_asked(page: Page, app: Application) -> None:
    blocks: list[int] = []
    page.on(
        "websocket",
        lambda socket: socket.on("framereceived", lambda data: blocks.append(len(data))) if "outgoing/sound" in socket.url else None,
    )
    page.goto("/outgoing")
    expect(page.locator("canvas[data-shown=true]")).to_be_visible()
    page.wait_for_timeout(300)
    assert not blocks  # off until it is asked for: nobody hears it twice
    page.keyboard.press("s")
    expect(page.locator("main")).to_have_attribute("data-sound", "true")
    page.wait_for_timeout(1000)
    assert len(blocks) > 20
    assert set(blocks) == {2 * 960}
    page.keyboard.press("s")
    page.wait_for_timeout(300)
    count = len(blocks)
    page.wait_for_timeout(500)
    assert len(blocks) == count


@needs_network
def test_a_practice_call_with_any_camera(playwright: Playwright, app: Application, troubles: list[str]) -> None:
    browser = playwright.chromium.launch(executable_path=SHELL, headless=True, args=[*FAKE_CAMERA, "--allow-loopback-in-peer-connection"])
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=app.address, permissions=["camera", "microphone"])
    page = watched(context, troubles)
    for codec in ("VP8", "H264"):
        page.goto(f"/call?codec={codec}")
        page.get_by_role("button", name="Join").click()
        expect(page.get_by_role("status")).to_contain_text(codec)
        expect(page.get_by_role("status")).to_contain_text("pictures a second")
        page.get_by_text("grid", exact=True).click()
        expect(page.locator(".other")).to_have_count(8)
        page.get_by_role("button", name="Leave").click()
        expect(page.get_by_role("status")).not_to_contain_text("pictures a second")
    page.get_by_role("button", name="Second camera").click()
    expect(page.get_by_role("alert")).to_contain_text("There is no camera named Cartouche here.")
    browser.close()
