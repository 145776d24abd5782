"""A phone's delay, said and true: its camera shows the time of day as bars, read back from the picture that has come in.

For WebRTC and for the socket that stands in for it: true_ms, from drawn on the phone to decoded here as one of our own pictures
(so with our JPEG, which said_ms is without); said_ms, the median of what Kit shows; fps.  back_s: from a killed line to pictures again.
"""

import json
import statistics
import struct
import sys
import tempfile
import threading
import time
import urllib.request
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from playwright.sync_api import Browser, sync_playwright
from websockets.sync.client import connect

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES
from cartouche.cli import ADDRESS, listen
from cartouche.demo import lesson
from cartouche.live.running import RunningLesson
from cartouche.process import settle
from cartouche.store.database import Database
from cartouche.web.server import server
from cartouche.web.state import AppState

SECONDS, BITS, WIDTH, HEIGHT = 12, 16, 1280, 720
CHROMIUM = "/usr/bin/chromium"
FLAGS = ["--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream"]
CLOCK = f"""const canvas = document.createElement('canvas'); canvas.width = {WIDTH}; canvas.height = {HEIGHT}
const draw = canvas.getContext('2d')
setInterval(() => {{
  const now = Math.round(performance.timeOrigin + performance.now())
  draw.fillStyle = '#ddd'; draw.fillRect(0, 0, {WIDTH}, {HEIGHT})
  for (let bit = 0; bit < {BITS}; bit++) {{
    draw.fillStyle = (now >> bit) & 1 ? '#111' : '#eee'
    draw.fillRect(bit * {WIDTH // BITS}, 200, {WIDTH // BITS}, 320)
  }}
}}, 33)
navigator.mediaDevices.getUserMedia = async () => canvas.captureStream(30)"""
NO_WEBRTC = "window.RTCPeerConnection = class { constructor() { throw new Error('blocked') } }"


def told_ms(picture: np.ndarray) -> int:
    """The time of day that the bars say, its lowest BITS bits."""
    row = cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY)[picture.shape[0] // 2]
    width = picture.shape[1] / BITS
    return sum(int(row[int((bit + 0.5) * width)] < 128) << bit for bit in range(BITS))


class Cartouche:
    """Asked as its own pages ask."""

    def __init__(self, address: str) -> None:
        self.address = address

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.address + path, data, {"Content-Type": "application/json"}, method=method)
        with urllib.request.urlopen(request, timeout=10) as answer:
            return json.loads(answer.read() or b"null")

    def feed(self) -> dict[str, Any] | None:
        return next((one for one in self.ask("GET", "/api/live")["feeds"] if one["id"].startswith("guest")), None)


def watched(app: Cartouche, feed_id: str, seconds: float) -> tuple[list[float], list[float], list[float]]:
    """True delays, said delays and rates, while it is looked at."""
    true_ms, said_ms, rates = [], [], []
    origin: Any = app.address
    with connect(f"{app.address.replace('http', 'ws')}/api/surfaces/raw:{feed_id}?width=640", origin=origin, max_size=None) as line:
        begun = asked_s = time.monotonic()
        while time.monotonic() - begun < seconds:
            message = line.recv(timeout=20)
            now_ms = round(time.time() * 1000)
            line.send("drawn")
            assert isinstance(message, bytes)
            struct.unpack_from("<IdHH", message)
            picture = cv2.imdecode(np.frombuffer(message, np.uint8, offset=16), cv2.IMREAD_COLOR)
            if time.monotonic() - begun > 4:  # bars are sharp and rates settled by then
                true_ms.append(float((now_ms - told_ms(picture)) % (1 << BITS)))
            if time.monotonic() - asked_s > 1 and true_ms:
                asked_s, feed = time.monotonic(), app.feed()
                if feed and feed["delay_ms"] is not None:
                    said_ms.append(feed["delay_ms"])
                    rates.append(feed["fps"])
    return true_ms, said_ms, rates


def by(app: Cartouche, browser: Browser, seconds: float, *, webrtc: bool) -> dict[str, float]:
    invitation = app.ask("POST", "/api/guests/invitation", {"name": "Phone", "serves": "page"})
    context = browser.new_context(ignore_https_errors=True)
    phone = context.new_page()
    phone.add_init_script(CLOCK if webrtc else f"{CLOCK}\n{NO_WEBRTC}")
    phone.goto(invitation["link"])
    phone.wait_for_selector("video")
    until = time.monotonic() + 20
    while (feed := app.feed()) is None and time.monotonic() < until:
        time.sleep(0.1)
    assert feed is not None
    true_ms, said_ms, rates = watched(app, feed["id"], seconds)
    phone.reload()
    begun = time.monotonic()
    watched(app, feed["id"], 0.1)
    back_s = time.monotonic() - begun
    app.ask("DELETE", f"/api/kit/devices/{feed['id']}")
    context.close()
    return {
        "true_ms": round(statistics.median(true_ms), 1),
        "said_ms": round(statistics.median(said_ms), 1),
        "fps": round(statistics.median(rates), 1),
        "back_s": round(back_s, 2),
    }


def main(seconds: float = SECONDS) -> dict[str, float]:
    settle()
    found: dict[str, float] = {}
    with tempfile.TemporaryDirectory() as folder, listen(0) as listening, sync_playwright() as playwright:
        database = Database(Path(folder))
        lesson.fill(database)
        serving = server(AppState(database, RunningLesson(CallCodec, CallVoice), DEVICES))
        thread = threading.Thread(target=serving.run, kwargs={"sockets": [listening]})
        thread.start()
        browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=True, args=FLAGS)
        app = Cartouche(f"http://{ADDRESS}:{listening.getsockname()[1]}")
        try:
            for name, webrtc in (("webrtc", True), ("socket", False)):
                found |= {f"{name}_{key}": value for key, value in by(app, browser, seconds, webrtc=webrtc).items()}
        finally:
            browser.close()
            serving.should_exit = True
            thread.join()
    return found


if __name__ == "__main__":
    print(json.dumps(main(*(float(value) for value in sys.argv[1:]))))
