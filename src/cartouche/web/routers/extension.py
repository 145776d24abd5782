"""What the browser extension may reach: being paired, and then the outgoing picture and sound; nothing else."""

import asyncio
import struct
import time
from typing import Annotated, Literal

import anyio
from fastapi import Depends, Header, Request, WebSocket, WebSocketDisconnect
from pydantic import Field, ValidationError

from cartouche.core.pictures import Size
from cartouche.live.demand import OUTGOING
from cartouche.live.hub import PICTURE_HEADER, Viewer
from cartouche.live.out.encoder import Packet
from cartouche.live.out.queue import OutgoingQueue, SoundBlock
from cartouche.live.out.takers import TakerFacts
from cartouche.live.running import RunningLesson
from cartouche.web.errors import NotPaired
from cartouche.web.extension_key import ExtensionKey
from cartouche.web.pictures_in import MALFORMED
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Asked
from cartouche.web.state import socket_state
from cartouche.web.tasks import first_to_end

router = screen_router("extension", "/api/extension")
HEADER = struct.Struct("<BBHId")  # what (PICTURE, SOUND), 1 for a key picture, nought, number, captured (monotonic s)
PICTURE, SOUND, CLOCK, JPEG = 1, 2, 3, 4  # clock: ours just now
NOT_PAIRED, TOO_MANY = 4401, 4429
MAX_TEXT, MAX_TEXTS_A_SECOND = 600, 50
MAX_LINES = 12
SIZES = (Size(320, 180), Size(640, 360), Size(1280, 720), Size(1920, 1080))  # few, so that pages share an encode
Site = Annotated[str, Field(pattern=r"^https?://[A-Za-z0-9.\-\[\]:]{1,200}$")]


class Wanted(Asked):
    """width, height: what the page draws at most; 0 for no picture.  sound: whether it listens too.

    jpeg: its browser cannot decode H.264.
    """

    width: Annotated[int, Field(ge=0, le=3840)]
    height: Annotated[int, Field(ge=0, le=2160)]
    sound: bool = False
    jpeg: bool = False


class Hello(Wanted):
    key: Annotated[str, Field(min_length=8, max_length=100)]
    site: Site


class Told(Asked):
    """What a page says later: a key picture please; another size; what arrives there."""

    do: Literal["key", "want", "arrives"]
    want: Wanted | None = None
    width: Annotated[int, Field(ge=0, le=3840)] = 0
    height: Annotated[int, Field(ge=0, le=2160)] = 0
    fps: Annotated[float, Field(ge=0, le=240)] = 0.0
    delay_ms: Annotated[float, Field(ge=0, le=60_000)] | None = None
    lips_ms: Annotated[float, Field(ge=-60_000, le=60_000)] | None = None


class PairingView(Asked):
    code: str
    secret: str


class Collecting(Asked):
    secret: Annotated[str, Field(min_length=8, max_length=100)]


class PairedView(Asked):
    """key: None while the teacher has not pressed."""

    key: str | None


def _key(request: Request) -> ExtensionKey:
    key = request.app.state.extension
    assert isinstance(key, ExtensionKey)
    return key


Key = Annotated[ExtensionKey, Depends(_key)]
Origin = Annotated[str | None, Header()]


@router.post("/pair", status_code=201)
def pair(key: Key, request: Request, origin: Origin = None) -> PairingView:
    """An extension asks; the answer's code is shown there and on the Way in screen."""
    asked = key.ask(origin)
    request.app.state.cartouche.running.stage.versions.touch("ways")
    return PairingView(code=asked.code, secret=asked.secret)


@router.post("/paired")
def collect(collecting: Collecting, key: Key, request: Request, origin: Origin = None) -> PairedView:
    """Asked again and again by the extension until the teacher has pressed."""
    found = key.collect(origin, collecting.secret)
    if found is not None:
        request.app.state.cartouche.running.stage.versions.touch("ways")
    return PairedView(key=found)


