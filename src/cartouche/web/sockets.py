"""Sockets: pictures out to our screens, pictures in from a browser's camera, and the state of everything."""

import asyncio
import re
import time
from functools import partial
from typing import Annotated, Any

from fastapi import APIRouter, Query, WebSocket, WebSocketDisconnect

from cartouche.core.pictures import Size
from cartouche.core.watch.window import WindowFacts
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.demand import Surface
from cartouche.live.desk import Desk
from cartouche.live.feeds import Feed
from cartouche.live.hub import Viewer
from cartouche.live.out.queue import OutgoingQueue, SoundBlock
from cartouche.live.troubles import Troubles
from cartouche.live.windows import Windows
from cartouche.web.news import Listener, LiveNews
from cartouche.web.pictures_in import MALFORMED, UNKNOWN, take_offered
from cartouche.web.state import AppState, socket_state
from cartouche.web.tasks import first_to_end, is_open

router = APIRouter()

MAX_TEXT = 64  # characters: an acknowledgement is under twenty
WINDOW_TELLS = re.compile(r"window (visible|hidden|frozen) (\d{1,5}) (\d{1,5})")


@router.websocket("/api/surfaces/{key}")
async def surface(
    socket: WebSocket,
    key: str,
    width: Annotated[int, Query(ge=16, le=1920)] = 1280,
    fps: Annotated[float, Query(ge=1, le=60)] = 30,
    window: bool = False,
) -> None:
    """JPEG pictures of one surface, newest wins; the page says `drawn` for each. `clock TOKEN` answers with our clock;
    `window STATE WIDTH HEIGHT` tells of the outgoing window.

    window: this is the outgoing window, which counts as going out.
    """
    state = socket_state(socket)
    await socket.accept()
    wanted = Surface.parse(key)
    if wanted is None or not _is_known(state, wanted):
        await socket.close(UNKNOWN, "There is no such picture.")
        return
    viewer = Viewer(wanted, width, fps, asyncio.get_running_loop())
    state.running.hub.join(viewer)
    if window:
        state.running.windows.opened(viewer)
    try:
        await first_to_end(
            socket,
            partial(_send_pictures, socket, viewer, state.running.troubles),
            partial(_hear_viewer, socket, viewer, state.running.windows),
        )
    finally:
        if window:
            state.running.windows.closed(viewer)
        state.running.hub.leave(viewer)


def _is_known(state: AppState, surface: Surface) -> bool:
    if surface.kind == "audience":
        return any(viewers.id == surface.id for viewers in state.running.verdicts.viewers)
    if surface.kind in ("plate", "glance"):
        return surface.id in state.running.setup.plates
    return surface.kind == "outgoing" or state.running.feeds.get(surface.id) is not None


async def _send_pictures(socket: WebSocket, viewer: Viewer, troubles: Troubles) -> None:
    while True:
        await viewer.arrived.wait()
        viewer.arrived.clear()
        picture = viewer.take(time.monotonic())
        if picture is None:
            continue
        try:
            await socket.send_bytes(picture)
        except Exception as exc:
            if not is_open(socket):
                raise
            viewer.acknowledge()  # it will not be drawn
            troubles.report("send", exc)


async def _hear_viewer(socket: WebSocket, viewer: Viewer, windows: Windows) -> None:
    while True:
        text = await _text(socket)
        if text == "drawn":
            viewer.acknowledge()
        elif text.startswith("clock ") and len(text) <= MAX_TEXT:
            await socket.send_text(f"{text} {time.monotonic():.6f}")
        elif len(text) <= MAX_TEXT and (told := WINDOW_TELLS.fullmatch(text)) is not None:
            state: Any = told[1]
            windows.tell(viewer, WindowFacts(state, Size(int(told[2]), int(told[3]))))
        else:
            await socket.close(MALFORMED, "This connection takes “drawn”, “clock” and “window” only.")
            return


async def _text(socket: WebSocket) -> str:
    message = await socket.receive()
    if message["type"] == "websocket.disconnect":
        raise WebSocketDisconnect(message.get("code", 1000))
    return str(message.get("text") or "")


@router.websocket("/api/outgoing/sound")
async def outgoing_sound(socket: WebSocket) -> None:
    """The outgoing sound, 20 ms a message: 16-bit samples, mono, 48 kHz. For an outgoing window that is shared with its sound."""
    running = socket_state(socket).running
    await socket.accept()
    queue = OutgoingQueue(running.encodings, running.sound.mixer)
    queue.join(None, sound=True)
    try:
        await first_to_end(socket, partial(_send_sound, socket, queue), partial(_hear_nothing, socket))
    finally:
        queue.leave()


async def _send_sound(socket: WebSocket, queue: OutgoingQueue) -> None:
    while True:
        item = await queue.next()
        if isinstance(item, SoundBlock):
            await socket.send_bytes(item.samples)


@router.websocket("/api/cameras/{device_id}")
async def camera(socket: WebSocket, device_id: str) -> None:
    """H.264 in from one camera or window of the browser's computer. The newest tab wins; the older one is told.

    It is told `rest`, or `go` and how many pictures a second go out: what nobody looks at need not be encoded.
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

    await first_to_end(socket, partial(take_offered, socket, feed, mine), partial(_say_wanted, socket, feed, wants, state.running.desk))


async def _say_wanted(socket: WebSocket, feed: Feed, wants: asyncio.Event, desk: Desk) -> None:
    while True:
        await socket.send_text(f"go {desk.max_fps:g}" if feed.wanted else "rest")
        await wants.wait()
        wants.clear()


@router.websocket("/api/live")
async def live(socket: WebSocket) -> None:
    """LiveView as JSON: at once after a change, else twice a second."""
    await socket.accept()
    news: LiveNews = socket.app.state.news
    with news.listening() as listener:
        await first_to_end(socket, partial(_send_news, socket, listener), partial(_hear_nothing, socket))


async def _send_news(socket: WebSocket, listener: Listener) -> None:
    while True:
        await socket.send_text(await listener.newest())


async def _hear_nothing(socket: WebSocket) -> None:
    while True:
        await _text(socket)
        await socket.close(MALFORMED, "This connection only tells; it takes nothing.")
        return
