"""A lesson of an hour at real speed with everything on, and what became of it.

On: page camera, a phone as the face, an open microphone, a call page that takes the extension's camera and microphone, Teach beside it,
ink, sheets, holds, closer looks, the timer, a recording in pieces of ten minutes. Once the phone's page is loaded again and once the
page's camera is pulled out. Told: pictures out older than 0.2 s apart from those moments and from what is held; memory, threads and
open files; what is kept. Where others take the processors is told, and where the machine stood still: nothing here can be quick then.
"""

import contextlib
import json
import os
import socket
import struct
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from itertools import groupby, pairwise
from pathlib import Path
from typing import Any, BinaryIO, NamedTuple

sys.path.insert(0, str(Path(__file__).parent.parent))  # found from anywhere

import av
import numpy as np
import psutil
from playwright.sync_api import Browser, Page, Playwright, sync_playwright
from websockets.client import ClientProtocol
from websockets.frames import Frame, Opcode
from websockets.sync.client import connect
from websockets.uri import parse_uri

from benchmarks.ten_minutes import memory_mb
from cartouche.live.hub import PICTURE_HEADER
from tests.helpers import Application, eventually
from tests.screens.conftest import CHROMIUM
from tests.screens.extended import Extended, extended
from tests.screens.player import FAKE_CAMERA
from tests.sessions import elsewhere

SETTLES_S, SAMPLED_S = 120.0, 10.0
OLD_S = 0.2
FPS = 12  # outgoing: both ends of the call, the phone and this program share two cores
RECOVERS_S = 8.0  # after a device was taken away its place fades to a card and back
PULLED_S = 10.0
LITTLE = 0.03  # share of the processors
AFTER_S = 3.0  # what is old so soon after something was done is counted to it
ELSEWHERE = 10  # the phone's browser is on another computer in truth: what it wants comes after the lesson
HELD_S = 10.0  # a page that is held is as old as that, on purpose
STROKE_POINTS = 40
BEAT_S, STOOD_S = 0.02, 0.05
ARRIVED = getattr(socket, "SO_TIMESTAMPNS", 35)  # the system notes when what is read arrived (socket(7))
TIMESPEC = struct.Struct("@qq")
SAME_S = 1e-4  # between two pictures of one moment of capture


class Outgoing:
    """Every outgoing picture, as it arrives at another computer: by the system's clock at the socket, whoever reads from it later."""

    def __init__(self, app: Application, file: Path) -> None:
        self._file = file
        self._process = subprocess.Popen([sys.executable, __file__, "watch", str(app.port), str(file)])
        self.seen: list[tuple[float, float]] = []  # when each came, how old it was
        self.read: list[float] = []  # how old each was when that process had its turn
        self.stood: list[tuple[float, float]] = []  # the machine stood still: until when, how long

    def end(self) -> None:
        self._process.terminate()
        self._process.wait(10)
        rows = np.fromfile(self._file).reshape(-1, 3).tolist()
        self.seen = [(at, age) for at, age, _ in rows if age >= 0]
        self.read = [read for _, age, read in rows if age >= 0]
        self.stood = [(at, -late) for at, late, _ in rows if late < 0]


def watch(port: int, file: Path) -> None:
    with contextlib.suppress(OSError):
        os.nice(-10)  # another computer's processors are its own
    with file.open("wb", buffering=0) as kept:
        threading.Thread(target=beat, args=(kept,), daemon=True).start()
        for arrived_s, picture in arrivals(port):
            _, captured_s, _, _ = PICTURE_HEADER.unpack_from(picture)
            kept.write(np.array([arrived_s, arrived_s - captured_s, time.monotonic() - captured_s]).tobytes())


