"""From the second start of the set-up application to the first picture in the browser, and to the first one with the page on it."""

import json
import statistics
import sys
import tempfile
import time
from pathlib import Path

from playwright.sync_api import sync_playwright

from tests.helpers import Application, free_port

ROUNDS = 5
CHROMIUM = "/usr/bin/chromium"


def main(rounds: int = ROUNDS) -> dict[str, float]:
    first, with_page = [], []
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        app = Application(Path(folder), free_port())
        app.start().stop()
        browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=True)
        for _ in range(rounds):
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            begun = time.perf_counter()
            app.start()
            page.goto(f"{app.address}/teach")
            page.wait_for_selector("canvas[aria-label='The outgoing picture'][data-shown=true]")
            first.append(time.perf_counter() - begun)
            while app.get("/api/live")["feeds"][0]["state"] != "live":
                time.sleep(0.02)
            with_page.append(time.perf_counter() - begun)
            page.close()
            app.stop()
        browser.close()
    return {"first_picture_s": round(statistics.median(first), 2), "first_page_s": round(statistics.median(with_page), 2)}


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
