"""A device that dies and returns a thousand times while it is on the plate: nothing leaks, nothing black goes out, it keeps its place.

In turn it is pulled out, black, stuck and asleep.  black_s: the longest time that the outgoing picture was black (budget 0.2).
threads, open_files, memory_mb: grown from the first hundred to the end.  lost_place: pictures after a return without its page.
"""

import json
import os
import sys
import threading
import time
from pathlib import Path
from typing import Any

import numpy as np
from many_feeds import open_with, viewer

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES, BenchDevice, Fault
from cartouche.core.pictures import Size
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain, FrameLink, MirrorLink
from cartouche.live.desk import Desk
from cartouche.live.running import RunningLesson
from cartouche.process import settle

WAYS: tuple[Fault, ...] = ("pulled out", "black", "stuck", "asleep")
DEATHS, SETTLED_AFTER = 1000, 100
DEAD_S = {"pulled out": 0.25, "black": 0.35, "stuck": 0.2, "asleep": 0.25}
BACK_WITHIN_S = 5.0
BLACK_BELOW, PAGE_ABOVE = 40.0, 80.0  # of 255, mean of the middle: the covered lens gives 17, the sheet 190


class Watch:
    """Looks at every picture that the desk makes."""

    def __init__(self, desk: Desk) -> None:
        self._desk, self._seen = desk, None
        self._black_since_s: float | None = None
        self.longest_s, self.mean, self.pictures, self.stopped = 0.0, 0.0, 0, False
        self.thread = threading.Thread(target=self._run, daemon=True, name="watch")
        self.thread.start()

    def _run(self) -> None:
        while not self.stopped:
            frame = self._desk.latest
            if frame is not None and frame is not self._seen:
                self._seen, now_s = frame, time.monotonic()
                height, width = frame.y.shape
                self.mean = float(frame.y[height // 3 : 2 * height // 3, width // 3 : 2 * width // 3].mean())
                self.pictures += 1
                self._black_since_s = (self._black_since_s or now_s) if self.mean < BLACK_BELOW else None
                if self._black_since_s is not None:
                    self.longest_s = max(self.longest_s, now_s - self._black_since_s)
            time.sleep(0.004)


def memory_mb() -> float:
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def held() -> tuple[int, int, float]:
    return threading.active_count(), len(os.listdir("/proc/self/fd")), memory_mb()


def small(device: BenchDevice) -> BenchDevice:
    """The sheet's camera at two thirds: a thousand deaths last eight minutes as it is."""
    device.ask_size(Size(*device.offered[0]))
    return device


def main(deaths: int = DEATHS) -> dict[str, float]:
    settle()
    lesson = RunningLesson(CallCodec, CallVoice)
    device = small(DEVICES["document-camera"]())
    chain = Chain(mirror=MirrorLink(left_right=True), frame=FrameLink(zoom=1.5))
    roles: Any = {"page": "page"}
    lesson.open_source("page", device)
    open_with(lesson, FIRST_PLATES[1], roles, {"page": chain})
    lesson.hub.join(viewer("outgoing", 640, 30))
    watch, feed = Watch(lesson.desk), lesson.feeds.get("page")
    assert feed is not None
    _until(lambda: watch.mean > PAGE_ABOVE)
    early = held()
    lost_place, slowest_s = 0, 0.0
    for number in range(deaths):
        way = WAYS[number % len(WAYS)]
        device.provoke(way)
        time.sleep(DEAD_S[way])
        device.provoke(None)
        lesson.restart_feed("page")
        begun = time.monotonic()
        before = watch.pictures
        back = _until(lambda: feed.state(time.monotonic()) in ("live", "blurred") and watch.pictures > before + 1)  # noqa: B023
        slowest_s = max(slowest_s, time.monotonic() - begun)
        kept = lesson.setup.chains["page"] == chain and lesson.setup.roles["page"] == "page"
        lost_place += int(not (back and watch.mean > PAGE_ABOVE and kept))
        if number == SETTLED_AFTER:
            early = held()
    late = held()
    watch.stopped = True
    watch.thread.join()
    lesson.close()
    grown = np.subtract(late, early)
    return {
        "deaths": deaths,
        "black_s": round(watch.longest_s, 3),
        "lost_place": lost_place,
        "slowest_return_s": round(slowest_s, 2),
        "threads": int(grown[0]),
        "open_files": int(grown[1]),
        "memory_mb": round(float(grown[2]), 1),
        "pictures": watch.pictures,
    }


def _until(holds: Any) -> bool:
    until = time.monotonic() + BACK_WITHIN_S
    while not holds():
        if time.monotonic() > until:
            return False
        time.sleep(0.01)
    return True


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
