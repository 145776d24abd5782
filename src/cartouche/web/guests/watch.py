"""Watching from another computer: a page for boards and co-teachers (WHEP), and an address for room systems (MJPEG). View only."""

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Depends, Header, Request
from fastapi.responses import JSONResponse, Response, StreamingResponse
from pydantic import Field

from cartouche.live.demand import OUTGOING
from cartouche.live.hub import PICTURE_HEADER, Viewer
from cartouche.live.out.takers import TakerFacts
from cartouche.live.whip import MAX_OFFER_BYTES
from cartouche.store.watchers import Watcher
from cartouche.web.guests.book import Guests
from cartouche.web.guests.errors import NotAWatcher
from cartouche.web.guests.near import near
from cartouche.web.pages import base_of
from cartouche.web.schemas import Asked, Name

PAGE = "watch.html"
BOUNDARY = "cartouche-picture"
MAX_CAMERAS = 4
STALLS_AFTER_S = 20.0

router = APIRouter()


class WatcherEntering(Asked):
    code: Annotated[str, Field(min_length=1, max_length=24)]
    name: Name = "Board"


class WatcherEntered(Asked):
    token: str
    name: str


def _book(request: Request) -> Guests:
    book = request.app.state.guests
    assert isinstance(book, Guests)
    return book


Book = Annotated[Guests, Depends(_book)]


def _watcher(book: Book, authorization: Annotated[str, Header()] = "") -> Watcher:
    kind, _, token = authorization.partition(" ")
    if kind.lower() != "bearer":
        raise NotAWatcher
    return book.watching.by_token(token.strip())


Known = Annotated[Watcher, Depends(_watcher)]


@router.post("/api/watch/enter", status_code=201)
def enter(entering: WatcherEntering, request: Request, book: Book) -> WatcherEntered:
    """By a code from the teacher's screen; answers the token that this screen keeps."""
    watcher, token = book.watching.enter(entering.code, request.client.host if request.client else "", entering.name.strip() or "Board")
    return WatcherEntered(token=token, name=watcher.name)


@router.post("/whep", status_code=201, response_class=Response)
async def whep(request: Request, watcher: Known, book: Book) -> Response:
    """WHEP (draft-ietf-wish-whep): an SDP offer that only receives; answers the SDP answer."""
    if request.headers.get("content-type", "").split(";")[0].strip().lower() != "application/sdp":
        return JSONResponse({"detail": "WHEP takes application/sdp."}, 415, {"Accept-Post": "application/sdp"})
    offer = (await request.body())[: MAX_OFFER_BYTES + 1]
    if len(offer) > MAX_OFFER_BYTES:
        return JSONResponse({"detail": "This offer is too long."}, 413)
    session_id, answer = await book.watching.answer(watcher, offer.decode("utf-8", "replace"), await near(request))
    return Response(answer, 201, {"Location": f"{base_of(request)}/whep/{session_id}"}, "application/sdp")


@router.delete("/whep/{session_id}", status_code=200)
async def hang_up(session_id: str, watcher: Known, book: Book) -> None:
    await book.watching.end(book.watching.session_of(session_id, watcher).id)


@router.post("/whep/{session_id}/end", status_code=204, include_in_schema=False)
async def leave(session_id: str, request: Request, book: Book) -> None:
    """A page that is being closed can send no DELETE: its token comes as the body (a beacon)."""
    watcher = await asyncio.to_thread(book.watching.by_token, (await request.body())[:200].decode("utf-8", "replace"))
    await book.watching.end(book.watching.session_of(session_id, watcher).id)


@router.get("/camera/{key}.mjpeg", response_class=StreamingResponse)
async def camera(key: Annotated[str, Field(max_length=100)], request: Request, book: Book) -> Response:
    """The outgoing picture as motion JPEG, while the teacher has it switched on."""
    if not book.watching.is_camera_key(key):
        raise NotAWatcher
    running = book.state.running
    if sum(taker.kind == "network camera" for taker in running.takers.all()) >= MAX_CAMERAS:
        return JSONResponse({"detail": "Too many room systems look already."}, 429)
    viewer = Viewer(OUTGOING, 1920, 30, asyncio.get_running_loop())
    who = request.client.host if request.client else "room system"
    return StreamingResponse(_pictures(book, viewer, key, who), media_type=f"multipart/x-mixed-replace; boundary={BOUNDARY}")


async def _pictures(book: Guests, viewer: Viewer, key: str, who: str) -> AsyncIterator[bytes]:
    running = book.state.running
    running.hub.join(viewer)
    running.takers.put(viewer, TakerFacts("network camera", who, size=running.desk.size))
    try:
        while True:
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(STALLS_AFTER_S):
                    await viewer.arrived.wait()
            viewer.arrived.clear()
            if not book.watching.is_camera_key(key):  # switched off meanwhile
                return
            picture = viewer.take(time.monotonic())
            if picture is None:
                continue
            jpeg = picture[PICTURE_HEADER.size :]
            yield f"--{BOUNDARY}\r\nContent-Type: image/jpeg\r\nContent-Length: {len(jpeg)}\r\n\r\n".encode() + jpeg + b"\r\n"
            viewer.acknowledge()
    finally:
        running.hub.leave(viewer)
        running.takers.drop(viewer)
