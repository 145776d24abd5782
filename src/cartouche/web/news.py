"""What is going on, told to every open tab: looked at once for all of them, when something has changed and else twice a second."""

import asyncio
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress

from cartouche.live.troubles import Troubles

EVERY_S = 0.5
SOONEST_S = 0.05  # a drag changes things faster than anybody reads


class Listener:
    """One open tab. It gets the newest, and misses what was overtaken meanwhile."""

    def __init__(self) -> None:
        self._text: str | None = None
        self._arrived = asyncio.Event()

    def tell(self, text: str) -> None:
        self._text = text
        self._arrived.set()

    async def newest(self) -> str:
        await self._arrived.wait()
        self._arrived.clear()
        assert self._text is not None
        return self._text


class LiveNews:
    """`look` is called on a thread; nothing is looked at while no tab listens."""

    def __init__(self, look: Callable[[], str], troubles: Troubles) -> None:
        self._look, self._troubles = look, troubles
        self._listeners: set[Listener] = set()
        self._changed = asyncio.Event()
        self._loop: asyncio.AbstractEventLoop | None = None

    def changed(self) -> None:
        """From any thread."""
        if self._loop is not None:
            with suppress(RuntimeError):  # it is closed: all ends
                self._loop.call_soon_threadsafe(self._changed.set)

    @contextmanager
    def listening(self) -> Iterator[Listener]:
        listener = Listener()
        self._listeners.add(listener)
        self._changed.set()
        try:
            yield listener
        finally:
            self._listeners.discard(listener)

    async def run(self) -> None:
        """Until cancelled."""
        self._loop = asyncio.get_running_loop()
        while True:
            if not self._listeners:
                await self._changed.wait()
            self._changed.clear()
            with self._troubles.guard("send"):
                text = await asyncio.to_thread(self._look)
                for listener in tuple(self._listeners):
                    listener.tell(text)
            await asyncio.sleep(SOONEST_S)
            with suppress(TimeoutError):
                async with asyncio.timeout(EVERY_S - SOONEST_S):  # `wait_for` loses an end that comes together with the news
                    await self._changed.wait()
