"""The one server that the picture is sent to by WHIP, as the teacher named it."""

import asyncio

from pydantic import BaseModel

from cartouche.live.out.whip_out import WhipAddress, WhipSender
from cartouche.store.database import Database
from cartouche.store.settings import set_setting, setting
from cartouche.web.state import AppState

ADDRESS = "whip_address"


class ServerView(BaseModel):
    """address: '' for none yet.  says: what is wrong, None where nothing is.  The token is kept nowhere and never told."""

    address: str
    state: str
    says: str | None


class ServerOutlet:
    """Its coroutines run on the web's one loop."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._sender: WhipSender | None = None
        self._state: AppState | None = None

    async def start(self, where: WhipAddress, state: AppState) -> None:
        """What was sent to before ends. Raises AddressUnsafe."""
        running = state.running
        sender = WhipSender(where, running.encodings, running.sound.mixer, running.takers, running.desk.size)
        await self.stop()
        await asyncio.to_thread(set_setting, self._database, ADDRESS, where.address)
        self._sender, self._state = sender, state
        sender.start()

    async def stop(self) -> None:
        """Repeatable."""
        sender, self._sender = self._sender, None
        if sender is not None:
            await sender.stop()

    def view(self) -> ServerView:
        sender, state = self._sender, self._state
        if sender is None or state is None:
            return ServerView(address=setting(self._database, ADDRESS) or "", state="stopped", says=None)
        says = next((facts.says for facts in state.running.takers.all() if facts.kind == "server"), None)
        return ServerView(address=sender.where.address, state=sender.state, says=says)
