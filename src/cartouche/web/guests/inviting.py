"""Invitations: the one that is shown, what the teacher says of its device, and who comes by it."""

import asyncio
import secrets
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, replace

from cartouche.core.guests.invitation import Invitation
from cartouche.core.guests.networks import Network
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.rigs import first_guess, rig_named
from cartouche.store import guests
from cartouche.store.errors import NotKept
from cartouche.store.kits import Device
from cartouche.web.guests.codes import Codes
from cartouche.web.guests.doorkeeper import LOOPBACK
from cartouche.web.guests.errors import ExpiredCode, NoNetwork
from cartouche.web.guests.visitors import awaited_until
from cartouche.web.kit_schemas import NewInvitation
from cartouche.web.state import AppState, new_id


@dataclass(frozen=True)
class Invited:
    """A shown invitation, what the teacher said of the device, and who has come by it."""

    invitation: Invitation
    wish: NewInvitation
    address: str
    device_id: str | None = None


class Inviting:
    """`invite` and `withdraw` run on the web's loop; the others may be called from any thread."""

    def __init__(self, state: AppState, settle_door: Callable[[], Awaitable[None]], networks: Callable[[], list[Network]]) -> None:
        """networks: by which guests may come."""
        self._state, self._settle_door, self._networks = state, settle_door, networks
        self.shown: Invited | None = None
        self._codes = Codes()

    def address(self) -> str | None:
        """Where the shown invitation is expected, while it holds and until who came by it is awaited."""
        shown = self.shown
        return shown.address if shown and self._codes.holds(shown.invitation) else None

    async def invite(self, wish: NewInvitation) -> Invited:
        """A new code; an older one that nobody used runs out. Raises NoNetwork, NotKept, DoorBlocked, CertificateUnusable."""
        address = await asyncio.to_thread(self._address_for, wish)
        await self.withdraw()
        self.shown = Invited(self._codes.new(), wish, address)
        try:
            await self._settle_door()
        except Exception:
            self.shown = None
            raise
        return self.shown

    def _address_for(self, wish: NewInvitation) -> str:
        known = [network.address for network in self._networks()]
        address = wish.address or (known[0] if known else None)
        if address is None or (address not in known and address != LOOPBACK):
            raise NoNetwork
        if wish.device_id is not None and self._state.device(wish.device_id).kind != "guest":
            raise NotKept("phone", wish.device_id)
        return address

    def restate(self, wish: NewInvitation) -> Invited:
        """Say something else of the device that the shown code is for; the code stays. Raises NotKept when none is shown."""
        if self.shown is None or self.shown.device_id is not None:
            raise NotKept("open invitation", "this one")
        self.shown = replace(self.shown, wish=wish)
        return self.shown

    async def withdraw(self) -> None:
        if self.shown is not None:
            self._codes.withdraw(self.shown.invitation)
            self.shown = None
            await self._settle_door()

    def enter(self, code: str, who: str, what: str) -> tuple[Device, str]:
        """By a code: a new device of the kit and its token. what: 'Phone' or 'Tablet'. Raises NotLetIn."""
        with self._codes.enter(code, who) as entered:
            shown = self.shown
            if shown is None or entered is not shown.invitation:
                raise ExpiredCode
            device, token = self._device(shown.wish, what), secrets.token_urlsafe(32)
            guests.add(self._state.database, guests.Guest(device_id=device.id, address=shown.address, awaited_until=awaited_until()), token)
            self._state.take_camera(device.id)  # a line with the token before sends for nobody from now on
            self.shown = replace(shown, device_id=device.id)
            return device, token

    def _device(self, wish: NewInvitation, what: str) -> Device:
        if wish.device_id is not None:
            return self._state.device(wish.device_id)
        device = Device(
            id=new_id("guest"), kit_id=self._state.ensure_kit(), kind="guest", source=what, label=what,
            name=wish.name or f"My {what.lower()}", rig=wish.rig, serves=wish.serves,
        )  # fmt: skip
        return self._state.add_device(device, first_guess(rig_named(device.rig), Chain()))
