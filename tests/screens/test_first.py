"""Started for real with an empty folder: from nothing to page and face going out, by what a teacher would press."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, Playwright, expect

from tests.helpers import Application, eventually
from tests.screens.conftest import ONE_PROCESS, SHELL, Contexts, in_shared_context
from tests.screens.player import FAKE_CAMERA
from tests.screens.test_job import shown

START = "serve"


@pytest.fixture(scope="module")
def four_cameras(playwright: Playwright) -> Iterator[Browser]:
    flags = [FAKE_CAMERA[0], FAKE_CAMERA[1] + "=device-count=4", *ONE_PROCESS]
    launched = playwright.chromium.launch(executable_path=SHELL, headless=True, args=flags)
    yield launched
    launched.close()


@pytest.fixture
def cameras(four_cameras: Browser, contexts: Contexts, app: Application, troubles: list[str]) -> Iterator[Page]:
    """A computer with four cameras, which the browser allows; its second and third send what this browser cannot encode."""
    yield from in_shared_context(four_cameras, contexts, app, troubles, "camera")


def choose(page: Page, camera: str, role: str, name: str, rig: str) -> None:
    dialog = page.get_by_role("dialog")
    expect(dialog.locator("video").first).to_be_visible()
    expect(dialog.get_by_label("How it is held").get_by_role("option")).not_to_have_count(0)
    dialog.get_by_label("How it is held").select_option(label=rig)
    dialog.locator(".serves").get_by_text(role, exact=True).click()
    free = dialog.get_by_role("listitem").filter(has_text=camera)
    free.get_by_label("Your name for it").fill(name)
    free.get_by_role("button", name="Use this one").click()
    expect(page.get_by_role("article", name=name).get_by_text("Live", exact=True)).to_be_visible()


def test_from_an_empty_folder_to_page_and_face_going_out(cameras: Page, app: Application) -> None:
    page = cameras
    page.goto("/")
    page.get_by_role("button", name="Choose my cameras").click()
    page.get_by_role("button", name="Choose a camera", exact=True).click()
    choose(page, "fake_device_0", "Page", "Over my desk", "Overhead arm, from your side")
    page.get_by_role("button", name="Add a camera on this computer").click()
    choose(page, "fake_device_3", "Face", "My face", "Pointing at your face")
    page.get_by_role("link", name="Teach").click()
    expect(shown(page, "The outgoing picture")).to_be_visible()
    page.keyboard.press("g")
    eventually(lambda: app.get("/api/live")["going_out"])
    expect(shown(page, "What Laptop, pinned gets")).to_be_visible()
    live = app.get("/api/live")
    assert live["outgoing"]["plate_id"] == "page-and-face"
    eventually(lambda: [feed["state"] for feed in app.get("/api/live")["feeds"]] == ["live", "live"])
    assert app.get("/api/kit")["kit"]["name"] == "My kit"
    assert [lesson["title"] for lesson in app.get("/api/lessons")["lessons"]] == ["My lesson"]


def test_it_is_all_there_again_after_a_power_cut(playwright: Playwright, tmp_path: Path) -> None:
    application = Application(tmp_path, command="serve").start()
    try:
        application.ask("POST", "/api/lessons", {"title": "Scales", "class_name": "7D", "starts": "09:00"})
        camera = {"kind": "camera", "source": "abc", "label": "Cam", "name": "Desk", "rig": "arm-own-side", "serves": "page"}
        application.ask("POST", "/api/kit/devices", camera)
        before = application.get("/api/teach"), application.get("/api/kit")["devices"]
        application.kill()
        application.start()
        assert (application.get("/api/teach"), application.get("/api/kit")["devices"]) == before
    finally:
        application.stop()


def test_a_lesson_is_the_first_thing_renamed_deleted_and_brought_back(page: Page, app: Application) -> None:
    page.goto("/")
    page.get_by_role("button", name="Add a lesson").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("button", name="Add it")).to_be_disabled()
    dialog.get_by_label("What it is about").fill("Scales")
    dialog.get_by_label("Class").fill("7D")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Change: Scales 7D").click()
    page.get_by_role("dialog").get_by_label("What it is about").fill("Map scales")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Teach this lesson: Map scales 7D")).to_be_visible()
    page.get_by_role("button", name="Delete: Map scales 7D").click()
    expect(page.get_by_role("button", name="Show my page")).to_be_visible()
    page.get_by_role("status").get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Teach this lesson: Map scales 7D")).to_be_visible()


def test_the_last_kit_can_be_deleted_and_the_next_camera_makes_a_new_one(page: Page, app: Application) -> None:
    camera = {"kind": "camera", "source": "abc", "label": "Cam", "name": "Desk", "rig": "arm-own-side"}
    app.ask("POST", "/api/kit/devices", camera)
    page.goto("/kit")
    page.get_by_role("button", name="Delete", exact=True).click()
    expect(page.get_by_text("This lesson then has no cameras.")).to_be_visible()
    page.get_by_role("button", name="Delete it").click()
    expect(page.get_by_text("Nothing is here yet")).to_be_visible()
    assert app.get("/api/kits")["kits"] == []
    app.ask("POST", "/api/kit/devices", camera)
    expect(page.get_by_role("article", name="Desk")).to_be_visible()


def test_square_up_without_its_camera_says_so_and_offers_another(page: Page, app: Application) -> None:
    page.goto("/square-up/gone-for-good")
    expect(page.get_by_text("This camera is not in this kit any more.")).to_be_visible()
    asked: list[int] = []
    page.on("response", lambda response: asked.append(response.status) if response.status >= 400 else None)
    page.wait_for_timeout(1500)
    assert asked == []
    page.get_by_role("button", name="Choose a camera").click()
    expect(page.get_by_text("Nothing is here yet")).to_be_visible()


def test_an_outgoing_window_asks_for_its_picture_and_nothing_else(page: Page, app: Application) -> None:
    sockets: list[str] = []
    page.on("websocket", lambda socket: sockets.append(socket.url))
    page.goto("/outgoing")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    page.wait_for_timeout(500)
    assert len(sockets) == 1
    assert "/api/surfaces/outgoing" in sockets[0]


COUNTED = """
window.presses = Number(sessionStorage.presses || 0)
const count = (event) => event.isTrusted && (sessionStorage.presses = ++window.presses)
addEventListener('pointerdown', count, true)
addEventListener('keydown', count, true)
addEventListener('change', (event) => event.target.tagName === 'SELECT' && count(event), true)
"""


def presses(page: Page) -> int:
    """How often a mouse or a key was pressed, or an entry chosen in a list, since the page was opened."""
    return int(page.evaluate("window.presses"))


def go_out(page: Page, app: Application) -> None:
    page.get_by_role("link", name="Teach").click()
    expect(shown(page, "The outgoing picture")).to_be_visible()
    page.keyboard.press("g")
    eventually(lambda: app.get("/api/live")["going_out"])


def test_presses_with_two_cameras(cameras: Page, app: Application) -> None:
    """docs/measured.md tells this count."""
    page = cameras
    page.add_init_script(COUNTED)
    page.goto("/")
    page.get_by_role("button", name="Choose my cameras").click()
    page.get_by_role("button", name="Choose a camera", exact=True).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("listitem").filter(has_text="fake_device_0").get_by_role("button", name="Use this one").click()
    expect(dialog).to_have_count(0)
    page.get_by_role("button", name="Add a camera on this computer").click()
    dialog.get_by_label("How it is held").select_option(label="Pointing at your face")
    dialog.get_by_role("listitem").filter(has_text="fake_device_3").get_by_role("button", name="Use this one").click()
    expect(dialog).to_have_count(0)
    go_out(page, app)
    roles = sorted(str(device["serves"]) for device in app.get("/api/kit")["devices"])
    assert roles == ["face", "page"]
    assert presses(page) <= 8


def test_presses_with_a_pdf_as_the_page(page: Page, app: Application, tmp_path: Path) -> None:
    file = tmp_path / "sheet.pdf"
    FPDF = pytest.importorskip("fpdf").FPDF
    document = FPDF()
    document.add_page()
    document.output(str(file))
    page.add_init_script(COUNTED)
    page.goto("/kit")
    page.get_by_role("button", name="Add something else").click()
    page.get_by_role("menuitem", name="Pages, slides or a clip").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose the file").click()
    chooser.value.set_files(file)
    expect(page.get_by_role("dialog")).to_have_count(0)
    go_out(page, app)
    assert [device["serves"] for device in app.get("/api/kit")["devices"]] == ["page"]
    assert presses(page) <= 5
