"""What is kept, where and how large; deleting it for good; taking all of it along."""

import shutil
import time
import zipfile
from pathlib import Path
from typing import Literal

from cartouche.disk import free_bytes
from cartouche.store import copies, ink, lessons, recordings, settings, sheets
from cartouche.store.lessons import Lesson
from cartouche.web import sheet_keeping
from cartouche.web.after_schemas import KeptView, LessonKept, PrivacyView
from cartouche.web.after_view import held_lesson
from cartouche.web.shared_folder import safe, write_share
from cartouche.web.sheet_keeping import INKED, path_of
from cartouche.web.state import AppState

WEEKS = "keep_weeks"
Kind = Literal["sheets", "recordings", "ink"]
WEEK_S = 7 * 86_400.0


def privacy_view(state: AppState) -> PrivacyView:
    folder = state.database.path.parent
    kept = [found for lesson in lessons.lessons(state.database) if (found := _lesson(state, lesson)).bytes or found.kinds]
    weeks = settings.setting(state.database, WEEKS)
    before_s = time.time() - int(weeks) * WEEK_S if weeks else 0.0
    due = [one.lesson_id for one in kept if any(kind.since is not None and kind.since < before_s for kind in one.kinds)]
    lying = [*folder.glob("cartouche.sqlite3*"), *folder.glob(f"{copies.ASIDE}-*"), *folder.glob(f"{copies.FOLDER}/*")]
    database = sum(_size(path) for path in lying)
    return PrivacyView(
        folder=str(folder),
        database=database,
        free=free_bytes(folder),
        lessons=kept,
        weeks=int(weeks) if weeks else None,
        due=due,
    )


def _lesson(state: AppState, lesson: Lesson) -> LessonKept:
    kept_sheets = [*sheets.sheets(state.database, lesson.id), *sheets.sheets(state.database, lesson.id, away=True)]
    recorded = recordings.recordings(state.database, lesson.id)
    strokes = sum(len(one) for one in ink.inks(state.database, lesson.id).values())
    kinds = [
        KeptView(
            kind="sheets", count=len(kept_sheets), since=min((one.made_at for one in kept_sheets), default=None),
            bytes=sum(_size(path) for one in kept_sheets for path in _files_of(path_of(state, one), one.id)),
        ),
        KeptView(
            kind="recordings", count=len(recorded), since=min((one.made_at for one in recorded), default=None),
            bytes=sum(_size(path) for one in recorded for path in recordings.folder(state.database).glob(f"{one.id}-*")),
        ),
        KeptView(kind="ink", count=strokes, bytes=0, since=None),
    ]  # fmt: skip
    left = [kind for kind in kinds if kind.count]
    return LessonKept(
        lesson_id=lesson.id, title=lesson.title, class_name=lesson.class_name, kinds=left, bytes=sum(kind.bytes for kind in left)
    )


def _files_of(path: Path, sheet_id: str) -> tuple[Path, Path]:
    return path, path.with_name(f"{sheet_id}{INKED}")


def _size(path: Path) -> int:
    return path.stat().st_size if path.is_file() else 0


def delete(state: AppState, lesson_id: str, kind: Kind) -> None:
    """All of one kind that is kept of a lesson, for good: rows, files, and what the database would still hold. Raises StillOpen."""
    with state.lock:
        if kind == "sheets":
            for sheet in (*sheets.sheets(state.database, lesson_id), *sheets.sheets(state.database, lesson_id, away=True)):
                sheet_keeping.forget(state, sheet)
        elif kind == "recordings":
            for one in recordings.recordings(state.database, lesson_id):
                state.recording.delete(one.id)
        else:
            for ground in ink.inks(state.database, lesson_id):
                ink.keep(state.database, lesson_id, ground, ())
            if lesson_id == state.lesson_id:
                state.running.ink.take_up({})
        state.database.scrub()


def write_export(state: AppState, out: Path) -> None:
    """Everything as open files, a folder for each lesson. Raises OSError."""
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as made:
        for lesson in lessons.lessons(state.database):
            held = held_lesson(state, lesson)
            where = f"{safe(lesson.title)} {safe(lesson.class_name)} {lesson.id}"
            made.writestr(f"{where}/lesson.json", lesson.model_dump_json(indent=1))
            for sheet in sheets.sheets(state.database, lesson.id):
                for path in _files_of(path_of(state, sheet), sheet.id):
                    if path.is_file():
                        made.write(path, f"{where}/sheets/{safe(sheet.name)}{INKED if path.name.endswith(INKED) else '.png'}")
            if held is not None and held.recordings:
                part = out.with_name(f"{out.name}.part")
                try:
                    write_share(state, lesson, held.day, part)
                    with zipfile.ZipFile(part) as share:
                        for name in share.namelist():
                            with share.open(name) as source, made.open(f"{where}/{name}", "w", force_zip64=True) as target:
                                shutil.copyfileobj(source, target)
                finally:
                    part.unlink(missing_ok=True)
