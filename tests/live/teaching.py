"""A running lesson with one plain page, and who notices when something is drawn on it."""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.core.pictures import Frame
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.live.demand import OUTGOING
from cartouche.live.running import RunningLesson
from tests.helpers import eventually
from tests.live.conftest import Plain, mean, show

PAPER_Y = 200
Seen = Callable[[tuple[float, float], float], float]  # a spot in shares of the picture, since when -> the moment at which it was marked


class Marked:
    """A taker that looks at one spot of each picture."""

    def __init__(self) -> None:
        self.spot, self.at_s, self.changed = (0.5, 0.5), 0.0, threading.Event()

    def ready(self, now_s: float) -> bool:
        return True

    def take(self, frame: Frame, now_s: float) -> None:
        x, y = int(self.spot[0] * frame.size.width), int(self.spot[1] * frame.size.height)
        if abs(int(frame.y[y - 2 : y + 3, x - 2 : x + 3].min()) - PAPER_Y) > 40:
            self.at_s = time.monotonic()
            self.changed.set()


@contextmanager
def running_page(source: object = None) -> Iterator[tuple[RunningLesson, Seen]]:
    lesson, marked = RunningLesson(CallCodec, CallVoice), Marked()
    claim = lesson.demand.claim(OUTGOING)
    try:
        lesson.open_source("p", source or Plain(PAPER_Y))  # type: ignore[arg-type]
        show(lesson, FIRST_PLATES[1], {"page": "p"}, {}, {})
        lesson.desk.sinks = (*lesson.desk.sinks, marked)
        eventually(lambda: lesson.ink.ground)
        eventually(lambda: lesson.desk.latest is not None and abs(mean(lesson.desk.latest) - PAPER_Y) < 3)

        def seen(spot: tuple[float, float], since_s: float) -> float:
            marked.spot = spot
            marked.changed.clear()
            assert marked.changed.wait(10.0), "it was never drawn"
            return max(marked.at_s, since_s)

        yield lesson, seen
    finally:
        claim.release()
        lesson.close()
