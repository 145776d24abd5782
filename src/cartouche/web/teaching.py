"""What stands behind the actions of a lesson: which plate, which page, what stands in its place, how close it is looked at."""

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from cartouche.core.plates.model import Plate
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.core.straighten.glide import FRAME_S
from cartouche.core.teach.timer import Timer
from cartouche.live.clock import steady_s
from cartouche.live.demand import Surface
from cartouche.live.feeds import Feed
from cartouche.live.setup import Held
from cartouche.store import teaching
from cartouche.store.errors import CannotSave, NoSuchPlate, NotKept
from cartouche.web import hold_file
from cartouche.web.errors import NoPageServes
from cartouche.web.state import AppState

# plates


def chosen_plate(state: AppState, *, plate_id: str | None = None, number: int | None = None, by: int = 0) -> Plate:
    """This one, the nth, or one so many on, round and round. Raises NotKept, NoSuchPlate."""
    plates, on = state.plates(), state.running.setup.plate
    if number is not None:
        if number > len(plates):
            raise NoSuchPlate(number)
        return plates[number - 1]
    if plate_id is None and plates:
        at = next((index for index, plate in enumerate(plates) if on is not None and plate.id == on.id), 0)
        return plates[(at + by) % len(plates)]
    found = next((plate for plate in plates if plate.id == plate_id), None)
    if found is None:
        raise NotKept("plate", plate_id or "")
    return found


# hold


def page_device(state: AppState) -> str:
    """The device that serves as page. Raises NoPageServes."""
    page_id = state.running.setup.page_id
    if page_id is None:
        raise NoPageServes
    return page_id


@contextmanager
def awake(state: AppState, device_id: str, within_s: float) -> Iterator[Feed | None]:
    """Its feed with a picture of now, for which one that nobody looked at is given so long; None where there is no such feed."""
    claim = state.running.demand.claim(Surface("page", device_id))
    try:
        feed, until_s = state.running.feeds.get(device_id), time.monotonic() + within_s
        while feed is not None and (now_s := time.monotonic()) < until_s and (feed.waking(now_s) or feed.showable(now_s) is None):
            time.sleep(0.02)
        yield feed
    finally:
        claim.release()


def stand_in(state: AppState, device_id: str, held: Held) -> str:
    """This picture stands in the place of the device's own, now and after a new start."""
    state.running.stage.hold(device_id, held)
    try:
        hold_file.keep(state.database, state.open_lesson().id, device_id, held)
    except CannotSave as exc:
        return f"It is held. {exc}"
    return ""


def release(state: AppState, device_id: str) -> None:
    """Back to its own pictures; a closer look at a sheet ends with it."""
    held = state.running.setup.holds.get(device_id)
    state.running.holder.forget(device_id)
    state.running.stage.release(device_id)
    if held is not None and held.by == "sheet" and held.before is not None:
        state.frame(device_id, held.before)
    lesson = state.lesson()
    if lesson is not None:
        hold_file.forget(state.database, lesson.id)


# timer


def set_timer(state: AppState, change: Callable[[Timer, float], Timer]) -> None:
    with state.lock:
        timer = change(state.running.setup.timer, steady_s())
        teaching.keep_timer(state.database, state.open_lesson().id, timer)
        state.running.stage.set_timer(timer)


# a closer look


def follow_pen(state: AppState, on: bool) -> None:
    with state.lock:
        teaching.keep_follow_pen(state.database, state.open_lesson().id, on)
        state.running.stage.follow_pen(on)


def look(state: AppState, device_id: str, work: Callable[[FrameLink, Chain], FrameLink], glide_s: float = FRAME_S) -> FrameLink:
    """The page is looked at otherwise from now on."""
    chain = state.chain(device_id)
    link = work(chain.frame, chain)
    state.frame(device_id, link, glide_s)
    return link
