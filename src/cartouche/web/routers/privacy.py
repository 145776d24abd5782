"""Privacy: what is kept, deleting it for good, taking it along."""

from functools import partial
from typing import Annotated

from fastapi import BackgroundTasks, Depends, Response
from fastapi.responses import FileResponse

from cartouche.store import lessons, settings
from cartouche.web.after_schemas import PrivacyView, Weeks
from cartouche.web.privacy_view import WEEKS, Kind, delete, privacy_view, write_export
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Id
from cartouche.web.state import AppState, app_state
from cartouche.web.zips import zip_answer

router = screen_router("privacy", "/api/privacy")
State = Annotated[AppState, Depends(app_state)]


@router.get("")
def kept(state: State) -> PrivacyView:
    """Everything that is kept, by lesson and kind."""
    return privacy_view(state)


@router.put("/weeks")
def choose_weeks(asked: Weeks, state: State) -> PrivacyView:
    """After so many weeks the Privacy screen asks whether it is still needed."""
    with state.lock:
        settings.set_setting(state.database, WEEKS, str(asked.weeks or ""))
    return privacy_view(state)


@router.delete("/lessons/{lesson_id}/{kind}")
def delete_kind(lesson_id: Id, kind: Kind, state: State) -> PrivacyView:
    """For good: rows, files, and what the database would still hold of them."""
    delete(state, lessons.lesson(state.database, lesson_id).id, kind)
    return privacy_view(state)


@router.get("/export.zip", response_class=FileResponse)
def export(state: State, tasks: BackgroundTasks) -> Response:
    """All lessons with sheets, recordings and chapters, as open files."""
    return zip_answer(state.database.path.parent, partial(write_export, state), "Cartouche.zip", tasks)
