"""Kit: the devices of the room."""

from typing import Annotated

from fastapi import Depends

from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.rigs import RIGS, first_guess, rig_named
from cartouche.live.files.clip import ClipSource
from cartouche.live.stream_feed import checked
from cartouche.store import chains, files, guests, kits, settings
from cartouche.store.errors import NotKept
from cartouche.store.kits import Device
from cartouche.web.caretaker import offered_sizes, print_pt, size_choice
from cartouche.web.errors import WholeScreenUnasked
from cartouche.web.guests.book import Guests
from cartouche.web.kit_schemas import (
    Asking,
    DeviceChange,
    FaultProvoked,
    FilesView,
    GuestView,
    KitView,
    Laid,
    NewDevice,
    RigView,
    SizesView,
    SizeView,
    SizeWish,
    SmallestPrint,
)
from cartouche.web.routers.guests import guest_book, guest_view
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Id
from cartouche.web.state import AppState, app_state, new_id

router = screen_router("kit", "/api/kit")
State = Annotated[AppState, Depends(app_state)]
Book = Annotated[Guests, Depends(guest_book)]


@router.get("")
def kit(state: State, book: Book) -> KitView:
    kit_id, devices = state.kit_id(), state.devices()
    return KitView(
        kit=kits.kit(state.database, kit_id) if kit_id else None,
        devices=devices,
        rigs=[RigView.model_validate(rig._asdict()) for rig in RIGS],
        faults=state.sources.faults(),
        sizes={device.id: _sizes(state, device) for device in devices},
        guests=_guests(state, book, kit_id) if kit_id else {},
        files={device.id: _files(state, device) for device in devices if device.kind in ("pages", "slides", "clip")},
        door=[book.keeper.doors.link(address).split("://")[1] for address in book.keeper.doors.addresses],
        door_trouble=book.keeper.trouble,
        print_pt=print_pt(state),
    )


def _sizes(state: AppState, device: Device) -> SizesView:
    offered = [
        SizeView(width=offer.width, height=offer.height, fps=offer.fps, delay_ms=None if offer.delay_s is None else 1000 * offer.delay_s)
        for offer in offered_sizes(state, device)
    ]
    choice = size_choice(state, device)
    chosen = (choice.size.width, choice.size.height, choice.why) if choice else (None, None, None)
    return SizesView(wish=device.wish, offered=offered, width=chosen[0], height=chosen[1], why=chosen[2])


def _guests(state: AppState, book: Guests, kit_id: str) -> dict[str, GuestView]:
    return {guest.device_id: guest_view(book, guest) for guest in guests.of_kit(state.database, kit_id)}


def _files(state: AppState, device: Device) -> FilesView:
    kept = files.of_device(state.database, device.id)
    clip = state.sources.clips().get(device.id)
    sound = clip.facts.sound if isinstance(clip, ClipSource) else ""
    return FilesView(files=kept, pages=sum(file.pages for file in kept), sound=sound)


@router.post("/devices", status_code=201)
def add_device(new: NewDevice, state: State) -> Device:
    """A camera of this computer or a window, whose pictures come by the camera socket; or a network stream."""
    values = new.model_dump(exclude={"whole_screen"})
    if new.kind == "stream":
        values["source"] = checked(new.source)
    if new.kind == "window" and new.source == "monitor" and not new.whole_screen:
        raise WholeScreenUnasked
    device = Device(id=new_id(new.kind), kit_id=state.ensure_kit(), **values)
    return state.add_device(device, first_guess(rig_named(device.rig), Chain()))


@router.patch("/devices/{device_id}")
def change_device(device_id: Id, change: DeviceChange, state: State) -> Device:
    """Another name, rig, role or camera. A new rig brings its turn and flips as first guess."""
    with state.lock:
        before = state.device(device_id)
        new = {name: value for name, value in change.model_dump().items() if value is not None}
        if new.get("serves") == "nothing":
            new["serves"] = None
        if before.kind == "stream" and "source" in new:
            new["source"] = checked(new["source"])
        after = kits.update_device(state.database, device_id, **new)
        if after.rig != before.rig:
            chain = chains.current(state.database, device_id).chain
            chains.settle(
                state.database, device_id, chains.usual(state.database, device_id, after.rig) or first_guess(rig_named(after.rig), chain)
            )
        if after.kind == "stream" and after.source != before.source:
            state.sources.close(device_id)
        state.reopen()
    return after


@router.put("/devices/{device_id}/fault", status_code=204)
def provoke(device_id: Id, provoked: FaultProvoked, state: State) -> None:
    """Break a simulated device in one way, to see what Cartouche does then; or bring it back."""
    with state.lock:
        state.sources.bench(state.device(device_id).id).provoke(provoked.fault)
        if provoked.fault in (None, "warming up"):
            state.running.restart_feed(device_id)
        state.running.stage.versions.touch("kit")


@router.put("/devices/{device_id}/lies", status_code=204)
def lay(device_id: Id, wish: Laid, state: State) -> None:
    """Lay the sheet, the set-up card or nothing under a simulated camera."""
    device = state.device(device_id)
    try:
        state.sources.bench(device.id).lay(wish.thing)
    except LookupError as exc:
        raise NotKept("simulated camera over a desk", device_id) from exc


@router.put("/devices/{device_id}/asking", status_code=204)
def asking(device_id: Id, now: Asking, state: State) -> None:
    """The browser asks the teacher to allow this camera or window, or does not any more."""
    feed = state.running.feeds.get(state.device(device_id).id)
    if feed is not None:
        feed.waiting = now.asking


@router.put("/devices/{device_id}/size")
def wish_size(device_id: Id, change: SizeWish, state: State) -> Device:
    """Sharp, quick, or by what the page needs."""
    with state.lock:
        choice = size_choice(state, state.device(device_id).model_copy(update={"wish": change.wish}))
        size = {"width": choice.size.width, "height": choice.size.height} if choice is not None else {}
        wished = kits.update_device(state.database, device_id, wish=change.wish, **size)
        state.reopen()
    return wished


@router.put("/print", status_code=204)
def smallest_print(print_: SmallestPrint, state: State) -> None:
    """The smallest print on the lesson's pages: sizes are chosen by it."""
    settings.set_setting(state.database, "smallest_print_pt", str(print_.print_pt))
    state.running.stage.versions.touch("kit")


@router.delete("/devices/{device_id}", status_code=204)
def remove_device(device_id: Id, state: State) -> None:
    with state.lock:
        kits.remove_device(state.database, state.device(device_id).id)
        state.take_camera(device_id)  # whoever still sends it is told so
        state.reopen()
    files.sweep(state.database)
