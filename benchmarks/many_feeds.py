"""What connected feeds cost: 1 to 8 bench cameras connected, two of them on the plate that goes out.

One process, one round after the other, several times over. busy_N: share of one core that 30 pictures a second take with N feeds
connected (its bench cameras counted); desk_N: of that the desk's own thread.  growth_8: busy with 8 connected to busy with 2.
looked_8: all eight looked at as small pictures besides: what looking costs.  asked_idle: pictures asked of feeds that nobody looks at.
"""

import json
import math
import os
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES, settled
from cartouche.core.pictures import Frame
from cartouche.core.plates.model import Plate
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain
from cartouche.live.demand import Surface
from cartouche.live.hub import Viewer
from cartouche.live.running import RunningLesson
from cartouche.live.stage import Opened
from cartouche.process import settle

COUNTS = (1, 2, 4, 8)
SECONDS, SETTLE_S, ROUNDS = 2.5, 0.7, 3


class Camera:
    """Hands out two pictures in turn: costs nothing itself, so that what is measured is ours."""

    fps = 30.0

    def __init__(self, pictures: list[Frame]) -> None:
        self.pictures, self.asked = pictures, 0

    def picture(self, now_s: float) -> Frame:
        self.asked += 1
        return Frame.of(self.pictures[self.asked % 2].planes, now_s)


class _AtOnce:
    def call_soon_threadsafe(self, work: Callable[..., object], *values: object) -> None:
        work(*values)


class Drawn(Viewer):
    """Has always drawn what it got."""

    def offer(self, picture: bytes, captured_s: float = math.inf) -> None:
        super().offer(picture)
        self.take(time.monotonic())
        self.acknowledge()


def viewer(key: str, width: int, fps: float) -> Viewer:
    loop: Any = _AtOnce()
    surface = Surface.parse(key)
    assert surface is not None
    return Drawn(surface, width, fps, loop)


def open_with(lesson: RunningLesson, plate: Plate, roles: Any, chains: dict[str, Chain]) -> None:
    lesson.stage.reopen(Opened(plate, (plate,), roles, chains, {}))


def thread_s(name: str) -> float:
    """Processor seconds of our threads whose name begins so."""
    ids = [thread.native_id for thread in threading.enumerate() if thread.name.startswith(name)]
    ticks = 0
    for native in ids:
        fields = Path(f"/proc/self/task/{native}/stat").read_text().rpartition(")")[2].split()
        ticks += int(fields[11]) + int(fields[12])
    return ticks / os.sysconf("SC_CLK_TCK")


def measured(count: int, pictures: list[Frame], *, all_looked_at: bool = False) -> dict[str, float]:
    lesson = RunningLesson(CallCodec, CallVoice)
    cameras = [Camera(pictures) for _ in range(count)]
    for number, camera in enumerate(cameras):
        lesson.open_source(f"c{number}", camera)
    roles: Any = {"page": "c0", "face": f"c{min(1, count - 1)}"}
    open_with(lesson, FIRST_PLATES[0], roles, {"c0": Chain()})
    viewers = [viewer("outgoing", 1280, 30), *(viewer(f"raw:c{n}", 400, 12) for n in range(count) if all_looked_at)]
    for one in viewers:
        lesson.hub.join(one)
    time.sleep(SETTLE_S)
    asked = sum(camera.asked for camera in cameras[2:])
    before, desk, begun = time.process_time(), thread_s("desk"), time.monotonic()
    time.sleep(SECONDS)
    lasted = (time.monotonic() - begun) * lesson.desk.fps(time.monotonic()) / 30  # a machine that stalls makes fewer pictures
    found = {"busy": (time.process_time() - before) / lasted, "desk": (thread_s("desk") - desk) / lasted}
    found["asked"] = float(sum(camera.asked for camera in cameras[2:]) - asked)
    lesson.close()
    return found


def main(rounds: int = ROUNDS) -> dict[str, float]:
    settle()
    device = DEVICES["document-camera"]()
    pictures = [settled(device, moment) for moment in (2.0, 2.5)]
    runs = [{count: measured(count, pictures) for count in COUNTS} for _ in range(rounds)]
    looked = [measured(8, pictures, all_looked_at=True) for _ in range(rounds)]
    found: dict[str, float] = {}
    for count in COUNTS:
        found[f"busy_{count}_core"] = round(float(np.median([run[count]["busy"] for run in runs])), 3)
        found[f"desk_{count}_core"] = round(float(np.median([run[count]["desk"] for run in runs])), 3)
    found["growth_8_ratio"] = round(float(np.median([run[8]["busy"] / run[2]["busy"] for run in runs])), 3)
    found["looked_8_core"] = round(float(np.median([one["busy"] for one in looked])), 3)
    found["asked_idle_pictures"] = sum(run[count]["asked"] for run in runs for count in (4, 8))
    return found


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
