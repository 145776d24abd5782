"""Sound of this computer on the whole way: a real browser's fake microphone to the server; drift and loss over simulated hours; meters.

The browser plays one file; what the server has of it is compared by the sample count. Shares are of one core, by process time.
"""

import json
import os
import subprocess
import sys
import tempfile
import threading
import time
import wave
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))  # found from anywhere

import numpy as np
from playwright.sync_api import sync_playwright

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.microphones import CASES, microphone
from cartouche.cli import listen
from cartouche.core.sound.loudness import RATE, integrated_lufs
from cartouche.live.running import RunningLesson
from cartouche.live.sound.mixer import BLOCK
from cartouche.live.sound.track import Track
from cartouche.store.database import Database
from cartouche.web.server import server
from cartouche.web.state import AppState
from tests.helpers import Application, eventually
from tests.screens.conftest import CHROMIUM
from tests.screens.player import FAKE_CAMERA, write_sound

HOUR_S, TEN_MINUTES_S = 3600, 600
LOOKED_S = 20.0
GATED_LUFS = -69.0  # below its gate the standard gives no figure


def cpu_s(pids: list[int]) -> float:
    total = 0.0
    for pid in pids:
        try:
            fields = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()
        except OSError:
            continue
        total += (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")
    return total


def descendants(pid: int) -> list[int]:
    found = [pid]
    listed = subprocess.run(["ps", "-eo", "pid=,ppid="], capture_output=True, text=True, check=True).stdout
    pairs = [tuple(map(int, line.split())) for line in listed.splitlines()]
    for one in found:
        found += [child for child, parent in pairs if parent == one]
    return found


def in_a_browser(folder: Path) -> dict[str, float]:
    """One microphone open, another screen looked at: what it costs, and whether every sample came."""
    file = write_sound(folder / "voice.wav", microphone("well", 20.0, 3))
    app = Application(folder / "data", command="serve").start()
    with sync_playwright() as playwright:
        flags = [*FAKE_CAMERA, f"--use-file-for-fake-audio-capture={file}"]
        browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=True, args=flags)
        page = browser.new_context(base_url=app.address, permissions=["microphone"]).new_page()
        page.goto("/")
        time.sleep(3)
        pids = {"server": [app.pid or 0], "browser": [one for one in descendants(os.getpid()) if one not in (os.getpid(), app.pid)]}
        idle = {who: _over(5.0, known) for who, known in pids.items()}
        page.goto("/sound")
        page.get_by_role("button", name="Open this one").first.click()
        eventually(lambda: any(one["open"] for one in app.get("/api/sound")["microphones"]))
        page.get_by_role("link", name="Kit").click()
        time.sleep(2)
        pids["browser"] = [one for one in descendants(os.getpid()) if one not in (os.getpid(), app.pid)]
        busy = {who: _over(LOOKED_S / 2, known) for who, known in pids.items()}
        lost = max(one["lost_blocks"] for one in app.get("/api/sound")["microphones"])
        browser.close()
    app.stop()
    return {f"{who}_core": round(busy[who] - idle[who], 3) for who in pids} | {"browser_blocks_lost": lost}


def _over(seconds: float, pids: list[int]) -> float:
    before, began = cpu_s(pids), time.monotonic()
    time.sleep(seconds)
    return (cpu_s(pids) - before) / (time.monotonic() - began)


CLICKING = """
window.clicks = []
let into = null
navigator.mediaDevices.getUserMedia = async () => {
    if (into) return into.stream.clone()
    const context = new AudioContext({ sampleRate: 48000 })
    into = context.createMediaStreamDestination()
    setInterval(() => {
        const at = context.currentTime + 0.15
        const click = new OscillatorNode(context, { frequency: 2000 })
        click.connect(into)
        click.start(at)
        click.stop(at + 0.01)
        clicks.push(performance.timeOrigin + performance.now() + 1000 * (at - context.currentTime))
    }, 700)
    return into.stream.clone()
}
"""


