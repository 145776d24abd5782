"""A phone or tablet as remote: it presses the lesson's keys by the same names, and draws over the page that it shows."""

import asyncio
import contextlib
import json
import time
from typing import Annotated

from fastapi import APIRouter, Depends, Header, Query, Request, WebSocket, WebSocketDisconnect
from fastapi.responses import Response
from pydantic import BaseModel, Field

from cartouche.core.watch.signal import AWAY
from cartouche.live.demand import OUTGOING
from cartouche.live.hub import PICTURE_HEADER, Viewer
from cartouche.store import settings
from cartouche.web.acts import act_once
from cartouche.web.guests.book import Guests
from cartouche.web.guests.errors import NotAGuest, NotARemote, NotAWatcher
from cartouche.web.guests.first_word import first_word
from cartouche.web.guests.watch import Book
from cartouche.web.ink_in import Change, change, take_ink
from cartouche.web.microphones import open_alone, open_now
from cartouche.web.pictures_in import UNKNOWN
from cartouche.web.schemas import Asked, Name, OpenMicrophoneView
from cartouche.web.state import AppState
from cartouche.web.teach_schemas import ActionAsked, ToolsView
from cartouche.web.tools_view import tools_view

PAGE = "remote.html"
LOOKS_S, WAITS_S = 0.1, 2.0
PICTURE_WITHIN_S = 3.0
ALLOWED = "remote_cameras"

router = APIRouter(prefix="/api/remote")


class RemoteEntering(Asked):
    code: Annotated[str, Field(min_length=1, max_length=24)]
    name: Name = "Remote"


class RemoteEntered(BaseModel):
    token: str
    name: str


class RemotePress(ActionAsked):
    """press: a name of this press that no other has; sent again for want of an answer, it counts once."""

    press: Annotated[str, Field(min_length=8, max_length=60)]


class RemoteInk(Asked):
    do: Change


class RemotePlate(BaseModel):
    id: str
    name: str


class RemoteView(BaseModel):
    """version: give it back to be answered once something has changed.  state: of the outgoing picture, in a sentence.
    microphone: the open one's name, None while all are closed."""

    version: int
    tools: ToolsView
    plates: list[RemotePlate]
    plate_on: str | None
    state: str
    wrong: bool
    microphone: str | None


def cameras_allowed(state: AppState) -> set[str]:
    """Phones that are cameras and may press too."""
    kept = settings.setting(state.database, ALLOWED)
    return set(json.loads(kept)) if kept else set()


def allow(state: AppState, device_id: str, on: bool) -> None:
    allowed = (cameras_allowed(state) - {device_id}) | ({device_id} if on else set())
    settings.set_setting(state.database, ALLOWED, json.dumps(sorted(allowed)))


def _who(request: Request, book: Book, authorization: Annotated[str, Header()] = "") -> str:
    """Whose token it is; a camera's only where the teacher has allowed it. Raises NotARemote."""
    kind, _, token = authorization.partition(" ")
    if kind.lower() != "bearer":
        raise NotARemote
    return _whose(book, token.strip())


def _whose(book: Guests, token: str) -> str:
    try:
        return book.watching.by_token(token, "act").id
    except NotAWatcher:
        pass
    try:
        device_id = book.visitors.by_token(token).device_id
    except NotAGuest as exc:
        raise NotARemote from exc
    if device_id not in cameras_allowed(book.state):
        raise NotARemote
    return device_id


Who = Annotated[str, Depends(_who)]


@router.post("/enter", status_code=201)
def enter(entering: RemoteEntering, request: Request, book: Book) -> RemoteEntered:
    """By a code from the teacher's screen; answers the token that this device keeps."""
    who = request.client.host if request.client else ""
    watcher, token = book.watching.enter(entering.code, who, entering.name.strip() or "Remote", "act")
    return RemoteEntered(token=token, name=watcher.name)