@router.websocket("/outgoing")
async def outgoing(socket: WebSocket) -> None:
    """A `Hello` first, then pictures (H.264, Annex B) and sound (int16) go out, each behind a HEADER. Later the page sends `Told`."""
    running = socket_state(socket).running
    await socket.accept()
    key: ExtensionKey = socket.app.state.extension
    hello = await _hello(socket)
    if hello is None or not await asyncio.to_thread(key.holds, socket.headers.get("origin"), hello.key):
        await _close(socket, NOT_PAIRED, str(NotPaired()))
        return
    if sum(facts.kind == "extension" for facts in running.takers.all()) >= MAX_LINES:
        await _close(socket, TOO_MANY, "Too many pages take the picture. Close one of them.")
        return
    queue = OutgoingQueue(running.encodings, running.sound.mixer)
    viewer = Viewer(OUTGOING, max(16, min(hello.width, 1920)), 30, asyncio.get_running_loop()) if hello.jpeg and hello.width else None
    if viewer is not None:
        running.hub.join(viewer)
    running.takers.put(queue, TakerFacts("extension", hello.site, sound=hello.sound))
    try:
        await asyncio.to_thread(_want, queue, hello, running)
        parts = [lambda: _send(socket, queue), lambda: _hear(socket, queue, running)]
        await first_to_end(socket, *parts, *([lambda: _send_jpeg(socket, viewer)] if viewer is not None else []))
    finally:
        if viewer is not None:
            running.hub.leave(viewer)
        running.takers.drop(queue)
        with anyio.CancelScope(shield=True):  # whatever ends the line, the encode ends with it
            await asyncio.to_thread(queue.leave)


async def _hello(socket: WebSocket) -> Hello | None:
    try:
        async with asyncio.timeout(5):
            text = await socket.receive_text()
        return Hello.model_validate_json(text) if len(text) <= MAX_TEXT else None
    except (ValidationError, TimeoutError, WebSocketDisconnect, KeyError):
        return None


async def _close(socket: WebSocket, code: int, why: str) -> None:
    try:
        await socket.close(code, why[:110])
    except (RuntimeError, WebSocketDisconnect):  # gone by itself
        return


def _want(queue: OutgoingQueue, wanted: Wanted, running: RunningLesson) -> None:
    size = encoded_size(wanted, running.desk.size) if wanted.width and not wanted.jpeg else None
    queue.join(size, sound=wanted.sound)


def encoded_size(wanted: Wanted, outgoing: Size) -> Size:
    """The smallest of our sizes that holds what is wanted, and never more than there is."""
    enough = [
        size for size in SIZES if size.width >= min(wanted.width, outgoing.width) and size.height >= min(wanted.height, outgoing.height)
    ]
    return min(enough[0], outgoing, key=lambda size: size.width)


async def _send(socket: WebSocket, queue: OutgoingQueue) -> None:
    number = 0
    await socket.send_bytes(HEADER.pack(CLOCK, 0, 0, number, time.monotonic()))
    while True:
        item = await queue.next()
        number = number + 1 & 0xFFFFFFFF
        if isinstance(item, Packet):
            await socket.send_bytes(HEADER.pack(PICTURE, int(item.key), 0, number, item.captured_s) + item.data)
        elif isinstance(item, SoundBlock):
            await socket.send_bytes(HEADER.pack(SOUND, 0, 0, number, item.captured_s) + item.samples)


async def _send_jpeg(socket: WebSocket, viewer: Viewer) -> None:
    while True:
        await viewer.arrived.wait()
        viewer.arrived.clear()
        picture = viewer.take(time.monotonic())
        if picture is not None:
            number, captured_s, _, _ = PICTURE_HEADER.unpack_from(picture)
            await socket.send_bytes(HEADER.pack(JPEG, 1, 0, number, captured_s) + picture[PICTURE_HEADER.size :])
            viewer.acknowledge()


async def _hear(socket: WebSocket, queue: OutgoingQueue, running: RunningLesson) -> None:
    since_s, count = time.monotonic(), 0
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            raise WebSocketDisconnect(message.get("code", 1000))
        now_s = time.monotonic()
        since_s, count = (since_s, count + 1) if now_s - since_s < 1 else (now_s, 1)
        told = _told(message.get("text") or "")
        if told is None or count > MAX_TEXTS_A_SECOND:
            await socket.close(MALFORMED, "This connection takes its few messages only.")
            return
        if told.do == "key":
            queue.request_key()
        elif told.do == "want" and told.want is not None:
            await asyncio.to_thread(_want, queue, told.want, running)
            running.takers.tell(queue, sound=told.want.sound)
        elif told.do == "arrives":
            size = Size(told.width, told.height) if told.width else None
            delay_s = None if told.delay_ms is None else told.delay_ms / 1000
            lips_s = None if told.lips_ms is None else told.lips_ms / 1000
            running.takers.tell(queue, size=size, fps=told.fps, delay_s=delay_s, lips_s=lips_s)


def _told(text: str) -> Told | None:
    try:
        return Told.model_validate_json(text) if len(text) <= MAX_TEXT else None
    except ValidationError:
        return None
