"""Ten minutes of picture and sound together: the demo going out into the practice call with a microphone open, and a browser that looks.

Told: blocks that the mixer skipped and the microphone lost, the longest gap between pictures, memory at the start and at the end.
"""

import json
import os
import sys
import tempfile
import threading
import time
from collections import Counter
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent.parent))  # found from anywhere

from playwright.sync_api import sync_playwright
from websockets.sync.client import connect

from tests.helpers import Application, eventually
from tests.screens.conftest import CHROMIUM

SETTLES_S = 60.0
ASK_EVERY_S = 2.0


def memory_mb(pid: int) -> float:
    pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def main(minutes: float = 10.0) -> dict[str, Any]:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        app = Application(Path(folder)).start()
        app.ask("POST", "/api/teach/call/start")
        app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
        browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=True)
        sound, teach = browser.new_page(), browser.new_page()
        sound.goto(f"{app.address}/sound")
        teach.goto(f"{app.address}/teach")
        eventually(lambda: app.get("/api/sound")["learners"], 30)
        time.sleep(SETTLES_S)
        before = app.get("/api/sound")
        first_mb = memory_mb(app.pid or 0)
        gaps: list[float] = []
        watching = threading.Thread(target=lambda: gaps.extend(_gaps(app, 60 * minutes - SETTLES_S)))
        watching.start()
        heard: Counter[str] = Counter()
        while watching.is_alive():
            watching.join(ASK_EVERY_S)
            heard[_heard(app.get("/api/sound"))] += 1
        after, last_mb = app.get("/api/sound"), memory_mb(app.pid or 0)
        browser.close()
        app.stop()
    return {
        "minutes": minutes,
        "sound_skipped_blocks": after["skipped_blocks"] - before["skipped_blocks"],
        "sound_lost_blocks": _lost(after) - _lost(before),
        "pictures_a_second": round(len(gaps) / (60 * minutes - SETTLES_S), 1),
        "longest_gap_s": round(max(gaps), 2),
        "memory_first_mb": round(first_mb),
        "memory_last_mb": round(last_mb),
        "heard_once": round(heard["once"] / heard.total(), 3),
        "heard": dict(heard),
    }


def _heard(view: dict[str, Any]) -> str:
    return str(view["learners"]["kind"]) if view["learners"] else "none"


def _lost(view: dict[str, Any]) -> int:
    return sum(one["lost_blocks"] for one in view["microphones"])


def _gaps(app: Application, seconds: float) -> list[float]:
    """Between one outgoing picture and the next."""
    found, until = [], time.monotonic() + seconds
    address = f"ws://127.0.0.1:{app.port}/api/surfaces/outgoing?width=320"
    with connect(address, origin=app.address, max_size=None) as socket:  # type: ignore[arg-type]
        last = time.monotonic()
        while time.monotonic() < until:
            message = socket.recv()
            if isinstance(message, bytes):
                now = time.monotonic()
                found.append(now - last)
                last = now
                socket.send("drawn")
    return found


if __name__ == "__main__":
    print(json.dumps(main(float(sys.argv[1]) if len(sys.argv) > 1 else 10.0)))