def arrivals(port: int) -> Iterator[tuple[float, bytes]]:
    """When the last byte of each outgoing picture arrived here (monotonic), and its message."""
    protocol = ClientProtocol(parse_uri(f"ws://127.0.0.1:{port}/api/surfaces/outgoing?width=320"), origin=f"http://127.0.0.1:{port}")  # type: ignore[arg-type]
    with socket.create_connection(("127.0.0.1", port)) as line:
        line.setsockopt(socket.SOL_SOCKET, ARRIVED, 1)
        protocol.send_request(protocol.connect())
        while True:
            for asked in protocol.data_to_send():
                line.sendall(asked)
            data, told, _, _ = line.recvmsg(1 << 20, 64)
            if not data:
                return
            arrived_s = time.monotonic()
            for _, kind, value in told:
                if kind == ARRIVED:
                    seconds, nanoseconds = TIMESPEC.unpack(value)
                    arrived_s -= time.time() - seconds - nanoseconds / 1e9
            protocol.receive_data(data)
            for event in protocol.events_received():
                if isinstance(event, Frame) and event.opcode is Opcode.BINARY:
                    yield arrived_s, bytes(event.data)
                    protocol.send_text(b"drawn")


def beat(kept: BinaryIO) -> None:
    """What does nothing but wait, before all others, and wakes late: not even that ran then. Written down as less than nothing."""
    while True:
        due_s = time.monotonic() + BEAT_S
        time.sleep(BEAT_S)
        if (late_s := time.monotonic() - due_s) > STOOD_S:
            kept.write(np.array([due_s + late_s, -late_s, 0]).tobytes())


def used(pid: int) -> tuple[float, int, int]:
    """Memory in MB, threads, open files."""
    return memory_mb(pid), len(os.listdir(f"/proc/{pid}/task")), len(os.listdir(f"/proc/{pid}/fd"))


def stolen_s() -> float:
    """Processor time that this machine's host gave to others."""
    return float(getattr(psutil.cpu_times(), "steal", 0.0))


def stroke(app: Application, number: int) -> None:
    """One line across the page, as a pen writes it."""
    with connect(f"ws://127.0.0.1:{app.port}/api/teach/ink/hand", origin=app.address) as line:  # type: ignore[arg-type]
        at = {"x": 0.2, "y": 0.3 + 0.004 * (number % 100)}
        line.send(json.dumps({"do": "begin", "tool": "pen", "colour": "#A93226", "width": 0.8, "p": 1.0, "t": 0.0, **at}))
        for point in range(STROKE_POINTS):
            line.send(json.dumps({"do": "move", "points": [[at["x"] + 0.005 * point, at["y"], 1.0, point / 30]]}))
            time.sleep(1 / 30)
        line.send(json.dumps({"do": "end"}))


def act(app: Application, action: str, number: int | None = None) -> None:
    app.ask("POST", "/api/teach/actions", {"action": action, "number": number})


def phone_page(browser: Browser, app: Application) -> Page:
    invited = app.ask("POST", "/api/guests/invitation", {"name": "Phone", "serves": "face"})
    phone = browser.new_context(viewport={"width": 390, "height": 844}, ignore_https_errors=True, permissions=["camera"]).new_page()
    phone.goto(invited["link"])
    eventually(lambda: any(one["kind"] == "guest" and one["serves"] == "face" for one in app.get("/api/kit")["devices"]), 60)
    return phone


class Held(NamedTuple):
    """away: from when to when something was away or held.  samples: what the process used, every ten seconds.  done: what was done, when.

    stolen: up to when, the share of the processors that other guests of the machine took.  lowered: what was said to be done with
    less, every ten seconds.
    """

    away: list[tuple[float, float]]
    samples: list[tuple[float, int, int]]
    done: list[tuple[float, str]]
    stolen: list[tuple[float, float]]
    lowered: list[str | None]


