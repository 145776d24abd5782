"""A WebSocket through the guests' door (TLS), for a test that waits on its own thread.

The library's synchronous client reads on one thread and writes on another. Before Python 3.13 both may be inside one TLS object at
once: of 6,900 such lines 11 never sent their request, to a server without any of our code. Here an event loop does both.
"""

import asyncio
import contextlib
import ssl
import threading
from collections.abc import Coroutine
from typing import Any, Self

from websockets.asyncio.client import ClientConnection, connect
from websockets.typing import Origin


class SecureLine:
    """Open until it is closed."""

    def __init__(self, address: str, context: ssl.SSLContext) -> None:
        """address: https://host:port/path, its origin the same host. Raises what the library raises."""
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._loop.run_forever, daemon=True)
        self._thread.start()
        try:
            self._line: ClientConnection = self._run(self._opened(address, context))
        except BaseException:
            self._end()
            raise

    async def _opened(self, address: str, context: ssl.SSLContext) -> ClientConnection:
        origin = "/".join(address.split("/")[:3])
        return await connect(address.replace("https", "wss", 1), ssl=context, origin=Origin(origin))

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        with contextlib.suppress(OSError):
            self._run(self._line.close())
        self._end()

    def send(self, message: str | bytes) -> None:
        """Raises ConnectionClosed."""
        self._run(self._line.send(message))

    def recv(self, timeout_s: float) -> str | bytes:
        """Raises ConnectionClosed, TimeoutError."""
        return self._run(self._soon(timeout_s))

    async def _soon(self, timeout_s: float) -> str | bytes:
        async with asyncio.timeout(timeout_s):
            return await self._line.recv()

    def _run(self, work: Coroutine[Any, Any, Any]) -> Any:
        return asyncio.run_coroutine_threadsafe(work, self._loop).result()

    def _end(self) -> None:
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join()
        self._loop.close()
