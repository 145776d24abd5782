"""A lesson goes out while somebody attacks: each attack in turn, from a process of its own (nice 10: the network is not this computer).

For each: fps and longest gap of the outgoing picture, p99 of the teacher's `/api/live`, memory before, most and after, and how long a phone
that is known takes to be heard.  `benchmarks/hostile.py [SECONDS] [NAME...]`.
"""

import asyncio
import contextlib
import json
import multiprocessing
import os
import random
import socket
import sqlite3
import ssl
import sys
import tempfile
import threading
import time
import urllib.error
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

from aiortc import RTCPeerConnection
from websockets.sync.client import connect

from tests.helpers import Application, eventually
from tests.lines import SecureLine
from tests.live.files.test_apart import nested
from tests.live.test_camera_feed import UNITS, message
from tests.mutated import damaged
from tests.web.test_guests import Door, invite, trusting

QUIET_S = 6.0
ADDRESS = "127.0.0.1"  # here an attacker has as many addresses as he likes
REPORT = {"phase": "sending", "transport": "websocket"}


class Target(NamedTuple):
    """What an attacker knows. token: of a guest that was let in and turned."""

    address: str
    port: int
    door: str
    door_port: int
    token: str
    folder: str


Attack = Callable[[Target, float], None]


def _until(until_s: float) -> bool:
    return time.monotonic() < until_s


def _line(target: Target, who: str) -> socket.socket:
    line = socket.socket()
    line.bind((who, 0))
    line.settimeout(2.0)
    line.connect((target.door, target.door_port))
    return line


def bare_lines(target: Target, until_s: float) -> None:
    """1,500 lines that never speak TLS, from sixty addresses; those that are closed are opened again."""
    lines: list[socket.socket] = []
    while _until(until_s):
        with contextlib.suppress(OSError):
            lines.append(_line(target, f"127.0.1.{len(lines) % 60 + 1}"))
        if len(lines) > 1500:
            lines.pop(0).close()


def silent_tls(target: Target, until_s: float) -> None:
    """Lines that speak TLS and ask for nothing."""
    lines: list[ssl.SSLSocket] = []
    while _until(until_s):
        with contextlib.suppress(OSError):
            lines.append(trusting().wrap_socket(_line(target, f"127.0.2.{len(lines) % 20 + 1}")))
        if len(lines) > 200:
            lines.pop(0).close()


def wrong_codes(target: Target, until_s: float) -> None:
    door = Door(f"https://{target.door}:{target.door_port}")
    while _until(until_s):
        with contextlib.suppress(OSError, ValueError):
            door.ask("POST", "/api/guest/enter", {"code": f"{random.randrange(10**8):08}"})


def slow_bodies(target: Target, until_s: float) -> None:
    """Requests whose bodies come a byte at a time."""
    lines: list[ssl.SSLSocket] = []
    head = f"POST /api/guest/enter HTTP/1.1\r\nHost: {target.door}:{target.door_port}\r\n"
    head += "Content-Type: application/json\r\nContent-Length: 9999\r\n\r\n"
    while _until(until_s):
        with contextlib.suppress(OSError):
            if len(lines) < 60:
                lines.append(trusting().wrap_socket(_line(target, f"127.0.3.{len(lines) % 20 + 1}")))
                lines[-1].sendall(head.encode())
        for line in tuple(lines):
            try:
                line.sendall(b" ")
            except OSError:
                lines.remove(line)
        time.sleep(0.05)


def offers(target: Target, until_s: float) -> None:
    """WHIP by a guest: offers of 900 candidates, of 140 parts, and damaged ones, as fast as they are answered."""
    door, chance = Door(f"https://{target.door}:{target.door_port}"), random.Random(5)
    whole = asyncio.run(_offer())
    candidates = whole + "".join(f"a=candidate:{n} 1 udp 1 10.0.{n % 250}.7 {1024 + n} typ host\r\n" for n in range(900))
    parts = whole + "m=video 9 UDP/TLS/RTP/SAVPF 96\r\na=mid:9\r\na=sendonly\r\n" * 140
    while _until(until_s):
        for body in (candidates.encode(), parts.encode(), damaged(whole.encode(), chance), whole.encode()):
            with contextlib.suppress(OSError, ValueError):
                door.ask("POST", "/whip", body, target.token, **{"Content-Type": "application/sdp"})


