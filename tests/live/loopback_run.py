"""Run with the stand-in device preloaded: gives a picture of one colour until its input ends, and prints what is said when it changes."""

import sys
import threading
import time
from pathlib import Path

import numpy as np

from cartouche.core.pictures import Frame
from cartouche.live.demand import Demand
from cartouche.live.out import loopback
from cartouche.live.out.loopback import LoopbackCamera, loopback_devices
from cartouche.live.out.takers import Takers
from cartouche.live.troubles import Troubles

SECONDS = 120.0  # at most


def main(folder: Path) -> None:
    loopback.AGAIN_S = 0.2
    devices = loopback_devices(folder)
    print([(Path(one.path).name, one.name) for one in devices], flush=True)
    if not devices:
        return
    takers = Takers(lambda: None)
    camera = LoopbackCamera(devices[0], Demand(), takers, Troubles())
    planes = (np.full((360, 640), 255, np.uint8), np.full((180, 320), 128, np.uint8), np.full((180, 320), 0, np.uint8))
    said, until, over = "", time.monotonic() + SECONDS, threading.Event()
    threading.Thread(target=lambda: (sys.stdin.read(), over.set()), daemon=True).start()
    while time.monotonic() < until and not over.is_set():
        now_s = time.monotonic()
        if camera.ready(now_s):
            camera.take(Frame.of(planes, now_s), now_s)
        facts = next(iter(takers.all()))
        now = facts.says or ("taken" if facts.size else "")
        if now and now != said:
            said = now
            print(said, flush=True)
        time.sleep(0.02)
    camera.stop()
    camera.stop()
    print(len(takers.all()), flush=True)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
