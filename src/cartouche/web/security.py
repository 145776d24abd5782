"""The guard: our own names only, our own pages only, bounded bodies."""

import sys
from collections.abc import Iterable
from urllib.parse import urlsplit

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from cartouche.core.call.pairing import is_extension

MAX_BODY_BYTES = 256 * 1024  # the largest body we take is a chain of under 2 kB
LARGER = {
    "/api/kit/files": 400_500_000,
    "/api/kits/import": 1_000_000,
    "/api/plates/import": 1_000_000,
    "/api/lessons/calendar": 5_100_000,
}  # files are streamed to disk, see `store.files`
FOR_EXTENSIONS = frozenset({"/api/extension/pair", "/api/extension/paired", "/api/extension/outgoing"})
OUR_NAMES = ("127.0.0.1", "localhost", "[::1]")


class Guard:
    """Refuses foreign Host and Origin on requests and sockets, and bodies beyond MAX_BODY_BYTES."""

    def __init__(self, app: ASGIApp, names: Iterable[str] | None = OUR_NAMES) -> None:
        """names: by which it may be called, None where another guard has seen to that."""
        self._app = app
        self._names = None if names is None else frozenset(names)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        why = self._refusal(scope)
        if why is None and scope["type"] == "http" and _declared_length(scope) > _max_bytes(scope):
            await _answer(send, 413, "That is more than Cartouche takes in one request.")
        elif why is None:
            await self._app(scope, _bounded(receive, _max_bytes(scope)) if scope["type"] == "http" else receive, send)
        elif scope["type"] == "websocket":
            await send({"type": "websocket.close", "code": 1008, "reason": why})
        else:
            await _answer(send, 403, why)

    def _refusal(self, scope: Scope) -> str | None:
        headers = {name: value.decode("latin-1") for name, value in scope["headers"]}
        host = headers.get(b"host", "")
        if self._names is not None and self._name(host) not in self._names:
            return "Open Cartouche by the address that it printed when it started."
        origin = headers.get(b"origin")
        if origin is not None and scope["path"] in FOR_EXTENSIONS and is_extension(origin):
            return None  # each of these asks for the key besides
        if origin is not None and not _is_of(origin, host, scope["scheme"]):
            return "Another web page tried to reach Cartouche; only its own pages may."
        if origin is None and scope["type"] == "websocket":
            return "Only Cartouche's own pages may open this connection."
        return None

    @staticmethod
    def _name(host: str) -> str:
        name, colon, port = host.rpartition(":")
        return name.lower() if colon and port.isdigit() else host.lower()


def _is_of(origin: str, host: str, scheme: str) -> bool:
    """Whether a page of this origin came from this very address; a socket's scheme stands for its page's."""
    try:
        parts = urlsplit(origin)
    except ValueError:  # no address at all
        return False
    return parts.netloc == host and parts.scheme == {"ws": "http", "wss": "https"}.get(scheme, scheme)


def _max_bytes(scope: Scope) -> int:
    return LARGER.get(scope["path"], MAX_BODY_BYTES)


def _declared_length(scope: Scope) -> int:
    for name, value in scope["headers"]:
        if name == b"content-length":
            return int(value) if value.isdigit() else sys.maxsize
    return 0


def _bounded(receive: Receive, max_bytes: int) -> Receive:
    """Ends a body without a declared length once it grows too large."""
    taken = 0

    async def bounded() -> Message:
        nonlocal taken
        message = await receive()
        taken += len(message.get("body", b""))
        if taken > max_bytes:
            return {"type": "http.disconnect"}
        return message

    return bounded


async def _answer(send: Send, status: int, sentence: str) -> None:
    body = ('{"detail":"' + sentence + '"}').encode()
    headers = [(b"content-type", b"application/json"), (b"content-length", str(len(body)).encode())]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
