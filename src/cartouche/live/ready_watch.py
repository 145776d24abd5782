"""What only the check before a lesson measures: the face's light, whether each camera shows what is meant, how busy the computer is.

At rest while nobody looks at the check.
"""

import time
from collections.abc import Callable
from contextlib import ExitStack

from cartouche.core.plates.behind import Net, PersonMask, works_at
from cartouche.core.watch.facing import FaceLook, face_look
from cartouche.live.computer import Computer
from cartouche.live.demand import Claim, Demand, Surface
from cartouche.live.feeds import Feeds
from cartouche.live.setup import Setup
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

LOOK_EVERY_S = 1.0
LEASE_S = 5.0  # after the last time somebody asked
KEPT_S = 60.0  # what was measured counts for so long


class ReadyWatch:
    """`ask` says that somebody looks; the measures may be read from any thread, None where there is none that counts."""

    def __init__(self, feeds: Feeds, demand: Demand, setup: Callable[[], Setup], net: Net, troubles: Troubles) -> None:
        self._feeds, self._demand, self._setup, self._net = feeds, demand, setup, net
        self._claims: dict[Surface, Claim] = {}
        self._until_s = 0.0
        self._looks: dict[str, tuple[float, str, FaceLook]] = {}  # by role: when, of which device, what
        self.computer = Computer()
        self._troubles = troubles
        self._worker = Worker("ready", self._turn, lambda exc: troubles.report("watch", exc))

    def start(self) -> None:
        self._worker.start()

    def stop(self) -> None:
        """Repeatable."""
        self._worker.stop()
        self._hold(set())

    def ask(self) -> None:
        self._until_s = time.monotonic() + LEASE_S
        self._worker.wake()

    def look_of(self, role: str) -> FaceLook | None:
        """What the device that serves so shows of a person."""
        at_s, device_id, look = self._looks.get(role, (0.0, "", None))
        known = device_id and device_id == self._setup().roles.get(role)  # type: ignore[call-overload]
        return look if known and time.monotonic() - at_s < KEPT_S else None

    def _asked(self) -> bool:
        return time.monotonic() < self._until_s

    def _turn(self) -> None:
        if not self._asked():
            self._hold(set())
            self._worker.wait(None, self._asked)
            return
        roles = self._setup().roles
        self._hold({Surface("page", roles["page"])} if "page" in roles else set(), {Surface("raw", id_) for id_ in roles.values()})
        self.computer.look()
        for role, device_id in roles.items():
            with self._troubles.guard("watch", device_id):
                self._look(role, device_id)
        self._worker.wait(LOOK_EVERY_S)

    def _look(self, role: str, device_id: str) -> None:
        feed = self._feeds.get(device_id)
        frame = feed.showable(time.monotonic()) if feed is not None else None
        if frame is not None and works_at(frame.size):
            mask = PersonMask(self._net).see(frame)
            self._looks[role] = (time.monotonic(), device_id, face_look(frame.y, mask))

    def _hold(self, *wanted: set[Surface]) -> None:
        surfaces = set().union(*wanted)
        with ExitStack() as stack:
            for surface in tuple(self._claims):
                if surface not in surfaces:
                    stack.callback(self._claims.pop(surface).release)
        for surface in surfaces - self._claims.keys():
            self._claims[surface] = self._demand.claim(surface)
