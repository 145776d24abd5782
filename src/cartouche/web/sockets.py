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
from cartouche.live.errors import UndecodablePicture
from cartouche.live.hub import Looker
from cartouche.store import kits
from cartouche.store.errors import StoreError
from cartouche.web.state import AppState, socket_state
from cartouche.web.views import live_view

router = APIRouter()

MALFORMED, UNKNOWN, TAKEN_OVER = 1003, 4404, 4409
LIVE_EVERY_S, LIVE_LOOK_S = 0.5, 0.05
MOST_TEXT = 64  # characters: an acknowledgement is under twenty


@router.websocket("/api/surfaces/{key}")
async def surface(
    socket: WebSocket,
    key: str,
    width: Annotated[int, Query(ge=16, le=1920)] = 1280,
    frames_s: Annotated[float, Query(ge=1, le=60)] = 30,
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
    looker = Looker(key, width, frames_s, asyncio.get_running_loop())
    state.running.hub.look(looker)
    state.windows += int(window)
    try:
        await _first_to_end(partial(_send_pictures, socket, looker), partial(_hear_looker, socket, looker))
    finally:
        state.windows -= int(window)
        state.running.hub.leave(looker)


def _known_surface(state: AppState, key: str) -> bool:
    kind, _, name = key.partition(":")
    if kind == "audience":
        return any(audience.id == name for audience in AUDIENCES)
    return key == "outgoing" or (kind in ("raw", "page") and state.running.feeds.get(name) is not None) or _kept_camera(state, kind, name)


def _kept_camera(state: AppState, kind: str, name: str) -> bool:
    """A camera of the kit that has not come in yet may already be waited for."""
    if kind not in ("raw", "page"):
        return False
    with contextlib.suppress(StoreError):
        return kits.device(state.database, name).kind == "camera"
    return False


async def _send_pictures(socket: WebSocket, looker: Looker) -> None:
    while True:
        await looker.arrived.wait()
        looker.arrived.clear()
        if looker.picture is not None:
            await socket.send_bytes(looker.picture)


async def _hear_looker(socket: WebSocket, looker: Looker) -> None:
    while True:
        text = await _text(socket)
        if text == "drawn":
            looker.in_flight = max(0, looker.in_flight - 1)
        elif text.startswith("clock ") and len(text) <= MOST_TEXT:
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
    """H.264 in from one camera of the browser's computer. The newest tab wins; the older one is told."""
    state = socket_state(socket)
    await socket.accept()
    if not _kept_camera(state, "raw", device_id):
        await socket.close(UNKNOWN, "This camera is not in the kit any more. Add it again on the Kit screen.")
        return
    turn = state.take_camera(device_id)
    feed = state.running.open_camera(device_id)
    with contextlib.suppress(WebSocketDisconnect):
        while True:
            message = await socket.receive()
            if message["type"] == "websocket.disconnect":
                if state.holds_camera(device_id, turn):
                    feed.gone()
                return
            if not state.holds_camera(device_id, turn):
                await socket.close(TAKEN_OVER, "This camera now comes in through another tab.")
                return
            try:
                feed.push(message.get("bytes") or b"")
            except UndecodablePicture as exc:
                await socket.close(MALFORMED, str(exc)[:110])
                return


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
            await socket.send_text(live_view(state.running, version, state.lesson_id, windows).model_dump_json())
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
