"""Phones and tablets that have come: what each one tells, what it is asked for, and its connection."""

import asyncio
import contextlib
import secrets
import time
from collections.abc import Callable, Collection
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.level import level_db
from cartouche.core.watch.signal import State
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.whip import WhipSession
from cartouche.store import guests, kits
from cartouche.web.guests.errors import NotAGuest, NotNow
from cartouche.web.guests.reports import GuestState, Orders, Report
from cartouche.web.state import AppState

AWAITED_FOR_S = 12 * 3600.0  # a phone that went to sleep in the morning's lesson is let in again in the afternoon's
AWAIT_AGAIN_S = 3600.0  # while it is here
HERE_FOR_S = 4.0  # its page tells of itself at least once a second
ANSWER_WITHIN_S = 1.0
OFFER_EVERY_S = 0.5
ARRIVING: frozenset[State] = frozenset({"live", "blurred", "black", "stuck"})

_SENTENCES = {
    "denied": "The phone does not let this page use its camera: allow it in the browser’s settings for the page, then reload it there.",
    "busy": "Another app on the phone holds its camera: close that app, then press Try again on the phone.",
    "none": "The phone’s browser finds no camera.",
    "unable": "The phone’s browser cannot send its picture: open the same address there in another browser, or bring in another device.",
    "resting": "The phone’s page is hidden or its screen is locked: open it again; the picture comes back by itself.",
}


@dataclass
class Visitor:
    """One phone or tablet while this process runs. changed: it has something to hear."""

    device_id: str
    report: Report | None = None
    orders: Orders = field(default_factory=Orders)
    seen_s: float = float("-inf")
    awaited_s: float = float("-inf")  # when the door was last told to wait for it
    session: WhipSession | None = None
    offered_s: float = float("-inf")
    sound_db: float | None = None
    changed: asyncio.Event = field(default_factory=asyncio.Event)

    def is_here(self, now_s: float) -> bool:
        return now_s - self.seen_s < HERE_FOR_S


