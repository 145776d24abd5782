"""Lines at the guests' door are accepted on a thread of their own, so many a second: what floods it costs the teacher's page nothing."""

import asyncio
import contextlib
import socket
import ssl
import threading
import time
from collections.abc import Callable

from cartouche.web.guests.gate import Gate

HANDSHAKE_S = 5.0  # of TLS; a telephone takes a tenth of a second
LOOKS_S = 0.2  # for the end
RESTS_S = 0.05  # once so many were turned away that the gate says it is enough: the others wait in the system's own queue


class Porter:
    """Speaks TLS with whom the gate lets in. As an `asyncio.Server` it is closed, and waited for."""

    def __init__(self, gate: Gate, protocol: Callable[[], asyncio.Protocol], context: ssl.SSLContext) -> None:
        self._gate, self._protocol, self._context = gate, protocol, context
        self._loop = asyncio.get_running_loop()
        self._greeted: set[asyncio.Task[None]] = set()
        self._over = threading.Event()
        gate.settimeout(LOOKS_S)
        self._thread = threading.Thread(target=self._work, name="porter", daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Repeatable. Lines that were let in stay."""
        self._over.set()

    async def wait_closed(self) -> None:
        await asyncio.to_thread(self._thread.join)

    def _work(self) -> None:
        while not self._over.is_set():
            try:
                line, _ = self._gate.accept()
            except TimeoutError:
                continue
            except OSError:  # too many at once, no file left, or the door is closing
                time.sleep(RESTS_S)
                continue
            with contextlib.suppress(RuntimeError):  # the loop has ended
                self._loop.call_soon_threadsafe(self._greet, line)

    def _greet(self, line: socket.socket) -> None:
        task = self._loop.create_task(self._let_in(line))
        self._greeted.add(task)
        task.add_done_callback(self._greeted.discard)

    async def _let_in(self, line: socket.socket) -> None:
        try:
            await self._loop.connect_accepted_socket(self._protocol, line, ssl=self._context, ssl_handshake_timeout=HANDSHAKE_S)
        except OSError:  # no TLS, or too slowly
            line.close()
