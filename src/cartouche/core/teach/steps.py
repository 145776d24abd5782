"""Steps of a lesson: prepared moments, each with its plate, who serves what, how close, which page or sheet, the timer and a note."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from cartouche.core.plates.model import Id, Plate, Role
from cartouche.core.straighten.chain import FrameLink

MAX_STEPS = 60
MAX_NOTE = 400


class _Kept(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class StepTimer(_Kept):
    """What the timer counts from when the step begins."""

    way: Literal["down", "up"] = "down"
    total_s: float = Field(default=300.0, ge=0.0, le=36_000.0)


class Step(_Kept):
    """plate_id: None leaves the plate that is on.  serves: device by role, where it differs from what serves already.  framing: how close
    the page is looked at; None leaves it.  pages: of a file or slides, by device, from 1.  sheet_id: a sheet in place of the page.
    clip_id: a clip that is played from its beginning.  timer: starts with the step.  note: for the teacher alone.
    """

    id: Id
    name: Annotated[str, Field(min_length=1, max_length=60)]
    plate_id: Id | None = None
    serves: dict[Role, Id] = {}
    framing: FrameLink | None = None
    pages: dict[Id, Annotated[int, Field(ge=1, le=2000)]] = {}
    sheet_id: Id | None = None
    clip_id: Id | None = None
    timer: StepTimer | None = None
    note: Annotated[str, Field(max_length=MAX_NOTE)] = ""
    skipped: bool = False


def after(steps: tuple[Step, ...], at: str | None, by: int) -> Step | None:
    """The step so many on (or back, negative) that is not skipped; from none, the first. None at the end."""
    left = [step for step in steps if not step.skipped or step.id == at]
    place = next((number for number, step in enumerate(left) if step.id == at), None)
    if place is None:
        left = [step for step in left if not step.skipped]
        return left[0] if left and by > 0 else None
    wanted = place + by
    return left[wanted] if 0 <= wanted < len(left) else None


def lacks(step: Step, plates: tuple[Plate, ...], devices: dict[str, str], away: set[str], sheets: set[str]) -> str | None:
    """What keeps a step from being shown whole, in a sentence; None when nothing does.

    devices: names by id.  away: devices whose picture does not come.  sheets: ids of those that are kept.
    """
    if step.plate_id is not None and all(plate.id != step.plate_id for plate in plates):
        return "Its plate was deleted: the plate that is on stays."
    if step.sheet_id is not None and step.sheet_id not in sheets:
        return "Its sheet was deleted: the page itself is shown."
    wanted = [*step.serves.values(), *step.pages, *([step.clip_id] if step.clip_id else [])]
    for device_id in wanted:
        if device_id not in devices:
            return "A device of this step is no longer in the kit: what serves now stays."
        if device_id in away:
            return f"{devices[device_id]} gives no picture now: what serves now stays."
    return None
