"""A face made the best of, live: once for each new picture, its cost measured, and lowered by itself where the machine cannot keep up."""

import time

from cartouche.core.pictures import Frame
from cartouche.core.plates.behind import BehindPainter, Net, PersonMask, as_seen, works_at
from cartouche.core.plates.grade import NO_LIGHT, Light, Mask, light_of
from cartouche.core.plates.model import Behind, Grade, Place

MAX_MS = 20.0  # a picture; more of the desk's 33 ms it may not take
FOR_S = 3.0  # how long it must be too slow before it is lowered
AGAIN_S = 60.0  # after so long it is tried again
NEWEST_WEIGHT = 0.1
LIGHT_EVERY_S, LIGHT_KEPT = 0.4, 0.75  # of what was measured before: a head that turns does not flicker
FULL, EVERY_OTHER = 0, 1  # how the person is looked for: in each picture, in every other
Wish = tuple[str, Behind, Grade, bool]  # whose, what, whether a person is looked for


class _Person:
    """What is known of one feed's person."""

    def __init__(self, net: Net) -> None:
        self.mask_of = PersonMask(net)
        self.mask: Mask | None = None
        self.looks = 0
        self.light, self._light_s = NO_LIGHT, float("-inf")

    def see(self, frame: Frame, level: int) -> Mask:
        self.looks += 1
        if self.mask is None or level == FULL or self.looks % 2:
            self.mask = self.mask_of.see(frame)
        return self.mask

    def measure_light(self, frame: Frame, mask: Mask | None, now_s: float) -> None:
        if now_s - self._light_s >= LIGHT_EVERY_S:
            self._light_s = now_s
            self.light = _calmed(self.light, light_of(frame, mask, as_seen))


def _calmed(before: Light, fresh: Light) -> Light:
    kept = LIGHT_KEPT if before is not NO_LIGHT else 0.0
    gain = fresh.gain if fresh.gain is not None else before.gain
    if fresh.gain is not None and before.gain is not None:
        gain = kept * before.gain + (1 - kept) * fresh.gain
    u, v = (kept * a + (1 - kept) * b for a, b in zip(before.balance, fresh.balance, strict=True))
    return Light(gain, (u, v))


class BehindFace:
    """Used by the desk's thread; `cost_ms`, `too_slow` and `lowered` may be read by others."""

    def __init__(self, net: Net) -> None:
        self._net = net
        self._people: dict[str, _Person] = {}
        self._painters: dict[Wish, BehindPainter] = {}
        self._made: dict[Wish, tuple[Frame, Frame | None, Frame]] = {}
        self._slow_since_s: float | None = None
        self._off_until_s, self._level, self._lowered_s = 0.0, FULL, 0.0
        self.cost_ms: float | None = None
        self.too_slow = False

    @property
    def lowered(self) -> bool:
        return self._level != FULL

    def frame(self, feed_id: str, frame: Frame, place: Place, now_s: float, ground: Frame | None = None) -> Frame:
        """The feed's picture as its place wishes it; the same again for the same picture. ground: what may stand behind the person.

        Too slow, its colours alone: a face in black and white does not turn to colour in mid-lesson.
        """
        if (place.behind.does_nothing and place.grade.does_nothing) or not works_at(frame.size):
            return frame
        off = now_s < self._off_until_s
        looks = place.needs_person and not off
        key = (feed_id, place.behind, place.grade, looks)
        before, on, painted = self._made.get(key, (None, None, None))
        if painted is not None and before is frame and on is ground:
            return painted
        begun = time.perf_counter()
        if self.lowered and now_s - self._lowered_s > AGAIN_S:
            self._level = FULL
        person = self._people.setdefault(feed_id, _Person(self._net))
        mask = person.see(frame, self._level) if looks else None
        if place.grade.needs_light and not off:
            person.measure_light(frame, mask, now_s)
        painter = self._painters.setdefault(key, BehindPainter())
        painted = painter.draw(frame, mask, place.behind, place.grade, person.light, ground)
        if not off:
            self._told(1000 * (time.perf_counter() - begun), now_s)
        if len(self._made) > 8:
            self._made.clear()
            self._painters = {key: self._painters[key]}
        self._made[key] = (frame, ground, painted)
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
            self._slow_since_s, self.cost_ms = None, None
            if self._level == FULL:
                self._level, self._lowered_s = EVERY_OTHER, now_s
            else:
                self.too_slow, self._off_until_s, self._level = True, now_s + AGAIN_S, FULL
