"""Steps: shown as far as they can be, made of what stands now, with what is missing said before they are reached."""

import time
from collections.abc import Callable

from cartouche.core.straighten.chain import FrameLink
from cartouche.core.teach.steps import Step, StepTimer, lacks
from cartouche.core.watch.signal import AWAY
from cartouche.store import kits, sheets, steps, teaching
from cartouche.store.errors import NotKept
from cartouche.web import sheet_keeping
from cartouche.web.state import AppState, new_id
from cartouche.web.teaching import chosen_plate, release, set_timer


def show(state: AppState, step: Step) -> str:
    """The lesson is at this step now; what could not be shown is said."""
    with state.lock:
        missing = missing_now(state)(step)
        state.recording.mark("step", step.name)
        _serve(state, step)
        if step.plate_id is not None and any(plate.id == step.plate_id for plate in state.plates()):
            state.put_on(chosen_plate(state, plate_id=step.plate_id))
        _turn_pages(state, step)
        _look(state, step)
        if step.timer is not None:
            wanted = step.timer
            set_timer(state, lambda timer, now_s: timer.model_copy(
                update={"way": wanted.way, "total_s": wanted.total_s, "before_s": 0.0, "started_s": now_s, "shown": "corner"}
            ))  # fmt: skip
        teaching.keep_step(state.database, state.open_lesson().id, step.id)
        state.running.stage.versions.touch("teach")
    return missing or ""


def _serve(state: AppState, step: Step) -> None:
    here = {device.id: device for device in state.devices()}
    changed = False
    for role, device_id in step.serves.items():
        if device_id in here and here[device_id].serves != role and not _away(state, device_id):
            kits.update_device(state.database, device_id, serves=role)
            changed = True
    if changed:
        state.reopen()
        state.running.stage.versions.touch("kit")


def _turn_pages(state: AppState, step: Step) -> None:
    here = {device.id: device for device in state.devices()}
    for device_id, page in step.pages.items():
        if device_id in here and here[device_id].kind in ("pages", "slides"):
            state.turn_page(device_id, page - 1)
    if step.clip_id in here and here[step.clip_id].kind == "clip":  # type: ignore[index]
        clip = state.sources.clip(step.clip_id)  # type: ignore[arg-type]
        clip.seek(0.0)
        clip.play()
        state.sources.hurry(step.clip_id)  # type: ignore[arg-type]


def _look(state: AppState, step: Step) -> None:
    page_id = state.running.setup.page_id
    if page_id is None:
        return
    kept = {sheet.id for sheet in sheets.sheets(state.database, state.open_lesson().id)}
    if step.sheet_id in kept:
        sheet_keeping.show(state, step.sheet_id)  # type: ignore[arg-type]
    elif page_id in state.running.setup.holds:
        release(state, page_id)
    if step.framing is not None and step.framing != state.chain(page_id).frame:
        state.frame(page_id, step.framing)


def _away(state: AppState, device_id: str) -> bool:
    feed = state.running.feeds.get(device_id)
    return feed is None or (feed.wanted and feed.state(time.monotonic()) in AWAY)


def missing_now(state: AppState) -> Callable[[Step], str | None]:
    """What keeps a step from being shown whole, in a sentence, as things stand; asked of each before it is reached."""
    plates, devices = state.plates(), {device.id: device.name for device in state.devices()}
    kept = {sheet.id for sheet in sheets.sheets(state.database, state.open_lesson().id)}
    away = {device_id for device_id in devices if _away(state, device_id)}
    return lambda step: lacks(step, plates, devices, away, kept)


def from_now(state: AppState, name: str, note: str) -> Step:
    """A step of what stands now."""
    setup = state.running.setup
    plate, page_id = setup.plate, setup.page_id
    held = setup.holds.get(page_id) if page_id is not None else None
    shown = {setup.feed_id(place) for place in plate.places} if plate is not None else set()
    files = {device.id: device for device in state.devices() if device.id in shown}
    timer = setup.timer
    return Step(
        id=new_id("step"),
        name=name,
        plate_id=plate.id if plate is not None else None,
        serves=dict(setup.roles),
        framing=state.chain(page_id).frame if page_id is not None else FrameLink(),
        pages={id_: state.sources.pages(id_).page + 1 for id_, device in files.items() if device.kind in ("pages", "slides")},
        sheet_id=held.sheet_id or None if held is not None else None,
        clip_id=next((id_ for id_, device in files.items() if device.kind == "clip"), None),
        timer=StepTimer(way=timer.way, total_s=timer.total_s) if timer.shown == "corner" else None,
        note=note,
    )


def step_of(state: AppState, step_id: str) -> Step:
    """Of the open lesson. Raises NotKept."""
    found = next((step for step in steps.steps(state.database, state.open_lesson().id) if step.id == step_id), None)
    if found is None:
        raise NotKept("step", step_id)
    return found
