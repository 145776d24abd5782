"""Lessons: the home screen."""

from typing import Annotated

from fastapi import APIRouter, Depends

from cartouche.store import kits, lessons
from cartouche.store.lessons import Lesson
from cartouche.web.schemas import Id, LessonChange, LessonsView, NewLesson, OpenLesson
from cartouche.web.state import AppState, app_state

router = APIRouter(prefix="/api/lessons", tags=["lessons"])
State = Annotated[AppState, Depends(app_state)]


@router.get("")
def all_lessons(state: State) -> LessonsView:
    found, known = lessons.lessons(state.database), {kit.id: kit for kit in kits.kits(state.database)}
    return LessonsView(lessons=found, kits=known, open_id=state.lesson_id)


@router.post("", status_code=201)
def add_lesson(new: NewLesson, state: State) -> Lesson:
    """A lesson in the open lesson's kit, with the first plates; opened where none is open."""
    with state.lock:
        known = kits.kits(state.database)
        kit_id = state.kit_id() or (known[0].id if known else None)
        return state.add_lesson(new.title, new.class_name, new.starts, kit_id)


@router.put("/open")
def open_lesson(choice: OpenLesson, state: State) -> Lesson:
    with state.lock:
        lesson = lessons.lesson(state.database, choice.lesson_id)
        state.take_lesson(lesson.id)
    return lesson


@router.patch("/{lesson_id}")
def change_lesson(lesson_id: Id, change: LessonChange, state: State) -> Lesson:
    """Another title, class or beginning."""
    with state.lock:
        before = lessons.lesson(state.database, lesson_id)
        after = before.model_copy(update=change.model_dump(exclude_none=True))
        lessons.rename_lesson(state.database, after.id, after.title, after.class_name, after.starts)
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