def way(folder: Path) -> dict[str, float]:
    """From a click's moment on the browser's sound clock to the arrival of its block at the server, both of this computer."""
    arrived: list[float] = []
    running = RunningLesson(CallCodec, CallVoice)
    take = running.sound.microphones.take

    def watched(microphone_id: str, first: int, block: np.ndarray, now_s: float, sender: object = None) -> None:
        if np.abs(block).max() > 8000 and (not arrived or time.time() - arrived[-1] > 0.2):
            arrived.append(time.time())
        take(microphone_id, first, block, now_s, sender)

    running.sound.microphones.take = watched  # type: ignore[method-assign]
    with listen(0) as listening, sync_playwright() as playwright:
        serving = server(AppState(Database(folder), running, {}))
        thread = threading.Thread(target=serving.run, kwargs={"sockets": [listening]})
        thread.start()
        browser = playwright.chromium.launch(executable_path=CHROMIUM, headless=True, args=[*FAKE_CAMERA])
        page = browser.new_context(permissions=["microphone"]).new_page()
        page.add_init_script(CLICKING)
        page.goto(f"http://127.0.0.1:{listening.getsockname()[1]}/sound")
        page.get_by_role("button", name="Open this one").first.wait_for()
        time.sleep(LOOKED_S)
        made = [float(one) / 1000 for one in page.evaluate("clicks")]
        browser.close()
        serving.should_exit = True
        thread.join()
    late = np.array([min(at - one for one in made if at - one > -0.02) for at in arrived[5:] if any(at - one > -0.02 for one in made)])
    late = late[late < 0.5]
    return {"way_ms": round(1000 * float(np.median(late)), 1), "way_p95_ms": round(1000 * float(np.percentile(late, 95)), 1)}


def drift(ppm: float, seconds: int) -> dict[str, float]:
    """A device whose clock is off, over a network that is late by chance: how far a true moment is from where it is read."""
    random, track, rate = np.random.default_rng(1), Track(), RATE * (1 + 1e-6 * ppm)
    last = 0.0
    took = time.process_time()
    for number in range(int(seconds * RATE / BLOCK)):
        begins, ends = number * BLOCK / rate, (number + 1) * BLOCK / rate
        block = np.zeros(BLOCK, np.int16)
        if int(ends) > int(begins):
            block[min(BLOCK - 1, round((int(ends) - begins) * rate))] = 20000
            last = int(ends) - 1.0
        track.take(number * BLOCK, block, 100.0 + ends + random.exponential(0.006))
    took = time.process_time() - took
    heard = np.abs(track.read(100.0 + last - 0.1, int(0.2 * RATE)).astype(int))
    return {
        "ppm_off": round(abs(track.ppm - ppm), 1),
        "offset_ms": round(1000 * abs(int(np.argmax(heard)) / RATE - 0.1), 2),
        "lost": track.lost_blocks,
        "core": round(took / seconds, 4),
    }


def meters() -> float:
    """The largest difference to FFmpeg's ebur128, LU."""
    worst = 0.0
    for number, case in enumerate(CASES):
        samples = microphone(case, 8.0, number)
        if not samples.any():
            continue
        true = ebur128(samples)
        if true > GATED_LUFS:
            worst = max(worst, abs(integrated_lufs(samples) - true))
    return round(worst, 3)


def ebur128(samples: np.ndarray) -> float:
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        with wave.open(file.name, "wb") as out:
            out.setnchannels(1)
            out.setsampwidth(2)
            out.setframerate(RATE)
            out.writeframes(samples.tobytes())
        command = ["ffmpeg", "-hide_banner", "-nostats", "-i", file.name, "-af", "ebur128", "-f", "null", "-"]
        told = subprocess.run(command, capture_output=True, text=True, check=True).stderr
    line = next(line for line in reversed(told.splitlines()) if line.strip().startswith("I:"))
    return float(line.split()[1])


def main() -> dict[str, float]:
    told: dict[str, float] = {}
    for ppm in (-100.0, 100.0):
        found = drift(ppm, TEN_MINUTES_S)
        told |= {f"drift_{'fast' if ppm > 0 else 'slow'}_{name}": value for name, value in found.items() if name != "lost"}
    told["hour_blocks_lost"] = drift(30.0, HOUR_S)["lost"]
    told["meter_off_lu"] = meters()
    with tempfile.TemporaryDirectory() as folder:
        told |= in_a_browser(Path(folder))
    with tempfile.TemporaryDirectory() as folder:
        told |= way(Path(folder))
    return told


if __name__ == "__main__":
    print(json.dumps(main()))
