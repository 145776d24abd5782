"""The guests: who is invited, who has come, and the door that they come by."""

from cartouche.web.guests.door import Door
from cartouche.web.guests.doorkeeper import Doorkeeper
from cartouche.web.guests.inviting import Inviting
from cartouche.web.guests.visitors import Visitors
from cartouche.web.guests.watching import Watching
from cartouche.web.state import AppState


class Guests:
    """Runs on the web's one loop."""

    def __init__(self, state: AppState, doors: Door) -> None:
        self.state = state
        self.visitors = Visitors(state)
        self.inviting = Inviting(state, lambda: self.keeper.settle(), doors.networks)
        self.watching = Watching(state, lambda: self.keeper.settle(), doors.networks)
        self.keeper = Doorkeeper(state, doors, self.inviting.address, self.watching.addresses)

    async def start(self) -> None:
        self.visitors.start()
        await self.keeper.settle()

    async def look_after(self) -> None:
        """Once a second."""
        await self.visitors.look_after()
        await self.watching.look_after()
        await self.keeper.settle()

    async def close(self) -> None:
        """Repeatable."""
        await self.visitors.close()
        await self.watching.close()
        await self.keeper.close()
