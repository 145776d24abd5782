"""What the Kit screen says and takes."""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from cartouche.bench.devices import Fault
from cartouche.core.guests.networks import Way
from cartouche.core.kit.sizes import Wish
from cartouche.core.plates.model import Role
from cartouche.store.files import File
from cartouche.store.kits import Device, Kit
from cartouche.web.guests.reports import Control, Lens, Number, Span
from cartouche.web.schemas import Asked, Id, Label, Name

RigId = Literal[
    "arm-own-side", "arm-far-side", "shelf", "tripod", "gooseneck", "in-hand", "clip-mirror", "tablet-mirror", "at-face", "as-it-is"
]
Source = Annotated[str, Field(min_length=1, max_length=1024, pattern=r"^[^\x00-\x1f\x7f]+$")]
Pixels = Annotated[int, Field(ge=1, le=20_000)]


class RigView(BaseModel):
    id: RigId
    name: str
    mirrors: int
    holds: Role | None
    price: str


class SizeView(BaseModel):
    """fps, delay_ms: as measured when this size was last tried, None if never."""

    width: int
    height: int
    fps: float | None
    delay_ms: float | None


class SizesView(BaseModel):
    """width, height: the size that the wish comes to, and why."""

    wish: Wish
    offered: list[SizeView]
    width: int | None
    height: int | None
    why: str | None


class GuestView(BaseModel):
    here: bool
    awaited: bool
    left: bool
    transport: str | None
    lenses: list[Lens]
    lens: str | None
    spans: dict[Control, Span]
    settings: dict[Control, Number]
    can_refocus: bool
    microphone: Literal["none", "off", "on"]
    awake: Literal["held", "missing", "refused"]


class FilesView(BaseModel):
    """sound: the codec of a clip's sound, '' for none."""

    files: list[File]
    pages: int
    sound: str = ""


class KitView(BaseModel):
    """faults: what is provoked on simulated devices just now, by device.  door: the addresses open to guests.

    print_pt: the smallest print that the lesson's pages hold, as the teacher states it.
    """

    kit: Kit | None
    devices: list[Device]
    rigs: list[RigView]
    faults: dict[str, Fault]
    sizes: dict[str, SizesView]
    guests: dict[str, GuestView]
    files: dict[str, FilesView]
    door: list[str]
    door_trouble: str | None
    print_pt: float


class NewDevice(Asked):
    """A camera of this computer, a window or tab, or a network stream.

    source: the browser's id of the camera, the kind of surface that is shared, or the stream's address.  label: what the browser calls it.
    """

    kind: Literal["camera", "window", "stream"] = "camera"
    source: Source
    label: Label = ""
    name: Name
    rig: RigId
    serves: Role | None = None
    microphone: Label = ""
    max_width: Pixels | None = None
    max_height: Pixels | None = None
    whole_screen: bool = False


class DeviceChange(Asked):
    name: Name | None = None
    rig: RigId | None = None
    serves: Role | Literal["nothing"] | None = None
    source: Source | None = None
    label: Label | None = None
    microphone: Label | None = None
    max_width: Pixels | None = None
    max_height: Pixels | None = None


class FaultProvoked(Asked):
    """None mends it, as if switched off and on again."""

    fault: Fault | None


class Laid(Asked):
    """What lies under a simulated camera."""

    thing: Literal["sheet", "card", "nothing"]


class Asking(Asked):
    """The browser waits for the teacher to allow this device."""

    asking: bool


class SizeWish(Asked):
    wish: Wish


class SmallestPrint(Asked):
    print_pt: Annotated[float, Field(ge=4, le=72)]


class PageTurn(Asked):
    """page: this one, from 0.  by: so many on from the one that is shown; each press counts, however quick they come."""

    page: Annotated[int | None, Field(ge=0, le=100_000)] = None
    by: Annotated[int, Field(ge=-100_000, le=100_000)] = 0


class ClipChange(Asked):
    playing: bool | None = None
    loops: bool | None = None
    position_s: Annotated[float, Field(ge=0, le=1e6)] | None = None
    sounds: bool | None = None
    ducks: bool | None = None


class NetworkView(BaseModel):
    address: str
    adapter: str
    way: Way
    words: str
    usual: bool


class NewInvitation(Asked):
    """address: of the network to come by, the likeliest if not said.

    device_id: for this phone of the kit, which keeps its name and corrections.  The rest is what the teacher states of a new one.
    """

    address: Annotated[str, Field(max_length=45)] | None = None
    device_id: Id | None = None
    name: Name | None = None
    rig: RigId = "arm-own-side"
    serves: Role | None = None


class InvitationView(BaseModel):
    """qr: an SVG of the address with its code.  device_id: who has come by it."""

    code: str
    address: str
    link: str
    qr: str
    left_s: float
    device_id: str | None


class ControlChange(Asked):
    lens: Annotated[str, Field(max_length=256)] | None = None
    settings: dict[Control, Number] = {}
    refocus: bool = False
    microphone: bool | None = None


class CameraHere(Asked):
    """A camera that the browser sees now."""

    source: Annotated[str, Field(max_length=256)]
    label: Label = ""
    max_width: Pixels | None = None
    max_height: Pixels | None = None


class CamerasHere(Asked):
    cameras: Annotated[list[CameraHere], Field(max_length=64)]


class RecognisedView(BaseModel):
    """sources: device -> where it is now.  moved, missing, unsure: devices of the kit.  new: cameras that are not in it."""

    sources: dict[str, str]
    moved: list[str]
    missing: list[str]
    unsure: list[str]
    new: list[CameraHere]


class NewKit(Asked):
    """copy_of: begin with this kit's devices."""

    name: Name
    room: Name
    copy_of: Id | None = None


class KitChange(Asked):
    name: Name | None = None
    room: Name | None = None


class OpenKit(Asked):
    kit_id: Id


class KitsView(BaseModel):
    kits: list[Kit]
    open_id: str | None
    devices: dict[str, int]
