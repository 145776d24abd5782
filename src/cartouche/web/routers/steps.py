"""Steps of the lesson: made of what stands now, ordered, copied, shown; out and in as JSON."""

import asyncio
from typing import Annotated

from fastapi import Depends, Request
from fastapi.responses import JSONResponse

from cartouche.core.teach.steps import MAX_STEPS, Step
from cartouche.store import steps
from cartouche.store.errors import NotKept, TooLarge
from cartouche.web import step_view
from cartouche.web.errors import TooManySteps
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Id
from cartouche.web.state import AppState, app_state, new_id
from cartouche.web.steps_file import MAX_BYTES, StepsFile, fitted, read
from cartouche.web.teach_schemas import StepChange, StepMade, StepOrder, ToolsView
from cartouche.web.tools_view import tools_view

router = screen_router("teach", "/api/teach/steps")
State = Annotated[AppState, Depends(app_state)]


@router.get("/export")
def export(state: State) -> StepsFile:
    """The steps as a file, see docs/steps.schema.json."""
    lesson = state.open_lesson()
    names = {plate.id: plate.name for plate in state.plates()}
    file = StepsFile(steps=list(steps.steps(state.database, lesson.id)), plate_names=names)
    name = "".join(sign if sign.isascii() and sign.isalnum() else "-" for sign in lesson.title.lower())
    headers = {"Content-Disposition": f'attachment; filename="{name}-steps.json"'}
    return JSONResponse(file.model_dump(mode="json"), headers=headers)  # type: ignore[return-value]


@router.post("/import", status_code=201, openapi_extra={"requestBody": {"content": {"application/json": {}}, "required": True}})
async def import_steps(request: Request, state: State) -> ToolsView:
    """The file's steps come after the lesson's own; its plates are found by their names."""
    content = b""
    async for part in request.stream():
        content += part
        if len(content) > MAX_BYTES:
            raise TooLarge(MAX_BYTES // 1_000_000)
    return await asyncio.to_thread(_import, state, content)


def _import(state: AppState, content: bytes) -> ToolsView:
    file = read(content)
    with state.lock:
        lesson = state.ensure_lesson()
        known = steps.steps(state.database, lesson.id)
        if len(known) + len(file.steps) > MAX_STEPS:
            raise TooManySteps(MAX_STEPS)
        added = [step.model_copy(update={"id": new_id("step")}) for step in fitted(file, state.plates())]
        _settle(state, (*known, *added))
    return tools_view(state)


@router.post("", status_code=201)
def make_step(made: StepMade, state: State) -> ToolsView:
    """Of what stands now, at the end of the list."""
    with state.lock:
        lesson = state.ensure_lesson()
        known = steps.steps(state.database, lesson.id)
        if len(known) >= MAX_STEPS:
            raise TooManySteps(MAX_STEPS)
        _settle(state, (*known, step_view.from_now(state, made.name, made.note)))
    return tools_view(state)


@router.put("/order")
def order_steps(order: StepOrder, state: State) -> ToolsView:
    with state.lock:
        known = {step.id: step for step in steps.steps(state.database, state.open_lesson().id)}
        if sorted(known) != sorted(order.ids):
            raise NotKept("step", next(iter(set(order.ids) ^ set(known)), ""))
        _settle(state, tuple(known[step_id] for step_id in order.ids))
    return tools_view(state)


@router.patch("/{step_id}")
def change_step(step_id: Id, change: StepChange, state: State) -> ToolsView:
    """Its name, its note, whether it is skipped; or all else anew from what stands now."""
    with state.lock:
        before = step_view.step_of(state, step_id)
        new = change.model_dump(exclude={"anew"}, exclude_none=True)
        base = before
        if change.anew:
            base = step_view.from_now(state, before.name, before.note).model_copy(update={"id": before.id, "skipped": before.skipped})
        after = type(base).model_validate({**base.model_dump(), **new})
        _settle(state, tuple(after if step.id == step_id else step for step in steps.steps(state.database, state.open_lesson().id)))
    return tools_view(state)


@router.post("/{step_id}/copy", status_code=201)
def copy_step(step_id: Id, state: State) -> ToolsView:
    with state.lock:
        known = steps.steps(state.database, state.open_lesson().id)
        if len(known) >= MAX_STEPS:
            raise TooManySteps(MAX_STEPS)
        source = step_view.step_of(state, step_id)
        copy = source.model_copy(update={"id": new_id("step")})
        at = known.index(source) + 1
        _settle(state, (*known[:at], copy, *known[at:]))
    return tools_view(state)


@router.delete("/{step_id}")
def delete_step(step_id: Id, state: State) -> ToolsView:
    with state.lock:
        gone = step_view.step_of(state, step_id)
        _settle(state, tuple(step for step in steps.steps(state.database, state.open_lesson().id) if step != gone))
    return tools_view(state)


@router.post("/{step_id}/go")
def go_to_step(step_id: Id, state: State) -> ToolsView:
    return tools_view(state, step_view.show(state, step_view.step_of(state, step_id)))


def _settle(state: AppState, kept: tuple[Step, ...]) -> None:
    steps.settle(state.database, state.open_lesson().id, kept)
    state.running.stage.versions.touch("teach")
