"""A known room: does the page still lie where it lay last time? A stand that was moved is squared up anew, once, and that is said."""

from cartouche.core.pictures import Frame
from cartouche.core.reading.upright import set_upright
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.finder import NotFound
from cartouche.core.straighten.rigs import rig_named
from cartouche.core.straighten.square_up import off_share, squared_up
from cartouche.core.watch.signal import USABLE
from cartouche.live.feeds import Feed
from cartouche.store import chains, kits
from cartouche.store.kits import Device
from cartouche.web.state import AppState

SURE = 0.95  # nobody asked for it: only what is as good as certain is done
MOVED = 0.015  # of the picture's width; less is how exactly a page is found and laid
STEADY_S = 1.5  # after its first picture: exposure and focus have settled
SAYS = "The page lies elsewhere than last time: it is squared up again. Undo under Square up takes it back."


class LookAgain:
    """Once for each device that was kept before this start, when its first steady picture is there."""

    def __init__(self, state: AppState) -> None:
        self._state = state
        kept = [device for kit in kits.kits(state.database) for device in kits.devices(state.database, kit.id)]
        self._left = {device.id: chains.current(state.database, device.id).chain for device in kept}
        self._since: dict[str, float] = {}

    def look(self, device: Device, feed: Feed, now_s: float) -> None:
        kept = self._left.get(device.id)
        if kept is None or device.serves != "page" or feed.state(now_s) not in USABLE or feed.latest is None:
            return
        if now_s - self._since.setdefault(device.id, now_s) < STEADY_S:
            return
        del self._left[device.id]
        if kept.square.on and not kept.square.follow and self._state.chain(device.id) == kept:
            self._settle(device, kept, feed.latest.copy())

    def _settle(self, device: Device, kept: Chain, frame: Frame) -> None:
        watcher = self._state.running.watcher
        found = watcher.find(frame)
        if isinstance(found, NotFound) or found.confidence < SURE or off_share(found, kept, frame.size) < MOVED:
            return
        chain = squared_up(found, kept, frame.size, rig_named(device.rig))
        upright = set_upright(chain, watcher.way_of(chain, frame)).chain
        with self._state.lock:
            if self._state.chain(device.id) != kept:
                return  # a hand was quicker
            self._state.settle_chain(device.id, upright)
            self._state.running.stage.notices[device.id] = SAYS
            self._state.running.stage.versions.touch("kit")