class Visitors:
    """Its coroutines run on the web's one loop; the others may be called from any thread."""

    def __init__(self, state: AppState) -> None:
        self._state = state
        self._by_id: dict[str, Visitor] = {}
        self._loop: asyncio.AbstractEventLoop | None = None
        self._run = secrets.token_hex(4)

    def start(self) -> None:
        self._loop = asyncio.get_running_loop()

    async def close(self) -> None:
        """Repeatable."""
        for visitor in tuple(self._by_id.values()):
            await self.hang_up(visitor)

    # who is who

    def by_token(self, token: str) -> Visitor:
        """Raises NotAGuest."""
        guest = guests.by_token(self._state.database, token) if token else None
        if guest is None:
            raise NotAGuest
        return self.of_device(guest.device_id)

    def of_device(self, device_id: str) -> Visitor:
        visitor = self._by_id.setdefault(device_id, Visitor(device_id))
        feed = self.feed(visitor)
        if feed is not None and feed.on_want is None:
            feed.on_want = lambda: self._tell(visitor)
        return visitor

    def is_here(self, device_id: str) -> bool:
        visitor = self._by_id.get(device_id)
        return visitor is not None and visitor.is_here(time.monotonic())

    def feed(self, visitor: Visitor) -> CameraFeed | None:
        """None while another lesson's kit is open."""
        feed = self._state.running.feeds.get(visitor.device_id)
        return feed if isinstance(feed, CameraFeed) else None

    def sounds(self) -> dict[str, float | None]:
        """Levels of their microphones, dBFS, by device; None where none is open."""
        return {device_id: visitor.sound_db for device_id, visitor in tuple(self._by_id.items())}

    def microphones(self) -> dict[str, bool]:
        """Of those that are here and may listen: whether their microphone is open, by device. Told to close, it counts as closed."""
        now_s = time.monotonic()
        here = [visitor for visitor in tuple(self._by_id.values()) if visitor.is_here(now_s) and visitor.report is not None]
        reports = {one.device_id: (one.report.microphone, one.orders.microphone) for one in here if one.report is not None}
        return {id_: told == "on" and ordered is not False for id_, (told, ordered) in reports.items() if told != "none"}

    def open_microphone(self, device_id: str) -> None:
        """This one's and no other's, here and on the phones."""
        room = self._state.running.sound.microphones
        if room.join(device_id, kits.device(self._state.database, device_id).name, kind="phone"):
            room.open(device_id)
        self.open_microphones([device_id])

    def open_microphones(self, device_ids: Collection[str]) -> None:
        """Of the phones these and no others."""
        for one, is_open in self.microphones().items():
            visitor, wanted = self._by_id[one], one in device_ids
            if is_open != wanted or visitor.orders.microphone not in (None, wanted):
                self.order(one, lambda orders, wanted=wanted: orders.model_copy(update={"microphone": wanted}))  # type: ignore[misc]

    # what they tell and hear

    async def hear(self, visitor: Visitor, report: Report) -> GuestState:
        """What the phone tells; answered at once when there is something to do, else within ANSWER_WITHIN_S."""
        is_news = visitor.report is None or visitor.report.phase != report.phase
        await asyncio.to_thread(self._take, visitor, report)
        if not is_news and visitor.orders.number <= report.done:
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(ANSWER_WITHIN_S):
                    await visitor.changed.wait()
        visitor.changed.clear()
        visitor.seen_s = time.monotonic()
        return await asyncio.to_thread(self._say, visitor)

    def _take(self, visitor: Visitor, report: Report) -> None:
        now_s = time.monotonic()
        came_back = not visitor.is_here(now_s)
        self._follow_microphone(visitor, report)
        visitor.report, visitor.seen_s = report, now_s
        device = kits.device(self._state.database, visitor.device_id)
        microphone = {"none": "", "off": f"{device.label}’s own, off", "on": f"{device.label}’s own, on"}[report.microphone]
        known = (device.max_width, device.max_height, device.microphone)
        if known != (report.max_width, report.max_height, microphone):
            changes = {"max_width": report.max_width, "max_height": report.max_height, "microphone": microphone}
            kits.update_device(self._state.database, device.id, **changes)
            self._state.running.stage.versions.touch("kit")
        if came_back or now_s - visitor.awaited_s > AWAIT_AGAIN_S:
            visitor.awaited_s = now_s
            guests.wait_for(self._state.database, visitor.device_id, awaited_until())
            self._state.running.stage.versions.touch("kit")
        feed = self.feed(visitor)
        if feed is not None:
            _note(feed, report)

    def _follow_microphone(self, visitor: Visitor, report: Report) -> None:
        """Opened or closed on the phone itself: here too, so that one is open and only one."""
        if report.done < visitor.orders.number:  # it has not yet done what it was last asked for
            return
        before = visitor.report.microphone if visitor.report is not None else "off"
        if before != "on" and report.microphone == "on" and not visitor.orders.microphone:
            self.open_microphone(visitor.device_id)
        elif before == "on" and report.microphone != "on" and visitor.orders.microphone:
            self._state.running.sound.microphones.leave(visitor.device_id)
            self.order(visitor.device_id, lambda orders: orders.model_copy(update={"microphone": False}))

    def _say(self, visitor: Visitor) -> GuestState:
        device, feed = kits.device(self._state.database, visitor.device_id), self.feed(visitor)
        state = feed.state(time.monotonic()) if feed else "off"
        return GuestState(
            run=self._run,
            name=device.name,
            serves=device.serves,
            state=state,
            arrives=state in ARRIVING,
            wanted=feed is not None and feed.wanted,
            fps=self._state.running.desk.max_fps,
            width=device.width,
            height=device.height,
            orders=visitor.orders,
        )

    def order(self, device_id: str, change: Callable[[Orders], Orders]) -> None:
        """From the teacher's side."""
        visitor = self.of_device(device_id)
        visitor.orders = change(visitor.orders).model_copy(update={"number": visitor.orders.number + 1})
        self._tell(visitor)

    def send_home(self) -> None:
        """The lesson is over: every phone lets its camera go."""
        for visitor in tuple(self._by_id.values()):
            if visitor.is_here(time.monotonic()):
                self.order(visitor.device_id, lambda orders: orders.model_copy(update={"leave": True}))

    def wait_for(self, device_id: str) -> None:
        """Hold the door open for it again."""
        guests.wait_for(self._state.database, device_id, awaited_until())

    # their pictures

    async def answer_offer(self, visitor: Visitor, offer: str, near: Callable[[str], bool]) -> str:
        """A WHIP offer; a newer one replaces the older connection. near: see `WhipSession`. Raises UnusableOffer, NotNow."""
        feed = self.feed(visitor)
        if feed is None:
            raise NotNow
        due_s = visitor.offered_s + OFFER_EVERY_S
        visitor.offered_s = max(due_s, time.monotonic())
        if due_s > time.monotonic():
            await asyncio.sleep(due_s - time.monotonic())  # one after the other: each is read on the one loop
        await self.hang_up(visitor)
        feed.restart(time.monotonic())

        if visitor.orders.microphone:  # open before its connection was made anew
            device = await asyncio.to_thread(kits.device, self._state.database, visitor.device_id)
            self._state.running.sound.microphones.reopen(device.id, device.name)

        visitor.session = WhipSession(feed, self.ear(visitor), near)
        return await visitor.session.answer(offer)

    def ear(self, visitor: Visitor) -> Callable[[int, NDArray[np.int16]], None]:
        """What takes its sound, block by block; nobody hears it unless its microphone is the open one."""
        microphones = self._state.running.sound.microphones

        def heard(first: int, block: NDArray[np.int16]) -> None:
            visitor.sound_db = level_db(block)
            microphones.take(visitor.device_id, first, block, time.monotonic())

        return heard

    async def hang_up(self, visitor: Visitor) -> None:
        session, visitor.session, visitor.sound_db = visitor.session, None, None
        self._state.running.sound.microphones.leave(visitor.device_id)
        if session is not None:
            await session.close()

    async def leave(self, visitor: Visitor) -> None:
        """The phone goes for good: the door is not held open for it any more, and closes once this is answered."""
        await self.hang_up(visitor)
        self._state.take_camera(visitor.device_id)  # a line that it still holds sends for nobody from now on
        await asyncio.to_thread(guests.leave, self._state.database, visitor.device_id)
        visitor.seen_s = float("-inf")
        visitor.orders = visitor.orders.model_copy(update={"leave": False})
        feed = self.feed(visitor)
        if feed is not None:
            feed.gone()

    async def look_after(self) -> None:
        """Once a second: phones that fell silent are gone, sessions of devices that were removed are ended."""
        now_s = time.monotonic()
        for visitor in tuple(self._by_id.values()):
            feed = self.feed(visitor)
            if feed is None:
                await self.hang_up(visitor)
            elif not visitor.is_here(now_s):
                feed.gone()

    def _tell(self, visitor: Visitor) -> None:
        if self._loop is not None:
            with contextlib.suppress(RuntimeError):  # it is closed: all ends
                self._loop.call_soon_threadsafe(visitor.changed.set)


def _note(feed: CameraFeed, report: Report) -> None:
    """What a report says of the phone's feed."""
    feed.battery = report.battery.battery() if report.battery else None
    feed.facing = next((lens.facing for lens in report.lenses if lens.id == report.lens), None)
    feed.path_s = (report.path_ms or 0.0) / 1000
    feed.waiting = report.phase == "asking"
    feed.fault = _SENTENCES.get(report.phase)
    if report.phase not in ("sending", "asking"):
        feed.connected = False


def awaited_until() -> float:
    """Seconds since 1970."""
    return time.time() + AWAITED_FOR_S
