"""The kept lessons as the timetable's rules see them, and the one that stands open by itself."""

from datetime import datetime
from zoneinfo import ZoneInfo

import tzlocal

from cartouche.core.lessons.timetable import Planned, stands_open
from cartouche.store import lessons, settings
from cartouche.store.database import Database
from cartouche.store.lessons import Lesson
from cartouche.web.state import AppState

OPENED_FOR = "opened_for"  # the lesson and time that was opened by itself last: the teacher's own choice after it stays


def planned(database: Database) -> list[Planned]:
    times = lessons.times_of(database)
    return [plan_of(lesson, times.get(lesson.id, ())) for lesson in lessons.lessons(database)]


def plan_of(lesson: Lesson, times: tuple = ()) -> Planned:
    return Planned(lesson.id, lesson.starts, lesson.minutes, lesson.day, lesson.weekly, times)


def local_zone() -> ZoneInfo:
    return tzlocal.get_localzone()


def open_due(state: AppState, now: datetime) -> bool:
    """Open the lesson whose time has come, once; never while another goes out or is recorded. Whether one was opened."""
    due = stands_open(planned(state.database), now)
    if due is None or state.running.going_out or state.recording.current is not None:
        return False
    mark = f"{due.id}@{due.begins:%Y-%m-%dT%H:%M}"
    if settings.setting(state.database, OPENED_FOR) == mark:
        return False
    with state.lock:
        settings.set_setting(state.database, OPENED_FOR, mark)
        if state.lesson_id == due.id:
            return False
        state.take_lesson(due.id)
        state.running.stage.versions.touch("lesson")
    return True
