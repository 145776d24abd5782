"""What the Way in screen promises against what arrives at the far end of a real call: smallest print as a recogniser reads it, and delay.

Needs tesseract, which ./run bench installs.
"""

import base64
import contextlib
import json
import statistics
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from playwright.sync_api import Page, Playwright, sync_playwright

sys.path.insert(0, str(Path(__file__).parent.parent))  # found from anywhere

from benchmarks.legibility import PAGE, SIZE, samples, seen_lines, smallest_computed, smallest_read
from benchmarks.ways import WHOLE, Shared, running, shared
from benchmarks.ways import main as measured_ways
from cartouche.bench.camera import Camera, Grain, Light, Lying, Pose, photograph, true_corners
from cartouche.bench.desks import desk
from cartouche.core.call.audience import LAYERS, WINDOW, Viewers, audience_of
from cartouche.core.call.kinds import kind_named
from cartouche.core.pictures import Frame, Size
from cartouche.core.plates.placing import placing
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.core.straighten.square_up import square_of
from cartouche.process import settle
from tests.helpers import Application
from tests.screens.extended import extended

OUTGOING = Size(1280, 720)
PINNED = Viewers(id="pinned", name="Pinned")
GRID = Viewers(id="grid", name="Grid", shown="grid")
GRAINS, READ_TIMES, APART_MS = 7, 3, 700  # pictures of the camera, and how many at the far end are read
SHARPENS_S = 8.0  # a call's still picture becomes sharp within some seconds
GRAB = """([selector, width, height]) => {
    const video = document.querySelector(selector)
    const canvas = new OffscreenCanvas(width, height)
    const context = canvas.getContext('2d')
    context.imageSmoothingQuality = 'high'
    context.drawImage(video, 0, 0, width, height)
    return canvas.convertToBlob({ type: 'image/png' }).then(async (blob) => {
        let text = ''
        for (const byte of new Uint8Array(await blob.arrayBuffer())) text += String.fromCharCode(byte)
        return btoa(text)
    })
}"""


class Samples:
    """A bench device: a still camera over the print samples, with a little grain."""

    fps = 30.0
    battery = facing = None

    def __init__(self) -> None:
        paper, self.lines = samples()
        camera = Camera(SIZE, Pose((40.0, -60.0, -400.0)), blur_px=0.6, light=Light(exposure=1.1))
        corners = true_corners(camera, paper, Lying())
        still, grain = photograph(camera, desk("wood"), paper, Lying()), Grain(SIZE, 2.0)
        self.frames = [Frame(still.y.copy(), still.u, still.v, 0.0) for _ in range(GRAINS)]
        for number, frame in enumerate(self.frames):
            grain.add(frame.y, number)
        self.square = square_of(corners, SIZE).model_copy(update={"paper": "A4", "lying": True, "aspect": 297 / 210})
        self._count = 0

    def picture(self, now_s: float) -> Frame | None:
        self._count += 1
        return Frame.of(self.frames[self._count % GRAINS].planes, now_s)


def learner_sees(page: Page, selector: str, tile: Size) -> list[np.ndarray]:
    page.wait_for_timeout(1000 * SHARPENS_S)
    pictures = []
    for _ in range(READ_TIMES):
        page.wait_for_timeout(APART_MS)
        text = page.evaluate(GRAB, [selector, int(tile.width), int(tile.height)])
        pictures.append(cv2.imdecode(np.frombuffer(base64.b64decode(text), np.uint8), cv2.IMREAD_GRAYSCALE))
    return pictures


@contextlib.contextmanager
def extension_page(playwright: Playwright, app: Application, query: str) -> Iterator[Shared]:
    with tempfile.TemporaryDirectory() as folder, extended(playwright, Path(folder)) as ext:
        ext.pair(app)
        yield ext.in_call(app, query), WHOLE


def tab_page(playwright: Playwright, app: Application, query: str) -> contextlib.AbstractContextManager[Shared]:
    return shared(playwright, app, query)


