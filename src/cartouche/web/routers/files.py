"""Pages captured beforehand, slides and clips: files that become devices of the kit."""

import asyncio
from pathlib import Path
from typing import Annotated, Literal

from fastapi import Depends, Query, Request
from fastapi.responses import FileResponse
from starlette.requests import ClientDisconnect

from cartouche.core.plates.model import Role
from cartouche.live.files.apart import ROOM
from cartouche.live.files.clip import look_into
from cartouche.live.files.errors import WrongKind
from cartouche.live.files.pages import kind_of
from cartouche.store import files, kits
from cartouche.store.errors import NotKept, StoreError
from cartouche.store.files import File
from cartouche.store.kits import Device
from cartouche.web.errors import CutOff
from cartouche.web.kit_schemas import ClipChange, PageTurn
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Id, Name
from cartouche.web.state import AppState, app_state, new_id

router = screen_router("kit", "/api/kit")
State = Annotated[AppState, Depends(app_state)]
WORDS = {"pages": "Pages captured beforehand", "slides": "Slides", "clip": "Clip"}


@router.post("/files", status_code=201, openapi_extra={"requestBody": {"content": {"application/octet-stream": {}}, "required": True}})
async def add_file(
    request: Request,
    state: State,
    name: Annotated[Name, Query()],
    kind: Annotated[Literal["pages", "slides", "clip"], Query()] = "pages",
    device_id: Annotated[Id | None, Query(description="add it behind the pages of this device")] = None,
    serves: Annotated[Role | None, Query()] = None,
) -> Device:
    """The file's bytes as they are. It is judged by what is in it, never by its name."""
    with files.arriving(state.database) as arrived:
        try:
            await files.write(arrived, request.stream())
        except ClientDisconnect as exc:
            raise CutOff from exc
        return await asyncio.to_thread(_take, state, arrived, name, kind, device_id, serves)


def _take(state: AppState, arrived: Path, name: str, wanted: str, device_id: str | None, serves: Role | None) -> Device:
    found = kind_of(arrived, name)
    if (found == "clip") != (wanted == "clip"):
        if device_id is not None:
            raise WrongKind(name, "a page")
        wanted = "clip" if found == "clip" else "pages"  # taken as what it is
    if found == "clip":
        look_into(arrived, name)
    pages = 1 if found == "clip" else ROOM.count(arrived, found, name)
    with state.lock:
        device = state.device(device_id) if device_id else _new(state, name, wanted, serves)
        if device.kind not in ("pages", "slides") and device_id:
            raise NotKept("row of pages", device_id)
        known = device_id is not None
        if not known:
            device = device.model_copy(update={"name": state.free_name(device)})
            kits.add_device(state.database, device)
        try:
            files.keep(state.database, File(id=new_id("file"), device_id=device.id, name=name, kind=found, pages=pages), arrived)  # type: ignore[arg-type]
        except StoreError:
            if not known:
                kits.remove_device(state.database, device.id)
            raise
        state.sources.close(device.id)  # opened anew with the file that came
        state.reopen()
    return device


def _new(state: AppState, name: str, kind: str, serves: Role | None) -> Device:
    return Device(
        id=new_id(kind), kit_id=state.ensure_kit(), kind=kind, source="file", label=WORDS[kind],
        name=Path(name).stem[:60] or WORDS[kind], rig="as-it-is", serves=serves,
    )  # type: ignore[arg-type]  # fmt: skip


@router.put("/devices/{device_id}/page", status_code=204)
def turn_page(device_id: Id, wish: PageTurn, state: State) -> None:
    """Show this page, or one so many on; beyond the ends the first and the last one."""
    state.turn_page(device_id, wish.page, wish.by)


@router.put("/devices/{device_id}/clip", status_code=204)
def change_clip(device_id: Id, change: ClipChange, state: State) -> None:
    """Play, pause, loop, go to a moment, or let its sound out: learners then hear it once, lower while somebody speaks."""
    clip = state.sources.clip(state.device(device_id).id)
    if change.loops is not None:
        clip.loops = change.loops
    if change.sounds is not None:
        state.running.sound.sound_clip(device_id, clip if change.sounds else None, ducks=change.ducks is not False)
    if change.position_s is not None:
        clip.seek(change.position_s)
    if change.playing is not None:
        (clip.play if change.playing else clip.pause)()
    state.sources.hurry(device_id)


@router.get("/devices/{device_id}/file", response_class=FileResponse)
def file_of(device_id: Id, state: State) -> FileResponse:
    """The clip itself: the page plays its sound from here, in step with the picture."""
    kept = files.of_device(state.database, state.device(device_id).id)
    if not kept or kept[0].kind != "clip":
        raise NotKept("clip", device_id)
    path = files.path_of(state.database, kept[0])
    if not path.is_file():
        raise NotKept("clip", device_id)
    return FileResponse(path, media_type="video/webm" if kept[0].name.lower().endswith(".webm") else "video/mp4")
