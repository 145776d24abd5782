"""A line at the guests' door asks for something soon, and whole, or is closed."""

from typing import Any

from starlette.types import ASGIApp, Message, Receive, Scope, Send
from uvicorn.protocols.http.h11_impl import H11Protocol

from cartouche.web.guests.gate import Acquainted

FIRST_REQUEST_S = 8.0  # with its body, which is never long


class SoonProtocol(H11Protocol):
    """HTTP/1.1 whose first request has come whole by then."""

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self._deadline = self.loop.call_later(FIRST_REQUEST_S, self._look)

    def connection_lost(self, exc: Exception | None) -> None:
        self._deadline.cancel()
        super().connection_lost(exc)

    def _look(self) -> None:
        """A line that became a socket has another protocol by now, and a deadline of its own: see `first_word`."""
        asked = self.cycle is not None and not self.cycle.more_body
        if self in self.connections and not asked and not self.transport.is_closing():
            self.transport.abort()


class Acquaint:
    """Remembers addresses from which somebody was let in: by a code that held, or with a token."""

    def __init__(self, app: ASGIApp, known: Acquainted) -> None:
        self._app, self._known = app, known

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        client: tuple[str, int] | None = scope.get("client")
        vouches = scope["type"] == "http" and _vouches(scope)

        async def told(message: Message) -> None:
            if client is not None and vouches and message["type"] == "http.response.start" and message["status"] < 300:
                self._known.add(client[0])
            await send(message)

        await self._app(scope, receive, told)


def _vouches(scope: Scope) -> bool:
    return scope["path"].endswith("/enter") or any(name == b"authorization" for name, _ in scope["headers"])
