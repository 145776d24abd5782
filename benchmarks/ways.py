"""Each way into a call, taken for real on this machine: pictures a second, size, delay from capture to the far end, cores, presses.

The far end is the practice call's learner (extension, tab, window), the stand-in server (WHIP), the board's page (WHEP) or a reader
(MJPEG).
A window is shared from a virtual desktop, for which ./run bench installs Xvfb and Openbox.
"""

import asyncio
import contextlib
import json
import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from playwright.sync_api import Page, Playwright, sync_playwright

sys.path.insert(0, str(Path(__file__).parent.parent))  # found from anywhere

from benchmarks.stamps import READ, StampedCamera, late_ms
from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES
from cartouche.bench.sound_devices import bench_microphones
from cartouche.bench.whip_server import WhipServer
from cartouche.cli import listen
from cartouche.core.call.kinds import KINDS, CallKind
from cartouche.core.call.ways import way_named
from cartouche.demo import lesson
from cartouche.live.running import RunningLesson
from cartouche.process import settle
from cartouche.store.database import Database
from cartouche.web.server import server
from cartouche.web.state import AppState
from tests.helpers import Application, eventually
from tests.screens.conftest import CHROMIUM
from tests.screens.extended import extended
from tests.web.test_guests import trusting

SECONDS, SETTLE_S = 12.0, 6.0


@contextlib.contextmanager
def running(camera: Callable[[], Any] = StampedCamera) -> Iterator[Application]:
    devices = {**DEVICES, "document-camera": camera}
    with tempfile.TemporaryDirectory() as folder, listen(0) as listening:
        database = Database(Path(folder))
        lesson.fill(database)
        made = RunningLesson(CallCodec, CallVoice)
        made.sound.simulate(bench_microphones())
        serving = server(AppState(database, made, devices))
        thread = threading.Thread(target=serving.run, kwargs={"sockets": [listening]})
        thread.start()
        app = Application(Path(folder), port=listening.getsockname()[1])
        eventually(app._answers)
        app.ask("PUT", "/api/square-up/desk-camera/chain", {"chain": {}})
        app.ask("PUT", "/api/teach/plate", {"plate_id": "page"})
        app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
        try:
            yield app
        finally:
            serving.should_exit = True
            thread.join()


def browser_s() -> float:
    """Processor seconds of all browser processes so far."""
    lines = subprocess.run(["ps", "-eo", "comm,cputimes"], capture_output=True, text=True, check=True).stdout.splitlines()
    return float(sum(int(line.split()[-1]) for line in lines if "chrom" in line))


WHOLE = (0.0, 0.0, 1.0, 1.0)
IN_WINDOW = """() => {
    const canvas = document.querySelector('canvas').getBoundingClientRect()
    const [across, down] = [window.outerWidth, window.outerHeight]
    const [beside, above] = [(across - window.innerWidth) / 2, down - window.innerHeight]
    return [(beside + canvas.left) / across, (above + canvas.top) / down, canvas.width / across, canvas.height / down]
}"""
Shared = tuple[Page, tuple[float, ...]]
Work = Callable[[float], tuple[list[float], int, int]]


def measured(work: Work) -> dict[str, Any]:
    """work: takes the way for so many seconds and gives delays in ms, how many pictures came and their width."""
    ours, theirs, began = time.process_time(), browser_s(), time.monotonic()
    delays, pictures, width = work(SECONDS)
    took = time.monotonic() - began
    ordered = sorted(delays)
    return {
        "fps": round(pictures / SECONDS, 1),
        "width_px": width,
        "median_ms": round(statistics.median(ordered)) if ordered else None,
        "p95_ms": round(ordered[int(0.95 * len(ordered))]) if ordered else None,
        "server_cores": round((time.process_time() - ours) / took, 2),
        "browser_cores": round((browser_s() - theirs) / took, 2),
    }