@router.get("/state")
async def state(who: Who, book: Book, version: int = -1) -> RemoteView:
    """How things stand; waits up to two seconds for something to change."""
    versions = book.state.running.stage.versions
    for _ in range(int(WAITS_S / LOOKS_S)):
        if versions.total != version:
            break
        await asyncio.sleep(LOOKS_S)
    return await asyncio.to_thread(_view, book)


@router.post("/do")
def do(press: RemotePress, who: Who, book: Book) -> RemoteView:
    """Any action by its name."""
    said = act_once(book.state, press.action, press.number, f"{who}:{press.press}")
    return _view(book, said)


@router.post("/mute")
def mute(who: Who, book: Book) -> RemoteView:
    """All microphones are closed."""
    open_alone(book.state, book, None)
    return _view(book)


@router.get("/picture.jpg", response_class=Response)
async def picture(who: Who, book: Book, wide: Annotated[int, Query(ge=160, le=1280)] = 480) -> Response:
    """The outgoing picture, once, for a remote that asks to see it. wide: px."""
    hub = book.state.running.hub
    viewer = Viewer(OUTGOING, wide, 30, asyncio.get_running_loop())
    hub.join(viewer)
    try:
        async with asyncio.timeout(PICTURE_WITHIN_S):
            await viewer.arrived.wait()
        made = viewer.take(time.monotonic())
    except TimeoutError:
        made = None
    finally:
        hub.leave(viewer)
    if made is None:
        return Response(status_code=204)
    return Response(made[PICTURE_HEADER.size :], media_type="image/jpeg", headers={"Cache-Control": "no-store"})


@router.post("/ink")
def change_ink(asked: RemoteInk, who: Who, book: Book) -> RemoteView:
    """What is done to all ink of the page that is shown."""
    change(book.state, asked.do)
    return _view(book)


@router.websocket("/hand")
async def hand(socket: WebSocket) -> None:
    """A tablet that draws on the picture that it shows: the token as text first, then strokes as this computer's own screens send them."""
    book = socket.app.state.guests
    await socket.accept()
    with contextlib.suppress(WebSocketDisconnect):
        token = await first_word(socket)
        if await asyncio.to_thread(_is_known, book, token):
            await take_ink(socket, book.state, lambda: _is_known(book, token))
        await socket.close(UNKNOWN, str(NotARemote())[:110])


def _is_known(book: Guests, token: str) -> bool:
    try:
        _whose(book, token)
    except NotARemote:
        return False
    return True


def _view(book: Guests, said: str = "") -> RemoteView:
    state = book.state
    running, setup = state.running, state.running.setup
    sentence, wrong = state_of(state)
    return RemoteView(
        version=running.stage.versions.total,
        tools=tools_view(state, said),
        plates=[RemotePlate(id=plate.id, name=plate.name) for plate in state.plates()],
        plate_on=setup.plate.id if setup.plate else None,
        state=sentence,
        wrong=wrong,
        microphone=_name_of(state, open_now(state, book)),
    )


def _name_of(state: AppState, opened: OpenMicrophoneView | None) -> str | None:
    if opened is None or opened.label:
        return opened.label if opened else None
    return next((device.name for device in state.devices() if device.id == opened.id), "A phone")


def state_of(state: AppState) -> tuple[str, bool]:
    """Of the outgoing picture in a sentence, and whether something is wrong."""
    running, now_s = state.running, time.monotonic()
    setup = running.setup
    names = {device.id: device.name for device in state.devices()}
    for place in setup.plate.places if setup.plate is not None else ():
        feed = running.feeds.get(setup.feed_id(place) or "")
        if feed is not None and feed.state(now_s) in AWAY:
            return f"{names.get(feed.id, 'A camera')}: no picture", True
    trouble = next((one for one in running.troubles.now(now_s) if one.device_id is None), None)
    if trouble is not None:
        return trouble.sentence, True
    return ("Learners see this", False) if running.going_out else ("Nothing goes out yet", False)
