"""Takes the pictures in this folder from the demo lesson, at 1280x800."""

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT))

from tests.helpers import Application  # noqa: E402

CHROMIUM = "/usr/bin/chromium"
VIEWS = {
    "lessons": "/",
    "kit": "/kit",
    "kit-faults": "/kit",
    "square-up": "/square-up",
    "square-up-mirror": "/square-up/clip-camera",
    "teach": "/teach",
    "outgoing": "/outgoing",
}


def main(*names: str) -> None:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        app = Application(Path(folder)).start()
        browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=True)
        try:
            for name in names or VIEWS:
                faults = ("black", "out of focus") if name == "kit-faults" else (None, None)
                for device, fault in zip(("desk-camera", "clip-camera"), faults, strict=True):
                    app.ask("PUT", f"/api/kit/devices/{device}/fault", {"fault": fault})
                if name in ("teach", "outgoing"):
                    app.ask("POST", "/api/teach/call/start")
                page = browser.new_page(viewport={"width": 1280, "height": 720 if name == "outgoing" else 800})
                take(page, app.address + VIEWS[name], name)
                page.close()
        finally:
            browser.close()
            app.stop()


def take(page: Page, address: str, name: str) -> None:
    page.goto(address)
    if name != "lessons":
        page.wait_for_selector("canvas[data-shown=true]")
    if name.startswith("square-up"):
        page.wait_for_selector("canvas[aria-label='The straightened page'][data-shown=true]")
        page.keyboard.press("q")
    page.wait_for_timeout(4000)  # rates and delays are measured over the last two seconds
    page.screenshot(path=Path(__file__).with_name(f"{name}.png"))


if __name__ == "__main__":
    main(*sys.argv[1:])
