"""Teach: the plate that is on, the outgoing picture, the call."""

from typing import Annotated

from fastapi import Depends

from cartouche.live.running import SIZES
from cartouche.store import settings
from cartouche.web.routing import screen_router
from cartouche.web.schemas import CallView, OutgoingChange, PlateOn, TeachView
from cartouche.web.state import AppState, app_state
from cartouche.web.teaching import chosen_plate
from cartouche.web.views import place_rects

router = screen_router("teach", "/api/teach")
State = Annotated[AppState, Depends(app_state)]


@router.get("")
def teach(state: State) -> TeachView:
    lesson, plates = state.lesson(), state.plates()
    plate = state.outgoing_plate(lesson, plates) if lesson else None
    size = next(name for name, size in SIZES.items() if size == state.running.thrift.size)
    return TeachView(
        lesson=lesson,
        plates=plates,
        rects={shown.id: place_rects(state, shown) for shown in plates},
        plate_on=plate.id if plate else None,
        adorned=state.running.setup.adorned,
        outgoing_size=size,
    )


@router.put("/plate")
def put_plate_on(choice: PlateOn, state: State) -> TeachView:
    with state.lock:
        state.put_on(chosen_plate(state, plate_id=choice.plate_id, number=choice.number, by=choice.by))
    return teach(state)


@router.put("/outgoing")
def change_outgoing(change: OutgoingChange, state: State) -> TeachView:
    with state.lock:
        state.running.resize(SIZES[change.size])
        settings.set_setting(state.database, "outgoing_size", change.size)
    return teach(state)


@router.post("/call/start")
def start_call(state: State) -> CallView:
    with state.lock:
        state.running.start_call()
    return CallView(running=True)


@router.post("/call/stop")
def stop_call(state: State) -> CallView:
    with state.lock:
        state.running.stop_call()
    return CallView(running=False)