def of_page(page: Page, selector: str, lies: tuple[float, ...] = WHOLE) -> Work:
    """lies: where the outgoing picture is in the video, left, top, width and height as shares of that."""
    page.evaluate(READ, [selector, *lies])
    page.wait_for_timeout(1000 * SETTLE_S)

    def work(seconds: float) -> tuple[list[float], int, int]:
        count = "(one) => document.querySelector(one).getVideoPlaybackQuality().totalVideoFrames"
        page.evaluate("() => { delays.length = 0 }")
        before = page.evaluate(count, selector)
        page.wait_for_timeout(1000 * seconds)
        delays, width = page.evaluate("() => [delays, sizes.at(-1)]")
        return [float(value) for value in delays], page.evaluate(count, selector) - before, int(width or 0)

    return work


def computed_ms(app: Application, way: str) -> dict[str, float]:
    """What Way in says just now, while the way is taken: of the kind of call that was chosen."""
    return {"computed_ms": next(one["delay_ms"] for one in app.get("/api/ways")["ways"] if one["id"] == way)}


def by_extension(playwright: Playwright, app: Application, codec: str) -> dict[str, Any]:
    with tempfile.TemporaryDirectory() as folder, extended(playwright, Path(folder)) as ext:
        ext.pair(app)
        page = ext.in_call(app, f"codec={codec}&kbit=4000", sound=True)
        found = measured(of_page(page, "video.teacher"))
        lips = [one["lips_ms"] for one in app.get("/api/ways")["takers"] if one["lips_ms"] is not None]
        return {**found, **computed_ms(app, "extension"), "lips_ms": round(statistics.median(lips)) if lips else None}


@contextlib.contextmanager
def shared(playwright: Playwright, app: Application, query: str, *, window: bool = False) -> Iterator[Shared]:
    """A call page to which the outgoing window is shared, and where the outgoing picture lies in that.

    window: as a window of a virtual desktop, else as a tab.
    """
    of = "window" if window else "tab"
    flags = [f"--auto-select-{of}-capture-source-by-title=Cartouche outgoing", "--allow-loopback-in-peer-connection"]
    with desktop() if window else contextlib.nullcontext({}) as variables:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=not window, args=flags, env={**os.environ, **variables})
        size: dict[str, Any] = {"no_viewport": True} if window else {"viewport": {"width": 1280, "height": 720}}
        call = browser.new_context(**size).new_page()
        call.goto(f"{app.address}/call?{query}")
        with call.expect_popup() as opened:  # a window of its own, as a press on Teach opens it
            call.evaluate("() => { window.open('/outgoing', 'cartouche-outgoing', 'popup,width=1280,height=720') }")
        opened.value.locator("canvas[data-shown=true]").wait_for()
        call.get_by_role("button", name="Share a tab or window").click()
        eventually(lambda: call.evaluate("document.querySelector('video.teacher').videoWidth > 0"), 30)
        yield call, tuple(opened.value.evaluate(IN_WINDOW)) if window else WHOLE
        browser.close()


@contextlib.contextmanager
def desktop() -> Iterator[dict[str, str]]:
    """A virtual desktop with a window manager, which ./run bench installs; the variables of a program that is to open windows there."""
    read, write = os.pipe()
    with tempfile.TemporaryFile() as log:
        screen = subprocess.Popen(
            ["Xvfb", "-displayfd", str(write), "-screen", "0", "1600x1000x24", "-nolisten", "tcp"], pass_fds=[write], stderr=log
        )
        os.close(write)
        with open(read) as told:
            variables = {"DISPLAY": f":{told.readline().strip()}"}
        manager = subprocess.Popen(["openbox"], env={**os.environ, **variables}, stderr=log, stdout=log)
        try:
            yield variables
        finally:
            for process in (manager, screen):
                process.terminate()
                process.wait(10)


def by_share(playwright: Playwright, app: Application, *, window: bool) -> dict[str, Any]:
    with shared(playwright, app, "kbit=4000", window=window) as (call, lies):
        return measured(of_page(call, "video.teacher", lies)) | computed_ms(app, "window" if window else "tab")


