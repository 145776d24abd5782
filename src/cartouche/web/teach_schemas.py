"""What the lesson's tools say and take."""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from cartouche.core.straighten.chain import ZOOM_MAX, FrameLink
from cartouche.core.teach.actions import Name as ActionName
from cartouche.core.teach.steps import MAX_NOTE, Step
from cartouche.core.teach.timer import LONGEST_S
from cartouche.web.after_schemas import RecordView
from cartouche.web.schemas import Asked, Id, Name

Press = Annotated[str, Field(max_length=80)]


class ActionAsked(Asked):
    """number: of the plate, for `plate`.  press: a name of this press; sent again by the same name it counts once."""

    action: ActionName
    number: Annotated[int | None, Field(ge=1, le=40)] = None
    press: Press = ""


class ActionView(BaseModel):
    """keys: as browsers name them.  shown: the first of them as it stands on a button.  own: the teacher has chosen it."""

    name: ActionName
    keys: list[str]
    shown: str
    says: str
    own: bool


class HeldView(BaseModel):
    """by: the teacher, the page that left, or a sheet that is shown.  for_s: so long.  asks: it has been so long that it asks."""

    device_id: str
    by: Literal["hand", "page", "sheet"]
    for_s: float
    sheet_id: str | None
    asks: bool


class TimerView(BaseModel):
    """counted_s, left_s: at this moment; left_s is None counting up.  reads: as it stands on the picture."""

    way: Literal["down", "up"]
    total_s: float
    counted_s: float
    left_s: float | None
    runs: bool
    ended: bool
    shown: bool
    chime: bool
    reads: str


class SheetView(BaseModel):
    """waits: it found no room on the disk yet.  shown: it stands in place of the page."""

    id: str
    name: str
    made_at: float
    width: int
    height: int
    by_itself: bool
    waits: bool
    shown: bool


class StepView(BaseModel):
    """lacks: what keeps it from being shown whole, in a sentence."""

    step: Step
    lacks: str | None


class ToolsView(BaseModel):
    """frame: how close the page is looked at.  page_id: the device that serves as page.  said: what is to be said of the last action.
    at: the step that the lesson is at; next: the one that comes."""

    actions: list[ActionView]
    held: HeldView | None
    auto_hold: bool
    auto_sheets: bool
    follow_pen: bool
    timer: TimerView
    frame: FrameLink
    page_id: str | None
    sheets: list[SheetView]
    recording: RecordView
    steps: list[StepView]
    at: str | None
    next: str | None
    said: str = ""


class TimerChange(Asked):
    """way, total_s: set it anew, standing.  shown: learners see it in a corner.  chime: they hear its end."""

    way: Literal["down", "up"] | None = None
    total_s: Annotated[float | None, Field(ge=1.0, le=LONGEST_S)] = None
    shown: bool | None = None
    chime: bool | None = None


class Switched(Asked):
    on: bool


class KeyChosen(Asked):
    """key: None for its first keys."""

    action: ActionName
    key: Annotated[str | None, Field(max_length=20)] = None


class LookAsked(Asked):
    """by: so many times as close.  x, y: about this spot of the page as it is straightened, in shares of it, None for the middle.
    right, down: moved by shares of what is in sight.  settled: False while a hand still moves it."""

    by: Annotated[float, Field(gt=0.05, le=ZOOM_MAX)] = 1.0
    x: Annotated[float | None, Field(ge=0.0, le=1.0)] = None
    y: Annotated[float | None, Field(ge=0.0, le=1.0)] = None
    right: Annotated[float, Field(ge=-2.0, le=2.0)] = 0.0
    down: Annotated[float, Field(ge=-2.0, le=2.0)] = 0.0
    settled: bool = True


class SheetNamed(Asked):
    name: Name


class StepMade(Asked):
    name: Name
    note: Annotated[str, Field(max_length=MAX_NOTE)] = ""


class StepChange(Asked):
    name: Name | None = None
    note: Annotated[str | None, Field(max_length=MAX_NOTE)] = None
    skipped: bool | None = None
    anew: bool = False
    """All but its name and note is taken from what stands now."""


class StepOrder(Asked):
    ids: list[Id]
