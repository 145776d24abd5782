"""Work that ends together."""

from collections.abc import Awaitable, Callable

import anyio
from fastapi import WebSocket, WebSocketDisconnect
from starlette.websockets import WebSocketState

from cartouche.web.state import socket_state


def is_open(socket: WebSocket) -> bool:
    return socket.client_state is WebSocketState.CONNECTED and socket.application_state is WebSocketState.CONNECTED


async def first_to_end(socket: WebSocket, *parts: Callable[[], Awaitable[None]]) -> None:
    """Run together until one ends, then end the others: a sender must not outlive its reader."""
    troubles = socket_state(socket).running.troubles

    async def run(part: Callable[[], Awaitable[None]]) -> None:
        try:
            await part()
        except WebSocketDisconnect:
            pass
        except Exception as exc:
            if not is_open(socket):  # another part is closing it: cut short, its reason would not arrive
                return
            troubles.report("send", exc)
        group.cancel_scope.cancel()

    async with anyio.create_task_group() as group:
        for part in parts:
            group.start_soon(run, part)
