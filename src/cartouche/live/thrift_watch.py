"""Looks once a second whether this computer keeps up, and does with less what learners lose least; at rest while nothing goes out."""

import time
from collections.abc import Callable

from cartouche.core.pictures import Size
from cartouche.core.watch.thrift import Look, Thrift
from cartouche.live.computer import Computer
from cartouche.live.demand import OUTGOING, Demand
from cartouche.live.desk import Desk
from cartouche.live.hub import Hub
from cartouche.live.troubles import Troubles
from cartouche.live.watcher import READ_EVERY_S, SELDOM_READ_S, Watcher
from cartouche.live.worker import Worker

LOOK_EVERY_S = 1.0
SELDOM: dict[str, float] = {"plate": 5.0, "glance": 1.0, "raw": 8.0, "page": 8.0}  # fps, by kind of surface
AUDIENCES_FPS, FACE_FPS = 3.0, 10.0
PACE = 2 / 3  # of the pictures that go out at best
SMALLER = Size(1280, 720)


class ThriftWatch:
    """Begins once it is started; `says` may be read by others."""

    def __init__(self, desk: Desk, hub: Hub, watcher: Watcher, demand: Demand, changed: Callable[[], None], troubles: Troubles) -> None:
        self._desk, self._hub, self._watcher, self._demand, self._changed = desk, hub, watcher, demand, changed
        self._thrift, self._computer = Thrift(), Computer()
        self.size = desk.size  # that is meant to go out
        self._worker = Worker("thrift", self._turn, lambda exc: troubles.report("watch", exc))

    def start(self) -> None:
        self._worker.start()

    def stop(self) -> None:
        """Repeatable."""
        self._worker.stop()

    @property
    def says(self) -> str | None:
        return self._thrift.says

    def resize(self, size: Size) -> None:
        """So large it should go out; smaller for now where this computer cannot."""
        self.size = size
        self._apply()

    def _turn(self) -> None:
        self._worker.wait(LOOK_EVERY_S)
        if OUTGOING not in self._demand.surfaces and self._thrift.says is None:
            return
        self._computer.look()
        self.look(self._computer.busy, time.monotonic())

    def look(self, busy: float | None, now_s: float) -> None:
        wanted = self._desk.max_fps if OUTGOING in self._demand.surfaces else 0.0
        look = Look(busy, self._desk.fps(now_s), wanted, self._desk.slow_share, self.size.width > SMALLER.width)
        if self._thrift.look(look, now_s):
            self._apply()
            self._changed()

    def _apply(self) -> None:
        taken = self._thrift.taken
        self._hub.seldom = {**(SELDOM if "previews" in taken else {}), **({"audience": AUDIENCES_FPS} if "audiences" in taken else {})}
        self._watcher.read_every_s = SELDOM_READ_S if "previews" in taken else READ_EVERY_S
        self._desk.face_fps = FACE_FPS if "face" in taken else None
        self._desk.pace = PACE if "pace" in taken else 1.0
        self._desk.resize(SMALLER if "size" in taken and self.size.width > SMALLER.width else self.size)
