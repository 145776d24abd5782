"""Plates: what stands where on the outgoing picture, made and changed while it goes out or before."""

import asyncio
from typing import Annotated, Literal

from fastapi import Depends, Request
from fastapi.responses import JSONResponse

from cartouche.core.kit.naming import numbered
from cartouche.core.plates.model import LOOKS, CaptionContent, Plate
from cartouche.core.plates.ready_made import READY_MADE
from cartouche.fonts import missing
from cartouche.store import plates as kept_plates
from cartouche.store.errors import LastPlate, NotKept, TooManyPlates
from cartouche.web.errors import NothingToStep
from cartouche.web.plates_file import MAX_PLATES, PlatesFile, read, unknown_feeds
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Adorned, Id, NewPlate, PlateChange, PlateOrder, PlatesView, PlateView
from cartouche.web.state import AppState, app_state, new_id
from cartouche.web.views import place_rects

router = screen_router("plates", "/api/plates")
State = Annotated[AppState, Depends(app_state)]


@router.get("")
def all_plates(state: State) -> PlatesView:
    lesson = state.lesson()
    if lesson is None:
        return PlatesView(
            plates=[], plate_on=None, adorned=True, can_undo=False, can_redo=False, ready_made=list(READY_MADE), looks=LOOKS, natural=False
        )
    kept = kept_plates.current(state.database, lesson.id)
    on = state.outgoing_plate(lesson, kept.plates)
    setup = state.running.setup
    return PlatesView(
        plates=[_view(state, setup.plates.get(plate.id, plate)) for plate in kept.plates],  # one may be under a hand
        plate_on=on.id if on else None,
        adorned=setup.adorned,
        can_undo=kept.can_undo,
        can_redo=kept.can_redo,
        ready_made=list(READY_MADE),
        looks=LOOKS,
        natural=setup.natural,
    )


def _view(state: AppState, plate: Plate) -> PlateView:
    running = state.running
    text = "".join(place.content.name + place.content.line for place in plate.places if isinstance(place.content, CaptionContent))
    return PlateView(
        plate=plate,
        rects=place_rects(state, plate),
        missing_signs="".join(missing(text)),
        unknown=unknown_feeds(plate, {feed.id for feed in running.feeds.all()}),
        on=running.setup.plate is not None and running.setup.plate.id == plate.id,
    )


@router.post("", status_code=201)
def add_plate(new: NewPlate, state: State) -> PlatesView:
    """A copy of one of the lesson's plates or of a ready-made one, or an empty one, at the end of the list."""
    with state.lock:
        kept = _kept(state)
        if len(kept) >= MAX_PLATES:
            raise TooManyPlates(str(MAX_PLATES))
        source = next((plate for plate in (*kept, *READY_MADE) if plate.id == new.copy_of), None)
        if new.copy_of is not None and source is None:
            raise NotKept("plate", new.copy_of)
        base = source or Plate(id="new", name=new.name, places=())
        name = numbered(new.name, {plate.name for plate in kept})
        _settle(state, (*kept, base.model_copy(update={"id": new_id("plate"), "name": name})))
    return all_plates(state)


@router.put("/order")
def order(order_: PlateOrder, state: State) -> PlatesView:
    with state.lock:
        by_id = {plate.id: plate for plate in _kept(state)}
        if sorted(by_id) != sorted(order_.ids):
            raise NotKept("plate", next(iter(set(order_.ids) ^ set(by_id)), ""))
        _settle(state, tuple(by_id[plate_id] for plate_id in order_.ids))
    return all_plates(state)


@router.put("/adorned")
def adorn(adorned: Adorned, state: State) -> PlatesView:
    """Caption, frame and background of every plate, all on or all off."""
    with state.lock:
        state.running.stage.adorn(adorned.on)
    return all_plates(state)


@router.post("/undo")
def undo(state: State) -> PlatesView:
    return _step(state, "undo")


@router.post("/redo")
def redo(state: State) -> PlatesView:
    return _step(state, "redo")


