"""Kits by room: saved as they are made, opened tomorrow, copied, exported and imported."""

import asyncio
from typing import Annotated

from fastapi import Depends, Request
from fastapi.responses import JSONResponse

from cartouche.core.kit.recognise import Known, Present, recognise
from cartouche.store import files, kits, lessons
from cartouche.store.kits import Kit
from cartouche.web.kit_file import KitFile, exported, imported, read
from cartouche.web.kit_schemas import CameraHere, CamerasHere, KitChange, KitsView, NewKit, OpenKit, RecognisedView
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Id
from cartouche.web.state import AppState, app_state, new_id

router = screen_router("kit", "/api/kits")
State = Annotated[AppState, Depends(app_state)]


@router.get("")
def all_kits(state: State) -> KitsView:
    found = kits.kits(state.database)
    counts = {kit.id: len(kits.devices(state.database, kit.id)) for kit in found}
    return KitsView(kits=found, open_id=state.kit_id(), devices=counts)


@router.post("", status_code=201)
def add_kit(new: NewKit, state: State) -> Kit:
    """A kit for another room, empty or as a copy, and taken for the open lesson."""
    with state.lock:
        if new.copy_of:
            file = exported(state.database, kits.kit(state.database, new.copy_of).id, with_secrets=True)
            added = imported(state.database, file.model_copy(update={"name": new.name, "room": new.room}))
        else:
            added = Kit(id=new_id("kit"), name=new.name, room=new.room)
            kits.add_kit(state.database, added)
        _take(state, added.id)
    return added


@router.put("/open")
def open_kit(choice: OpenKit, state: State) -> Kit:
    """The open lesson takes place with this kit."""
    with state.lock:
        found = kits.kit(state.database, choice.kit_id)
        _take(state, found.id)
    return found


def _take(state: AppState, kit_id: str) -> None:
    lessons.use_kit(state.database, state.ensure_lesson().id, kit_id)
    state.reopen()


@router.post("/here")
def cameras_here(here: CamerasHere, state: State) -> RecognisedView:
    """Which of the kit's cameras are plugged in, in this port or another, which are missing, and which are new."""
    with state.lock:
        devices = [camera for camera in state.devices() if camera.kind == "camera"]
        known = [Known(camera.id, camera.source, camera.label, camera.max_size) for camera in devices]
        found = recognise(known, [Present(camera.source, camera.label, _max_size(camera)) for camera in here.cameras])
        by_id = {camera.id: camera for camera in devices}
        moved = [id_ for id_, where in found.matches.items() if where.source != by_id[id_].source]
        for id_ in moved:
            kits.update_device(state.database, id_, source=found.matches[id_].source)
        if moved:
            state.reopen()
    return RecognisedView(
        sources={id_: where.source for id_, where in found.matches.items()},
        moved=moved,
        missing=found.missing,
        unsure=found.unsure,
        new=[CameraHere(source=camera.source, label=camera.label) for camera in found.new],
    )


def _max_size(camera: CameraHere) -> tuple[int, int] | None:
    return (camera.max_width, camera.max_height) if camera.max_width and camera.max_height else None


@router.post("/import", status_code=201, openapi_extra={"requestBody": {"content": {"application/json": {}}, "required": True}})
async def import_kit(request: Request, state: State) -> Kit:
    """A kit file becomes a new kit, taken for the open lesson; no other kit is changed."""
    return await asyncio.to_thread(_import, state, await request.body())


def _import(state: AppState, content: bytes) -> Kit:
    file = read(content)
    with state.lock:
        kit = imported(state.database, file)
        _take(state, kit.id)
    return kit


@router.patch("/{kit_id}")
def change_kit(kit_id: Id, change: KitChange, state: State) -> Kit:
    update = {name: value for name, value in change.model_dump().items() if value is not None}
    changed = kits.kit(state.database, kit_id).model_copy(update=update)
    kits.change_kit(state.database, changed)
    state.running.stage.versions.touch("kit")
    return changed


@router.delete("/{kit_id}", status_code=204)
def remove_kit(kit_id: Id, state: State) -> None:
    """With its devices and their corrections. Lessons that took place with it take the next kit, or none where it was the last."""
    with state.lock:
        kit = kits.kit(state.database, kit_id)
        others = [other for other in kits.kits(state.database) if other.id != kit.id]
        lessons.change_kits(state.database, kit.id, others[0].id if others else None)
        kits.remove_kit(state.database, kit.id)
        state.reopen()
    files.sweep(state.database)


@router.get("/{kit_id}/export")
def export_kit(kit_id: Id, state: State) -> KitFile:
    """The kit as a file, see docs/kit.schema.json."""
    file = exported(state.database, kit_id)
    name = "".join(sign if sign.isascii() and sign.isalnum() else "-" for sign in file.name.lower())
    return JSONResponse(file.model_dump(), headers={"Content-Disposition": f'attachment; filename="{name}.json"'})  # type: ignore[return-value]
