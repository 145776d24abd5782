"""A browser with our extension loaded, and call pages of several kinds to try it on."""

import base64
import contextlib
import threading
import time
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from playwright.sync_api import BrowserContext, Error, Frame, Page, Playwright

from tests.helpers import ROOT, SLOWEST_S, Application, eventually
from tests.screens.conftest import CHROMIUM

EXTENSION = ROOT / "src" / "cartouche" / "web" / "static" / "extension"
PAGE = b"<!doctype html><title>A call</title><video autoplay muted playsinline></video>"
POLICIES: dict[str, dict[str, str]] = {
    "/strict": {"Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; media-src blob:; script-src 'unsafe-eval'"},
    "/isolated": {"Cross-Origin-Embedder-Policy": "require-corp", "Cross-Origin-Opener-Policy": "same-origin"},
    "/forbidden": {"Permissions-Policy": "camera=(), microphone=()"},
}
FLAGS = (
    f"--load-extension={EXTENSION}",
    f"--disable-extensions-except={EXTENSION}",
    "--disable-features=DisableLoadExtensionCommandLineSwitch",
    "--allow-loopback-in-peer-connection",
)
LEFT_OUT = ("--disable-extensions", "--disable-component-extensions-with-background-pages", "--load-extension=")
# what a page does with what it took
TAKE = """async (constraints) => {
    try {
        const stream = await navigator.mediaDevices.getUserMedia(constraints)
        ;(window.taken ??= []).push(stream)
        document.querySelector('video').srcObject = stream
        return 'taken'
    } catch (error) {
        return `${error.name} ${error.constraint ?? ''}`.trim()
    }
}"""
SHOWN = """() => {
    const video = document.querySelector('video')
    if (!video.videoWidth) return null
    const canvas = new OffscreenCanvas(video.videoWidth, video.videoHeight)
    canvas.getContext('2d').drawImage(video, 0, 0)
    return canvas.convertToBlob({ type: 'image/png' }).then(async (blob) => {
        let text = ''
        for (const byte of new Uint8Array(await blob.arrayBuffer())) text += String.fromCharCode(byte)
        return btoa(text)
    })
}"""
LISTED = "() => navigator.mediaDevices.enumerateDevices().then((all) => all.map((one) => `${one.kind} ${one.label}`.trim()))"


class _Calls(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        for name, value in POLICIES.get(self.path.split("?")[0], {}).items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(PAGE)

    def log_message(self, *_: object) -> None:
        pass


@contextlib.contextmanager
def call_site() -> Iterator[str]:
    """A site with nothing of ours; its address."""
    server = ThreadingHTTPServer(("127.0.0.1", 0), _Calls)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_address[1]}"
    server.shutdown()
    server.server_close()


class Extended:
    """The browser, and what a teacher does with the extension's icon."""

    def __init__(self, context: BrowserContext) -> None:
        self.context = context
        eventually(lambda: context.service_workers or context.wait_for_event("serviceworker"))
        self.id = context.service_workers[0].url.split("/")[2]
        self.popup = context.new_page()
        self.popup.goto(f"chrome-extension://{self.id}/popup.html")

    def pair(self, app: Application) -> None:
        popup = self.popup
        popup.evaluate("(address) => { document.getElementById('address').value = address }", app.address)
        popup.click("#pair")
        code = eventually(lambda: popup.text_content("#code"))
        assert app.get("/api/ways")["code"] == code
        app.ask("POST", "/api/ways/pairing", {"code": code})
        eventually(lambda: popup.text_content("#note") == "Paired.")

    def open(self, address: str) -> Page:
        page = self.context.new_page()
        page.goto(address)
        return page

    def choose(self, page: Page) -> None:
        """The icon pressed on this page, and its one press."""
        site = page.evaluate("location.origin")
        tabs = self.popup.evaluate("chrome.tabs.query({})")
        tab = next(tab["id"] for tab in tabs if tab.get("url", "").startswith(site))
        self.popup.goto(f"chrome-extension://{self.id}/popup.html?tab={tab}")
        self.popup.click("#choose")
        eventually(lambda: "Choose Cartouche" in (self.popup.text_content("#note") or ""))

    def answer(self, page: Page, yes: bool = True) -> None:
        """The one question in the page."""

        def question() -> Frame | None:
            page.wait_for_timeout(30)  # frames are noticed while the browser is listened to
            return next((one for one in page.frames if "ask.html" in one.url), None)

        def answered() -> bool:
            frame = question()
            if frame is None:
                return True
            page.bring_to_front()  # a page behind another hears no press
            with contextlib.suppress(Error):  # not drawn yet, so that the press was nobody's; or gone with the press
                frame.click("#yes" if yes else "#no", timeout=4000)
            return question() is None

        eventually(question)
        page.wait_for_timeout(300)  # a frame hears presses once it has been drawn: sooner than anybody can press
        eventually(answered)

    def in_call(self, app: Application, query: str, *, sound: bool = False) -> Page:
        """The call page in front, joined with Cartouche as its camera, and as its microphone."""
        page = self.open(f"{app.address}/call?{query}")
        self.choose(page)
        page.bring_to_front()
        page.get_by_role("button", name="Join").click()
        self.answer(page)
        if sound:
            page.get_by_label("Microphone").select_option(label="Cartouche")
            page.get_by_role("button", name="Take this camera").click()
        eventually(lambda: page.evaluate("document.querySelector('video.teacher').videoWidth > 0"), 60)
        return page

    def takes(self, page: Page, constraints: dict[str, Any] | None = None, yes: bool = True) -> str:
        """The page asks for the first time and the teacher answers."""
        page.evaluate(f"(wanted) => {{ window.outcome = ({TAKE})(wanted); return 0 }}", constraints or {"video": True})
        self.answer(page, yes)
        outcome: str = page.evaluate("window.outcome")
        return outcome


@contextlib.contextmanager
def extended(playwright: Playwright, folder: Path, *more: str) -> Iterator[Extended]:
    context = playwright.chromium.launch_persistent_context(
        folder, executable_path=CHROMIUM, headless=True, ignore_default_args=list(LEFT_OUT), args=[*FLAGS, *more]
    )
    context.set_default_timeout(1000 * SLOWEST_S)
    yield Extended(context)
    context.close()


def taken(page: Page, constraints: dict[str, Any]) -> str:
    """What a page gets that the teacher has allowed before."""
    outcome: str = page.evaluate(TAKE, constraints)
    return outcome


def shown(page: Page) -> np.ndarray | None:
    """What the page's video shows, (h, w, 3) BGR."""
    text = page.evaluate(SHOWN)
    return None if text is None else cv2.imdecode(np.frombuffer(base64.b64decode(text), np.uint8), cv2.IMREAD_COLOR)


def settings(page: Page) -> dict[str, Any]:
    found: dict[str, Any] = page.evaluate("() => taken.at(-1).getVideoTracks()[0].getSettings()")
    return found


def frames_a_second(page: Page, seconds: float = 2.0) -> float:
    count = "() => document.querySelector('video').getVideoPlaybackQuality().totalVideoFrames"
    before, began = page.evaluate(count), time.monotonic()
    time.sleep(seconds)
    return float(page.evaluate(count) - before) / (time.monotonic() - began)
