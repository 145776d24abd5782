"""Lessons: the home screen."""

from typing import Annotated

from fastapi import APIRouter, Depends

from cartouche.core.plates.model import FIRST_PLATES
from cartouche.store import kits, lessons, plates, settings
from cartouche.store.lessons import Lesson
from cartouche.web.schemas import LessonsView, NewLesson, OpenLesson
from cartouche.web.state import AppState, app_state, new_id

router = APIRouter(prefix="/api/lessons", tags=["lessons"])
State = Annotated[AppState, Depends(app_state)]


@router.get("")
def all_lessons(state: State) -> LessonsView:
    found = lessons.lessons(state.database)
    known = {lesson.kit_id: kits.kit(state.database, lesson.kit_id) for lesson in found}
    return LessonsView(lessons=found, kits=known, open_id=settings.setting(state.database, "lesson"))


@router.post("", status_code=201)
def add_lesson(new: NewLesson, state: State) -> Lesson:
    """A lesson in the open lesson's kit, with the first plates."""
    lesson = Lesson(id=new_id("lesson"), kit_id=state.open_lesson().kit_id, plate_id=FIRST_PLATES[0].id, **new.model_dump())
    with state.lock:
        lessons.add_lesson(state.database, lesson)
        plates.settle(state.database, lesson.id, FIRST_PLATES)
    return lesson


@router.put("/open")
def open_lesson(asked: OpenLesson, state: State) -> Lesson:
    with state.lock:
        lesson = lessons.lesson(state.database, asked.lesson_id)
        settings.set_setting(state.database, "lesson", lesson.id)
        state.reopen()
    return lesson
