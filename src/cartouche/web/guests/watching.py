"""Who watches by an invitation: the board's own computer, a co-teacher, a room system. They get the outgoing picture and nothing else."""

import asyncio
import secrets
import time
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field, replace

from aiortc import RTCSessionDescription

from cartouche.core.guests.invitation import Invitation
from cartouche.core.guests.networks import Network
from cartouche.live.hang_up import describe
from cartouche.live.out.peer import OutgoingPeer, taken_by
from cartouche.live.out.takers import TakerFacts
from cartouche.live.whip import CONNECTS_WITHIN_S, bounded, without_far
from cartouche.store import settings, watchers
from cartouche.store.guests import hash_of
from cartouche.web.guests.codes import Codes
from cartouche.web.guests.doorkeeper import LOOPBACK
from cartouche.web.guests.errors import CannotWatch, ExpiredCode, NoNetwork, NotAWatcher, TooManyWatchers
from cartouche.web.state import AppState, new_id

AWAITED_FOR_S = 12 * 3600.0
FAREWELL_S = 15.0  # the door stays open so long for a screen that was ended: it asks again, and is told
MAX_WATCHERS = 6
CAMERA_KEY, CAMERA_ADDRESS = "network_camera_key", "network_camera_address"


@dataclass(frozen=True)
class Shown:
    """The invitation that is on the screen. watcher_id: who has come by it.  may: what it is good for."""

    invitation: Invitation
    address: str
    watcher_id: str | None = None
    may: watchers.May = "watch"


@dataclass(eq=False)
class Session:
    peer: OutgoingPeer
    watcher: watchers.Watcher
    answered_s: float = field(default_factory=time.monotonic)  # from then on its way can be looked for
    id: str = field(default_factory=lambda: new_id("view"))


