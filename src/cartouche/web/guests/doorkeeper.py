"""When the guests' door is open: while somebody is invited or awaited, and at no other time."""

import asyncio
import time
from collections.abc import Callable

from cartouche.store import guests
from cartouche.web.guests.door import Door
from cartouche.web.state import AppState

LOOPBACK = "127.0.0.1"


class Doorkeeper:
    """Runs on the web's one loop."""

    def __init__(self, state: AppState, doors: Door, invited_at: Callable[[], str | None], watched_at: Callable[[], set[str]]) -> None:
        """invited_at: the address that a shown invitation names, None while none is shown.  watched_at: where screens watch."""
        self._state, self.doors, self._invited_at, self._watched_at = state, doors, invited_at, watched_at
        self.trouble: str | None = None  # why a door that should be open is not
        self._settling = asyncio.Lock()

    async def settle(self) -> None:
        """Open the door where somebody is invited or awaited, and nowhere else."""
        async with self._settling:  # what is wanted must not grow old before it is done: a fresh invitation would be shut out
            wanted = await asyncio.to_thread(self._wanted_addresses)
            if wanted == set(self.doors.addresses):
                return
            try:
                await self.doors.keep(wanted)
                self.trouble = None
            except Exception as exc:
                if self._invited_at() is not None:
                    raise
                self.trouble = str(exc)  # nobody waits for an answer: it is shown on Kit

    def _wanted_addresses(self) -> set[str]:
        here = {network.address for network in self.doors.networks()} | {LOOPBACK}
        invited, kit_id = self._invited_at(), self._state.kit_id()
        wanted = ({invited} if invited else set()) | self._watched_at()
        awaited = guests.of_kit(self._state.database, kit_id) if kit_id else []
        return (wanted | {guest.address for guest in awaited if guest.awaited_until > time.time()}) & here

    async def close(self) -> None:
        """Repeatable."""
        await self.doors.close()
