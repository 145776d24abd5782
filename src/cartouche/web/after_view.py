"""What is left of each lesson, and finding it again."""

import re
import time
from pathlib import Path

from cartouche.core.record.chapters import Mark, chapters_of
from cartouche.store import lessons, recordings, sheets
from cartouche.store.lessons import Lesson
from cartouche.store.recordings import Recording
from cartouche.store.search import matching
from cartouche.store.sheets import Sheet
from cartouche.web.after_schemas import (
    AfterSheet,
    AfterView,
    ChapterView,
    HeldLesson,
    PieceView,
    RecordingView,
    RecordView,
)
from cartouche.web.recording import length_s
from cartouche.web.sheet_keeping import has_ink
from cartouche.web.state import AppState

WEBM = ".webm"
UNNAMED = re.compile(r"Sheet \d+( \d+)?")  # as it was kept


def record_view(state: AppState) -> RecordView:
    recorder, room = state.running.recorder, state.recording
    facts, moment_s = recorder.facts, recorder.moment_s()
    left = facts.room
    return RecordView(
        state=facts.state,
        length_s=moment_s if moment_s is not None else facts.length_s,
        bytes=facts.bytes,
        left_s=left.left_s if left is not None and facts.state != "off" else None,
        little=left is not None and left.verdict != "enough" and facts.state != "off",
        says=room.says(),
        piece_minutes=room.piece_minutes,
        by_step=room.by_step,
        page=room.page_too,
    )


def after_view(state: AppState, words: str = "") -> AfterView:
    found = [held for lesson in lessons.lessons(state.database) if (held := held_lesson(state, lesson)) is not None]
    if words.strip():
        named = matching({held.lesson_id: _text(held) for held in found}, words)
        found = [held for held in found if held.lesson_id in named]
    return AfterView(lessons=sorted(found, key=lambda held: (held.day, held.title), reverse=True), looked_for=words.strip())


def _text(held: HeldLesson) -> str:
    """What it is found by: lesson, class, date, titles, what sheets say, chapters."""
    texts = [held.title, held.class_name, held.day, *(f"{sheet.name} {sheet.words} {sheet.read}" for sheet in held.sheets)]
    texts += [f"{one.name} {' '.join(chapter.title for chapter in one.chapters)}" for one in held.recordings]
    return " ".join(texts)


def held_lesson(state: AppState, lesson: Lesson) -> HeldLesson | None:
    """None where nothing is left of it."""
    kept = [_sheet(state, one) for one in sheets.sheets(state.database, lesson.id)]
    away = [_sheet(state, one) for one in sheets.sheets(state.database, lesson.id, away=True)]
    recorded = [recording_view(state, one) for one in recordings.recordings(state.database, lesson.id)]
    newest = max((one.made_at for one in (*kept, *away, *recorded)), default=None)  # type: ignore[attr-defined]
    if newest is None:
        return None
    day = time.strftime("%Y-%m-%d", time.localtime(newest))
    return HeldLesson(
        lesson_id=lesson.id, title=lesson.title, class_name=lesson.class_name, day=day, sheets=kept, put_away=away, recordings=recorded
    )


def _sheet(state: AppState, one: Sheet) -> AfterSheet:
    return AfterSheet(
        id=one.id, name=one.name, made_at=one.made_at, width=one.width, height=one.height, by_itself=one.by_itself,
        ink=has_ink(state, one), words=one.words, read=one.read or "", proposed=_proposed(one),
    )  # fmt: skip


def _proposed(one: Sheet) -> str:
    """Nothing for a sheet that has been given a name."""
    return one.heading if UNNAMED.fullmatch(one.name) and one.heading != one.name else ""


def recording_view(state: AppState, one: Recording) -> RecordingView:
    folder, kept = recordings.folder(state.database), recordings.pieces(state.database, one.id)
    marks = recordings.marks(state.database, one.id)
    pieces = [
        PieceView(number=piece.number, at_s=piece.at_s, length_s=piece.length_s, bytes=_size(folder / piece.file), webm=webm)
        for piece in kept
        for webm in [state.recording.copies.share(folder / piece.file)]
    ]
    whole_s = length_s(kept)
    return RecordingView(
        id=one.id, name=one.name, made_at=one.made_at, length_s=whole_s, bytes=sum(piece.bytes for piece in pieces), state=one.state,
        pieces=pieces, chapters=_chapters(marks, whole_s), folder=str(folder),
    )  # fmt: skip


def _chapters(marks: list[Mark], whole_s: float) -> list[ChapterView]:
    kept_at = {mark.at_s: mark.ref for mark in marks if mark.kind == "sheet"}
    return [
        ChapterView(from_s=one.from_s, title=one.title, sheet_id=kept_at.get(one.from_s) or None) for one in chapters_of(marks, whole_s)
    ]


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return 0
