"""Behind the face, live: once for each new picture, its cost measured, and off by itself where the machine cannot keep up."""

import time

from cartouche.core.pictures import Frame
from cartouche.core.plates.behind import BehindPainter, Net, PersonMask, works_at
from cartouche.core.plates.model import Behind

MAX_MS = 20.0  # a picture; more of the desk's 33 ms it may not take
FOR_S = 3.0  # how long it must be too slow before it is switched off
AGAIN_S = 60.0  # after so long it is tried again
NEWEST_WEIGHT = 0.1


class BehindFace:
    """Used by the desk's thread; `cost_ms` and `too_slow` may be read by others."""

    def __init__(self, net: Net) -> None:
        self._net = net
        self._masks: dict[str, PersonMask] = {}
        self._painters: dict[tuple[str, Behind], BehindPainter] = {}
        self._made: dict[tuple[str, Behind], tuple[Frame, Frame]] = {}
        self._slow_since_s: float | None = None
        self._off_until_s = 0.0
        self.cost_ms: float | None = None
        self.too_slow = False

    def frame(self, feed_id: str, frame: Frame, wish: Behind, now_s: float) -> Frame:
        """The feed's picture as it is wished; the same again for the same picture."""
        if wish.does_nothing or not works_at(frame.size):
            return frame
        if now_s < self._off_until_s:
            return frame
        key = (feed_id, wish)
        before, painted = self._made.get(key, (None, None))
        if painted is not None and before is frame:
            return painted
        begun = time.perf_counter()
        mask = self._masks.setdefault(feed_id, PersonMask(self._net)).see(frame)
        painted = self._painters.setdefault(key, BehindPainter()).draw(frame, mask, wish)
        self._told(1000 * (time.perf_counter() - begun), now_s)
        if len(self._made) > 8:
            self._made.clear()
            self._painters = {key: self._painters[key]}
        self._made[key] = (frame, painted)
        return painted

    def idle(self) -> None:
        """No plate that is on wishes it."""
        self.cost_ms, self._slow_since_s = None, None

    def _told(self, ms: float, now_s: float) -> None:
        self.cost_ms = ms if self.cost_ms is None else (1 - NEWEST_WEIGHT) * self.cost_ms + NEWEST_WEIGHT * ms
        self.too_slow = False
        if self.cost_ms <= MAX_MS:
            self._slow_since_s = None
        elif self._slow_since_s is None:
            self._slow_since_s = now_s
        elif now_s - self._slow_since_s > FOR_S:
            self.too_slow, self._off_until_s, self._slow_since_s, self.cost_ms = True, now_s + AGAIN_S, None, None
