"""Who is invited, who has come, and what is known of each: the teacher's side of the door."""

import asyncio
import contextlib
import secrets
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from cartouche.core.kit.invitation import ALPHABET, CODE_LENGTH, Invitation, Invitations, Refused
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.rigs import first_guess, rig_named
from cartouche.core.watch.signal import State
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.whip import WhipSession
from cartouche.store import chains, guests, kits
from cartouche.store.errors import NotKept
from cartouche.store.kits import Device
from cartouche.web.guests.door import Doors, networks_here
from cartouche.web.guests.errors import BY_REASON, ExpiredCode, NoNetwork, NotAGuest, NotNow
from cartouche.web.guests.reports import GuestState, Orders, Report
from cartouche.web.kit_schemas import NewInvitation
from cartouche.web.state import AppState, new_id

AWAITED_FOR_S = 12 * 3600.0  # a phone that went to sleep in the morning's lesson is let in again in the afternoon's
AWAIT_ANEW_S = 3600.0  # while it is here
HERE_FOR_S = 4.0  # its page tells of itself at least once a second
ANSWER_WITHIN_S = 1.0
LOOPBACK = "127.0.0.1"
ARRIVING: frozenset[State] = frozenset({"live", "blurred", "black", "stuck"})

_SENTENCES = {
    "denied": "The phone does not let this page use its camera: allow it in the browser’s settings for the page, then reload it there.",
    "busy": "Another app on the phone holds its camera: close that app, then press Try again on the phone.",
    "none": "The phone’s browser finds no camera.",
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
    sound_db: float | None = None
    changed: asyncio.Event = field(default_factory=asyncio.Event)

    def is_here(self, now_s: float) -> bool:
        return now_s - self.seen_s < HERE_FOR_S


@dataclass(frozen=True)
class Invited:
    """A shown invitation, what the teacher said of the device, and who has come by it."""

    invitation: Invitation
    asked: NewInvitation
    address: str
    device_id: str | None = None


class Guests:
    """Its coroutines run on the web's one loop; `order`, `visitor` and `invited` may be called from other threads."""

    def __init__(self, state: AppState, doors: Doors) -> None:
        self.state, self.doors = state, doors
        self.invited: Invited | None = None
        self.trouble: str | None = None  # why a door that should be open is not
        self._invitations, self._entering = Invitations(), threading.Lock()
        self._visitors: dict[str, Visitor] = {}
        self._loop: asyncio.AbstractEventLoop | None = None
        self._run = secrets.token_hex(4)
        self._settling = asyncio.Lock()

    # the door

    async def start(self) -> None:
        self._loop = asyncio.get_running_loop()
        await self.settle()

    async def settle(self) -> None:
        """Open the door where somebody is invited or awaited, and nowhere else."""
        async with self._settling:  # what is wanted must not grow old before it is done: a fresh invitation would be shut out
            wanted = await asyncio.to_thread(self._wanted_addresses)
            if wanted != set(self.doors.addresses):
                try:
                    await self.doors.keep(wanted)
                    self.trouble = None
                except Exception as exc:
                    if self.invited is None:  # nobody waits for an answer: it is shown on Kit
                        self.trouble = str(exc)
                        return
                    raise

    def _wanted_addresses(self) -> set[str]:
        here = {one.address for one in networks_here()} | {LOOPBACK}
        invited, now_s = self.invited, time.monotonic()
        wanted = {invited.address} if invited and invited.invitation.left_s(now_s) > 0 else set()
        if self.state.lesson_id is not None:
            awaited = guests.of_kit(self.state.database, self.state.open_lesson().kit_id)
            wanted |= {one.address for one in awaited if one.awaited_until > time.time()}
        return wanted & here

    async def close(self) -> None:
        """Repeatable."""
        for visitor in self._visitors.values():
            if visitor.session is not None:
                await visitor.session.close()
        await self.doors.close()

    # invitations

    async def invite(self, asked: NewInvitation) -> Invited:
        """A new code; an older one that nobody used runs out. Raises NoNetwork, DoorBlocked, CertificateUnusable."""
        now_s = time.monotonic()
        known = [one.address for one in networks_here()]
        address = asked.address or (known[0] if known else None)
        if address is None or (address not in known and address != LOOPBACK):
            raise NoNetwork
        if asked.device_id is not None and self.state.device(asked.device_id).kind != "guest":
            raise NotKept("phone", asked.device_id)
        await self.withdraw()
        code = "".join(secrets.choice(ALPHABET) for _ in range(CODE_LENGTH))
        self.invited = Invited(self._invitations.add(code, now_s), asked, address)
        try:
            await self.settle()
        except Exception:
            self.invited = None
            raise
        return self.invited

    def restate(self, asked: NewInvitation) -> Invited:
        """Say something else of the device that the shown code is for; the code stays. Raises NotKept when none is shown."""
        if self.invited is None or self.invited.device_id is not None:
            raise NotKept("open invitation", "this one")
        self.invited = replace(self.invited, asked=asked)
        return self.invited

    async def withdraw(self) -> None:
        if self.invited is not None:
            self._invitations.withdraw(self.invited.invitation, time.monotonic())
            self.invited = None
            await self.settle()

    def enter(self, code: str, who: str, what: str) -> tuple[Device, str]:
        """By a code: a new device of the kit and its token. what: 'Phone' or 'Tablet'. Raises NotLetIn."""
        with self._entering:  # two at once must not both come in by one code
            entered = self._invitations.enter(code, who, time.monotonic())
        invited = self.invited
        if isinstance(entered, Refused):
            raise BY_REASON[entered.reason]
        if invited is None or entered is not invited.invitation:
            raise ExpiredCode
        device, token = self._add(invited, what), secrets.token_urlsafe(32)
        guests.add(self.state.database, guests.Guest(device_id=device.id, address=invited.address, awaited_until=_until()), token)
        self.invited = replace(invited, device_id=device.id)
        return device, token

    def _add(self, invited: Invited, what: str) -> Device:
        asked = invited.asked
        if asked.device_id is not None:
            return self.state.device(asked.device_id)
        device = Device(
            id=new_id("guest"), kit_id=self.state.open_lesson().kit_id, kind="guest", source=what, label=what,
            name=asked.name or f"My {what.lower()}", rig=asked.rig, serves=asked.serves,
        )  # fmt: skip
        with self.state.lock:
            kits.add_device(self.state.database, device)
            chains.settle(self.state.database, device.id, first_guess(rig_named(device.rig), Chain()))
            self.state.reopen()
        return device

    # visitors

    def visitor(self, token: str) -> Visitor:
        """Raises NotAGuest."""
        guest = guests.by_token(self.state.database, token) if token else None
        if guest is None:
            raise NotAGuest
        return self.visitor_of(guest.device_id)

    def visitor_of(self, device_id: str) -> Visitor:
        visitor = self._visitors.setdefault(device_id, Visitor(device_id))
        feed = self.feed(visitor)
        if feed is not None and feed.on_want is None:
            feed.on_want = lambda: self._tell(visitor)
        return visitor

    def feed(self, visitor: Visitor) -> CameraFeed | None:
        """None while another lesson's kit is open."""
        feed = self.state.running.feeds.get(visitor.device_id)
        return feed if isinstance(feed, CameraFeed) else None

    async def hear(self, visitor: Visitor, report: Report) -> GuestState:
        """What the phone tells; answered at once when there is something to do, else within ANSWER_WITHIN_S."""
        is_news = visitor.report is None or visitor.report.phase != report.phase
        await asyncio.to_thread(self._take, visitor, report)
        if not is_news and visitor.orders.number <= report.done:
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(visitor.changed.wait(), ANSWER_WITHIN_S)
        visitor.changed.clear()
        visitor.seen_s = time.monotonic()
        return await asyncio.to_thread(self._say, visitor)

    def _take(self, visitor: Visitor, report: Report) -> None:
        now_s = time.monotonic()
        came_back = not visitor.is_here(now_s)
        visitor.report, visitor.seen_s = report, now_s
        device = kits.device(self.state.database, visitor.device_id)
        microphone = {"none": "", "off": f"{device.label}’s own, off", "on": f"{device.label}’s own, on"}[report.microphone]
        told = device.model_copy(update={"max_width": report.max_width, "max_height": report.max_height, "microphone": microphone})
        if told != device:
            with self.state.lock:
                kits.change_device(self.state.database, told)
                self.state.running.version += 1
        if came_back or now_s - visitor.awaited_s > AWAIT_ANEW_S:
            visitor.awaited_s = now_s
            guests.wait_for(self.state.database, visitor.device_id, _until())
        feed = self.feed(visitor)
        if feed is not None:
            feed.battery = report.battery.battery() if report.battery else None
            feed.facing = next((lens.facing for lens in report.lenses if lens.id == report.lens), None)
            # over WebRTC a picture is handed on only when the next one begins
            frame_s = 1 / max(feed.fps(now_s), 5.0) if report.transport == "webrtc" else 0.0
            feed.path_s = (report.path_ms or 0.0) / 1000 + frame_s
            feed.waiting = report.phase == "asking"
            feed.fault = _SENTENCES.get(report.phase)
            if report.phase not in ("sending", "asking"):
                feed.connected = False

    def _say(self, visitor: Visitor) -> GuestState:
        device, feed = kits.device(self.state.database, visitor.device_id), self.feed(visitor)
        state = feed.state(time.monotonic()) if feed else "off"
        return GuestState(
            run=self._run,
            name=device.name,
            serves=device.serves,
            state=state,
            arrives=state in ARRIVING,
            wanted=feed is not None and feed.wanted,
            width=device.width,
            height=device.height,
            orders=visitor.orders,
        )

    async def answer_offer(self, visitor: Visitor, offer: str) -> str:
        """A WHIP offer; a newer one replaces the older connection. Raises UnusableOffer, NotNow."""
        feed = self.feed(visitor)
        if feed is None:
            raise NotNow
        await self.hang_up(visitor)
        feed.restart(time.monotonic())

        def heard(db: float) -> None:
            visitor.sound_db = db

        visitor.session = WhipSession(feed, heard)
        return await visitor.session.answer(offer)

    async def hang_up(self, visitor: Visitor) -> None:
        session, visitor.session, visitor.sound_db = visitor.session, None, None
        if session is not None:
            await session.close()

    async def leave(self, visitor: Visitor) -> None:
        """The phone goes for good: the door is not held open for it any more, and closes once this is answered."""
        await self.hang_up(visitor)
        await asyncio.to_thread(guests.wait_for, self.state.database, visitor.device_id, 0.0)
        visitor.seen_s = float("-inf")
        feed = self.feed(visitor)
        if feed is not None:
            feed.gone()

    async def look_after(self) -> None:
        """Once a second: phones that fell silent are gone, sessions of devices taken out are ended, doors are settled."""
        now_s = time.monotonic()
        for visitor in tuple(self._visitors.values()):
            feed = self.feed(visitor)
            if feed is None:
                await self.hang_up(visitor)
            elif not visitor.is_here(now_s):
                feed.gone()
        await self.settle()

    # from the teacher's side

    def order(self, device_id: str, change: Callable[[Orders], Orders]) -> None:
        visitor = self.visitor_of(device_id)
        visitor.orders = change(visitor.orders).model_copy(update={"number": visitor.orders.number + 1})
        self._tell(visitor)

    def wait_for(self, device_id: str) -> None:
        """Hold the door open for it again."""
        guests.wait_for(self.state.database, device_id, _until())

    def visitors(self) -> dict[str, Visitor]:
        return dict(self._visitors)

    def _tell(self, visitor: Visitor) -> None:
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(visitor.changed.set)


def _until() -> float:
    return time.time() + AWAITED_FOR_S
