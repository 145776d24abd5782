"""The lesson's tools: one address for every action, and what each is set to."""

import asyncio
import time
from typing import Annotated

from fastapi import Depends, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel

from cartouche.core.straighten.framing import closer, panned
from cartouche.core.teach.actions import NoSuchKey
from cartouche.core.teach.timer import Timer
from cartouche.store import settings, sheets, teaching
from cartouche.store.errors import NotKept
from cartouche.store.watchers import watchers
from cartouche.web import sheet_keeping
from cartouche.web.acts import act_once
from cartouche.web.guests.remote import allow, cameras_allowed
from cartouche.web.pages_seen import AUTO_SHEETS
from cartouche.web.routers.square_up_views import page_room
from cartouche.web.routers.ways import Book, Network
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Id
from cartouche.web.state import AppState, app_state
from cartouche.web.teach_schemas import (
    ActionAsked,
    KeyChosen,
    LookAsked,
    SheetNamed,
    Switched,
    TimerChange,
    ToolsView,
)
from cartouche.web.teaching import page_device, set_timer
from cartouche.web.tools_view import keep_keys, key_table, tools_view
from cartouche.web.ways_view import WatcherView, WatchInvitationView, invitation_view

router = screen_router("teach", "/api/teach")
State = Annotated[AppState, Depends(app_state)]


@router.get("/tools")
def tools(state: State) -> ToolsView:
    return tools_view(state)


@router.post("/actions")
def do(asked: ActionAsked, state: State) -> ToolsView:
    """Any action by its name, whoever pressed it: a key, a button, the small window, a remote, a clicker."""
    return tools_view(state, act_once(state, asked.action, asked.number, asked.press))


@router.put("/keys")
def choose_key(chosen: KeyChosen, state: State) -> ToolsView:
    """This key does it from now on."""
    with state.lock:
        if chosen.action == "plate":
            raise NoSuchKey(chosen.key or "1")
        table = key_table(state)
        keep_keys(state, table.with_key(chosen.action, chosen.key) if chosen.key is not None else table.as_first(chosen.action))
        state.running.stage.versions.touch("teach")
    return tools_view(state)


@router.put("/auto-hold")
def hold_by_itself(switched: Switched, state: State) -> ToolsView:
    """A page that leaves is held until another lies still."""
    with state.lock:
        teaching.keep_auto_hold(state.database, state.open_lesson().id, switched.on)
        state.running.stage.hold_by_itself(switched.on)
    return tools_view(state)


@router.put("/auto-sheets")
def keep_by_itself(switched: Switched, state: State) -> ToolsView:
    """A page that is finished is kept before it is taken away."""
    with state.lock:
        settings.set_setting(state.database, AUTO_SHEETS, "on" if switched.on else "")
        state.running.stage.versions.touch("teach")
    return tools_view(state)


@router.put("/timer")
def change_timer(change: TimerChange, state: State) -> ToolsView:
    """Set it anew, or show it and sound it otherwise."""

    def changed(timer: Timer, now_s: float) -> Timer:
        new: dict[str, object] = {}
        if change.way is not None or change.total_s is not None:
            new |= {"way": change.way or timer.way, "total_s": change.total_s or timer.total_s, "before_s": 0.0, "started_s": None}
        if change.shown is not None:
            new["shown"] = "corner" if change.shown else "hidden"
        if change.chime is not None:
            new["chime"] = change.chime
        return timer.model_copy(update=new)

    set_timer(state, changed)
    return tools_view(state)


@router.put("/look")
def look(asked: LookAsked, state: State) -> ToolsView:
    """A closer look by wheel, fingers or drag; it glides there, under a hand it follows at once."""
    with state.lock:
        device_id = page_device(state)
        chain = state.chain(device_id)
        room = page_room(state, device_id, chain)
        about = (asked.x, asked.y) if asked.x is not None and asked.y is not None else None
        link = closer(chain.frame, asked.by, about, *room)
        if asked.right or asked.down:
            link = panned(link, asked.right, asked.down, *room)
        if asked.settled:
            state.frame(device_id, link)
        else:
            state.running.stage.correct(device_id, chain.model_copy(update={"frame": link}))
        state.running.stage.versions.touch("teach")
    return tools_view(state)


# remotes


class CameraRemote(BaseModel):
    device_id: str
    name: str
    allowed: bool


class RemotesView(BaseModel):
    """invitation: the code that is shown, if any.  cameras: phones that are cameras, and whether they may press too."""

    invitation: WatchInvitationView | None
    remotes: list[WatcherView]
    cameras: list[CameraRemote]


@router.get("/remotes")
def remotes(state: State, book: Book) -> RemotesView:
    known = watchers(state.database, time.time())
    allowed = cameras_allowed(state)
    phones = [device for device in state.devices() if device.kind == "guest"]
    return RemotesView(
        invitation=invitation_view(book, "act"),
        remotes=[WatcherView(id=one.id, name=one.name) for one in known if one.may == "act"],
        cameras=[CameraRemote(device_id=one.id, name=one.name, allowed=one.id in allowed) for one in phones],
    )


@router.post("/remotes/invitation", status_code=201)
async def invite_remote(at: Network, state: State, book: Book) -> RemotesView:
    """A code for one phone or tablet: it may press the lesson's keys, and neither sends nor gets pictures unless asked."""
    await book.watching.invite(at.address, "act")
    return await asyncio.to_thread(remotes, state, book)


@router.delete("/remotes/invitation", status_code=204)
async def withdraw_remote(book: Book) -> None:
    await book.watching.withdraw()


@router.delete("/remotes/{remote_id}", status_code=204)
async def forget_remote(remote_id: Id, book: Book) -> None:
    """It can press nothing any more, at once."""
    await book.watching.forget(remote_id)


@router.put("/remotes/cameras/{device_id}", status_code=204)
def allow_camera(device_id: Id, switched: Switched, state: State) -> None:
    """Whether a phone that is a camera may press too."""
    with state.lock:
        allow(state, state.device(device_id).id, switched.on)


# sheets


@router.get("/sheets/{sheet_id}.png", response_class=FileResponse)
def sheet_file(sheet_id: Id, state: State) -> Response:
    """The sheet itself, PNG."""
    sheet = sheets.sheet(state.database, sheet_id)
    path = sheet_keeping.path_of(state, sheet)
    if not path.is_file():
        raise NotKept("sheet", sheet_id)
    return FileResponse(path, media_type="image/png", filename=f"{sheet.name}.png", content_disposition_type="inline")


@router.put("/sheets/{sheet_id}")
def name_sheet(sheet_id: Id, named: SheetNamed, state: State) -> ToolsView:
    with state.lock:
        sheets.change(state.database, sheet_keeping.sheet_of(state, sheet_id).id, name=named.name)
        state.running.stage.versions.touch("sheets")
    return tools_view(state)


@router.post("/sheets/{sheet_id}/show")
def show_sheet(sheet_id: Id, state: State) -> ToolsView:
    """In place of the page, until the page is live again."""
    return tools_view(state, sheet_keeping.show(state, sheet_id))


@router.delete("/sheets/{sheet_id}")
def forget_sheet(sheet_id: Id, state: State) -> ToolsView:
    """It is put away: under After it can be put back, or deleted for good."""
    sheet_keeping.put_away(state, sheet_keeping.sheet_of(state, sheet_id).id)
    return tools_view(state)
