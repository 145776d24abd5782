"""What Square up says of one device's chain, and what it takes."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.tone import LightVerdict
from cartouche.store.kits import Device
from cartouche.web.schemas import Asked, LightPathView, PaperName


class ReadingsView(BaseModel):
    keystone_vertical: float | None
    keystone_horizontal: float | None
    tilt_deg: float | None
    px_per_mm_min: float | None
    px_per_mm_max: float | None
    canvas_width: float
    canvas_height: float


class AgreementView(BaseModel):
    kind: Literal["agrees", "reversed", "differs", "turned", "cannot tell"]
    says: str
    press: Literal["mirror", "turn", ""]
    quarters: int


class LightView(BaseModel):
    """verdict: the first thing that is to be said of it.  evenness: darkest light over brightest.

    shadow, clipped_at: where, as shares of the page.  clipped: share of the page.
    """

    verdict: LightVerdict
    evenness: float
    shadow: tuple[float, float] | None
    clipped: float
    clipped_at: tuple[float, float] | None


class PrintView(BaseModel):
    """What stands on the page itself, points and mm."""

    smallest_pt: float | None
    usual_pt: float | None
    step_mm: float | None
    lines: int


class OutcomeView(BaseModel):
    audience: str
    points: float


class AdviceView(BaseModel):
    way: Literal["closer", "band", "sharp", "window", "beforehand"]
    says: str
    reads: bool
    worst_pt: float | None
    words: float | None
    outcomes: list[OutcomeView]


class PathLine(BaseModel):
    """The light path to one audience. press: what mends it alone: 'chain', 'board', or '' with a sentence that says how."""

    who: str
    path: LightPathView
    mend: str
    press: Literal["chain", "board", ""]


class CardView(BaseModel):
    """What the set-up card told."""

    paper: str
    mirrored: bool
    quarters: int
    tilt_deg: float
    focal: float | None
    distortion_percent: float
    px_per_mm_min: float
    px_per_mm_max: float
    off_px: float
    rise_px: float
    in_focus: bool
    exposure: Literal["good", "too bright", "too dark"]
    white: float
    covered: list[str]
    took_ms: float


class FirstLookView(BaseModel):
    """One sentence of all that is told of the page, and the press that helps most."""

    kind: Literal["holds", "look", "wrong"]
    says: str
    press: Literal["", "square", "mirror", "turn", "refocus", "closer", "band", "sharp", "window", "beforehand"]


class SquareUpView(BaseModel):
    """The chain of one device and everything that is measured or computed of it.

    follow: the state of following.  new_pages: how often another page was laid at the same place.  visible: left, top, right,
    bottom of what goes out, as shares of the page.  sharpness: 0-1, None without edges.  sure: whether the found corners need no
    look by the teacher.  distortion_percent: at the picture's edge.  way_told: whether the page's print said which way it stands, None
    where it was not asked.  way_says: what was done for that, '' for nothing.
    """

    device: Device
    chain: Chain
    first: FirstLookView
    can_undo: bool
    can_redo: bool
    last_time: bool
    feed_width: int | None
    feed_height: int | None
    readings: ReadingsView | None
    learners: LightPathView
    confidence: float | None = None
    follow: Literal["fixed", "following", "waiting", "lost"] = "fixed"
    new_pages: int = 0
    visible: tuple[float, float, float, float] | None = None
    sharpness: float | None = None
    in_focus: bool | None = None
    board_fed_by: Literal["nothing", "call", "window"] = "nothing"
    sure: bool | None = None
    way_told: bool | None = None
    way_says: str = ""
    distortion_percent: float = 0.0
    light: LightView | None = None
    printed: PrintView | None = None
    agreement: AgreementView | None = None
    paths: list[PathLine] = []
    advice: list[AdviceView] = []
    card: CardView | None = None


class FrameChange(Asked):
    framing: Literal["whole", "upper", "lower", "band", "next", "previous"]


class AdviceTaken(Asked):
    way: Literal["closer", "band", "sharp"]


class BoardChange(Asked):
    """fed_by: the teacher's own screen with the call on it, or the outgoing window."""

    fed_by: Literal["nothing", "call", "window"]


class ChainChange(Asked):
    """settled: keep it; False while a hand is still dragging."""

    chain: Chain
    settled: bool = True


class LinkChange(Asked):
    """Some values of one link; the others stay as they are in force. settled: keep it; False while a hand is still dragging."""

    link: Literal["unbend", "square", "turn", "mirror", "frame", "light", "colour"]
    values: dict[str, Any]
    settled: bool = True


KEYSTONE_MAX = 60


class KeystoneChange(Asked):
    vertical: Annotated[float, Field(ge=-KEYSTONE_MAX, le=KEYSTONE_MAX)]
    horizontal: Annotated[float, Field(ge=-KEYSTONE_MAX, le=KEYSTONE_MAX)]
    settled: bool = True


class WayUpChange(Asked):
    """As seen: flipped left-right first, then turned by quarters, clockwise."""

    quarters: Annotated[int, Field(ge=0, le=3)] = 0
    flip: bool = False


class PaperChange(Asked):
    paper: PaperName | None
    lying: bool = False
