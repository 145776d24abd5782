"""The guests' door as a path of the school's own address: no listener, no certificate of its own, and shut like the other one."""

from collections.abc import Callable

from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Receive, Scope, Send

from cartouche.core.guests.networks import Network

PATH = "/door"


class InnerDoor:
    def __init__(self, make_app: Callable[[str], ASGIApp], public: Callable[[], str]) -> None:
        """public: where this process is reached from outside, without a slash at its end."""
        self._make_app, self._public = make_app, public
        self._app: ASGIApp | None = None
        self._open: set[str] = set()

    @property
    def addresses(self) -> list[str]:
        return sorted(self._open)

    async def keep(self, wanted: set[str]) -> None:
        self._open = set(wanted)

    async def close(self) -> None:
        """Repeatable."""
        self._open = set()

    def networks(self) -> list[Network]:
        return [Network(self._public().partition("://")[2].split("/")[0], "school", "other", "The school's server", True)]

    def link(self, address: str) -> str:
        return self._public() + PATH

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if self._open:
            self._app = self._app or self._make_app("")
            await self._app(scope, receive, send)
        elif scope["type"] == "websocket":
            await send({"type": "websocket.close", "code": 1008, "reason": "Nobody is invited."})
        else:
            closed = JSONResponse({"detail": "Nobody is invited here just now. Ask the teacher for a new code."}, 404)
            await closed(scope, receive, send)
