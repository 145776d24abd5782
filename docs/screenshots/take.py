"""Takes the pictures in this folder from the demo lesson, at 1280x800."""

import re
import sys
import tempfile
import threading
import urllib.parse
import urllib.request
from dataclasses import replace
from pathlib import Path

import av
from PIL import Image, ImageDraw
from playwright.sync_api import Browser, Page, sync_playwright

from cartouche.bench.camera import Pose
from cartouche.bench.devices import DOCUMENT_CAMERA, sheet_view
from cartouche.bench.papers import contour_sheet
from cartouche.core.pictures import Size, bgr_from_frame
from cartouche.fonts import typeface

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT))

from tests.helpers import Application, eventually  # noqa: E402
from tests.screens.conftest import as_demo  # noqa: E402

CHROMIUM = "/usr/bin/chromium"
VIEWS = {
    "lessons": "/",
    "kit": "/kit",
    "kit-faults": "/kit",
    "kit-devices": "/kit",
    "invitation": "/kit",
    "phone": "/",
    "square-up": "/square-up",
    "square-up-card": "/square-up/clip-camera",
    "square-up-hand": "/square-up",
    "square-up-mirror": "/square-up/clip-camera",
    "plates": "/plates",
    "plates-ready-made": "/plates",
    "sound": "/sound",
    "sound-loop": "/sound",
    "teach": "/teach",
    "outgoing": "/outgoing",
}


def main(*names: str) -> None:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        app = Application(Path(folder)).start()
        browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=True)
        phones = playwright.chromium.launch(executable_path=CHROMIUM, headless=True, args=phone_flags(Path(folder)))
        try:
            for name in names or VIEWS:
                as_demo(app)
                faults = ("black", "out of focus") if name == "kit-faults" else (None, None)
                for device, fault in zip(("desk-camera", "clip-camera"), faults, strict=True):
                    app.ask("PUT", f"/api/kit/devices/{device}/fault", {"fault": fault})
                for device in ("desk-camera", "clip-camera"):
                    app.ask("PUT", f"/api/kit/devices/{device}/lies", {"thing": "sheet"})
                if name in ("teach", "outgoing", "sound"):
                    app.ask("POST", "/api/teach/call/start")
                if name == "teach":
                    app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
                if name in ("kit-devices", "phone"):
                    phone = join(app, phones)
                    if name == "kit-devices":
                        add_files(app, Path(folder))
                    else:
                        take_phone(app, phone)
                size = {"width": 1280, "height": 720 if name == "outgoing" else 800}
                page = browser.new_page(viewport=size)
                if name == "plates-ready-made":
                    take_ready_made(app)
                elif name != "phone":
                    take(page, app.address + VIEWS[name], name)
                page.close()
        finally:
            browser.close()
            phones.close()
            app.stop()


def take(page: Page, address: str, name: str) -> None:
    page.goto(address)
    if name.startswith("sound"):
        page.get_by_text("Good", exact=True).first.wait_for()
        page.get_by_role("button", name="Open this one").first.click()
        page.get_by_role("button", name="Close", exact=True).wait_for()
        if name == "sound-loop":
            find_loop(page)
    elif name != "lessons":
        page.wait_for_selector("canvas[data-shown=true]")
    if name.startswith("square-up"):
        page.wait_for_selector("canvas[aria-label='The straightened page'][data-shown=true]")
        square_up(page, name)
    if name == "plates":
        page.get_by_role("button", name="Place 2: Face").focus()
        page.get_by_text("Softened").click()
    if name == "invitation":
        page.get_by_role("button", name="Invite a phone or tablet").click()
        page.get_by_role("dialog").get_by_label("Your name for it").fill("Old phone")
        page.get_by_role("dialog").get_by_label("How it is held").select_option(label="Shelf with a hole")
    if name == "teach":
        page.get_by_text("Heard once").wait_for()
    page.wait_for_timeout(4000)  # rates and delays are measured over the last two seconds
    page.screenshot(path=Path(__file__).with_name(f"{name}.png"), full_page=name == "sound-loop")


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


def take_ready_made(app: Application) -> None:
    """Each ready-made plate as it goes out, on one sheet."""
    ready, size, gap, high = app.get("/api/plates")["ready_made"], (464, 261), 16, 34
    sheet = Image.new("RGB", (2 * size[0] + 3 * gap, -(-len(ready) // 2) * (size[1] + high + gap) + gap), "#E4DBC8")
    pen = ImageDraw.Draw(sheet)
    for number, plate in enumerate(ready):
        made = app.ask("POST", "/api/plates", {"name": plate["name"], "copy_of": plate["id"]})["plates"][-1]["plate"]
        app.ask("PUT", "/api/teach/plate", {"plate_id": made["id"]})
        picture = app.pictures("outgoing", 75)[-1]  # until all stand where they belong
        x, y = gap + number % 2 * (size[0] + gap), gap + number // 2 * (size[1] + high + gap)
        sheet.paste(Image.fromarray(picture[:, :, ::-1]).resize(size, Image.Resampling.LANCZOS), (x, y))
        pen.text((x + 2, y + size[1] + 6), plate["name"], font=typeface(20, 600), fill="#1D2433")
    sheet.save(Path(__file__).with_name("plates-ready-made.png"), optimize=True)
    app.ask("PUT", "/api/teach/plate", {"plate_id": "page-and-face"})


def square_up(page: Page, name: str) -> None:
    if name == "square-up-card":
        page.get_by_label("Under the simulated camera").select_option("card")
        for _ in range(5):  # until a picture of the card has come
            page.wait_for_timeout(1500)
            page.keyboard.press("k")
            page.wait_for_timeout(1500)
            if page.get_by_text("Set-up card read").count():
                return
        raise AssertionError("the set-up card was not read")
    page.keyboard.press("q")
    page.wait_for_timeout(1500)
    if name == "square-up":
        page.get_by_label("Follow the page").click()
        page.get_by_label("Even light on").click()
    if name == "square-up-hand":
        page.keyboard.press("0")
        page.get_by_role("button", name="Upper left corner").focus()
        for _ in range(3):
            page.keyboard.press("Shift+ArrowLeft")


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
    phone.screenshot(path=Path(__file__).with_name("phone.png"))
    looking.join()


def add_files(app: Application, folder: Path) -> None:
    """The sheet as slides, and a clip of the hand at work."""
    sheet = Image.fromarray(contour_sheet().picture[:, :, ::-1])
    sheet.save(folder / "sheets.pdf", "PDF", resolution=300, save_all=True, append_images=[sheet.rotate(90, expand=True)])
    view = sheet_view(replace(DOCUMENT_CAMERA, size=Size(1280, 720)))
    with av.open(str(folder / "work.mp4"), "w") as out:
        stream = out.add_stream("libx264", rate=25)
        stream.width, stream.height, stream.pix_fmt = 1280, 720, "yuv420p"
        for number in range(75):
            picture = av.VideoFrame.from_ndarray(bgr_from_frame(view.picture(4 + number / 25, 0.0)), "bgr24")
            for packet in stream.encode(picture):
                out.mux(packet)
        for packet in stream.encode():
            out.mux(packet)
    for name, kind, shown in (("sheets.pdf", "slides", "Contour sheets.pdf"), ("work.mp4", "clip", "Drawing a profile.mp4")):
        query = urllib.parse.urlencode({"name": shown, "kind": kind})
        request = urllib.request.Request(f"{app.address}/api/kit/files?{query}", (folder / name).read_bytes(), method="POST")
        urllib.request.urlopen(request).close()


if __name__ == "__main__":
    main(*sys.argv[1:])