def lesson(app: Application, phone: Page, minutes: float) -> Held:
    """What a teacher does, minute by minute."""
    away, samples, done, stolen, lowered = Held([], [], [], [], [])
    before = [time.monotonic(), stolen_s()]

    def without(do: Callable[[], object], lasts_s: float = RECOVERS_S) -> None:
        begun_s = time.monotonic() - 0.2
        do()
        away.append((begun_s, time.monotonic() + lasts_s))

    held_since: list[float] = []

    def hold() -> None:
        held_since.append(time.monotonic() - 0.2)
        act(app, "hold")

    def live() -> None:  # a little later where another doing took its time
        act(app, "live")
        away.append((held_since.pop(), time.monotonic() + 1))

    def pull(fault: str | None) -> None:
        without(lambda: app.ask("PUT", "/api/kit/devices/desk-camera/fault", {"fault": fault}), RECOVERS_S + (PULLED_S if fault else 0))

    def look() -> None:
        now = [time.monotonic(), stolen_s()]
        if len(stolen) % SAMPLED_S == 0:
            lowered.append(app.get("/api/live")["outgoing"]["lowered"])
        stolen.append((now[0], (now[1] - before[1]) / max(now[0] - before[0], 1e-3) / (os.cpu_count() or 1)))
        before[:] = now

    doings: list[tuple[str, float, float, Callable[[int], object]]] = [  # first at, then every so many seconds
        ("ink", 20, 20, lambda number: stroke(app, number)),
        ("plate", 30, 120, lambda number: act(app, "plate", 1 + number % 3)),
        ("sheet", 45, 300, lambda number: act(app, "sheet")),
        ("hold", 70, 240, lambda number: hold()),
        ("live", 70 + HELD_S, 240, lambda number: live()),
        ("zoom", 100, 120, lambda number: act(app, "closer" if number % 2 == 0 else "whole")),
        ("phone loaded again", 60 * minutes / 3, 1e9, lambda number: without(phone.reload)),
        ("camera pulled out", 60 * minutes * 2 / 3, 1e9, lambda number: pull("pulled out")),
        ("camera back", 60 * minutes * 2 / 3 + PULLED_S, 1e9, lambda number: pull(None)),
        ("nothing", 1, 1, lambda number: look()),
        ("nothing", SETTLES_S, SAMPLED_S, lambda number: samples.append(used(app.pid or 0))),
    ]
    begun, next_at, counts = time.monotonic(), [first for _, first, _, _ in doings], [0] * len(doings)
    while (now := time.monotonic() - begun) < 60 * minutes:
        for which, (name, _, every, do) in enumerate(doings):
            if now >= next_at[which]:
                done.append((time.monotonic(), name))
                do(counts[which])
                counts[which] += 1
                next_at[which] += every
        phone.wait_for_timeout(100)  # the browsers are listened to meanwhile
    return Held(away, samples, done, stolen, lowered)


def _held(playwright: Playwright, app: Application, ext: Extended, minutes: float, file: Path) -> tuple[Any, ...]:
    app.ask("PUT", "/api/after/plan", {"piece_minutes": 10})
    app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
    phones = elsewhere(lambda: playwright.chromium.launch(executable_path=CHROMIUM, headless=True, args=list(FAKE_CAMERA)), ELSEWHERE)
    ext.pair(app)
    call = ext.in_call(app, "codec=H264&kbit=2500", sound=True)
    call.bring_to_front()  # Teach lies behind it, where it draws nothing
    phone = phone_page(phones, app)
    act(app, "timer")
    act(app, "record")
    outgoing, begun = Outgoing(app, file), time.monotonic()
    held = lesson(app, phone, minutes)
    sound, takers = app.get("/api/sound"), app.get("/api/ways")["takers"]
    outgoing.end()
    act(app, "stop")
    phones.close()
    return outgoing, begun, held, sound, takers


def recording_of(app: Application) -> dict[str, Any]:
    return next(one for held in app.get("/api/after")["lessons"] for one in held["recordings"])


def films(app: Application) -> dict[str, Any]:
    """The recording as another library reads it."""
    held = app.get("/api/after")["lessons"]
    recording = recording_of(app)
    lengths, pictures = [], 0
    for path in sorted(Path(recording["folder"]).glob("*.mp4")):
        with av.open(str(path)) as container:
            lengths.append(round(float(container.duration or 0) / 1e6, 1))
            pictures += sum(1 for packet in container.demux(video=0) if packet.size)
    return {
        "recorded_s": round(recording["length_s"], 1),
        "pieces_s": lengths,
        "recorded_pictures": pictures,
        "recording_mb": round(recording["bytes"] / 1e6),
        "chapters": len(recording["chapters"]),
        "recording_is": recording["state"],
        "sheets": sum(len(lesson["sheets"]) for lesson in held),
    }


def _little(stolen: list[tuple[float, float]], at: float) -> bool:
    around = [share for until, share in stolen if at - 1 < until < at + 3]
    return bool(around) and max(around) <= LITTLE


