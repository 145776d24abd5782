"""What the interface says and takes. The core's own values are used as they are."""

from collections.abc import Callable
from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from cartouche.core.kit.naming import plain, unturned
from cartouche.core.plates.model import Grade, Plate, Rect
from cartouche.core.watch.readiness import Verdict
from cartouche.core.watch.signal import State
from cartouche.store.lessons import Lesson
from cartouche.web.ears_view import LearnersView


def _texts(work: Callable[[str], str]) -> BeforeValidator:
    return BeforeValidator(lambda value: work(value) if isinstance(value, str) else value)


Name = Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[^\s\x00-\x1f\x7f][^\x00-\x1f\x7f]*$"), _texts(unturned)]
Label = Annotated[str, Field(max_length=200), _texts(plain)]  # as a device or a guest spells it: cleaned, not refused
Id = Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[\w.:-]+$")]
CardPaperName = Literal["A4", "Letter"]
PaperName = Literal["A3", "A4", "A5", "A6", "Letter", "Legal"]


class Asked(BaseModel):
    """A body that takes nothing it does not know."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Refusal(BaseModel):
    """Every error answers so: one sentence for the teacher."""

    detail: str


class LightStage(BaseModel):
    where: str
    count: int
    words: str


class LightPathView(BaseModel):
    stages: list[LightStage]
    count: int
    reads_true: bool


class RulesView(BaseModel):
    """Limits and lists that screens lay out but do not decide: they stand in the core.

    fine_max_deg: of the fine turn.  distortion_max: of the lens curve, to either side.  straight_below: less of it is none.
    keystone_max: per cent.  max_pictures: places of a plate that show a picture.
    """

    papers: list[PaperName]
    zoom_max: float
    fine_max_deg: float
    distortion_max: float
    straight_below: float
    keystone_max: int
    max_pictures: int


OutgoingSize = Literal["720p", "1080p"]


class AudienceView(BaseModel):
    id: str
    name: str
    is_teacher: bool
    mirrored: bool
    tile_width_px: int
    tile_height_px: int
    distance_mm: float
    path: LightPathView | None
    smallest_print_pt: int | None
    holds_usual_print: bool | None
    limit: str | None
    too_small_by: float | None = None
    reads: bool | None = None
    words: float | None = None


class TeachView(BaseModel):
    """lesson: the open one, if any.  rects: by plate, where each of its places lies.  adorned: caption and frame are on."""

    lesson: Lesson | None
    plates: tuple[Plate, ...]
    rects: dict[str, list[Rect]]
    plate_on: str | None
    adorned: bool
    outgoing_size: OutgoingSize


class PlateOn(Asked):
    """One of three. plate_id: this plate.  number: the nth, from 1.  by: so many on from the outgoing one, round and round."""

    plate_id: Id | None = None
    number: Annotated[int | None, Field(ge=1, le=40)] = None
    by: Annotated[int, Field(ge=-40, le=40)] = 0


class PlateView(BaseModel):
    """rects: where each place lies, by the plate's layout.  missing_signs: of its captions,
    those that no typeface has.  unknown: how many places show a device that is not in the kit.  on: it is what goes out."""

    plate: Plate
    rects: list[Rect]
    missing_signs: str
    unknown: int
    on: bool


class PlatesView(BaseModel):
    """ready_made: plates to begin from.  looks: of a face, to begin from.  natural: faces go out as their cameras give them."""

    plates: list[PlateView]
    plate_on: str | None
    adorned: bool
    can_undo: bool
    can_redo: bool
    ready_made: list[Plate]
    looks: dict[str, Grade]
    natural: bool


class NewPlate(Asked):
    """copy_of: a plate of the lesson or a ready-made one; None for an empty one."""

    name: Name
    copy_of: Id | None = None


class PlateChange(Asked):
    """settled: a hand is not moving it any more."""

    plate: Plate
    settled: bool = True


class PlateOrder(Asked):
    ids: Annotated[list[Id], Field(max_length=40)]


class Adorned(Asked):
    on: bool


class OutgoingChange(Asked):
    size: OutgoingSize


class CallView(BaseModel):
    running: bool


class ClipView(BaseModel):
    playing: bool
    loops: bool
    position_s: float
    duration_s: float


class FeedView(BaseModel):
    """away: it should give a picture and does not.  started: how far along its start it is, 0-1 against its usual time,
    None unless that is known.

    battery: 0-1, None where not known.  press: what mends the advice, '' for none.  sound_db: dBFS, None without sound.
    """

    id: str
    state: State
    away: bool
    sentence: str | None
    width: int | None
    height: int | None
    fps: float
    delay_ms: float | None
    started: float | None
    usual_start_s: float | None
    battery: float | None
    charging: bool
    advice: str | None
    press: str
    sound_db: float | None
    clip: ClipView | None


class CoveredView(BaseModel):
    """place: number of a place in front of the page.  share: of all writing on the page, what it covers, 0-1."""

    place: int
    share: float


class OutgoingView(BaseModel):
    """behind_ms: what making the best of faces costs a picture.  behind_lowered: the person is looked for in every other picture alone,
    so that this computer keeps up.  behind_too_slow: it switched itself off.  lowered: what else is done with less just now, in a sentence.

    trouble: what goes wrong with it just now, in words.  window_says: what is wrong with the outgoing window.
    taken_by: who takes it besides windows, in words.  taker_says: what is wrong with one of them.
    """

    width: int
    height: int
    fps: float
    delay_ms: float | None
    windows: int
    window_says: str | None
    taken_by: str | None
    taker_says: str | None
    plate_id: str | None
    covered: list[CoveredView]
    behind_ms: float | None
    behind_lowered: bool
    behind_too_slow: bool
    lowered: str | None
    trouble: str | None


class OpenMicrophoneView(BaseModel):
    """label: '' for a phone: id is that of a device of the kit."""

    id: str
    label: str


class SummaryView(BaseModel):
    """Of the check before the lesson. verdict: the worst.  wrong, look, unknown: how many are."""

    verdict: Verdict
    says: str
    wrong: int
    look: int
    unknown: int


class LiveView(BaseModel):
    """Pushed twice a second and after each change.

    versions: by topic (`lesson`, `kit`, `plates`, `call`, `chain:ID`, `page:ID`), how often it has changed; version: their sum.
    kept_says: what happened to the file in which things are kept, or what cannot be kept yet; '' for nothing.
    """

    version: int
    versions: dict[str, int]
    lesson_id: str | None
    kept_says: str
    feeds: list[FeedView]
    outgoing: OutgoingView
    call_running: bool
    call_trouble: str | None
    going_out: bool
    microphone: OpenMicrophoneView | None
    learners_hear: LearnersView | None
    ready: SummaryView | None
    audiences: list[AudienceView]