def window_page(playwright: Playwright, app: Application, query: str) -> contextlib.AbstractContextManager[Shared]:
    return shared(playwright, app, query, window=True)


CASES = {
    "webcam, pinned": (extension_page, "codec=VP8&kbit=1500", audience_of(PINNED, LAYERS)),
    "webcam, in a grid": (extension_page, "codec=VP8&kbit=500&scale=2", audience_of(GRID, LAYERS)),
    "shared tab": (tab_page, "codec=VP8&kbit=2500", audience_of(PINNED, (WINDOW,), staged=True)),
    "shared window": (window_page, "codec=VP8&kbit=2500", audience_of(PINNED, (WINDOW,), staged=True)),
}


def prints(playwright: Playwright) -> dict[str, tuple[float, float]]:
    """By case and zoom: the smallest print computed and read, in points."""
    found = {}
    made: list[Samples] = []

    def camera() -> Samples:
        made.append(Samples())
        return made[-1]

    with running(camera) as app:
        device = made[-1]
        for name, (opened, query, audience) in CASES.items():
            with opened(playwright, app, query) as (page, (left, top, wide, high)):
                for zoom in (1.0, 1.7):
                    chain = Chain(square=device.square, frame=FrameLink(zoom=zoom, y=0.45))
                    app.ask("PUT", "/api/square-up/desk-camera/chain", {"chain": chain.model_dump()})
                    laid = placing(PAGE, chain, SIZE, OUTGOING)
                    canvas, tile = laid.straightened.canvas, Size(audience.tile_width_px // 2 * 2, audience.tile_height_px // 2 * 2)
                    to_canvas = np.diag([canvas.width / 297, canvas.height / 210, 1.0])
                    to_outgoing, to_feed = laid.canvas_matrix @ to_canvas, np.linalg.inv(laid.straightened.matrix) @ to_canvas
                    across, down = wide * tile.width / OUTGOING.width, high * tile.height / OUTGOING.height
                    to_seen = np.array([[across, 0, left * tile.width], [0, down, top * tile.height], [0, 0, 1]]) @ to_outgoing
                    seen = learner_sees(page, "video.teacher", tile)
                    shown = seen_lines(to_seen, seen[0], device.lines)
                    near = audience.model_copy(update={"distance_mm": 1.0})  # a recogniser has no eye: only pixels limit it
                    computed = smallest_computed(to_feed, to_outgoing, OUTGOING, near, shown)
                    told = smallest_read(seen, to_seen, shown)
                    print(name, zoom, computed, told, file=sys.stderr, flush=True)
                    if computed is not None and told is not None:
                        found[f"{name}, {zoom:.0%}"] = (computed, told)
    return found


MEASURED = {"extension_vp8": "extension", "tab": "tab", "window": "window", "whip": "server", "mjpeg": "network-camera"}


def delays() -> dict[str, tuple[float, float]]:
    """By way: delay computed for the practice call, and measured, in ms."""
    measured = measured_ways(*MEASURED, call=kind_named("practice"))
    return {way: (measured[f"{name}_computed_ms"], measured[f"{name}_median_ms"]) for name, way in MEASURED.items()}


def main() -> dict[str, Any]:
    settle()
    with sync_playwright() as playwright:
        points = prints(playwright)
    late = delays()
    off = [abs(computed - told) for computed, told in points.values()]
    share = [abs(computed / told - 1) for computed, told in late.values()]
    return {
        "cases": len(points),
        "median_off_pt": round(statistics.median(off), 2),
        "worst_off_pt": round(max(off), 2),
        "within_1.5_pt": round(sum(one <= 1.5 for one in off) / len(off), 2),
        "delay_median_off_share": round(statistics.median(share), 2),
        "delay_worst_off_share": round(max(share), 2),
        "by_case_pt": {name: [round(value, 1) for value in pair] for name, pair in points.items()},
        "by_way_ms": {name: [round(value) for value in pair] for name, pair in late.items()},
    }


if __name__ == "__main__":
    print(json.dumps(main()))
