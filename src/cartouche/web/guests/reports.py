"""What a guest's page tells of its phone, and what it is told and asked in return."""

from typing import Annotated, Literal

from pydantic import Field, field_validator

from cartouche.core.kit.health import Battery
from cartouche.core.watch.facts import Connection
from cartouche.web.schemas import Asked, Label

Share = Annotated[float, Field(ge=0, le=1)]
Number = Annotated[float, Field(ge=-1e9, le=1e9)]

Control = Literal["zoom", "focusDistance", "exposureCompensation", "exposureTime", "torch", "brightness"]


class Span(Asked):
    """What a control can be set to (Image Capture capabilities)."""

    min: Number
    max: Number
    step: Annotated[float, Field(ge=0, le=1e9)] = 0


class Lens(Asked):
    id: Annotated[str, Field(max_length=256)]
    label: Label
    facing: Literal["rear", "front"] | None


class BatteryReport(Asked):
    level: Share
    charging: bool

    def battery(self) -> Battery:
        return Battery(self.level, self.charging)


class Report(Asked):
    """phase: what the page is doing.  path_ms to starved: its line to this computer, as in `core.watch.facts.Connection`."""

    phase: Literal["asking", "denied", "busy", "none", "unable", "sending", "resting"]
    transport: Literal["webrtc", "websocket"] | None = None
    battery: BatteryReport | None = None
    lenses: Annotated[list[Lens], Field(max_length=12)] = []
    lens: Annotated[str, Field(max_length=256)] | None = None
    spans: dict[Control, Span] = {}
    settings: dict[Control, Number] = {}
    can_refocus: bool = False
    microphone: Literal["none", "off", "on"] = "off"
    awake: Literal["held", "missing", "refused"] = "missing"
    max_width: Annotated[int, Field(ge=1, le=20000)] | None = None
    max_height: Annotated[int, Field(ge=1, le=20000)] | None = None
    path_ms: Annotated[float, Field(ge=0, le=10_000)] | None = None
    lost: Annotated[float, Field(ge=0, le=1)] | None = None
    kbit_s: Annotated[float, Field(ge=0, le=1_000_000)] | None = None
    starved: bool = False
    done: Annotated[int, Field(ge=0)] = 0  # number of the last orders carried out

    def connection(self) -> Connection:
        return Connection(self.path_ms, self.lost, self.kbit_s, self.starved)

    @field_validator("spans")
    @classmethod
    def _with_a_room(cls, spans: dict[Control, Span]) -> dict[Control, Span]:
        """A control that says nonsense of itself is left out: the rest of the report counts."""
        return {name: span for name, span in spans.items() if span.min < span.max}


class Orders(Asked):
    """What the teacher sets from the computer. number grows with each; refocus counts the presses.  leave: the lesson is over."""

    number: int = 0
    lens: str | None = None
    settings: dict[Control, Number] = {}
    refocus: int = 0
    microphone: bool | None = None
    leave: bool = False


class GuestState(Asked):
    """What the page shows and does: told with each answer. run: changes when the server was started anew.  fps: so many pictures go out."""

    run: str
    name: str
    serves: Literal["page", "face"] | None
    state: str
    arrives: bool
    wanted: bool
    fps: float
    width: int | None
    height: int | None
    orders: Orders
