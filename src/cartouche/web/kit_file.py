"""A kit as a file: JSON with a published schema (docs/kit.schema.json). Files and tokens stay here."""

from typing import Annotated, Any, Literal

from pydantic import AliasChoices, BaseModel, ConfigDict, Field, ValidationError

from cartouche.bench.devices import DEVICES
from cartouche.core.errors import CartoucheError
from cartouche.core.kit.sizes import Wish
from cartouche.core.plates.model import Role
from cartouche.core.sound.stations import SoundKit
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.gate import is_drawable
from cartouche.live.stream_feed import checked, without_secrets
from cartouche.store import chains, kits
from cartouche.store.database import Database
from cartouche.store.errors import NotAKit
from cartouche.store.kits import Device, Kit
from cartouche.store.sound import keep_sound_kit, sound_kit
from cartouche.web.kit_schemas import Pixels, RigId, Source
from cartouche.web.schemas import Name
from cartouche.web.state import new_id
from cartouche.web.validation import clause

EXPORTED = ("bench", "camera", "guest", "window", "stream")  # pages and clips are files of their own


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class KitDevice(_Strict):
    """source: the browser's id of a camera, a stream's address, or which simulated device.  chain: its corrections."""

    kind: Literal["bench", "camera", "guest", "window", "stream"]
    source: Source
    label: Annotated[str, Field(max_length=200)] = ""
    name: Name
    rig: RigId
    serves: Role | None = None
    microphone: Annotated[str, Field(max_length=200)] = ""
    max_width: Annotated[Pixels | None, Field(validation_alias=AliasChoices("max_width", "most_width"))] = None
    max_height: Annotated[Pixels | None, Field(validation_alias=AliasChoices("max_height", "most_height"))] = None
    wish: Wish = "auto"
    chain: Chain = Chain()


class KitFile(_Strict):
    """The kit of one room: its devices in order."""

    format: Literal["cartouche-kit"] = "cartouche-kit"
    version: Literal[1] = 1
    name: Name
    room: Name
    devices: Annotated[list[KitDevice], Field(max_length=64)]
    sound: SoundKit = SoundKit()


def schema() -> dict[str, Any]:
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **KitFile.model_json_schema()}


def exported(database: Database, kit_id: str, *, with_secrets: bool = False) -> KitFile:
    """with_secrets: streams keep their name and password; for a copy that stays here, never for a file."""
    kit = kits.kit(database, kit_id)
    devices = []
    for device in kits.devices(database, kit_id):
        if device.kind in EXPORTED:
            values = device.model_dump(include=set(KitDevice.model_fields))
            if device.kind == "stream" and not with_secrets:
                values["source"] = without_secrets(device.source)
            devices.append(KitDevice(**values, chain=chains.current(database, device.id).chain))
    return KitFile(name=kit.name, room=kit.room, devices=devices, sound=sound_kit(database, kit_id))


def read(content: bytes) -> KitFile:
    """Raises NotAKit with what is wrong and where."""
    try:
        found = KitFile.model_validate_json(content)
    except ValidationError as exc:
        raise NotAKit(clause(exc.errors())) from exc
    for device in found.devices:
        if not is_drawable(device.chain, None):
            raise NotAKit(f"the corrections of “{device.name}” cannot be drawn")
        if device.kind == "bench" and device.source not in DEVICES:
            raise NotAKit(f"there is no simulated device “{device.source}”")
        if device.kind == "stream":
            try:
                checked(device.source)
            except CartoucheError as exc:
                raise NotAKit(str(exc).rstrip(".")) from exc
    return found


def imported(database: Database, file: KitFile) -> Kit:
    """A new kit with these devices; none that is there is changed."""
    kit = Kit(id=new_id("kit"), name=file.name, room=file.room)
    kits.add_kit(database, kit)
    for entry in file.devices:
        device = Device(id=new_id(entry.kind), kit_id=kit.id, **entry.model_dump(exclude={"chain"}))
        kits.add_device(database, device)
        chains.settle(database, device.id, entry.chain)
    keep_sound_kit(database, kit.id, file.sound)
    return kit
