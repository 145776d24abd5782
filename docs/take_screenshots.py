"""Takes the pictures in screenshots/ from the demo lesson, at 1280x800."""

import io
import math
import re
import sys
import tempfile
import threading
import urllib.request
from dataclasses import replace
from pathlib import Path

import pypdfium2
from PIL import Image
from playwright.sync_api import Browser, Page, Playwright, sync_playwright

from cartouche.bench.camera import Pose
from cartouche.bench.devices import DOCUMENT_CAMERA, sheet_view
from cartouche.core.pictures import Size

ROOT = Path(__file__).resolve().parents[1]
SHOTS = ROOT / "docs/screenshots"
sys.path.insert(0, str(ROOT))

from tests.helpers import Application, eventually  # noqa: E402
from tests.screens.conftest import as_demo  # noqa: E402
from tests.screens.player import write_film  # noqa: E402
from tests.screens.extended import extended  # noqa: E402
from tests.screens.two_cameras import two_cameras  # noqa: E402

CHROMIUM = "/usr/bin/chromium"
VIEWS = {
    "home-empty": "/",
    "first-minute": "/first",
    "lessons": "/",
    "kit": "/kit",
    "phone": "/",
    "square-up-first": "/square-up",
    "square-up": "/square-up",
    "plates": "/plates",
    "sound": "/sound",
    "way-in": "/way-in",
    "ready": "/ready",
    "board": "/",
    "teach": "/teach",
    "teach-held": "/teach",
    "teach-ink": "/teach",
    "steps": "/teach",
    "at-hand": "/small",
    "after": "/after",
    "lesson-end": "/teach",
}


def main(*names: str) -> None:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        app = Application(Path(folder)).start()
        browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=True)
        phones = playwright.chromium.launch(executable_path=CHROMIUM, headless=True, args=phone_flags(Path(folder)))
        try:
            for name in names or VIEWS:
                as_demo(app)
                faults = {"ready": ("out of focus", None)}.get(name, (None, None))
                for device, fault in zip(("desk-camera", "clip-camera"), faults, strict=True):
                    app.ask("PUT", f"/api/kit/devices/{device}/fault", {"fault": fault})
                for device in ("desk-camera", "clip-camera"):
                    app.ask("PUT", f"/api/kit/devices/{device}/lies", {"thing": "sheet"})
                if name in ("teach", "teach-held", "teach-ink", "at-hand", "sound"):
                    app.ask("POST", "/api/teach/call/start")
                if name in ("teach", "lessons"):
                    app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
                if name == "phone":
                    take_phone(app, join(app, phones))
                width, height = {"at-hand": (400, 640)}.get(name, (1280, 800))
                page = browser.new_page(viewport={"width": width, "height": height})
                if name in ("home-empty", "first-minute"):
                    take_first(playwright, Path(folder), name)
                elif name == "board":
                    take_board(app, browser, playwright, Path(folder))
                elif name == "lesson-end":
                    take_end(page, app)
                elif name != "phone":
                    take(page, app, name)
                if name == "at-hand":
                    take_remote(app, browser)
                page.close()
        finally:
            browser.close()
            phones.close()
            app.stop()


def take_first(playwright: Playwright, folder: Path, name: str) -> None:
    """Started for real with nothing kept, on a computer with two cameras."""
    app = Application(folder / name, command="serve").start()
    view = sheet_view(replace(DOCUMENT_CAMERA, size=Size(1280, 720)))
    film = write_film(folder / "first.y4m", [view.picture(1.0 + number / 30, 0.0).copy() for number in range(6)])
    try:
        with two_cameras(playwright, app.address, film) as context:
            page = context.new_page()
            page.goto("/")
            page.get_by_role("button", name="Show my page").wait_for()
            if name == "first-minute":
                page.get_by_role("button", name="Show my page").click()
                page.get_by_text("One shows a page, one shows you").wait_for()
            page.wait_for_timeout(1000)
            page.screenshot(path=SHOTS / f"{name}.png")
    finally:
        app.stop()


def take_board(app: Application, browser: Browser, playwright: Playwright, folder: Path) -> None:
    """A call's page that takes Cartouche as its camera, and the board in the room."""
    with extended(playwright, folder / "call") as ext:
        ext.pair(app)
        call = ext.in_call(app, "codec=VP8&kbit=4000")
        call.set_viewport_size({"width": 1280, "height": 800})
        call.wait_for_timeout(8000)  # until its rate is steady
        in_call = shot(call)
    link = app.ask("POST", "/api/ways/invitation", {})["link"]
    page = browser.new_context(ignore_https_errors=True, viewport={"width": 1280, "height": 720}).new_page()
    page.goto(link)
    page.get_by_role("button", name="Watch").click()
    page.wait_for_timeout(6000)
    beside(SHOTS / "board.png", in_call, shot(page))
    page.context.close()


