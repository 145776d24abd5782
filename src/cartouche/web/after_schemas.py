"""What is left of lessons, as the After screen shows and takes it."""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from cartouche.web.schemas import Asked, Name


class RecordView(BaseModel):
    """The recording that runs. length_s: recorded so far.  left_s: so long the disk has room.  little: that is little.
    says: what went wrong with it.  piece_minutes, by_step: how it is cut.  page: the straightened page alone becomes a second film."""

    state: Literal["off", "recording", "paused", "full", "failed"]
    length_s: float
    bytes: int
    left_s: float | None
    little: bool
    says: str
    piece_minutes: int | None
    by_step: bool
    page: bool


class RecordPlan(Asked):
    """piece_minutes: how long a piece is at most, None for one file.  by_step: a new one begins with each step.  page: see `RecordView`."""

    piece_minutes: Literal[5, 10, 20] | None = None
    by_step: bool = False
    page: bool = False


class AfterSheet(BaseModel):
    """ink: something was drawn over it.  words: what it says, for those who do not see it.  read: what was read on it by itself.
    proposed: its page's own heading, while nobody has named it; '' where none was read."""

    id: str
    name: str
    made_at: float
    width: int
    height: int
    by_itself: bool
    ink: bool
    words: str
    read: str
    proposed: str


class ChapterView(BaseModel):
    """from_s: from the beginning of the recording.  sheet_id: the sheet that was kept there."""

    from_s: float
    title: str
    sheet_id: str | None


class PieceView(BaseModel):
    """at_s: where it begins in the recording.  webm: whether a copy in WebM stands ready, is being made (0-1), or was not asked for."""

    number: int
    at_s: float
    length_s: float
    bytes: int
    webm: float | None


class RecordingView(BaseModel):
    """state: open while it is written or made whole.  folder: where its files lie."""

    id: str
    name: str
    made_at: float
    length_s: float
    bytes: int
    state: Literal["open", "whole", "mended", "broken"]
    pieces: list[PieceView]
    chapters: list[ChapterView]
    folder: str


class HeldLesson(BaseModel):
    """day: when its newest sheet or recording was made, YYYY-MM-DD.  put_away: sheets that can be put back."""

    lesson_id: str
    title: str
    class_name: str
    day: str
    sheets: list[AfterSheet]
    put_away: list[AfterSheet]
    recordings: list[RecordingView]


class AfterView(BaseModel):
    """lessons: with sheets or recordings, the newest first.  looked_for: the words that they were found by."""

    lessons: list[HeldLesson]
    looked_for: str


class SheetChange(Asked):
    """None leaves a value as it is. turn: a quarter clockwise.  before: the sheet that it is to stand before, '' for the end."""

    name: Name | None = None
    words: Annotated[str, Field(max_length=2000)] | None = None
    turn: bool = False
    before: Annotated[str, Field(max_length=64)] | None = None
    away: bool | None = None


class RecordingName(Asked):
    name: Name


class Cut(Asked):
    """What stays of a recording, seconds from its beginning. of_s: its length when that was chosen."""

    from_s: Annotated[float, Field(ge=0)]
    to_s: Annotated[float, Field(gt=0)]
    of_s: Annotated[float, Field(ge=0)]


class OffView(BaseModel):
    """One thing that can still be on. says: what to do where it is not off."""

    what: str
    off: bool
    says: str


class ClosedView(BaseModel):
    """all_off: everything is; says: that in a sentence."""

    all_off: bool
    says: str
    things: list[OffView]


class KeptView(BaseModel):
    """kind: sheets, recordings, ink, pages.  since: the oldest, seconds since 1970, None where nothing is kept."""

    kind: Literal["sheets", "recordings", "ink"]
    count: int
    bytes: int
    since: float | None


class LessonKept(BaseModel):
    lesson_id: str
    title: str
    class_name: str
    kinds: list[KeptView]
    bytes: int


class PrivacyView(BaseModel):
    """folder: where everything lies.  database: bytes of it.  weeks: after so many it asks, None for never.  due: lessons kept longer."""

    folder: str
    database: int
    free: int
    lessons: list[LessonKept]
    weeks: int | None
    due: list[str]


class Weeks(Asked):
    weeks: Annotated[int, Field(ge=1, le=520)] | None
