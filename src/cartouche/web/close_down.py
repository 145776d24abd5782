"""The end of a lesson: everything off, and what is not off named, with what to do."""

import asyncio
import time

from cartouche.store.recordings import folder
from cartouche.web.after_schemas import ClosedView, OffView
from cartouche.web.guests.book import Guests
from cartouche.web.server_outlet import ServerOutlet
from cartouche.web.state import AppState
from cartouche.web.views import taken_by

LET_GO_S = 4.0  # a phone hears of it with its next report, a browser closes a camera in less
LOOK_S = 0.2


async def close_down(state: AppState, guests: Guests, outlet: ServerOutlet) -> ClosedView:
    """Stop what can be stopped from here, wait a moment for the others, tell of each."""
    recorded = await asyncio.to_thread(_stop_here, state)
    await outlet.stop()
    await guests.inviting.withdraw()
    await guests.watching.withdraw()
    guests.visitors.send_home()
    until_s = time.monotonic() + LET_GO_S
    things = await asyncio.to_thread(_things, state, guests, recorded)
    while not all(thing.off for thing in things) and time.monotonic() < until_s:
        await asyncio.sleep(LOOK_S)
        things = await asyncio.to_thread(_things, state, guests, recorded)
    await guests.keeper.settle()
    left = [thing for thing in things if not thing.off]
    says = "All is off. The call itself still runs: leave it there." if not left else f"Not off yet: {left[0].what}. {left[0].says}"
    return ClosedView(all_off=not left, says=says, things=things)


def _stop_here(state: AppState) -> str:
    """What was recorded, in a sentence."""
    recorded = ""
    with state.lock:
        if state.recording.current is not None:
            name = state.recording.current.name
            state.recording.stop()
            recorded = f"“{name}” lies in {folder(state.database)}."
    if recorded:
        state.recording.wait()
    state.running.stop_call()
    state.running.sound.microphones.open(None)
    return recorded


def _things(state: AppState, guests: Guests, recorded: str) -> list[OffView]:
    running = state.running
    devices = {device.id: device for device in state.devices()}
    sending = [device.name for id_, device in devices.items() if device.kind in ("camera", "window") and _sends(state, id_)]
    phones = [device.name for id_, device in devices.items() if device.kind == "guest" and guests.visitors.is_here(id_)]
    takers = taken_by(running.takers.all())
    microphone = running.sound.microphones.opened
    windows = running.windows.count
    return [
        _thing("The outgoing picture", not takers and not running.call.running, f"{takers}: stop the camera in that call."),
        _thing("The outgoing window", not windows, "It is still open: close it, and end sharing in the call."),
        _thing("Recording", state.recording.current is None, "", recorded),
        _thing("Cameras and windows of this computer", not sending, f"{_named(sending)} still open in a tab: close that tab."),
        _thing("Microphones", microphone is None, f"{microphone[1] if microphone else ''} is still open: press M."),
        _thing("Phones and tablets", not phones, f"{_named(phones)} still sending: press Leave there."),
    ]


def _sends(state: AppState, device_id: str) -> bool:
    feed = state.running.feeds.get(device_id)
    return feed is not None and feed.connected


def _thing(what: str, off: bool, says: str, otherwise: str = "") -> OffView:
    return OffView(what=what, off=off, says=otherwise if off else says)


def _named(names: list[str]) -> str:
    return f"{' and '.join(names)} {'is' if len(names) == 1 else 'are'}"
