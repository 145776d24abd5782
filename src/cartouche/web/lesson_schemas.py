"""Lessons as the home screen shows and takes them."""

from datetime import date
from typing import Annotated

from pydantic import BaseModel, Field

from cartouche.store.kits import Kit
from cartouche.store.lessons import Lesson
from cartouche.web.schemas import Asked, Id, Name

Starts = Annotated[str, Field(pattern=r"^([01][0-9]|2[0-3]):[0-5][0-9]$")]
Minutes = Annotated[int, Field(ge=5, le=600)]


class TodayView(BaseModel):
    """A lesson of today. ends: HH:MM.  over: it has ended."""

    lesson_id: str
    starts: str
    ends: str
    over: bool


class LaterView(BaseModel):
    """A lesson that does not take place today. day: the next on which it does, None where there is none."""

    lesson_id: str
    day: date | None
    starts: str


class LessonsView(BaseModel):
    """today: what takes place today, in order; a lesson that does twice stands there twice.  others: all that do not.

    by_extension: the way in is the paired extension, so no window need be opened.
    """

    lessons: list[Lesson]
    kits: dict[str, Kit]
    open_id: str | None
    today: list[TodayView]
    others: list[LaterView]
    by_extension: bool


class NewLesson(Asked):
    """day: its date, or the first where it is weekly; None for any day."""

    title: Name
    class_name: Name
    starts: Starts
    day: date | None = None
    weekly: bool = False
    minutes: Minutes = 45


class LessonChange(Asked):
    """None leaves a value as it is. any_day: it has no date any more."""

    title: Name | None = None
    class_name: Name | None = None
    starts: Starts | None = None
    day: date | None = None
    weekly: bool | None = None
    minutes: Minutes | None = None
    any_day: bool = False


class LessonCopy(Asked):
    """A copy for another class: same kit, plates and corrections."""

    class_name: Name


class TimetableView(BaseModel):
    """added, changed: how many lessons.  left_out: events that are no lessons."""

    added: int
    changed: int
    left_out: int


class OpenLesson(Asked):
    lesson_id: Id