def told(outgoing: Outgoing, held: Held, begun: float, minutes: float) -> dict[str, Any]:
    undisturbed = [
        (at, age)
        for at, age in outgoing.seen
        if SETTLES_S < at - begun < 60 * minutes and not any(first < at < last for first, last in held.away)
    ]
    ages = np.array([age for _, age in undisturbed])
    gaps = np.diff([at for at, _ in undisturbed])
    gaps = gaps[gaps < min(RECOVERS_S, HELD_S)]  # not those that were left out
    old = [at for at, age in undisturbed if age > OLD_S]
    quiet = [(at, age) for at, age in undisturbed if age > OLD_S and _little(held.stolen, at)]
    ours = [(at, age) for at, age in quiet if not any(until - late < at and until > at - age - 0.1 for until, late in outgoing.stood)]
    again = {at for (before, younger), (at, age) in pairwise(outgoing.seen) if abs((at - age) - (before - younger)) < SAME_S}

    def followed(at: float) -> str:
        return next((name for done_at, name in reversed(held.done) if 0 <= at - done_at < AFTER_S and name != "nothing"), "nothing")

    return {
        "minutes": minutes,
        "pictures": len(outgoing.seen),
        "pictures_a_second": round(len(undisturbed) / (60 * minutes - SETTLES_S), 1),
        "age_ms": [round(1000 * float(value)) for value in np.percentile(ages, [50, 95, 99.9])],
        "oldest_ms": round(1000 * float(ages.max())),
        "older_than_0.2_s": len(old),
        "of_them_after": dict(Counter(followed(at) for at in old).most_common()),
        "read_older_than_0.2_s": sum(age > OLD_S for age in outgoing.read),  # all, those of what was away too
        "stolen_share": round(float(np.mean([share for _, share in held.stolen])), 3),
        "of_them_while_little_was_stolen": len(quiet),
        "of_these_while_the_machine_ran": len(ours),
        "stood_still": [len(outgoing.stood), round(max((late for _, late in outgoing.stood), default=0.0), 2)],  # times, longest s
        "of_these_the_same_again": sum(at in again for at, _ in ours),  # no feed had anything newer
        "these": [(round(at - begun, 1), round(1000 * age), followed(at)) for at, age in ours[:60]],  # when, ms, what was done before
        "lowered": [(SAMPLED_S * sum(1 for _ in same), says) for says, same in groupby(held.lowered)],  # so long, what was said
        "longest_gap_s": round(float(gaps.max()), 2),
    }


def main(minutes: float = 60.0) -> dict[str, Any]:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        app = Application(Path(folder) / "data")
        app.more = ["--fps", str(FPS)]
        app.start()
        try:
            with extended(playwright, Path(folder) / "browser") as ext:
                outgoing, begun, held, sound, takers = _held(playwright, app, ext, minutes, Path(folder) / "outgoing")
            eventually(lambda: recording_of(app)["state"] == "whole", 120)
            kept = films(app)
        finally:
            app.stop()
    samples = held.samples
    first, last = samples[0], samples[-1]
    middle = [round(float(value)) for value in np.max(samples, axis=0)]
    return {
        **told(outgoing, held, begun, minutes),
        "memory_mb": [round(first[0]), round(last[0]), middle[0]],
        "memory_every_ten_minutes_mb": [round(sample[0]) for sample in samples[:: round(600 / SAMPLED_S)]],
        "threads": [first[1], last[1], middle[1]],
        "open_files": [first[2], last[2], middle[2]],
        "sound_skipped_blocks": sound["skipped_blocks"],
        "sound_lost_blocks": sum(one["lost_blocks"] for one in sound["microphones"]),
        "call": [{key: one[key] for key in ("fps", "delay_ms", "lips_ms") if key in one} for one in takers],
        **kept,
    }


if __name__ == "__main__":
    if sys.argv[1:2] == ["watch"]:
        watch(int(sys.argv[2]), Path(sys.argv[3]))
    else:
        print(json.dumps(main(float(sys.argv[1]) if len(sys.argv) > 1 else 60.0)))
