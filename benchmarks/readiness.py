"""Every fault of the bench's devices and microphones, alone and in pairs, against the check before a lesson, in the running demo."""

import json
import sys
import tempfile
import time
from itertools import combinations
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent.parent))  # found from anywhere

from cartouche.bench.microphones import CASES
from tests.helpers import Application

# which line has to tell it, and what that line may say
FAULTS: dict[str, tuple[str, str, dict[str, Any]]] = {
    **{f"page {fault}": ("page-live", "/api/kit/devices/desk-camera/fault", {"fault": fault})
       for fault in ("asleep", "black", "stuck", "pulled out", "half the frames", "two seconds late", "wrong lens")},
    **{f"face {fault}": ("face-live", "/api/kit/devices/face-camera/fault", {"fault": fault})
       for fault in ("asleep", "black", "stuck", "pulled out", "half the frames", "two seconds late")},
    "page out of focus": ("page", "/api/kit/devices/desk-camera/fault", {"fault": "out of focus"}),
    "page flipped": ("page", "/api/square-up/desk-camera/way-up", {"flip": True}),
    "page turned": ("page", "/api/square-up/desk-camera/way-up", {"quarters": 1}),
    **{f"microphone {case}": ("microphone", "/api/sound/bench/bench-lapel", {"case": case}) for case in CASES if case != "well"},
}  # fmt: skip
TELLS_WITHIN_S = 25.0
SETTLES_S = 2.0


def told(app: Application, line: str) -> bool:
    checks = {check["id"]: check for check in app.get("/api/ready")["checks"]}
    return checks.get(line, {}).get("verdict") in ("wrong", "look")


def well(app: Application) -> None:
    """Everything mended, and waited for until the check says so."""
    for device in ("desk-camera", "face-camera"):
        app.ask("PUT", f"/api/kit/devices/{device}/fault", {"fault": None})
    app.ask("PUT", "/api/sound/bench/bench-lapel", {"case": "well"})
    app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
    while app.get("/api/square-up/desk-camera")["can_undo"]:
        app.ask("POST", "/api/square-up/desk-camera/undo")
    until = time.monotonic() + 60
    while time.monotonic() < until and failing(app):
        time.sleep(0.2)


ALWAYS = {"way", "reads-1", "reads-2", "computer", "lips", "lesson"}  # the demo's grid and phone, and a lesson that does not go out yet


def failing(app: Application) -> list[str]:
    checks = app.get("/api/ready")["checks"]
    return [check["id"] for check in checks if check["verdict"] in ("wrong", "look") and check["id"] not in ALWAYS and not _is_print(check)]


def _is_print(check: dict[str, Any]) -> bool:
    """The demo's page is too small for two of its audiences: true, and there all the time."""
    return check["id"] == "page" and "does not read for" in check["says"]


def main(pairs: int = 12, healthy: int = 50) -> dict[str, Any]:
    with tempfile.TemporaryDirectory() as folder:
        app = Application(Path(folder)).start()
        try:
            well(app)
            found, seconds, missed = 0, [], []
            singles = [(name,) for name in FAULTS]
            every = list(combinations([name for name in FAULTS if not name.startswith("face")], 2))
            chosen = [pair for pair in every[:: max(1, len(every) // pairs)] if FAULTS[pair[0]][1] != FAULTS[pair[1]][1]]
            for names in [*singles, *chosen]:
                well(app)
                begun = time.monotonic()
                for name in names:
                    _, path, body = FAULTS[name]
                    app.ask("PUT", path, body)
                left = {name: FAULTS[name][0] for name in names}
                while left and time.monotonic() - begun < TELLS_WITHIN_S:
                    for name in [name for name, line in left.items() if told(app, line)]:
                        del left[name]
                        seconds.append(time.monotonic() - begun)
                    time.sleep(0.1)
                found += not left
                missed += [" and ".join(names)] if left else []
            well(app)
            alarms = []
            for _ in range(healthy):
                alarms += failing(app)
                time.sleep(SETTLES_S / 2)
        finally:
            app.stop()
    seconds.sort()
    return {
        "faults": len(singles),
        "pairs": len(chosen),
        "found": round(found / (len(singles) + len(chosen)), 3),
        "missed": missed,
        "false_alarms": len(alarms),
        "of_looks": healthy,
        "median_s": round(seconds[len(seconds) // 2], 1),
        "p95_s": round(seconds[int(0.95 * (len(seconds) - 1))], 1),
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
