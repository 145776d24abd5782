"""Sockets: pictures out to our screens, pictures in from a browser's camera, and the state of everything."""

import asyncio
import contextlib
import time
from collections.abc import Awaitable, Callable
from functools import partial
from typing import Annotated

import anyio
from fastapi import APIRouter, Query, WebSocket, WebSocketDisconnect

from cartouche.core.call.audience import AUDIENCES
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.feeds import Feed
from cartouche.live.hub import Viewer
from cartouche.web.pictures_in import MALFORMED, UNKNOWN, take_pictures
from cartouche.web.state import AppState, socket_state
from cartouche.web.views import live_view

router = APIRouter()

LIVE_EVERY_S, LIVE_LOOK_S = 0.5, 0.05
MAX_TEXT = 64  # characters: an acknowledgement is under twenty


@router.websocket("/api/surfaces/{key}")
async def surface(
    socket: WebSocket,
    key: str,
    width: Annotated[int, Query(ge=16, le=1920)] = 1280,
    fps: Annotated[float, Query(ge=1, le=60)] = 30,
    window: bool = False,
) -> None:
    """JPEG pictures of one surface, newest wins; the page says `drawn` for each. `clock TOKEN` answers with our clock.

    window: this is the outgoing window, which counts as going out.
    """
    state = socket_state(socket)
    await socket.accept()
    if not _known_surface(state, key):
        await socket.close(UNKNOWN, "There is no such picture.")
        return
    viewer = Viewer(key, width, fps, asyncio.get_running_loop())
    state.running.hub.look(viewer)
    state.windows += int(window)
    try:
        await _first_to_end(partial(_send_pictures, socket, viewer), partial(_hear_viewer, socket, viewer))
    finally:
        state.windows -= int(window)
        state.running.hub.leave(viewer)


def _known_surface(state: AppState, key: str) -> bool:
    kind, _, name = key.partition(":")
    if kind == "audience":
        return any(audience.id == name for audience in AUDIENCES)
    if kind == "plate":
        return name in state.running.plates
    return key == "outgoing" or (kind in ("raw", "page") and state.running.feeds.get(name) is not None)


async def _send_pictures(socket: WebSocket, viewer: Viewer) -> None:
    while True:
        await viewer.arrived.wait()
        viewer.arrived.clear()
        if viewer.picture is not None:
            await socket.send_bytes(viewer.picture)


async def _hear_viewer(socket: WebSocket, viewer: Viewer) -> None:
    while True:
        text = await _text(socket)
        if text == "drawn":
            viewer.in_flight = max(0, viewer.in_flight - 1)
        elif text.startswith("clock ") and len(text) <= MAX_TEXT:
            await socket.send_text(f"{text} {time.monotonic():.6f}")
        else:
            await socket.close(MALFORMED, "This connection takes “drawn” and “clock” only.")
            return


async def _text(socket: WebSocket) -> str:
    message = await socket.receive()
    if message["type"] == "websocket.disconnect":
        raise WebSocketDisconnect(message.get("code", 1000))
    return str(message.get("text") or "")


@router.websocket("/api/cameras/{device_id}")
async def camera(socket: WebSocket, device_id: str) -> None:
    """H.264 in from one camera or window of the browser's computer. The newest tab wins; the older one is told.

    It is told `go` and `rest`: pictures nobody looks at need not be encoded.
    """
    state = socket_state(socket)
    await socket.accept()
    feed = state.running.feeds.get(device_id)
    if not isinstance(feed, CameraFeed):
        await socket.close(UNKNOWN, "This camera is not in the kit any more. Add it again on the Kit screen.")
        return
    turn = state.take_camera(device_id)
    feed.restart(time.monotonic())
    wants, loop = asyncio.Event(), asyncio.get_running_loop()

    def wanted() -> None:
        loop.call_soon_threadsafe(wants.set)

    feed.on_want = wanted

    def mine() -> bool:
        return state.holds_camera(device_id, turn)

    await _first_to_end(partial(take_pictures, socket, feed, mine), partial(_say_wanted, socket, feed, wants))


async def _say_wanted(socket: WebSocket, feed: Feed, wants: asyncio.Event) -> None:
    while True:
        await socket.send_text("go" if feed.wanted else "rest")
        await wants.wait()
        wants.clear()


@router.websocket("/api/live")
async def live(socket: WebSocket) -> None:
    """LiveView as JSON: at once after a change, else twice a second."""
    state = socket_state(socket)
    await socket.accept()
    await _first_to_end(partial(_send_state, socket, state), partial(_hear_nothing, socket))


async def _send_state(socket: WebSocket, state: AppState) -> None:
    sent_version, sent_windows, sent_s = -1, -1, 0.0
    while True:
        now_s = time.monotonic()
        version, windows = state.running.version, state.windows
        if version != sent_version or windows != sent_windows or now_s - sent_s >= LIVE_EVERY_S:
            sent_version, sent_windows, sent_s = version, windows, now_s
            await socket.send_text(live_view(state, socket.app.state.guests, version).model_dump_json())
        await asyncio.sleep(LIVE_LOOK_S)


async def _hear_nothing(socket: WebSocket) -> None:
    while True:
        await _text(socket)
        await socket.close(MALFORMED, "This connection only tells; it takes nothing.")
        return


async def _first_to_end(*parts: Callable[[], Awaitable[None]]) -> None:
    """Run together until one ends, then end the others: a sender must not outlive its reader."""

    async def run(part: Callable[[], Awaitable[None]]) -> None:
        with contextlib.suppress(WebSocketDisconnect, RuntimeError):  # gone, or closed while a message was on its way
            await part()
        group.cancel_scope.cancel()

    async with anyio.create_task_group() as group:
        for part in parts:
            group.start_soon(run, part)