def take_remote(app: Application, browser: Browser) -> None:
    """A phone that presses the lesson's keys, while the teacher looks at the lesson."""
    looking = threading.Thread(target=app.pictures, args=("outgoing", 200, 320, 30))
    looking.start()
    link = app.ask("POST", "/api/teach/remotes/invitation", {})["invitation"]["link"]
    context = browser.new_context(viewport={"width": 390, "height": 780}, device_scale_factor=2, ignore_https_errors=True)
    phone = context.new_page()
    phone.goto(link)
    phone.get_by_role("button", name="Use as remote").click()
    phone.get_by_role("button", name="Timer").click()
    phone.get_by_role("button", name="Show the picture here").click()
    phone.get_by_role("img", name="The outgoing picture").wait_for()
    phone.wait_for_timeout(1500)
    beside(SHOTS / "at-hand.png", Image.open(SHOTS / "at-hand.png"), shot(phone))
    looking.join()
    context.close()
    for one in app.get("/api/teach/remotes")["remotes"]:
        app.ask("DELETE", f"/api/teach/remotes/{one['id']}")


def shot(page: Page) -> Image.Image:
    return Image.open(io.BytesIO(page.screenshot()))


def beside(path: Path, *pictures: Image.Image, high: int = 800) -> None:
    """In one file, as high as each other."""
    sized = [one.convert("RGB").resize((round(one.width * high / one.height), high), Image.Resampling.LANCZOS) for one in pictures]
    joined = Image.new("RGB", (sum(one.width for one in sized) + 24 * (len(sized) - 1), high), "#F3EEE3")
    left = 0
    for one in sized:
        joined.paste(one, (left, 0))
        left += one.width + 24
    joined.save(path)


def record(page: Page, app: Application) -> None:
    """Half a minute of the lesson, with two plates and two sheets."""
    page.goto(app.address + "/teach")
    page.wait_for_selector("canvas[data-shown=true]")
    for key, seconds in (("r", 8), ("2", 8), ("k", 6), ("1", 6), ("k", 4)):
        page.keyboard.press(key)
        page.wait_for_timeout(1000 * seconds)


def take_end(page: Page, app: Application) -> None:
    """The end of a lesson, a page of its handout, and what is kept."""
    record(page, app)
    page.get_by_role("button", name="End the lesson").click()
    page.get_by_text("The call itself still runs").wait_for()
    end = shot(page)
    lesson = app.get("/api/after")["lessons"][0]["lesson_id"]
    with urllib.request.urlopen(f"{app.address}/api/after/lessons/{lesson}/handout.pdf?per_page=2") as answer:
        document = pypdfium2.PdfDocument(answer.read())
    handout = document[0].render(scale=1.0).to_pil()
    document.close()
    page.goto(app.address + "/privacy")
    page.get_by_role("button", name="Save everything").or_(page.get_by_role("link", name="Save everything")).wait_for()
    beside(SHOTS / "lesson-end.png", end, handout, shot(page), high=640)


STEPS = (
    (1, "Opening", "Who has stood on a hill and looked down? Let two tell."),
    (2, "The contour sheet", "A and B. Which hill is steeper, and how do you see it?"),
    (6, "Draw the profile", "Slowly. Mark the steepest slope."),
    (3, "What comes next", "Homework: sheet 4."),
)


def prepare(page: Page, app: Application) -> None:
    """A lesson of four steps, two sheets and a timer."""
    for number, name, note in STEPS:
        app.ask("POST", "/api/teach/actions", {"action": "plate", "number": number})
        app.ask("POST", "/api/teach/steps", {"name": name, "note": note})
    app.ask("POST", "/api/teach/actions", {"action": "forward"})
    page.wait_for_timeout(11_000)  # the hand has moved: the page is known without it
    app.ask("POST", "/api/teach/actions", {"action": "sheet"})
    app.ask("POST", "/api/teach/actions", {"action": "timer"})


def draw(page: Page) -> None:
    """A line along the profile, a mark and an arrow."""
    page.keyboard.press("i")
    page.wait_for_timeout(800)
    box = page.locator("canvas[aria-label='The outgoing picture']").bounding_box()
    assert box is not None

    def stroke(*spots: tuple[float, float]) -> None:
        page.mouse.move(box["x"] + spots[0][0] * box["width"], box["y"] + spots[0][1] * box["height"])
        page.mouse.down()
        for x, y in spots[1:]:
            page.mouse.move(box["x"] + x * box["width"], box["y"] + y * box["height"], steps=6)
        page.mouse.up()

    page.get_by_role("button", name="Colour: Carnelian").click()
    stroke(*((0.27 + 0.05 * math.cos(a / 3), 0.24 + 0.09 * math.sin(a / 3)) for a in range(20)))
    page.get_by_role("button", name="Arrow").click()
    stroke((0.55, 0.75), (0.36, 0.32))
    page.get_by_role("button", name="Highlighter").click()
    page.get_by_role("button", name="Colour: Yellow").click()
    stroke((0.12, 0.12), (0.62, 0.27))


