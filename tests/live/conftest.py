import math
import threading
import time
from collections.abc import Callable, Iterator

import numpy as np
import pytest

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.core.plates.model import Plate, Role
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain
from cartouche.live.demand import Surface
from cartouche.live.hub import Viewer
from cartouche.live.running import RunningLesson
from cartouche.live.stage import Opened


class Plain:
    """A device of one colour whose pictures can be stopped, and which counts how often it was asked."""

    def __init__(self, y: int, fps: float = 60.0) -> None:
        self.fps, self.y, self.asked, self.dead, self.gone = fps, y, 0, False, False

    def picture(self, now_s: float) -> Frame | None:
        self.asked += 1
        if self.gone:
            raise ConnectionError("pulled out")
        if self.dead:
            return None
        frame = blank_frame(Size(320, 180), YuvColour(self.y, 128, 128))
        frame.y[0, :] = self.y + self.asked % 5  # as little as noise, but something changes
        return Frame.of(frame.planes, now_s)


class Loop:
    """Stands in for the event loop of a viewer: runs what it is given at once."""

    def call_soon_threadsafe(self, work: Callable[..., object], *values: object) -> None:
        work(*values)


def surface(key: str) -> Surface:
    parsed = Surface.parse(key)
    assert parsed is not None
    return parsed


def show(lesson: RunningLesson, plate: Plate, roles: dict[Role, str], chains: dict[str, Chain], mirrors: dict[str, int]) -> None:
    """As an opened lesson with this plate alone."""
    lesson.stage.reopen(Opened(plate, (plate,), roles, chains, mirrors))


def viewer(key: str, width: int = 1280, max_fps: float = 1000) -> Viewer:
    """A viewer that has always drawn what it got, so that it is ready for more."""

    class Keen(Viewer):
        newest: bytes | None = None
        seen = 0

        def offer(self, picture: bytes, captured_s: float = math.inf) -> None:
            super().offer(picture)
            self.newest = self.take(time.monotonic())
            self.acknowledge()
            self.seen += 1

    return Keen(surface(key), width, max_fps, Loop())  # type: ignore[arg-type]


@pytest.fixture
def lesson() -> Iterator[RunningLesson]:
    before = threading.active_count()
    running = RunningLesson(CallCodec, CallVoice)
    yield running
    running.close()
    running.close()
    until = time.monotonic() + 5
    while threading.active_count() > before and time.monotonic() < until:
        time.sleep(0.01)
    assert threading.active_count() <= before, [thread.name for thread in threading.enumerate()]


@pytest.fixture
def page_and_face(lesson: RunningLesson) -> tuple[Plain, Plain]:
    page, face = Plain(200), Plain(60)
    lesson.open_source("p", page)
    lesson.open_source("f", face)
    show(lesson, FIRST_PLATES[1], {"page": "p", "face": "f"}, {"p": Chain()}, {"p": 0})
    return page, face


def mean(frame: Frame | None) -> float:
    return -1.0 if frame is None else float(np.mean(frame.y[:, 300:900]))