async def _offer() -> str:
    sender = RTCPeerConnection()
    sender.addTransceiver("video", "sendonly")
    await sender.setLocalDescription(await sender.createOffer())
    made = sender.localDescription.sdp
    await sender.close()
    return str(made)


def damaged_streams(target: Target, until_s: float) -> None:
    """H.264 by a guest's socket, damaged, as fast as it goes."""
    chance = random.Random(7)
    while _until(until_s):
        with (
            contextlib.suppress(Exception),
            SecureLine(f"https://{target.door}:{target.door_port}/api/guest/pictures", trusting()) as line,
        ):
            line.send(target.token)
            while _until(until_s):
                for unit in (UNITS[0], *chance.sample(UNITS[1:], 3)):
                    line.send(damaged(message(unit), chance))
                time.sleep(0.01)


def udp_flood(target: Target, until_s: float) -> None:
    """STUN and RTP, damaged, at the ports that a WHIP session of our own has opened."""
    asyncio.run(_udp_flood(target, until_s))


async def _udp_flood(target: Target, until_s: float) -> None:
    door, chance = Door(f"https://{target.door}:{target.door_port}"), random.Random(9)
    status, answer = await asyncio.to_thread(
        door.ask, "POST", "/whip", (await _offer()).encode(), target.token, **{"Content-Type": "application/sdp"}
    )
    ports = [
        (parts[4], int(parts[5])) for line in answer.decode().splitlines() if line.startswith("a=candidate") for parts in [line.split()]
    ]
    assert status == 201, status
    sender = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    stun = bytes.fromhex("000100002112a442") + bytes(12)
    rtp = bytes.fromhex("8060000100000001000000aa") + bytes(900)
    while _until(until_s):
        for _ in range(200):
            with contextlib.suppress(OSError):
                sender.sendto(damaged(chance.choice((stun, rtp)), chance), chance.choice(ports))
        await asyncio.sleep(0.01)


def endless_files(target: Target, until_s: float) -> None:
    """PDFs that would be drawn for ever, one after the other, by the teacher's own upload."""
    app, path = _teacher(target), nested(Path(tempfile.mkdtemp()) / "endless.pdf")
    while _until(until_s):
        with contextlib.suppress(OSError, urllib.error.HTTPError):
            app.send("/api/kit/files?name=endless.pdf", path.read_bytes())


