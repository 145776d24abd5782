"""Exceptions at random in every stage of the picture's way while a browser looks: pictures go on, and each trouble is said."""

import random
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect
from starlette.websockets import WebSocket

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES
from cartouche.cli import listen
from cartouche.core.plates import compose
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.core.watch.signal import Signal
from cartouche.live import hub
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.placer import Placer
from cartouche.live.planes import PlaneRing
from cartouche.live.running import RunningLesson
from cartouche.live.watcher import Watcher
from cartouche.store.database import Database
from cartouche.web.server import server
from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.live.test_camera_feed import UNITS, message
from tests.screens.test_job import shown

STAGES: dict[str, tuple[Any, str]] = {
    "decode": (PlaneRing, "frame"),
    "judge": (Signal, "see"),
    "chain": (compose, "placing"),
    "draw": (compose, "_draw"),
    "compose": (compose.Composer, "compose"),
    "encode": (hub, "encode"),
    "send": (WebSocket, "send_bytes"),
    "watch": (Watcher, "_look"),
    "place": (Placer, "look"),
    "call": (CallCodec, "transcode"),
}
THROWN = 1000
SHARE = 0.12  # of all calls
LONGEST_GAP_S, LOADED_S = 0.5, 0.12


class Odd(Exception):
    """Something that nobody expected."""


class Mischief:
    """Throws in every stage at random while it is on."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.on, self.thrown, self._random = False, Counter[str](), random.Random(7)
        for stage, (owner, name) in STAGES.items():
            monkeypatch.setattr(owner, name, self._spoilt(stage, getattr(owner, name)))

    def _spoilt(self, stage: str, original: Callable[..., Any]) -> Callable[..., Any]:
        def work(*values: Any, **named: Any) -> Any:
            if self.on and self._random.random() < SHARE:
                self.thrown[stage] += 1
                raise Odd(stage)
            return original(*values, **named)

        return work


class Heart:
    """Beats in a thread of its own: how long the machine itself stood still."""

    def __init__(self) -> None:
        self.longest_s, self._stopping = 0.0, False
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def _run(self) -> None:
        last_s = time.monotonic()
        while not self._stopping:
            time.sleep(0.01)
            now_s = time.monotonic()
            self.longest_s, last_s = max(self.longest_s, now_s - last_s - 0.01), now_s

    def stop(self) -> float:
        self._stopping = True
        self._thread.join()
        return self.longest_s


@pytest.fixture
def running(tmp_path: Path) -> Iterator[tuple[AppState, str]]:
    """The whole application in this process, on a port of its own."""
    state = AppState(Database(tmp_path), RunningLesson(CallCodec, CallVoice), DEVICES)
    listening = listen(0)
    serving = server(state)
    thread = threading.Thread(target=lambda: serving.run(sockets=[listening]), daemon=True)
    thread.start()
    eventually(lambda: serving.started)
    yield state, f"http://127.0.0.1:{listening.getsockname()[1]}"
    serving.should_exit = True
    thread.join(timeout=20)


@pytest.fixture
def page(browser: Browser) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    yield context.new_page()
    context.close()


def camera(state: AppState, name: str, serves: str) -> CameraFeed:
    from cartouche.store.kits import Device

    device = Device(id=name, kit_id=state.ensure_kit(), kind="camera", source=name, label=name, name=name, rig="as-it-is", serves=serves)  # type: ignore[arg-type]
    state.add_device(device, Chain())
    feed = state.running.feeds.get(name)
    assert isinstance(feed, CameraFeed)
    return feed


@pytest.fixture
def sent(running: tuple[AppState, str]) -> Iterator[None]:
    """As two browsers' cameras would, and as a hand that zooms all the while; ends with its test, however that ends."""
    state, stopped = running[0], threading.Event()
    feeds = [camera(state, "page", "page"), camera(state, "face", "face")]

    def send() -> None:
        number = 0
        while not stopped.wait(1 / 30):
            for feed in feeds:
                feed.push(message(UNITS[number % len(UNITS)]))
            number += 1
            state.running.stage.correct("page", Chain(frame=FrameLink(zoom=1 + number % 20 / 20)))

    thread = threading.Thread(target=send, daemon=True)
    thread.start()
    yield
    stopped.set()
    thread.join(timeout=20)


WATCH = """(canvas) => {
  window.gaps = { last: performance.now(), longest: 0, count: 0 }
  canvas.addEventListener('picture', () => {
    const now = performance.now()
    gaps.longest = Math.max(gaps.longest, now - gaps.last); gaps.last = now; gaps.count++
  })
}"""


@pytest.mark.usefixtures("sent")
@pytest.mark.timeout(300)
def test_a_thousand_exceptions_stop_nothing_and_are_said(
    running: tuple[AppState, str], page: Page, monkeypatch: pytest.MonkeyPatch
) -> None:
    _, address = running
    mischief = Mischief(monkeypatch)
    page.goto(f"{address}/teach")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    page.keyboard.press("g")
    expect(shown(page, "What Laptop, pinned gets")).to_be_visible()
    threads = {thread.name for thread in threading.enumerate()}
    shown(page, "The outgoing picture").evaluate(WATCH)
    page.wait_for_timeout(4000)
    usual_s = page.evaluate("gaps.longest") / 1000  # on a machine that others use, pictures come further apart
    heart, said = Heart(), Counter[str]()
    page.evaluate("Object.assign(gaps, { last: performance.now(), longest: 0, count: 0 })")
    mischief.on, until = True, time.monotonic() + 200
    while sum(mischief.thrown.values()) < THROWN:
        assert time.monotonic() < until, mischief.thrown
        page.wait_for_timeout(300)
        live = page.evaluate("fetch('/api/live').then((answer) => answer.json())")
        said.update(feed["id"] for feed in live["feeds"] if feed["sentence"])
        said.update(["outgoing"] if live["outgoing"]["trouble"] else [])
        said.update(["call"] if live["call_trouble"] else [])
    gaps = page.evaluate("({...gaps, longest: Math.max(gaps.longest, performance.now() - gaps.last)})")
    mischief.on = False
    stood_still_s = heart.stop()
    allowed_s = LONGEST_GAP_S if usual_s < LOADED_S else LONGEST_GAP_S + 2 * stood_still_s + 3 * usual_s
    assert gaps["longest"] / 1000 < allowed_s, (gaps, usual_s, stood_still_s)
    assert set(mischief.thrown) == set(STAGES), "each stage was tried"
    assert {"page", "outgoing", "call"} <= set(said), "each trouble is said where it belongs"
    assert threads <= {thread.name for thread in threading.enumerate()}, "no thread has ended"
    before = page.evaluate("gaps.count")
    eventually(lambda: page.evaluate("gaps.count") > before + 10)
    eventually(lambda: not page.evaluate("fetch('/api/live').then((a) => a.json()).then((l) => l.outgoing.trouble || l.call_trouble)"))