def take(page: Page, app: Application, name: str) -> None:
    if name == "after":
        record(page, app)
        app.ask("POST", "/api/teach/actions", {"action": "stop"})
        eventually(lambda: app.get("/api/after")["lessons"][0]["recordings"][-1]["state"] == "whole")
    page.goto(app.address + VIEWS[name])
    shoot(page, app, name)


def shoot(page: Page, app: Application, name: str) -> None:
    if name == "sound":
        page.get_by_text("Good", exact=True).first.wait_for()
        page.get_by_role("button", name="Open this one").first.click()
        page.get_by_role("button", name="Close", exact=True).wait_for()
        find_loop(page)
    elif name == "lessons":
        page.get_by_text("Ready, but").wait_for()
    elif name == "after":
        page.get_by_text("Titles were read").wait_for(timeout=60_000)
        page.get_by_role("group", name="Chapters").get_by_role("button").nth(1).click()
    else:
        page.wait_for_selector("canvas[data-shown=true]")
    if name == "square-up":
        page.wait_for_selector("canvas[aria-label='The straightened page'][data-shown=true]")
        page.get_by_role("button", name="More").click()
        page.keyboard.press("q")
        page.wait_for_timeout(1500)
        page.get_by_label("Follow the page").click()
        page.get_by_label("Even light on").click()
    if name == "ready":
        page.get_by_text("Seen and lit.").wait_for()
        page.get_by_role("button", name="I can’t hear them").click()
    if name == "plates":
        page.get_by_role("button", name="Place 2: Face").focus()
        page.get_by_role("button", name="Clear").click()
        page.get_by_text("Soft", exact=True).click()
    if name == "teach":
        page.get_by_text("Heard once").wait_for()
        prepare(page, app)
    if name == "teach-held":
        eventually(lambda: [feed["state"] for feed in app.get("/api/live")["feeds"]].count("live") >= 2)  # page and face
        page.wait_for_timeout(3000)
        page.keyboard.press("h")
    if name == "teach-ink":
        draw(page)
    if name == "steps":
        prepare(page, app)  # each view begins with none
        page.get_by_role("button", name="Edit").click()
    page.wait_for_timeout(4000)  # rates and delays are measured over the last two seconds
    page.screenshot(path=SHOTS / f"{name}.png", full_page=name == "sound")


def find_loop(page: Page) -> None:
    """A board in the same room that joins the call with its microphone open, and an echo test of both microphones."""
    page.get_by_role("button", name="Add a computer, phone or board").click()
    page.get_by_label("Microphone of Board").select_option("open")
    page.get_by_label("What is the matter with Simulated laptop microphone").select_option("noisy room")
    tests = page.get_by_role("button", name=re.compile("^Echo test of"))
    for number in range(2):
        page.wait_for_timeout(6000)
        tests.nth(number).click()
        page.get_by_role("region", name="Echo test").get_by_role("listitem").nth(number).wait_for()
        page.wait_for_timeout(6000)
    page.get_by_text("Listening").first.wait_for(state="hidden")


def phone_flags(folder: Path) -> list[str]:
    """A phone on a shelf, straight above the demo's sheet."""
    camera = replace(DOCUMENT_CAMERA, size=Size(1280, 720), pose=Pose((0, -8, -470), (0, -8), roll_deg=0))
    view, path = sheet_view(camera), folder / "shelf.y4m"
    with path.open("wb") as file:
        file.write(b"YUV4MPEG2 W1280 H720 F30:1 Ip A1:1 C420jpeg\n")
        for number in range(30):
            frame = view.picture(12.0 + number / 30, 0.0)
            file.write(b"FRAME\n" + b"".join(plane.tobytes() for plane in frame.planes))
    fake = ("--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream")
    return [*fake, f"--use-file-for-fake-video-capture={path}"]


def join(app: Application, phones: Browser) -> Page:
    asked = {"name": "Old phone", "rig": "shelf", "serves": "page"}
    link = app.ask("POST", "/api/guests/invitation", asked)["link"]
    context = phones.new_context(viewport={"width": 390, "height": 844}, device_scale_factor=2, ignore_https_errors=True)
    phone = context.new_page()
    phone.goto(link)
    phone.wait_for_selector("video")
    eventually(lambda: any(one["kind"] == "guest" for one in app.get("/api/kit")["devices"]))
    return phone


def take_phone(app: Application, phone: Page) -> None:
    device_id = next(one["id"] for one in app.get("/api/kit")["devices"] if one["kind"] == "guest")
    looking = threading.Thread(target=app.pictures, args=(f"raw:{device_id}", 150, 320, 30))
    looking.start()
    phone.get_by_role("heading", name="Your page is at the teacher’s computer").wait_for()
    phone.screenshot(path=SHOTS / "phone.png")
    looking.join()


if __name__ == "__main__":
    main(*sys.argv[1:])