def locked_database(target: Target, until_s: float) -> None:
    with contextlib.closing(sqlite3.connect(Path(target.folder) / "cartouche.sqlite3", isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        time.sleep(max(0.0, until_s - time.monotonic()))
        other.execute("ROLLBACK")


def deleted_database(target: Target, until_s: float) -> None:
    while _until(until_s):
        for path in Path(target.folder).glob("cartouche.sqlite3*"):
            path.unlink(missing_ok=True)
        time.sleep(1.5)


def many_reports(target: Target, until_s: float) -> None:
    door = Door(f"https://{target.door}:{target.door_port}")
    while _until(until_s):
        with contextlib.suppress(OSError, ValueError):
            door.ask("POST", "/api/guest/report", {**REPORT, "done": random.randrange(9)}, target.token)


def _teacher(target: Target) -> Application:
    return Application(Path(target.folder), port=target.port)


def nothing(target: Target, until_s: float) -> None:
    """The lesson alone, to compare with."""
    time.sleep(max(0.0, until_s - time.monotonic()))


ATTACKS: dict[str, Attack] = {
    work.__name__: work
    for work in (
        nothing, bare_lines, silent_tls, wrong_codes, slow_bodies, offers, damaged_streams, udp_flood, many_reports,
        endless_files, locked_database, deleted_database,
    )
}  # fmt: skip


class Watch:
    """One viewer of the outgoing picture, and one who asks the teacher's page how things stand."""

    def __init__(self, app: Application) -> None:
        self._app, self.moments, self.answers, self.memory, self._over = app, list[float](), list[float](), list[int](), False
        self._threads = [threading.Thread(target=work) for work in (self._look, self._ask)]
        for thread in self._threads:
            thread.start()

    def _look(self) -> None:
        address = f"ws://127.0.0.1:{self._app.port}/api/surfaces/outgoing?width=640"
        with connect(address, origin=self._app.address, max_size=None) as line:  # type: ignore[arg-type]
            while not self._over:
                line.recv(timeout=30)
                line.send("drawn")
                self.moments.append(time.monotonic())

    def _ask(self) -> None:
        while not self._over:
            begun_s = time.monotonic()
            self._app.get("/api/live")
            self.answers.append(time.monotonic() - begun_s)
            self.memory.append(memory_mb(self._app))
            time.sleep(0.1)

    def over(self) -> None:
        self._over = True
        for thread in self._threads:
            thread.join()


def memory_mb(app: Application) -> int:
    assert app._process is not None
    for line in Path(f"/proc/{app._process.pid}/status").read_text().splitlines():
        if line.startswith("VmRSS"):
            return int(line.split()[1]) // 1024
    return 0


def attacked(app: Application, target: Target, known: str, attack: Attack, seconds: float) -> dict[str, Any]:
    before = memory_mb(app)
    attacker = multiprocessing.get_context("spawn").Process(target=_attack, args=(attack.__name__, target, seconds))
    watch = Watch(app)
    attacker.start()
    time.sleep(seconds / 2)
    begun_s = time.monotonic()
    eventually(lambda: _heard(target, known), 30.0)
    phone_s = time.monotonic() - begun_s
    attacker.join(seconds + 40)
    watch.over()
    time.sleep(QUIET_S)
    gaps = [b - a for a, b in zip(watch.moments, watch.moments[1:], strict=False)]
    answers = sorted(watch.answers)
    return {
        "fps": round(len(gaps) / sum(gaps), 1),
        "longest_gap_s": round(max(gaps), 2),
        "live_p99_ms": round(1000 * answers[int(0.99 * (len(answers) - 1))]),
        "memory_mb": [before, max(watch.memory), memory_mb(app)],
        "phone_s": round(phone_s, 2),
    }


def _heard(target: Target, token: str) -> bool:
    try:
        return Door(f"https://{target.door}:{target.door_port}").ask("POST", "/api/guest/report", REPORT, token)[0] == 200
    except OSError:
        return False


def _attack(name: str, target: Target, seconds: float) -> None:
    os.nice(10)
    ATTACKS[name](target, time.monotonic() + seconds)


def main(seconds: float = 20.0, names: tuple[str, ...] = ()) -> dict[str, Any]:
    found: dict[str, Any] = {}
    with tempfile.TemporaryDirectory() as folder:
        app = Application(Path(folder)).start()
        try:
            app.ask("PUT", "/api/teach/plate", {"plate_id": "page-and-face"})
            tokens = []
            for _ in range(2):
                invited = invite(app, address=ADDRESS)
                tokens.append(Door(invited["address"]).enter(invited["code"])[1]["token"])
            known, turned = tokens
            invited = invite(app, address=ADDRESS)  # the door stands open for one more
            target = Target(app.address, app.port, ADDRESS, int(invited["address"].rsplit(":", 1)[1]), turned, folder)
            app.picture("outgoing")
            for name in names or ATTACKS:
                found[name] = attacked(app, target, known, ATTACKS[name], seconds)
                print(name, found[name], file=sys.stderr, flush=True)
        finally:
            app.stop()
    return found


if __name__ == "__main__":
    print(json.dumps(main(float(sys.argv[1]) if len(sys.argv) > 1 else 20.0, tuple(sys.argv[2:]))))