def by_whep(playwright: Playwright, app: Application) -> dict[str, Any]:
    link = app.ask("POST", "/api/ways/invitation", {})["link"]
    browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=True)
    page = browser.new_context(ignore_https_errors=True, viewport={"width": 1280, "height": 720}).new_page()
    page.goto(link)
    page.get_by_role("button", name="Watch").click()
    eventually(lambda: page.evaluate("document.querySelector('video').videoWidth > 0"), 30)
    found = measured(of_page(page, "video"))
    browser.close()
    return found


def by_whip(app: Application) -> dict[str, Any]:
    server_, loop = WhipServer(), asyncio.new_event_loop()
    threading.Thread(target=loop.run_forever, daemon=True).start()
    asyncio.run_coroutine_threadsafe(server_.start(), loop).result(10)
    app.ask("PUT", "/api/ways/server", {"address": server_.address, "token": server_.token})
    arrived = eventually(lambda: next((one for _, one in server_.sessions.values() if one.pictures > 20), None), 40)
    assert arrived is not None

    def work(seconds: float) -> tuple[list[float], int, int]:
        delays, newest, until = [], None, time.monotonic() + seconds
        while time.monotonic() < until:
            if arrived.newest is not newest and (newest := arrived.newest) is not None:
                late = late_ms(newest.to_ndarray()[: newest.height])
                delays += [late] if late is not None else []
            time.sleep(0.002)
        return delays, len(delays), newest.width if newest is not None else 0

    found = measured(work) | computed_ms(app, "server")
    app.ask("DELETE", "/api/ways/server")
    asyncio.run_coroutine_threadsafe(server_.stop(), loop).result(10)
    return found


def by_mjpeg(app: Application) -> dict[str, Any]:
    app.ask("PUT", "/api/ways/network-camera", {"on": True})
    address = app.get("/api/ways")["network_camera"]

    def work(seconds: float) -> tuple[list[float], int, int]:
        delays, width, until = [], 0, time.monotonic() + seconds
        with urllib.request.urlopen(address, timeout=10, context=trusting()) as stream:
            while time.monotonic() < until:
                while (line := stream.readline()) and not line.lower().startswith(b"content-length"):
                    pass
                stream.readline()
                jpeg = stream.read(int(line.split(b":")[1]))
                luma = cv2.imdecode(np.frombuffer(jpeg, np.uint8), cv2.IMREAD_GRAYSCALE)
                width, late = luma.shape[1], late_ms(luma)
                delays += [late] if late is not None else []
        return delays, len(delays), width

    found = measured(work) | computed_ms(app, "network-camera")
    app.ask("PUT", "/api/ways/network-camera", {"on": False})
    return found


def main(*only: str, call: CallKind | None = None) -> dict[str, Any]:
    """call: the kind of call that delays are computed for besides, see benchmarks/outcomes.py."""
    settle()
    found: dict[str, Any] = {"cores_here": os.cpu_count()}
    with running() as app, sync_playwright() as playwright:
        app.ask("PUT", "/api/ways/call", (call or KINDS[0]).model_dump())
        ways: dict[str, Callable[[], dict[str, Any]]] = {
            "extension_h264": lambda: by_extension(playwright, app, "H264"),
            "extension_vp8": lambda: by_extension(playwright, app, "VP8"),
            "tab": lambda: by_share(playwright, app, window=False),
            "window": lambda: by_share(playwright, app, window=True),
            "whip": lambda: by_whip(app),
            "whep": lambda: by_whep(playwright, app),
            "mjpeg": lambda: by_mjpeg(app),
        }
        presses = {"extension": "extension", "tab": "tab", "window": "window", "whip": "server", "mjpeg": "network-camera"}
        for name in only or tuple(ways):
            one = ways[name]()
            known = presses.get(name.split("_")[0])
            one |= {"presses": way_named(known).presses} if known else {}
            print(name, one, file=sys.stderr, flush=True)
            found |= {f"{name}_{key}": value for key, value in one.items()}
    return found


if __name__ == "__main__":
    print(json.dumps(main(*sys.argv[1:])))
