"""Lessons: the home screen."""

import asyncio
from collections.abc import Sequence
from datetime import date, datetime
from typing import Annotated

from fastapi import Depends, Request

from cartouche.core.lessons.calendar import CalendarLesson, read_calendar
from cartouche.core.lessons.timetable import Due, Planned, Time, on_day
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.store import kits, lessons, plates
from cartouche.store.lessons import Lesson
from cartouche.web.lesson_schemas import (
    LaterView,
    LessonChange,
    LessonCopy,
    LessonsView,
    NewLesson,
    OpenLesson,
    TimetableView,
    TodayView,
)
from cartouche.web.routers.ways import extension_key
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Id
from cartouche.web.state import FIRST_CLASS, AppState, app_state, new_id
from cartouche.web.timetable import local_zone, planned

router = screen_router("lessons", "/api/lessons")
State = Annotated[AppState, Depends(app_state)]


@router.get("")
def all_lessons(request: Request, state: State) -> LessonsView:
    found, known = lessons.lessons(state.database), {kit.id: kit for kit in kits.kits(state.database)}
    plans, now = planned(state.database), datetime.now()
    today = on_day(plans, now.date())
    there = {due.id for due in today}
    return LessonsView(
        lessons=found,
        kits=known,
        open_id=state.lesson_id,
        by_extension=extension_key(request).is_paired,
        today=[
            TodayView(lesson_id=due.id, starts=f"{due.begins:%H:%M}", ends=f"{due.ends:%H:%M}", over=_is_over(due, plans, now))
            for due in today
        ],
        others=sorted(
            (_later(plan, now.date()) for plan in plans if plan.id not in there),
            key=lambda later: (later.day is None, later.day, later.starts),
        ),
    )


def _is_over(due: Due, plans: Sequence[Planned], now: datetime) -> bool:
    """By the clock; a lesson for any day never is."""
    return due.ends < now and any(plan.id == due.id and plan.is_dated for plan in plans)


def _later(plan: Planned, today: date) -> LaterView:
    day = plan.next_day(today)
    times = plan.on(day) if day is not None else []
    return LaterView(lesson_id=plan.id, day=day, starts=times[0].starts if times else plan.starts)


@router.post("", status_code=201)
def add_lesson(new: NewLesson, state: State) -> Lesson:
    """A lesson in the open lesson's kit, with the first plates; opened where none is open."""
    with state.lock:
        known = kits.kits(state.database)
        kit_id = state.kit_id() or (known[0].id if known else None)
        lesson = Lesson(id=new_id("lesson"), kit_id=kit_id, plate_id=FIRST_PLATES[0].id, **new.model_dump())
        return state.add_lesson(lesson)


@router.post("/{lesson_id}/copy", status_code=201)
def copy_lesson(lesson_id: Id, copy: LessonCopy, state: State) -> Lesson:
    """The same for another class: kit, plates and times."""
    with state.lock:
        before = lessons.lesson(state.database, lesson_id)
        kept = plates.current(state.database, lesson_id).plates
        after = before.model_copy(update={"id": new_id("lesson"), "class_name": copy.class_name, "calendar_uid": None})
        return state.add_lesson(after, kept)


@router.post("/calendar", status_code=201, openapi_extra={"requestBody": {"content": {"text/calendar": {}}, "required": True}})
async def take_timetable(request: Request, state: State) -> TimetableView:
    """A timetable as iCalendar. Lessons that came from an earlier file of the same calendar get its dates; their plates stay."""
    content = await request.body()
    return await asyncio.to_thread(_take_timetable, state, content)


def _take_timetable(state: AppState, content: bytes) -> TimetableView:
    timetable = read_calendar(content, datetime.now(), local_zone())
    with state.lock:
        by_uid = lessons.by_calendar(state.database)
        known = kits.kits(state.database)
        kit_id = state.kit_id() or (known[0].id if known else None)
        kept = [_from_calendar(found, by_uid.get(found.uid), kit_id) for found in timetable.lessons]
        lessons.keep_calendar(state.database, kept)
        for lesson, is_new, _ in kept:
            if is_new:
                plates.settle(state.database, lesson.id, FIRST_PLATES)
        if state.lesson() is None and kept:
            state.take_lesson(kept[0][0].id)
        state.running.stage.versions.touch("lesson")
    added = sum(is_new for _, is_new, _ in kept)
    return TimetableView(added=added, changed=len(kept) - added, left_out=timetable.left_out)


def _from_calendar(found: CalendarLesson, before: Lesson | None, kit_id: str | None) -> tuple[Lesson, bool, Sequence[Time]]:
    """The lesson, whether it is new, and its dates. A class that the teacher has named stays."""
    first = found.times[0]
    if before is not None:
        named = {"title": found.title, "class_name": found.class_name or before.class_name}
        return before.model_copy(update=named), False, found.times
    new = Lesson(
        id=new_id("lesson"), kit_id=kit_id, title=found.title, class_name=found.class_name or FIRST_CLASS, starts=first.starts,
        minutes=first.minutes, plate_id=FIRST_PLATES[0].id, calendar_uid=found.uid,
    )  # fmt: skip
    return new, True, found.times


@router.put("/open")
def open_lesson(choice: OpenLesson, state: State) -> Lesson:
    with state.lock:
        lesson = lessons.lesson(state.database, choice.lesson_id)
        state.take_lesson(lesson.id)
    return lesson


@router.patch("/{lesson_id}")
def change_lesson(lesson_id: Id, change: LessonChange, state: State) -> Lesson:
    """Another title, class or time."""
    with state.lock:
        before = lessons.lesson(state.database, lesson_id)
        changes = change.model_dump(exclude_none=True, exclude={"any_day"})
        after = before.model_copy(update={**changes, **({"day": None, "weekly": False} if change.any_day else {})})
        lessons.change_lesson(state.database, after)
        state.running.stage.versions.touch("lesson")
    return after


@router.delete("/{lesson_id}", status_code=204)
def delete_lesson(lesson_id: Id, state: State) -> None:
    """Until the next start it can be restored. Where it was open, the next one is."""
    with state.lock:
        lesson = lessons.lesson(state.database, lesson_id)
        lessons.delete_lesson(state.database, lesson.id)
        if state.lesson_id == lesson.id:
            left = lessons.lessons(state.database)
            later = [other for other in left if other.starts >= lesson.starts]
            state.take_lesson(next((other.id for other in (*later, *left)), None))
        state.running.stage.versions.touch("lesson")


@router.post("/{lesson_id}/restore")
def restore_lesson(lesson_id: Id, state: State) -> Lesson:
    """A deleted lesson is back."""
    with state.lock:
        lessons.restore_lesson(state.database, lesson_id)
        lesson = lessons.lesson(state.database, lesson_id)
        if state.lesson_id is None:
            state.take_lesson(lesson.id)
        state.running.stage.versions.touch("lesson")
    return lesson
