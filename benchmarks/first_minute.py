"""Presses and seconds: from an empty start to page and face going out, from a known room, and with a phone instead of a camera."""

import json
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))  # found from anywhere

from playwright.sync_api import Playwright, expect, sync_playwright

from tests.helpers import Application, eventually
from tests.screens.conftest import CHROMIUM
from tests.screens.player import FAKE_CAMERA, write_film
from tests.screens.test_first import COUNTED, presses
from tests.screens.test_first_minute import show_my_page
from tests.screens.two_cameras import drawn_page, page_film, two_cameras


def with_cameras(playwright: Playwright, folder: Path) -> dict[str, float]:
    app = Application(folder / "two", command="serve").start()
    found: dict[str, float] = {}
    try:
        with two_cameras(playwright, app.address, write_film(folder / "page.y4m", page_film(drawn_page(2, True)))) as context:
            page = context.new_page()
            found["empty_s"] = round(show_my_page(page, app), 1)
            found["empty_presses"] = presses(page)
            eventually(lambda: [feed["state"] for feed in app.get("/api/live")["feeds"]] == ["live", "live"], 40)
            for opened in context.pages:
                opened.close()
            app.kill()
            begun = time.monotonic()
            app.start()
            page = context.new_page()
            page.add_init_script(COUNTED)
            page.goto("/")
            teach = page.get_by_role("button", name="Teach this lesson: My lesson My class")
            teach.wait_for()
            before = presses(page)
            with page.expect_popup():
                teach.click()
            eventually(lambda: app.get("/api/live")["going_out"], 40)
            eventually(lambda: [feed["state"] for feed in app.get("/api/live")["feeds"]] == ["live", "live"], 40)
            found["known_s"] = round(time.monotonic() - begun, 1)
            found["known_presses"] = presses(page) - before
    finally:
        app.stop()
    return found


def with_phone(playwright: Playwright, folder: Path) -> dict[str, float]:
    """A computer without a camera; the phone looks at the page."""
    app = Application(folder / "phone", command="serve").start()
    film = write_film(folder / "page.y4m", page_film(drawn_page(0, False)))
    flags = [*FAKE_CAMERA, f"--use-file-for-fake-video-capture={film}"]
    phones = playwright.chromium.launch(executable_path=CHROMIUM, headless=True, args=flags)
    computer = playwright.chromium.launch(executable_path=CHROMIUM, headless=True)
    try:
        page = computer.new_context(base_url=app.address, viewport={"width": 1280, "height": 800}).new_page()
        page.add_init_script(COUNTED)
        page.goto("/")
        begun = time.monotonic()
        page.get_by_role("button", name="Show my page").click()
        page.get_by_role("button", name="Show its code").click()
        expect(page.get_by_role("img", name="QR code of the address")).to_be_visible(timeout=30_000)
        phone = phones.new_context(ignore_https_errors=True, permissions=["camera", "microphone"]).new_page()
        phone.add_init_script(COUNTED)
        phone.goto(app.get("/api/guests/invitation")["link"])
        expect(page.get_by_text("The phone is there")).to_be_visible(timeout=60_000)
        page.get_by_role("button", name="Use these").click()
        with page.expect_popup():
            page.get_by_role("button", name="Go out").click(timeout=60_000)
        eventually(lambda: app.get("/api/live")["going_out"], 30)
        return {"phone_s": round(time.monotonic() - begun, 1), "phone_presses_there": presses(phone), "phone_presses_here": presses(page)}
    finally:
        computer.close()
        phones.close()
        app.stop()


def main() -> dict[str, float]:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        return {**with_cameras(playwright, Path(folder)), **with_phone(playwright, Path(folder))}


if __name__ == "__main__":
    print(json.dumps(main()))
