"""After the lesson: sheets, handout, recordings, what to share, closing down."""

from functools import partial
from pathlib import Path
from typing import Annotated
from urllib.parse import quote

import cv2
from fastapi import BackgroundTasks, Depends, Query, Request, Response
from fastapi.responses import FileResponse

from cartouche.core.record.chapters import vtt
from cartouche.core.sheets.handout import Paper
from cartouche.store import lessons, recordings, sheets
from cartouche.store.errors import NotKept
from cartouche.web import close_down, sheet_keeping
from cartouche.web.after_schemas import (
    AfterView,
    ClosedView,
    Cut,
    RecordingName,
    RecordPlan,
    SheetChange,
)
from cartouche.web.after_view import after_view, held_lesson
from cartouche.web.recording import chapters_by_piece
from cartouche.web.routers.ways import Book, Sender
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Id
from cartouche.web.shared_folder import handout_of, safe, write_share
from cartouche.web.state import AppState, app_state
from cartouche.web.teach_schemas import ToolsView
from cartouche.web.tools_view import tools_view
from cartouche.web.zips import zip_answer

router = screen_router("after", "/api/after")
State = Annotated[AppState, Depends(app_state)]
Words = Annotated[str, Query(max_length=200)]


@router.get("")
def after(request: Request, state: State, words: Words = "") -> AfterView:
    """Lessons of which something is left; words: only those in which all of them stand."""
    request.app.state.sheet_reader.asked()
    return after_view(state, words)


@router.put("/plan")
def plan(asked: RecordPlan, state: State) -> ToolsView:
    """How recordings are cut from the next one on."""
    with state.lock:
        state.recording.plan(asked.piece_minutes, asked.by_step, asked.page)
    return tools_view(state)


# sheets


@router.put("/sheets/{sheet_id}")
def change_sheet(sheet_id: Id, change: SheetChange, state: State) -> AfterView:
    """Its title, words and place; turned, put away, put back."""
    with state.lock:
        sheet = sheets.sheet(state.database, sheet_id)
        news = {name: value for name, value in (("name", change.name), ("words", change.words)) if value is not None}
        if news:
            sheets.change(state.database, sheet.id, **news)
        if change.before is not None:
            sheets.move(state.database, sheet, change.before)
        if change.away is not None:
            sheet_keeping.put_away(state, sheet.id, away=change.away)
        if change.turn:
            sheet_keeping.turn(state, sheet)
        state.running.stage.versions.touch("sheets")
    return after_view(state)


@router.delete("/sheets/{sheet_id}")
def delete_sheet(sheet_id: Id, state: State) -> AfterView:
    """For good, with its files."""
    with state.lock:
        sheet_keeping.forget(state, sheets.sheet(state.database, sheet_id))
    return after_view(state)


@router.get("/sheets/{sheet_id}.png", response_class=FileResponse)
def sheet_picture(sheet_id: Id, state: State, ink: bool = False) -> Response:
    """PNG, with what was drawn over it or without."""
    sheet = sheets.sheet(state.database, sheet_id)
    path = sheet_keeping.path_of(state, sheet)
    if not path.is_file():
        raise NotKept("sheet", sheet_id)
    if not ink:
        return FileResponse(path, media_type="image/png", filename=f"{safe(sheet.name)}.png", content_disposition_type="inline")
    picture = sheet_keeping.with_ink(state, sheet)
    if picture is None:
        raise NotKept("sheet", sheet_id)
    return Response(cv2.imencode(".png", picture)[1].tobytes(), media_type="image/png")


@router.get("/lessons/{lesson_id}/handout.pdf", response_class=Response)
def handout(
    lesson_id: Id, state: State, per_page: Annotated[int, Query(ge=1, le=4)] = 1, paper: Paper = "A4", ink: bool = True
) -> Response:
    """All its sheets as one PDF, one, two or four to a page."""
    lesson = lessons.lesson(state.database, lesson_id)
    held = held_lesson(state, lesson)
    if held is None or not held.sheets:
        raise NotKept("sheet", lesson_id)
    made = handout_of(state, lesson, held.day, paper=paper, per_page={1: 1, 2: 2}.get(per_page, 4), ink=ink)  # type: ignore[arg-type]
    return Response(made, media_type="application/pdf", headers=_named(f"{safe(lesson.title)}.pdf"))


