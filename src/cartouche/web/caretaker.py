"""Once a second: what was measured of running devices is kept, sizes follow the teacher's wish, the guests' door is settled."""

import asyncio
import time
from collections.abc import Sequence
from datetime import datetime

from cartouche.core.errors import DegenerateCorners
from cartouche.core.kit.sizes import QUICK_FRAMES_S, Choice, Offered, choose
from cartouche.core.pictures import Size
from cartouche.core.reading.verdicts import readings
from cartouche.core.watch.signal import USABLE
from cartouche.core.watch.starting import usual_start_s
from cartouche.live.endings import to_its_end
from cartouche.live.feeds import Feed
from cartouche.store import chains, kits, settings, tried
from cartouche.store.kits import Device
from cartouche.store.tried import Tried
from cartouche.web.guests.book import Guests
from cartouche.web.look_again import LookAgain
from cartouche.web.sheet_keeping import write_waiting
from cartouche.web.state import AppState
from cartouche.web.timetable import open_due

EVERY_S = 1.0
STEADY_FOR_S = 3.0  # rates are measured over two seconds
MEASURED_AGAIN_S = 20.0  # every page fetches what it shows of the kit where that is news
WORTH_KEEPING = 0.15  # a change smaller than this share is the machine's mood
WORTH_A_BAR_S = 1.0  # a start shorter than this needs no bar
USUAL_PRINT_PT = 10.0
DUE_EVERY_S = 10.0


class Caretaker:
    def __init__(self, state: AppState, guests: Guests) -> None:
        self._state, self._guests = state, guests
        self._due_s = float("-inf")
        self._again = LookAgain(state)
        self._steady: dict[str, tuple[Size, float]] = {}

    async def run(self) -> None:
        """Until cancelled, which waits for the look that is under way: it must not find the store closed. A full disk or a damaged row
        must not end it."""
        while True:
            troubles = self._state.running.troubles
            with troubles.guard("care"):
                await to_its_end(asyncio.to_thread(self.look_after, time.monotonic()))
            with troubles.guard("care"):
                await self._guests.look_after()
            await asyncio.sleep(EVERY_S)

    def look_after(self, now_s: float) -> None:
        if now_s - self._due_s > DUE_EVERY_S:
            self._due_s = now_s
            open_due(self._state, datetime.now())
        self._state.database.look_after(now_s)
        if self._state.unwritten:
            write_waiting(self._state)
        self._state.recording.look_after()
        changed = False
        for device in self._state.devices():
            feed = self._state.running.feeds.get(device.id)
            if feed is not None and feed.wanted:
                self._keep_measured(device, feed, now_s)
                self._again.look(device, feed, now_s)
            news = {name: value for name, value in self._news(device, feed).items() if getattr(device, name) != value}
            if news:
                kits.update_device(self._state.database, device.id, **news)
                changed = True
        if changed:
            with self._state.lock:
                self._state.sources.settle(self._state.devices())
            self._state.running.stage.versions.touch("kit")

    def _news(self, device: Device, feed: Feed | None) -> dict[str, float | int]:
        """The size that the device's wish comes to, and the newest time it took to start."""
        update: dict[str, float | int] = {}
        if feed is not None and feed.took_s is not None:
            took_s, feed.took_s = feed.took_s, None
            if took_s >= WORTH_A_BAR_S:  # a warm device that is only looked at again has not started
                update["usual_start_s"] = round(usual_start_s(device.usual_start_s, took_s), 2)
        choice = size_choice(self._state, device)
        if choice is not None:
            update |= {"width": choice.size.width, "height": choice.size.height}
        return update

    def _keep_measured(self, device: Device, feed: Feed, now_s: float) -> None:
        facts = feed.facts(now_s)
        asked_for_few = feed.heeds and self._state.running.desk.max_fps <= QUICK_FRAMES_S
        if facts.size is None or facts.state not in USABLE or asked_for_few:  # then it says nothing of the size
            self._steady.pop(device.id, None)
            return
        size, since_s = self._steady.get(device.id, (None, now_s))
        if size != facts.size:
            self._steady[device.id] = (facts.size, now_s)
        elif now_s - since_s > STEADY_FOR_S:
            width, height = int(facts.size.width), int(facts.size.height)
            measured = Tried(width=width, height=height, fps=round(facts.fps, 1), delay_ms=round(1000 * (facts.delay_s or 0.0), 1))
            if _is_news(measured, tried.tried(self._state.database, device.id)):
                tried.keep(self._state.database, device.id, measured)
                self._state.running.stage.versions.touch("kit")
            self._steady[device.id] = (size, now_s + MEASURED_AGAIN_S)


def _is_news(measured: Tried, known: Sequence[Tried]) -> bool:
    for before in known:
        if (before.width, before.height) == (measured.width, measured.height):
            slower = abs(before.fps - measured.fps) > WORTH_KEEPING * before.fps
            return slower or abs(before.delay_ms - measured.delay_ms) > max(10.0, 2 * WORTH_KEEPING * before.delay_ms)
    return True


def offered_sizes(state: AppState, device: Device) -> list[Offered]:
    known = {(measured.width, measured.height): measured for measured in tried.tried(state.database, device.id)}
    found = []
    for size in state.sources.offered(device):
        measured = known.get(size)
        found.append(Offered(*size, measured.fps if measured else None, measured.delay_ms / 1000 if measured else None))
    return found


def size_choice(state: AppState, device: Device) -> Choice | None:
    """The size that the device's wish comes to; None where there is nothing to choose."""
    offered = offered_sizes(state, device)
    feed = state.running.feeds.get(device.id)
    if device.wish == "auto" and device.serves == "page" and (feed is None or feed.latest is None):
        return None  # its first picture tells what the page needs
    return choose(offered, device.wish, _page_share(state, device), print_pt(state)) if offered else None


def _page_share(state: AppState, device: Device) -> float | None:
    """Pixels per millimetre of page for each pixel of the picture's width; None where no page with a paper is known."""
    feed = state.running.feeds.get(device.id)
    if device.serves != "page" or feed is None or feed.latest is None:
        return None
    try:
        found = readings(chains.current(state.database, device.id).chain, feed.latest.size)
    except DegenerateCorners:
        return None
    return found.px_per_mm[0] / feed.latest.size.width if found.px_per_mm else None


def print_pt(state: AppState) -> float:
    kept = settings.setting(state.database, "smallest_print_pt")
    return float(kept) if kept else USUAL_PRINT_PT