@router.get("/export")
def export(state: State) -> PlatesFile:
    """The plates as a file, see docs/plates.schema.json."""
    name = "".join(sign if sign.isascii() and sign.isalnum() else "-" for sign in state.open_lesson().title.lower())
    file = PlatesFile(plates=list(_kept(state)))
    headers = {"Content-Disposition": f'attachment; filename="{name}-plates.json"'}
    return JSONResponse(file.model_dump(mode="json"), headers=headers)  # type: ignore[return-value]


@router.post("/import", status_code=201, openapi_extra={"requestBody": {"content": {"application/json": {}}, "required": True}})
async def import_plates(request: Request, state: State, same: Literal["add", "replace"] = "add") -> PlatesView:
    """The file's plates come after the lesson's own. same: what becomes of those that have the name of one of the lesson's: they
    come besides, with a number, or take its place (and its number and key)."""
    return await asyncio.to_thread(_import, state, await request.body(), same == "replace")


def _import(state: AppState, content: bytes, replace: bool) -> PlatesView:
    file = read(content)
    with state.lock:
        kept = _kept(state)
        if replace:
            by_name = {plate.name: plate for plate in file.plates}
            kept = tuple(by_name.pop(own.name, own).model_copy(update={"id": own.id}) for own in kept)
            file = file.model_copy(update={"plates": list(by_name.values())})
        if len(kept) + len(file.plates) > MAX_PLATES:
            raise TooManyPlates(str(MAX_PLATES))
        added: list[Plate] = []
        for plate in file.plates:
            name = numbered(plate.name, {other.name for other in (*kept, *added)})
            added.append(plate.model_copy(update={"id": new_id("plate"), "name": name}))
        _settle(state, (*kept, *added))
    return all_plates(state)


@router.put("/{plate_id}")
def change_plate(plate_id: Id, change: PlateChange, state: State) -> PlatesView:
    """Shown at once; kept, with undo, unless a hand is still moving it."""
    with state.lock:
        kept = _kept(state)
        _index(kept, plate_id)
        changed = change.plate.model_copy(update={"id": plate_id})
        plates = tuple(changed if plate.id == plate_id else plate for plate in kept)
        if change.settled:
            _settle(state, plates)
        else:
            state.running.stage.change_plates(plates)
    return all_plates(state)


@router.delete("/{plate_id}")
def delete_plate(plate_id: Id, state: State) -> PlatesView:
    with state.lock:
        kept = _kept(state)
        at = _index(kept, plate_id)
        left = kept[:at] + kept[at + 1 :]
        if not left:
            raise LastPlate
        was_on = state.running.setup.plate is not None and state.running.setup.plate.id == plate_id
        _settle(state, left)
        if was_on:
            instead = left[min(at, len(left) - 1)]
            state.put_on(instead)
            state.displaced = plate_id, instead.id  # undone, the deleted one goes out again
    return all_plates(state)


def _kept(state: AppState) -> tuple[Plate, ...]:
    return kept_plates.current(state.database, state.ensure_lesson().id).plates


def _index(plates: tuple[Plate, ...], plate_id: str) -> int:
    found = next((number for number, plate in enumerate(plates) if plate.id == plate_id), None)
    if found is None:
        raise NotKept("plate", plate_id)
    return found


def _settle(state: AppState, plates: tuple[Plate, ...]) -> None:
    kept_plates.settle(state.database, state.ensure_lesson().id, plates)
    state.running.stage.change_plates(plates)


def _step(state: AppState, way: str) -> PlatesView:
    with state.lock:
        before = all_plates(state)
        if not (before.can_undo if way == "undo" else before.can_redo):
            raise NothingToStep(way)
        kept_plates.step(state.database, state.open_lesson().id, way)
        plates = _kept(state)
        state.running.stage.change_plates(plates)
        on, displaced = state.running.setup.plate, state.displaced
        back = next((plate for plate in plates if displaced == (plate.id, on.id if on else "")), None)
        if back is not None:
            state.put_on(back)
        elif on is not None and all(plate.id != on.id for plate in plates) and plates:
            state.put_on(plates[0])
    return all_plates(state)
