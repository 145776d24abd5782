"""The one page that a guest gets, and the few addresses that it uses. Each opens nothing but the guest's own feed."""

import asyncio
import contextlib
import json
import time
from collections.abc import Iterable
from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, FastAPI, Header, Request, WebSocket, WebSocketDisconnect
from fastapi.responses import JSONResponse, Response
from pydantic import Field

from cartouche import __version__
from cartouche.live.whip import MAX_OFFER_BYTES
from cartouche.web.answers import answer_errors
from cartouche.web.guests import remote, watch
from cartouche.web.guests.book import Guests
from cartouche.web.guests.errors import GuestError, NotAGuest, NotNow
from cartouche.web.guests.first_word import first_word
from cartouche.web.guests.near import near
from cartouche.web.guests.reports import GuestState, Report
from cartouche.web.guests.visitors import Visitor
from cartouche.web.pages import asset, base_of, page
from cartouche.web.pictures_in import UNKNOWN, take_pictures
from cartouche.web.routing import routes_of
from cartouche.web.schemas import Asked
from cartouche.web.security import Guard
from cartouche.web.sound_in import take_sound

PAGE = "guest.html"

router = APIRouter()


class Entering(Asked):
    code: Annotated[str, Field(min_length=1, max_length=24)]
    what: Literal["Phone", "Tablet"] = "Phone"


class Entered(Asked):
    token: str
    device_id: str


def _guests(request: Request) -> Guests:
    book = request.app.state.guests
    assert isinstance(book, Guests)
    return book


def _visitor(request: Request, authorization: Annotated[str, Header()] = "") -> Visitor:
    kind, _, token = authorization.partition(" ")
    if kind.lower() != "bearer":
        raise NotAGuest
    return _guests(request).visitors.by_token(token.strip())


Book = Annotated[Guests, Depends(_guests)]
Known = Annotated[Visitor, Depends(_visitor)]


@router.post("/api/guest/enter", status_code=201)
def enter(entering: Entering, request: Request, book: Book) -> Entered:
    """By a code from the teacher's screen; answers the token that this device keeps."""
    device, token = book.inviting.enter(entering.code, request.client.host if request.client else "", entering.what)
    return Entered(token=token, device_id=device.id)


@router.post("/api/guest/report")
async def take_report(report: Report, visitor: Known, book: Book) -> GuestState:
    """What the phone tells of itself; the answer waits up to a second for something that the teacher asks of it."""
    return await book.visitors.hear(visitor, report)


@router.post("/api/guest/leave", status_code=204)
async def leave(visitor: Known, book: Book) -> None:
    await book.visitors.leave(visitor)


@router.post("/whip", status_code=201, response_class=Response)
async def whip(request: Request, visitor: Known, book: Book) -> Response:
    """WHIP (RFC 9725): an SDP offer with all its candidates; answers the SDP answer. Trickle and restarts are not offered."""
    if request.headers.get("content-type", "").split(";")[0].strip().lower() != "application/sdp":
        return JSONResponse({"detail": "WHIP takes application/sdp."}, 415, {"Accept-Post": "application/sdp"})
    offer = (await request.body())[: MAX_OFFER_BYTES + 1]
    if len(offer) > MAX_OFFER_BYTES:
        return JSONResponse({"detail": "This offer is too long."}, 413)
    answer = await book.visitors.answer_offer(visitor, offer.decode("utf-8", "replace"), await near(request))
    return Response(answer, 201, {"Location": f"{base_of(request)}/whip/{visitor.device_id}"}, "application/sdp")


@router.options("/whip", include_in_schema=False)
def whip_options() -> Response:
    return Response(status_code=204, headers={"Accept-Post": "application/sdp"})


@router.delete("/whip/{device_id}", status_code=200)
async def hang_up(device_id: str, visitor: Known, book: Book) -> None:
    if device_id != visitor.device_id:
        raise NotAGuest
    await book.visitors.hang_up(visitor)


@router.websocket("/api/guest/pictures")
async def pictures(socket: WebSocket) -> None:
    """Where WebRTC does not come through: the token as text first, then H.264 as from a camera of this computer."""
    book = socket.app.state.guests
    await socket.accept()
    with contextlib.suppress(WebSocketDisconnect):
        try:
            visitor = await asyncio.to_thread(book.visitors.by_token, await first_word(socket))
            feed = book.visitors.feed(visitor)
            if feed is None:
                raise NotNow
        except (GuestError, KeyError) as exc:
            await socket.close(UNKNOWN, str(exc if isinstance(exc, GuestError) else NotAGuest())[:110])
            return
        turn = book.state.take_camera(feed.id)
        feed.restart(time.monotonic())
        await take_pictures(socket, feed, lambda: book.state.holds_camera(feed.id, turn))


@router.websocket("/api/guest/sound")
async def sound(socket: WebSocket) -> None:
    """Where WebRTC does not come through, and only once its microphone was opened: the token as text first, then blocks of samples."""
    book = socket.app.state.guests
    await socket.accept()
    with contextlib.suppress(WebSocketDisconnect):
        try:
            visitor = await asyncio.to_thread(book.visitors.by_token, await first_word(socket))
        except GuestError as exc:
            await socket.close(UNKNOWN, str(exc)[:110])
            return
        await take_sound(socket, book.visitors.ear(visitor))


def create_guest_app(book: Guests | None, static: Path, names: Iterable[str] | None) -> FastAPI:
    """names: the addresses it is served at, None for any.  book: None for the OpenAPI document alone."""
    routes = routes_of((router, watch.router, remote.router))
    app = FastAPI(title="Cartouche for guests", version=__version__, docs_url=None, redoc_url=None, openapi_url=None, routes=routes)
    app.state.guests = book
    answer_errors(app)
    allowed = guest_assets(static)

    @app.api_route("/", methods=["GET", "HEAD"], include_in_schema=False)
    def guest(request: Request) -> Response:
        return page(static / PAGE, request)

    @app.api_route("/watch", methods=["GET", "HEAD"], include_in_schema=False)
    def watching(request: Request) -> Response:
        return page(static / watch.PAGE, request)

    @app.api_route("/remote", methods=["GET", "HEAD"], include_in_schema=False)
    def pressing(request: Request) -> Response:
        return page(static / remote.PAGE, request)

    @app.get("/assets/{name:path}", include_in_schema=False, response_model=None)
    def part(name: str) -> Response:
        if name not in allowed:
            return JSONResponse({"detail": "There is nothing at this address."}, 404)
        return asset(static / "assets" / name)

    app.add_middleware(Guard, names=names if names is None else tuple(names))
    return app


def guest_assets(static: Path) -> set[str]:
    """The built files that the guest's page needs, and no others, by the build's own list."""
    path = static / ".vite" / "manifest.json"
    if not path.is_file():
        return set()
    manifest = json.loads(path.read_text())
    found: set[str] = {"assets/mark.svg", "assets/sound-worklet.js"}
    left = [PAGE, watch.PAGE, remote.PAGE]
    visited: set[str] = set()
    while left:
        key = left.pop()
        if key in visited or key not in manifest:
            continue
        visited.add(key)
        entry = manifest[key]
        found |= {entry["file"], *entry.get("css", ()), *entry.get("assets", ())}
        left += entry.get("imports", []) + entry.get("dynamicImports", [])
    return {name.removeprefix("assets/") for name in found}
