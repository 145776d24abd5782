"""The end of the timer among what learners hear, where the teacher wishes it."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.chime import chime
from cartouche.core.sound.loudness import RATE
from cartouche.core.teach.timer import Timer
from cartouche.live.clock import monotonic_of


class TimerSound:
    """`read` is the mixer's."""

    def __init__(self, timer: Callable[[], Timer]) -> None:
        self._timer = timer

    def read(self, from_s: float, count: int) -> NDArray[np.int16]:
        block = np.zeros(count, np.int16)
        timer = self._timer()
        if not timer.chime or timer.way == "up" or timer.started_s is None:
            return block
        ends_s = monotonic_of(timer.started_s + timer.total_s - timer.before_s)
        offset = round((from_s - ends_s) * RATE)
        samples = chime()
        if -count < offset < samples.size:
            begin = max(0, -offset)
            part = samples[max(0, offset) : max(0, offset) + count - begin]
            block[begin : begin + part.size] = part
        return block
