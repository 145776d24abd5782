"""States found from pictures: the bench's faults, each on each device, and ten simulated minutes of healthy settings.

right: share of faults whose state is found, and found within 1.5 s.  notice_s: the slowest.  false_alarms: looks at healthy
pictures that said anything but live.
"""

import json
import sys
from collections.abc import Iterator
from dataclasses import dataclass, replace

import cv2
import numpy as np

from cartouche.bench.devices import CLIP_MIRROR, DEVICES, DOCUMENT_CAMERA, SLEEPS_AFTER_S, BenchDevice, Fault, sheet_view
from cartouche.core.kit.health import advice
from cartouche.core.pictures import Frame, Size
from cartouche.core.watch.signal import Arrivals, Signal, State

WANTED: dict[Fault, State] = {
    "asleep": "asleep",
    "asleep in ten seconds": "asleep",
    "black": "black",
    "stuck": "stuck",
    "out of focus": "blurred",
    "pulled out": "lost",
    "warming up": "starting",
    "half the frames": "live",
    "two seconds late": "live",
    "low battery": "live",
    "wrong lens": "live",
}
ADVISED: dict[Fault, str] = {"low battery": "Plug it in", "wrong lens": "Front lens in use"}  # live, and yet a sentence is due
LASTS_S: dict[Fault, float] = {"asleep in ten seconds": SLEEPS_AFTER_S}  # so long it still works
IN_TIME_S, HEALTHY_S = 1.5, 20.0  # thirty settings of twenty seconds are ten minutes
HD = Size(1280, 720)


@dataclass
class Watched:
    """One device under watch, on a clock of its own."""

    device: BenchDevice
    now_s: float = 0.0
    last_s: float | None = None
    connected: bool = True

    def __post_init__(self) -> None:
        self.signal, self.wanted_s = Signal(encoded=False), self.now_s

    def run(self, seconds: float) -> Iterator[tuple[float, State]]:
        """The state after each thirtieth of a second."""
        until = self.now_s + seconds
        while self.now_s < until:
            self.now_s += 1 / self.device.fps
            try:
                frame, self.connected = self.device.picture(self.now_s), True
            except ConnectionError:
                frame, self.connected = None, False
            if frame is not None:
                self.last_s = self.now_s
                self.signal.see(frame.y, self.now_s)
            yield self.now_s, self.signal.state(Arrivals(self.wanted_s, self.last_s, self.connected), self.now_s)


def notice_s(name: str, fault: Fault) -> float | None:
    """How long until the right state is said of a fault, and stays said; None if it is not."""
    watched = Watched(DEVICES[name]())
    for _ in watched.run(2.0):
        pass
    watched.device.provoke(fault)
    if fault == "warming up":  # switched on anew: whoever wants its pictures waits from now on
        watched.wanted_s, watched.last_s = watched.now_s, None
        watched.signal.forget()
    begun, wrong = watched.now_s, watched.now_s
    begun = wrong = begun + LASTS_S.get(fault, 0.0)
    for now_s, state in watched.run(4.0 + LASTS_S.get(fault, 0.0)):
        if state != WANTED[fault]:
            wrong = now_s
    told = advice(watched.device.battery, watched.device.facing, "page")
    if ADVISED.get(fault, "") not in (told.sentence if told else ""):
        return None
    return wrong - begun if wrong < watched.now_s - 0.5 else None


@dataclass
class Healthy:
    """A camera over the sheet in some light, with some noise, at some rate; the hand may rest."""

    brightness: float
    fps: float
    noise: float
    mirrored: bool

    def device(self) -> BenchDevice:
        camera = replace(CLIP_MIRROR if self.mirrored else DOCUMENT_CAMERA, size=HD, noise=self.noise)
        view = sheet_view(camera)
        dim = np.clip(np.arange(256) * self.brightness + 6, 0, 255).astype(np.uint8)

        class Dimmed:
            def picture(self, moment_s: float, captured_s: float) -> Frame:
                frame = view.picture(moment_s, captured_s)
                return Frame(cv2.LUT(frame.y, dim), frame.u, frame.v, captured_s)

        return BenchDevice(Dimmed, HD, fps=self.fps)


HEALTHY = [
    Healthy(brightness, fps, noise, mirrored)
    for brightness, fps in ((1.0, 30), (0.5, 30), (0.25, 15), (0.12, 10), (0.7, 6))
    for noise in (0.8, 2.0, 4.0)
    for mirrored in (False, True)
]


def false_alarms(setting: Healthy, seconds: float) -> int:
    return sum(state != "live" for _, state in Watched(setting.device()).run(seconds))


def main(seconds: float = HEALTHY_S) -> dict[str, float]:
    cv2.setNumThreads(1)
    times = [notice_s(name, fault) for name in DEVICES for fault in WANTED]
    found = [one for one in times if one is not None]
    return {
        "right": sum(one <= IN_TIME_S for one in found) / len(times),
        "notice_s": round(max(found), 2),
        "false_alarms": sum(false_alarms(setting, seconds) for setting in HEALTHY),
        "settings": len(HEALTHY),
        "simulated_s": len(HEALTHY) * seconds,
    }


if __name__ == "__main__":
    print(json.dumps(main(*(float(value) for value in sys.argv[1:]))))
