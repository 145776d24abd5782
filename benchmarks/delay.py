"""Captured to drawn: from a bench camera without a delay of its own to the outgoing window in headless Chromium."""

import json
import statistics
import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import sync_playwright

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES, BenchDevice, document_camera, face_webcam
from cartouche.cli import ADDRESS, listen
from cartouche.demo import lesson
from cartouche.live.running import RunningLesson
from cartouche.process import settle
from cartouche.store.database import Database
from cartouche.web.server import server
from cartouche.web.state import AppState

SECONDS = 20
CHROMIUM = "/usr/bin/chromium"
COLLECT = """(seconds) => new Promise((done) => {
  const delays = [], begun = performance.now(), canvas = document.querySelector('canvas')
  canvas.addEventListener('picture', (event) => {
    if (event.detail.delayMs !== null) delays.push(event.detail.delayMs)
    if (performance.now() - begun > seconds * 1000) done(delays)
  })
})"""


def without_delay(make: Callable[[], BenchDevice]) -> BenchDevice:
    device = make()
    device.delay_s = device.warm_up_s = 0.0
    return device


def main(seconds: int = SECONDS) -> dict[str, float]:
    settle()
    devices = {**DEVICES, "document-camera": lambda: without_delay(document_camera), "face-webcam": lambda: without_delay(face_webcam)}
    with tempfile.TemporaryDirectory() as folder, listen(0) as listening:
        database = Database(Path(folder))
        lesson.fill(database)
        serving = server(AppState(database, RunningLesson(CallCodec, CallVoice), devices))
        thread = threading.Thread(target=serving.run, kwargs={"sockets": [listening]})
        thread.start()
        try:
            delays = _drawn(f"http://{ADDRESS}:{listening.getsockname()[1]}/outgoing", seconds)
        finally:
            serving.should_exit = True
            thread.join()
    ordered = sorted(delays)
    return {
        "median_ms": round(statistics.median(ordered), 1),
        "p95_ms": round(ordered[int(0.95 * len(ordered))], 1),
        "pictures": len(ordered),
        "fps": round(len(ordered) / seconds, 1),
    }


def _drawn(address: str, seconds: int) -> list[float]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=True)
        page = browser.new_page(viewport={"width": 1280, "height": 720})
        page.goto(address)
        page.wait_for_selector("canvas[data-shown=true]")
        page.wait_for_timeout(2000)
        delays: list[float] = page.evaluate(COLLECT, seconds)
        browser.close()
    return delays


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
