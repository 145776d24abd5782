"""Kit, started with nothing kept: devices of every kind put in by hand, what each says."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Locator, Page, Playwright, expect

from tests import samples
from tests.helpers import Application, eventually
from tests.screens.conftest import ONE_PROCESS, SHELL, Contexts, in_shared_context, watched
from tests.screens.player import FAKE_CAMERA
from tests.streams import NetworkCamera

START = "serve"


def something_else(page: Page, what: str) -> Locator:
    page.goto("/kit")
    page.get_by_role("button", name="Add something else").click()
    page.get_by_role("menuitem", name=what).click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_be_visible()
    return dialog


def device(app: Application, kind: str) -> dict[str, Any]:
    return next(one for one in app.get("/api/kit")["devices"] if one["kind"] == kind)


def test_slides_are_put_in_and_turned(page: Page, app: Application, tmp_path: Path) -> None:
    dialog = something_else(page, "Pages, slides or a clip")
    dialog.get_by_text("Slides", exact=True).click()
    dialog.get_by_label("File", exact=True).set_input_files(samples.picture_pdf(tmp_path / "Contours.pdf", (40, 200)))
    card = page.get_by_role("article", name="Contours")
    expect(card.get_by_text("Live", exact=True)).to_be_visible()
    expect(card.get_by_text("1 of 2")).to_be_visible()
    card.get_by_role("button", name="Next page").click()
    expect(card.get_by_text("2 of 2")).to_be_visible()
    expect(card.get_by_role("button", name="Next page")).to_be_disabled()
    eventually(lambda: app.picture(f"raw:{device(app, 'slides')['id']}", 320).mean() > 180)


def test_slides_on_the_plate_are_turned_by_key_while_teaching(page: Page, app: Application, tmp_path: Path) -> None:
    dialog = something_else(page, "Pages, slides or a clip")
    dialog.get_by_text("Slides", exact=True).click()
    dialog.locator(".serves").get_by_text("Page", exact=True).click()
    dialog.get_by_label("File", exact=True).set_input_files(samples.picture_pdf(tmp_path / "Legend.pdf", (40, 200)))
    expect(page.get_by_role("article", name="Legend").get_by_text("Live", exact=True)).to_be_visible()
    page.goto("/teach")
    expect(page.get_by_text("1 of 2")).to_be_visible()
    page.keyboard.press("PageDown")
    expect(page.get_by_text("2 of 2")).to_be_visible()
    page.keyboard.press("2")
    eventually(lambda: abs(float(app.picture("outgoing", 640)[180, 320].mean()) - 200) < 12)
    page.keyboard.press("PageUp")
    eventually(lambda: abs(float(app.picture("outgoing", 640)[180, 320].mean()) - 40) < 12)
    assert page.evaluate("document.body.scrollHeight <= innerHeight")


def test_several_pages_become_one_device_in_the_order_they_were_chosen(page: Page, app: Application, tmp_path: Path) -> None:
    dialog = something_else(page, "Pages, slides or a clip")
    files = [samples.picture_pdf(tmp_path / f"{n}.pdf", (grey,)) for n, grey in enumerate((40, 120, 200))]
    dialog.get_by_label("File", exact=True).set_input_files(files)
    card = page.get_by_role("article", name="0")
    expect(card.get_by_text("1 of 3")).to_be_visible()
    card.get_by_role("button", name="Add pages").click()
    page.get_by_role("dialog").get_by_label("File", exact=True).set_input_files(samples.pdf(tmp_path / "last.pdf", 2))
    expect(card.get_by_text("1 of 5")).to_be_visible()


def test_a_wrong_file_is_told_where_it_was_chosen_and_right_ones_are_taken(page: Page, app: Application, tmp_path: Path) -> None:
    notes = tmp_path / "notes.pdf"
    notes.write_text("Dear colleagues,")
    dialog = something_else(page, "Pages, slides or a clip")
    dialog.get_by_label("File", exact=True).set_input_files([notes, samples.picture_pdf(tmp_path / "sheet.pdf", (99,))])
    expect(dialog.get_by_role("alert")).to_contain_text("“notes.pdf” isn't really a PDF")
    dialog.get_by_role("button", name="Close").click()
    expect(page.get_by_role("article", name="sheet")).to_be_visible()


def test_a_clip_plays_and_sounds(page: Page, app: Application, tmp_path: Path) -> None:
    dialog = something_else(page, "Pages, slides or a clip")
    dialog.get_by_text("Clip", exact=True).click()
    dialog.get_by_label("File", exact=True).set_input_files(samples.clip(tmp_path / "walk.webm"))
    card = page.get_by_role("article", name="walk")
    card.get_by_role("switch", name="Loop").click()
    card.get_by_role("switch", name="Sound").click()
    card.get_by_role("button", name="Play", exact=True).click()
    expect(card.get_by_role("button", name="Pause")).to_be_visible()
    expect(card.get_by_text("0:01 / 0:02")).to_be_visible()
    card.get_by_role("button", name="Pause").click()
    expect(card.get_by_role("button", name="Play", exact=True)).to_be_visible()
    expect(card.get_by_role("switch", name="Sound")).to_be_checked()
    expect(card.get_by_role("switch", name="Loop")).to_be_checked()


def test_a_network_camera_is_put_in_by_its_address(page: Page, app: Application) -> None:
    camera = NetworkCamera().start()
    try:
        dialog = something_else(page, "A network stream")
        address = dialog.get_by_label("Its address")
        address.fill("camera")
        dialog.get_by_role("button", name="Use this stream").click()
        expect(dialog.get_by_role("alert")).to_contain_text("This is no stream address")
        address.fill(camera.address)
        dialog.get_by_label("Your name for it").fill("Corner camera")
        dialog.get_by_text("Neither").click()
        dialog.get_by_role("button", name="Use this stream").click()
        card = page.get_by_role("article", name="Corner camera")
        expect(card.get_by_text("Live", exact=True)).to_be_visible()
        expect(card.get_by_text("over the network")).to_be_visible()
        camera.stop()
        expect(card.get_by_text("Lost", exact=True)).to_be_visible()
        camera.start()
        expect(card.get_by_text("Live", exact=True)).to_be_visible()
    finally:
        camera.stop()


@pytest.fixture(scope="module")
def sharing_browser(playwright: Playwright) -> Iterator[Browser]:
    """A browser that answers its own question which tab to show."""
    flags = [*FAKE_CAMERA, "--auto-select-tab-capture-source-by-title=A map", "--auto-select-desktop-capture-source=A map"]
    launched = playwright.chromium.launch(executable_path=SHELL, headless=True, args=flags)
    yield launched
    launched.close()


def test_a_tab_is_shown_and_after_a_reload_chosen_again(sharing_browser: Browser, app: Application, troubles: list[str]) -> None:
    context = sharing_browser.new_context(viewport={"width": 1280, "height": 800}, base_url=app.address)
    shown = context.new_page()
    shown.set_content("<title>A map</title><body style='background:#c00'><h1>Contours</h1><canvas></canvas>")
    page = watched(context, troubles)
    dialog = something_else(page, "A window or a browser tab")
    dialog.get_by_label("Your name for it").fill("Map tab")
    dialog.get_by_role("button", name="Choose the window").click()
    card = page.get_by_role("article", name="Map tab")
    expect(card.get_by_text("Live", exact=True)).to_be_visible()
    expect(card.get_by_text("Browser tab, from this browser")).to_be_visible()
    eventually(lambda: app.picture(f"raw:{device(app, 'window')['id']}", 320)[90, 300].tolist()[2] > 150)  # red
    page.reload()
    expect(card.get_by_text("Choose this window again")).to_be_visible()
    card.get_by_role("button", name="Choose it again").click()
    expect(card.get_by_text("Live", exact=True)).to_be_visible()
    context.close()
    assert not troubles


def test_the_whole_screen_is_asked_for_twice(page: Page, app: Application) -> None:
    page.add_init_script(
        """const canvas = document.createElement('canvas'); canvas.getContext('2d').fillRect(0, 0, 9, 9); window.stopped = 0
        navigator.mediaDevices.getDisplayMedia = async () => {
          const stream = canvas.captureStream(5), track = stream.getVideoTracks()[0], stop = track.stop.bind(track)
          track.getSettings = () => ({ displaySurface: 'monitor', width: 300, height: 150 })
          track.stop = () => { window.stopped++; stop() }
          return stream
        }"""
    )
    dialog = something_else(page, "A window or a browser tab")
    dialog.get_by_role("button", name="Choose the window").click()
    expect(dialog.get_by_text("Really the whole screen?")).to_be_visible()
    assert page.evaluate("stopped") == 1  # what was chosen by mistake is not held
    assert not [one for one in app.get("/api/kit")["devices"] if one["kind"] == "window"]
    dialog.get_by_role("button", name="Yes, show the whole screen").click()
    expect(page.get_by_role("article", name="Whole screen")).to_be_visible()


@pytest.fixture(scope="module")
def fake_browser(playwright: Playwright) -> Iterator[Browser]:
    launched = playwright.chromium.launch(executable_path=SHELL, headless=True, args=[*FAKE_CAMERA, *ONE_PROCESS])
    yield launched
    launched.close()


@pytest.fixture
def fake_page(fake_browser: Browser, contexts: Contexts, app: Application, troubles: list[str]) -> Iterator[Page]:
    """A computer with one camera, which is allowed already."""
    yield from in_shared_context(fake_browser, contexts, app, troubles, "camera")


def test_cameras_that_are_new_here_are_offered(fake_page: Page) -> None:
    fake_page.goto("/kit")
    expect(fake_page.get_by_text("New here: fake_device_0")).to_be_visible()
    fake_page.get_by_role("button", name="Look at it").click()
    expect(fake_page.get_by_role("dialog").locator("video")).to_be_visible()


def test_a_camera_of_yesterday_that_is_not_here_is_named(fake_page: Page, app: Application) -> None:
    body = {"source": "gone", "label": "Visualiser", "name": "Old visualiser", "rig": "gooseneck"}
    app.ask("POST", "/api/kit/devices", body)
    fake_page.goto("/kit")
    expect(fake_page.get_by_text("Missing here: Old visualiser")).to_be_visible()
    card = fake_page.get_by_role("article", name="Old visualiser")
    expect(card.get_by_text("was unplugged or switched off")).to_be_visible()


def test_a_camera_in_another_port_is_known_again(fake_page: Page, app: Application) -> None:
    body = {"source": "yesterdays-id", "label": "fake_device_0", "name": "My visualiser", "rig": "gooseneck"}
    app.ask("POST", "/api/kit/devices", body)
    fake_page.goto("/kit")
    card = fake_page.get_by_role("article", name="My visualiser")
    expect(card.get_by_text("Live", exact=True)).to_be_visible()
    assert device(app, "camera")["source"] != "yesterdays-id"


def test_a_camera_of_this_computer_has_its_own_controls(fake_page: Page) -> None:
    fake_page.goto("/kit")
    fake_page.get_by_role("button", name="Add a camera on this computer").click()
    fake_page.get_by_role("dialog").get_by_role("button", name="Use this one").click()
    card = fake_page.get_by_role("article", name="My camera")
    expect(card.get_by_text("Live", exact=True)).to_be_visible()
    card.get_by_text("Picture and controls").click()
    focus = card.get_by_role("slider", name="Focus")
    focus.focus()
    focus.press("Home")
    eventually(lambda: focus.get_attribute("aria-valuenow") == "10")