def _named(name: str) -> dict[str, str]:
    return {"Content-Disposition": f"attachment; filename*=utf-8''{quote(name)}"}  # RFC 6266: in any script


@router.get("/lessons/{lesson_id}/share.zip", response_class=FileResponse)
def share(lesson_id: Id, state: State, tasks: BackgroundTasks) -> Response:
    """Recording, chapters, handout and a page that plays them, for those who were absent."""
    lesson = lessons.lesson(state.database, lesson_id)
    held = held_lesson(state, lesson)
    if held is None:
        raise NotKept("lesson", lesson_id)
    name = f"{safe(lesson.title)} {held.day}.zip"
    return zip_answer(state.database.path.parent, partial(write_share, state, lesson, held.day), name, tasks)


# recordings


@router.get("/recordings/{recording_id}/{number}.mp4", response_class=FileResponse)
def recording_file(recording_id: Id, number: int, state: State, save: bool = False) -> Response:
    """A piece of it, to play or to save."""
    return _film(state, recording_id, number, ".mp4", save)


@router.get("/recordings/{recording_id}/{number}.webm", response_class=FileResponse)
def recording_copy(recording_id: Id, number: int, state: State) -> Response:
    """Its copy in WebM, once that is made."""
    return _film(state, recording_id, number, ".webm", True)


def _film(state: AppState, recording_id: str, number: int, kind: str, save: bool) -> Response:
    one, path = recordings.recording(state.database, recording_id), _path(state, recording_id, number).with_suffix(kind)
    if not path.is_file():
        raise NotKept("recording", recording_id)
    name = f"{safe(one.name)} {number:02}{kind}"
    return FileResponse(path, media_type=f"video/{kind[1:]}", filename=name, content_disposition_type="attachment" if save else "inline")


def _path(state: AppState, recording_id: str, number: int) -> Path:
    piece = next((piece for piece in recordings.pieces(state.database, recording_id) if piece.number == number), None)
    if piece is None:
        raise NotKept("recording", recording_id)
    return recordings.folder(state.database) / piece.file


@router.post("/recordings/{recording_id}/{number}.webm", status_code=202)
def copy_recording(recording_id: Id, number: int, state: State) -> AfterView:
    """Make a copy of this piece in WebM; it takes about as long as the piece."""
    state.recording.copies.make(_path(state, recording_id, number))
    return after_view(state)


@router.get("/recordings/{recording_id}/chapters.vtt", response_class=Response)
def chapters(recording_id: Id, state: State, number: int = 1) -> Response:
    """Of one piece, WebVTT."""
    found = chapters_by_piece(state, recordings.recording(state.database, recording_id))
    told = next((chapters for piece, chapters in found if piece.number == number), None)
    if told is None:
        raise NotKept("recording", recording_id)
    return Response(vtt(told), media_type="text/vtt")


@router.put("/recordings/{recording_id}")
def name_recording(recording_id: Id, named: RecordingName, state: State) -> AfterView:
    with state.lock:
        recordings.rename(state.database, recordings.recording(state.database, recording_id).id, named.name)
        state.running.stage.versions.touch("record")
    return after_view(state)


@router.post("/recordings/{recording_id}/cut")
def cut_recording(recording_id: Id, cut: Cut, state: State) -> AfterView:
    """Only this part stays; nothing is encoded anew, so it begins at the key picture before."""
    state.recording.shorten(recording_id, cut.from_s, cut.to_s, cut.of_s)
    return after_view(state)


@router.delete("/recordings/{recording_id}")
def delete_recording(recording_id: Id, state: State) -> AfterView:
    """For good, with its files."""
    state.recording.delete(recording_id)
    return after_view(state)


@router.post("/close-down")
async def close(state: State, guests: Book, outlet: Sender) -> ClosedView:
    """Stop going out and recording, let go of everything; what is not off is named."""
    return await close_down.close_down(state, guests, outlet)
