"""Ink over the page: a socket for hands that draw, and what is done to all of it."""

import asyncio
import contextlib
from typing import Annotated

from fastapi import Depends, Request, WebSocket, WebSocketDisconnect
from fastapi.responses import Response
from pydantic import BaseModel

from cartouche.core.ink.strokes import Ink
from cartouche.core.ink.svg import MAX_BYTES, from_svg, to_svg
from cartouche.core.pictures import Size
from cartouche.store.errors import TooLarge
from cartouche.web.errors import NoPageServes
from cartouche.web.ink_in import Change, change, keep, shown_ground, take_ink
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Asked
from cartouche.web.state import AppState, app_state, socket_state

router = screen_router("teach", "/api/teach/ink")
State = Annotated[AppState, Depends(app_state)]


class InkView(BaseModel):
    """ground: the page or sheet that is shown; None where none is.  count: of its strokes."""

    ground: str | None
    count: int
    hidden: bool
    can_undo: bool
    can_redo: bool


class InkAsked(Asked):
    do: Change


def _view(state: AppState) -> InkView:
    room = state.running.ink
    ground = room.ground
    ink = room.ink(ground.id) if ground is not None else Ink()
    return InkView(
        ground=ground.id if ground is not None else None, count=len(ink.strokes), hidden=room.hidden, can_undo=bool(ink.before),
        can_redo=bool(ink.after),
    )  # fmt: skip


@router.get("")
def ink(state: State) -> InkView:
    return _view(state)


@router.post("")
def change_ink(asked: InkAsked, state: State) -> InkView:
    """Of the page that is shown: a step back or forth, all of it away, hidden or seen again."""
    change(state, asked.do)
    return _view(state)


@router.get("/page.svg", response_class=Response)
def ink_out(state: State) -> Response:
    """The ink of the page that is shown, as SVG in millimetres."""
    ground = state.running.ink.ground
    if ground is None:
        raise NoPageServes
    content = to_svg(state.running.ink.ink(ground.id).strokes, Size(*ground.size), ground.unit)
    return Response(content, media_type="image/svg+xml", headers={"Content-Disposition": 'attachment; filename="ink.svg"'})


@router.put("/page.svg", openapi_extra={"requestBody": {"content": {"image/svg+xml": {}}, "required": True}})
async def ink_in(request: Request, state: State) -> InkView:
    """In place of the ink of the page that is shown; undo brings that back."""
    content = b""
    async for part in request.stream():
        content += part
        if len(content) > MAX_BYTES:
            raise TooLarge(MAX_BYTES // 1_000_000)
    strokes = from_svg(content)
    ground = shown_ground(state)
    state.running.ink.change(ground, lambda one: one.settled(strokes))
    await asyncio.to_thread(keep, state, ground)
    return _view(state)


@router.websocket("/hand")
async def hand(socket: WebSocket) -> None:
    """Strokes as they are drawn, in shares of the outgoing picture."""
    await socket.accept()
    with contextlib.suppress(WebSocketDisconnect):
        await take_ink(socket, socket_state(socket))