class Watching:
    """Its coroutines run on the web's one loop; the others may be called from any thread."""

    def __init__(self, state: AppState, settle_door: Callable[[], Awaitable[None]], networks: Callable[[], list[Network]]) -> None:
        """networks: by which watchers may come."""
        self._state, self._settle_door, self._networks = state, settle_door, networks
        self._codes = Codes()
        self._sessions: dict[str, Session] = {}
        self.shown: Shown | None = None
        self._farewells: dict[str, float] = {}  # by address, until when
        self._camera = settings.setting(state.database, CAMERA_KEY) or ""

    # invitations

    def addresses(self) -> set[str]:
        """Where somebody is invited or awaited, or a room system may look."""
        now, shown = time.time(), self.shown
        invited = shown is not None and self._codes.holds(shown.invitation)
        # asked for after that: who comes in just now is the one or the other
        wanted = {watcher.address for watcher in watchers.watchers(self._state.database, now)}
        if shown is not None and invited:
            wanted.add(shown.address)
        wanted |= {address for address, until in tuple(self._farewells.items()) if until > now}
        return wanted | ({self.camera_address()} if self.camera_key() else set())

    async def invite(self, address: str | None, may: watchers.May = "watch") -> Shown:
        """A code for one watcher, or for one remote. Raises NoNetwork, DoorBlocked, CertificateUnusable."""
        chosen = self._chosen(address)
        await self.withdraw()
        self.shown = Shown(self._codes.new(), chosen, may=may)
        await self._settle_door()
        return self.shown

    def _chosen(self, address: str | None) -> str:
        known = [network.address for network in self._networks()]
        chosen = address or (known[0] if known else None)
        if chosen is None or (chosen not in known and chosen != LOOPBACK):
            raise NoNetwork
        return chosen

    async def withdraw(self) -> None:
        if self.shown is not None:
            self._codes.withdraw(self.shown.invitation)
            self.shown = None
            await self._settle_door()

    def enter(self, code: str, who: str, name: str, may: watchers.May = "watch") -> tuple[watchers.Watcher, str]:
        """By a code: a token, good for this alone. Raises NotLetIn."""
        shown = self.shown
        for_this = shown is not None and shown.may == may
        with self._codes.enter(code if for_this else "", who) as entered:  # at the wrong page it is wrong, and not used up
            shown = self.shown
            if shown is None or entered is not shown.invitation:
                raise ExpiredCode
            token = secrets.token_urlsafe(32)
            until = time.time() + AWAITED_FOR_S
            watcher = watchers.Watcher(id=new_id("watcher"), name=name, address=shown.address, awaited_until=until, may=may)
            watchers.add(self._state.database, watcher, token)
            self.shown = replace(shown, watcher_id=watcher.id)
        self._touch()
        return watcher, token

    def by_token(self, token: str, may: watchers.May = "watch") -> watchers.Watcher:
        """Raises NotAWatcher, for a token that is good for something else too."""
        found = watchers.by_token(self._state.database, token) if token else None
        if found is None or found.awaited_until < time.time() or found.may != may:
            raise NotAWatcher
        return found

    async def forget(self, watcher_id: str) -> None:
        """It sees nothing any more, at once."""
        known = await asyncio.to_thread(watchers.watchers, self._state.database, time.time())
        self._farewells |= {one.address: time.time() + FAREWELL_S for one in known if one.id == watcher_id}
        await asyncio.to_thread(watchers.forget, self._state.database, watcher_id)
        for session in [one for one in self._sessions.values() if one.watcher.id == watcher_id]:
            await self.end(session.id)
        self._touch()
        await self._settle_door()

    # watching

    async def answer(self, watcher: watchers.Watcher, offer: str, near: Callable[[str], bool]) -> tuple[str, str]:
        """A WHEP offer: the session's id and the answer. A watcher has one; a newer one takes its place. near: see `WhipSession`.

        Raises CannotWatch."""
        for session in [one for one in self._sessions.values() if one.watcher.id == watcher.id]:
            await self.end(session.id)
        if len(self._sessions) >= MAX_WATCHERS:
            raise TooManyWatchers
        running = self._state.running
        peer = OutgoingPeer(running.encodings, running.sound.mixer, [])
        connection = peer.connection
        sound, codec = "\nm=audio" in offer, taken_by(offer)
        try:
            if "\nm=video" not in offer:
                raise ValueError("it asks for no picture")
            if codec is None:
                raise ValueError("it takes neither H.264 nor VP8")
            # before the offer is read: which codec is wanted counts then alone
            peer.send(running.desk.size, sound=sound, codec=codec)
            await connection.setRemoteDescription(RTCSessionDescription(without_far(bounded(offer), near), "offer"))
            await describe(connection, await connection.createAnswer())
        except Exception as exc:  # aiortc raises whatever its parsers meet
            await peer.close()
            raise CannotWatch(str(exc) if type(exc) is ValueError else type(exc).__name__) from exc
        session = Session(peer, watcher)
        self._sessions[session.id] = session
        running.takers.put(session, TakerFacts("viewer", watcher.name, size=running.desk.size, sound=sound))
        return session.id, connection.localDescription.sdp

    def session_of(self, session_id: str, watcher: watchers.Watcher) -> Session:
        """Raises NotAWatcher for another's."""
        session = self._sessions.get(session_id)
        if session is None or session.watcher.id != watcher.id:
            raise NotAWatcher
        return session

    async def end(self, session_id: str) -> None:
        """Repeatable."""
        session = self._sessions.pop(session_id, None)
        if session is not None:
            self._state.running.takers.drop(session)
            await session.peer.close()

    async def look_after(self) -> None:
        """Once a second: who vanished, or never came through, costs nothing any more."""
        for session in tuple(self._sessions.values()):
            late = time.monotonic() - session.answered_s > CONNECTS_WITHIN_S and session.peer.state != "connected"
            if late or session.peer.state in ("failed", "closed"):
                await self.end(session.id)

    async def close(self) -> None:
        """Repeatable."""
        for session_id in tuple(self._sessions):
            await self.end(session_id)

    # a room system's network camera

    def camera_key(self) -> str | None:
        """Part of its address; None while it is off."""
        return self._camera or None

    def camera_address(self) -> str:
        return settings.setting(self._state.database, CAMERA_ADDRESS) or LOOPBACK

    async def switch_camera(self, on: bool, address: str | None) -> None:
        """Each time with another key. Raises NoNetwork, DoorBlocked, CertificateUnusable."""
        chosen = self._chosen(address) if on else ""

        key = secrets.token_urlsafe(24) if on else ""

        def keep() -> None:
            settings.set_setting(self._state.database, CAMERA_KEY, key)
            settings.set_setting(self._state.database, CAMERA_ADDRESS, chosen)
            self._camera = key

        await asyncio.to_thread(keep)
        self._touch()
        await self._settle_door()

    def is_camera_key(self, key: str) -> bool:
        return bool(self._camera) and secrets.compare_digest(hash_of(self._camera), hash_of(key))

    def _touch(self) -> None:
        self._state.running.stage.versions.touch("ways")
