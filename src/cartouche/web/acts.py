"""Every action of a lesson by its name, whoever pressed it."""

import time
from collections.abc import Callable

from cartouche.core.plates.model import Place
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.core.straighten.framing import CLOSER_BY, PAN_SHARE, closer, panned
from cartouche.core.teach.steps import after
from cartouche.core.teach.timer import Timer
from cartouche.live.clock import steady_s
from cartouche.live.feeds import WAKES_S
from cartouche.live.setup import Held
from cartouche.store import steps, teaching
from cartouche.web import step_view
from cartouche.web.errors import AtTheEnd, NothingToHold
from cartouche.web.routers.square_up_views import framing_of, page_room
from cartouche.web.sheet_keeping import keep_now
from cartouche.web.state import AppState
from cartouche.web.teaching import awake, chosen_plate, follow_pen, look, page_device, release, set_timer, stand_in

PRESSES_KEPT = 400


def act(state: AppState, name: str, number: int | None = None) -> str:
    """Do it; what is to be said of it, '' for what is seen anyway. Raises CartoucheError."""
    if name == "sheet":  # it takes its time, and no other press waits for it
        return keep_now(state)
    with state.lock:
        return _ACTS[name](state, number)


def act_once(state: AppState, name: str, number: int | None, press: str) -> str:
    """The same, but a press that is sent again because its answer was lost counts once. press: of whoever pressed, '' for no name."""
    if not press:
        return act(state, name, number)
    known = state.presses
    with state.lock:
        if press in known:
            return known[press]
        known[press] = ""
        while len(known) > PRESSES_KEPT:
            known.pop(next(iter(known)))
    try:
        known[press] = act(state, name, number)
    except BaseException:
        known.pop(press, None)  # it was refused, or failed: sent again it may be done
        raise
    return known.get(press, "")


# plates


def _plate(state: AppState, number: int | None) -> str:
    state.put_on(chosen_plate(state, number=number or 1))
    return ""


def _plate_by(by: int) -> Callable[[AppState, int | None], str]:
    def act(state: AppState, number: int | None) -> str:
        state.put_on(chosen_plate(state, by=by))
        return ""

    return act


def _adorn(state: AppState, number: int | None) -> str:
    setup = state.running.setup
    if setup.plate is None or not any(place.adorns for place in setup.plate.places):
        return "Nothing on this plate to hide: it has no caption, frame or background."
    state.running.stage.adorn(not setup.adorned)
    return ""


def _natural(state: AppState, number: int | None) -> str:
    setup = state.running.setup
    if not setup.natural and not any(_better(place) for plate in setup.plates.values() for place in plate.places):
        return "Every face goes out as its camera gives it already. Plates has what makes the best of it."
    state.running.stage.show_naturally(not setup.natural)
    return "" if setup.natural else "Faces go out as their cameras give them. The same key makes the best of them again."


def _better(place: Place) -> bool:
    return not place.behind.does_nothing or not place.grade.does_nothing or place.grade.framed


# recording


def _record(state: AppState, number: int | None) -> str:
    return state.recording.press()


def _stop(state: AppState, number: int | None) -> str:
    return state.recording.stop()


# hold


def _hold(state: AppState, number: int | None) -> str:
    device_id = page_device(state)
    if device_id in state.running.setup.holds:
        release(state, device_id)
        return ""
    with awake(state, device_id, WAKES_S) as feed:
        setup, now_s = state.running.setup, steady_s()
        frame = None
        if feed is not None and not feed.stale:
            frame = state.running.holder.calm(setup, device_id) or feed.showable(time.monotonic())
        frame = frame.copy() if frame is not None else None
    if frame is None:
        raise NothingToHold
    seen = state.running.watcher.seen.get(device_id)
    held = Held(frame, setup.chains.get(device_id, Chain()), now_s, "hand", tone=seen.tone if seen is not None else None)
    return stand_in(state, device_id, held)


def _live(state: AppState, number: int | None) -> str:
    device_id = page_device(state)
    if device_id not in state.running.setup.holds:
        return "The page is live already."
    release(state, device_id)
    return ""


# timer


def _timer(state: AppState, number: int | None) -> str:
    set_timer(state, Timer.pressed)
    return ""


def _minute(state: AppState, number: int | None) -> str:
    if state.running.setup.timer.way == "up":
        return "The timer counts up: it needs no more minutes."
    set_timer(state, Timer.minute_more)
    return ""


# a closer look


def _closer(by: float, end: str) -> Callable[[AppState, int | None], str]:
    def act(state: AppState, number: int | None) -> str:
        device_id = page_device(state)
        before = state.chain(device_id).frame
        if look(state, device_id, lambda frame, chain: closer(frame, by, None, *page_room(state, device_id, chain))) == before:
            raise AtTheEnd(end)
        return ""

    return act


def _moved(right: float, down: float) -> Callable[[AppState, int | None], str]:
    def act(state: AppState, number: int | None) -> str:
        device_id = page_device(state)
        look(state, device_id, lambda frame, chain: panned(frame, right, down, *page_room(state, device_id, chain)))
        return ""

    return act


def _whole(state: AppState, number: int | None) -> str:
    look(state, page_device(state), lambda frame, chain: FrameLink())
    if state.running.setup.follow_pen:
        follow_pen(state, False)
        return "The whole page is shown; the pen is not followed any more."
    return ""


def _pen(state: AppState, number: int | None) -> str:
    on, device_id = not state.running.setup.follow_pen, page_device(state)
    if on and state.chain(device_id).frame.zoom <= 1:  # of the whole page there is nothing to follow
        look(state, device_id, lambda frame, chain: framing_of(state, device_id, chain, "band"))
    follow_pen(state, on)
    return ""


# steps


def _step(by: int) -> Callable[[AppState, int | None], str]:
    def act(state: AppState, number: int | None) -> str:
        lesson = state.open_lesson()
        known = steps.steps(state.database, lesson.id)
        if not known:
            return _page_or_plate(state, by)
        step = after(known, teaching.kept(state.database, lesson.id).step_id, by)
        if step is None:
            raise AtTheEnd("the last step" if by > 0 else "the first step")
        return step_view.show(state, step)

    return act


def _page_or_plate(state: AppState, by: int) -> str:
    """Without steps a clicker turns pages, and where there are none it changes plates."""
    setup = state.running.setup
    for place in setup.plate.places if setup.plate is not None else ():
        device = next((one for one in state.devices() if one.id == setup.feed_id(place)), None)
        if device is not None and device.kind in ("pages", "slides") and state.sources.pages(device.id).count > 1:
            state.turn_page(device.id, by=by)
            return ""
    state.put_on(chosen_plate(state, by=by))
    return ""


_ACTS: dict[str, Callable[[AppState, int | None], str]] = {
    "plate": _plate, "next": _plate_by(1), "previous": _plate_by(-1), "forward": _step(1), "back": _step(-1), "hold": _hold,
    "live": _live, "timer": _timer, "minute": _minute, "closer": _closer(CLOSER_BY, "as close as it goes"),
    "wider": _closer(1 / CLOSER_BY, "the whole page"), "left": _moved(-PAN_SHARE, 0), "right": _moved(PAN_SHARE, 0),
    "up": _moved(0, -PAN_SHARE), "down": _moved(0, PAN_SHARE), "whole": _whole, "pen": _pen, "adorn": _adorn, "natural": _natural,
    "record": _record, "stop": _stop,
}  # fmt: skip
