"""Kit: the devices of the room."""

from typing import Annotated

from fastapi import APIRouter, Depends

from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.rigs import RIGS, first_guess, rig_named
from cartouche.store import chains, kits
from cartouche.store.kits import Device
from cartouche.web.schemas import DeviceChange, FaultProvoked, Id, KitView, NewCamera, RigView
from cartouche.web.state import AppState, app_state, new_id

router = APIRouter(prefix="/api/kit", tags=["kit"])
State = Annotated[AppState, Depends(app_state)]


@router.get("")
def kit(state: State) -> KitView:
    lesson = state.open_lesson()
    rigs = [RigView.model_validate(rig._asdict()) for rig in RIGS]
    return KitView(kit=kits.kit(state.database, lesson.kit_id), devices=state.devices(), rigs=rigs, faults=state.faults())


@router.post("/devices", status_code=201)
def add_camera(new: NewCamera, state: State) -> Device:
    """A camera of this computer. Its pictures come by the camera socket."""
    with state.lock:
        device = Device(id=new_id("camera"), kit_id=state.open_lesson().kit_id, kind="camera", **new.model_dump())
        kits.add_device(state.database, device)
        chains.settle(state.database, device.id, first_guess(rig_named(device.rig), Chain()))
        state.reopen()
    return device


@router.patch("/devices/{device_id}")
def change_device(device_id: Id, change: DeviceChange, state: State) -> Device:
    """Another name, rig or role. A new rig brings its turn and flips as first guess."""
    with state.lock:
        before = state.device(device_id)
        new = {name: value for name, value in change.model_dump().items() if value is not None}
        if new.get("serves") == "nothing":
            new["serves"] = None
        after = before.model_copy(update=new)
        kits.change_device(state.database, after)
        if after.rig != before.rig:
            chain = chains.current(state.database, device_id).chain
            chains.settle(state.database, device_id, first_guess(rig_named(after.rig), chain))
        state.reopen()
    return after


@router.put("/devices/{device_id}/fault", status_code=204)
def provoke(device_id: Id, asked: FaultProvoked, state: State) -> None:
    """Break a simulated device in one way, to see what Cartouche does then; or bring it back."""
    with state.lock:
        state.bench_device(device_id).provoke(asked.fault)
        if asked.fault in (None, "warming up"):
            state.running.restart_feed(device_id)


@router.delete("/devices/{device_id}", status_code=204)
def remove_device(device_id: Id, state: State) -> None:
    with state.lock:
        kits.remove_device(state.database, state.device(device_id).id)
        state.reopen()
