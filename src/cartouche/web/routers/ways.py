"""Way in: how the outgoing picture gets into the call."""

import io
import zipfile
from typing import Annotated

from fastapi import Depends, Request, Response
from pydantic import Field

from cartouche.core.call.kinds import CallKind
from cartouche.core.call.ways import WayId
from cartouche.live.out.loopback import NoSuchCameraDevice, loopback_devices
from cartouche.live.out.whip_out import WhipAddress
from cartouche.store.errors import NotKept
from cartouche.store.ways import Tried, keep_call_kind, keep_tried, keep_viewers
from cartouche.web.errors import NamedTwice
from cartouche.web.extension_key import ExtensionKey
from cartouche.web.guests.book import Guests
from cartouche.web.routers.guests import guest_book
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Asked, Id
from cartouche.web.server_outlet import ServerOutlet
from cartouche.web.state import AppState, app_state
from cartouche.web.ways_view import EXTENSION, ViewersChange, WatchInvitationView, WaysView, invitation_view, ways_view

router = screen_router("ways", "/api/ways")
State = Annotated[AppState, Depends(app_state)]


class Arrived(Asked):
    """delay_ms: what the call itself added, from encoding to decoding."""

    width: Annotated[int, Field(ge=1, le=7680)]
    height: Annotated[int, Field(ge=1, le=4320)]
    fps: Annotated[float, Field(ge=0, le=240)]
    delay_ms: Annotated[float, Field(ge=0, le=60_000)] | None = None
    codec: Annotated[str, Field(max_length=20)] = ""
    sound: bool = False


class Network(Asked):
    """address: of this computer, in the network that they are in; None for the likeliest."""

    address: Annotated[str, Field(max_length=60)] | None = None


class NetworkCamera(Network):
    on: bool


class ServerAddress(Asked):
    address: Annotated[str, Field(min_length=8, max_length=500)]
    token: Annotated[str, Field(max_length=2000)] = ""
    ice: Annotated[str, Field(pattern=r"^((stun|turns?):[^\s]{1,200})?$")] = ""
    ice_user: Annotated[str, Field(max_length=200)] = ""
    ice_password: Annotated[str, Field(max_length=200)] = ""


class CameraDevice(Asked):
    path: Annotated[str, Field(max_length=60)] | None


class SameSigns(Asked):
    code: Annotated[str, Field(min_length=1, max_length=12)]


def extension_key(request: Request) -> ExtensionKey:
    key = request.app.state.extension
    assert isinstance(key, ExtensionKey)
    return key


Key = Annotated[ExtensionKey, Depends(extension_key)]
Book = Annotated[Guests, Depends(guest_book)]


def server_outlet(request: Request) -> ServerOutlet:
    outlet = request.app.state.server_outlet
    assert isinstance(outlet, ServerOutlet)
    return outlet


Sender = Annotated[ServerOutlet, Depends(server_outlet)]


def _invitation(book: Guests) -> WatchInvitationView:
    found = invitation_view(book, "watch")
    if found is None:
        raise NotKept("invitation", "this one")
    return found


@router.get("/extension.zip", response_class=Response)
def extension_packed() -> Response:
    """The extension for a browser on another computer than this one."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for path in sorted(EXTENSION.iterdir()):
            archive.write(path, f"cartouche-extension/{path.name}")
    headers = {"Content-Disposition": 'attachment; filename="cartouche-extension.zip"'}
    return Response(packed.getvalue(), media_type="application/zip", headers=headers)


@router.get("")
def ways(state: State, key: Key, book: Book, outlets: Sender) -> WaysView:
    """Each way with what it gives to each audience, the best for this lesson first."""
    return ways_view(state, key, book, outlets)


@router.put("/call")
def change_call(call: CallKind, state: State, key: Key, book: Book, outlets: Sender) -> WaysView:
    """The kind of call, or what the teacher knows better of it."""
    with state.lock:
        keep_call_kind(state.database, call)
        state.running.serve(state.running.verdicts.viewers, call)
    return ways_view(state, key, book, outlets)


@router.put("/viewers")
def change_viewers(change: ViewersChange, state: State, key: Key, book: Book, outlets: Sender) -> WaysView:
    """Who watches this class, from now on and in its other lessons too."""
    if len({viewers.id for viewers in change.viewers}) < len(change.viewers):
        raise NamedTwice
    with state.lock:
        keep_viewers(state.database, state.ensure_lesson().class_name, change.viewers)
        state.running.serve(change.viewers, state.running.verdicts.call)
    return ways_view(state, key, book, outlets)


@router.post("/invitation", status_code=201)
async def invite(at: Network, book: Book) -> WatchInvitationView:
    """A code for one board or co-teacher: they see the outgoing picture and nothing else."""
    await book.watching.invite(at.address)
    return _invitation(book)


@router.delete("/invitation", status_code=204)
async def withdraw(book: Book) -> None:
    await book.watching.withdraw()


@router.delete("/watchers/{watcher_id}", status_code=204)
async def forget_watcher(watcher_id: Id, book: Book) -> None:
    """This screen sees nothing any more, at once."""
    await book.watching.forget(watcher_id)


@router.put("/network-camera", status_code=204)
async def switch_network_camera(wanted: NetworkCamera, book: Book) -> None:
    """An address for room systems, another one each time it is switched on."""
    await book.watching.switch_camera(wanted.on, wanted.address)


@router.put("/server", status_code=204)
async def send_to_server(where: ServerAddress, state: State, outlets: Sender) -> None:
    """Send to this server by WHIP from now on, and again by itself until it is stopped."""
    await outlets.start(WhipAddress(where.address, where.token, where.ice, where.ice_user, where.ice_password), state)


@router.delete("/server", status_code=204)
async def stop_sending(outlets: Sender) -> None:
    await outlets.stop()


@router.put("/device", status_code=204)
def give_to_device(wanted: CameraDevice, state: State) -> None:
    """Write the outgoing picture to this loopback device; None: to none."""
    found = next((one for one in loopback_devices() if one.path == wanted.path), None)
    if wanted.path is not None and found is None:
        raise NoSuchCameraDevice
    with state.lock:
        state.running.give_to_device(found)


@router.put("/tried/{way}", status_code=204)
def note_tried(way: WayId, found: Arrived, state: State) -> None:
    """What arrived at the far end of the call page when this way was tried."""
    keep_tried(state.database, way, Tried(**found.model_dump()))
    state.running.stage.versions.touch("ways")


@router.post("/pairing", status_code=204)
def confirm_pairing(same: SameSigns, state: State, key: Key) -> None:
    """The teacher has compared: the extension shows the same code."""
    key.confirm(same.code)
    state.running.stage.versions.touch("ways")


@router.delete("/pairing", status_code=204)
def refuse_pairing(state: State, key: Key) -> None:
    key.refuse()
    state.running.stage.versions.touch("ways")


@router.delete("/extension", status_code=204)
def forget_extension(state: State, key: Key) -> None:
    """No extension is paired any more; what takes the picture by it ends."""
    key.forget()
    state.running.stage.versions.touch("ways")
