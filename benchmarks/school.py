"""A school's server on this machine: 1, 2 and 4 teachers at once, each with a recorded camera played in and the outgoing picture taken.

For each number: pictures out a second, cores and memory of one teacher's process, megabits a second of one teacher (camera in, outgoing
picture out), and how much later a picture comes by the proxy than straight from the process. Then one that nobody looks at.
"""

import json
import statistics
import sys
import tempfile
import threading
import time
import urllib.request
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

sys.path.insert(0, str(Path(__file__).parent.parent))  # found from anywhere

import psutil
from websockets.sync.client import connect

from cartouche.live.hub import PICTURE_HEADER
from tests.live.test_camera_feed import access_units, message
from tests.school.server import School

FPS, SECONDS, SETTLES_S = 30, 20.0, 6.0
TEACHERS = (1, 2, 4)


class Teacher:
    """A browser's traffic without a browser."""

    def __init__(self, school: School, name: str, units: list[bytes]) -> None:
        self.school, self.name, self.units = school, name, units
        self.cookie = school.cookies(name)
        self.sent = self.taken = self.pictures = 0
        self.ages: dict[str, list[float]] = {"proxy": [], "straight": []}
        self.over = threading.Event()
        process = school.lesson_process(name)
        assert process is not None
        self.process: psutil.Process = process
        self.straight = next(f"http://{one.laddr.ip}:{one.laddr.port}" for one in process.net_connections() if one.status == "LISTEN")
        body = {"source": "recorded", "name": "Recorded", "rig": "shelf", "serves": "page"}
        self.camera = str(self.ask("POST", "/api/kit/devices", body)["id"])

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        headers = {"Content-Type": "application/json", "Cookie": self.cookie}
        request = urllib.request.Request(f"{self.school.address}/user/{self.name}{path}", json.dumps(body).encode(), headers, method=method)
        with urllib.request.urlopen(request, timeout=60) as answer:
            return json.loads(answer.read())

    def line(self, origin: str, path: str) -> Any:
        address = f"ws://{urlsplit(origin).netloc}/user/{self.name}{path}"
        return connect(address, origin=origin, additional_headers={"Cookie": self.cookie}, max_size=None)  # type: ignore[arg-type]

    def send(self) -> None:
        with self.line(self.school.address, f"/api/cameras/{self.camera}") as line:
            due, number = time.monotonic(), 0
            while not self.over.is_set():
                unit = self.units[number % len(self.units)]
                line.send(unit)
                self.sent += len(unit)
                number, due = number + 1, due + 1 / FPS
                time.sleep(max(0.0, due - time.monotonic()))

    def take(self, way: str) -> None:
        with self.line(self.school.address if way == "proxy" else self.straight, "/api/surfaces/outgoing?width=1280") as line:
            while not self.over.is_set():
                picture = line.recv()
                if isinstance(picture, bytes):
                    _, captured_s, _, _ = PICTURE_HEADER.unpack_from(picture)
                    self.ages[way].append(time.monotonic() - captured_s)
                    line.send("drawn")
                    if way == "proxy":
                        self.taken += len(picture)
                        self.pictures += 1

    def used_s(self) -> float:
        times = self.process.cpu_times()
        return float(times.user + times.system)


def at_work(school: School, count: int, units: list[bytes]) -> dict[str, float]:
    teachers = [Teacher(school, f"teacher-{number}", units) for number in range(count)]
    works = [(teacher.send, ()) for teacher in teachers] + [(teacher.take, (way,)) for teacher in teachers for way in teacher.ages]
    threads = [threading.Thread(target=work, args=values, daemon=True) for work, values in works]
    for thread in threads:
        thread.start()
    time.sleep(SETTLES_S)
    for teacher in teachers:
        teacher.sent = teacher.taken = teacher.pictures = 0
        for ages in teacher.ages.values():
            ages.clear()
    before, begun = [teacher.used_s() for teacher in teachers], time.monotonic()
    time.sleep(SECONDS)
    took = time.monotonic() - begun
    cores = [(teacher.used_s() - used) / took for teacher, used in zip(teachers, before, strict=True)]
    memory = [teacher.process.memory_info().rss / 1e6 for teacher in teachers]
    fps = [teacher.pictures / took for teacher in teachers]
    mbit = [8 * (teacher.sent + teacher.taken) / took / 1e6 for teacher in teachers]
    by = {way: statistics.median(age for teacher in teachers for age in teacher.ages[way]) for way in ("proxy", "straight")}
    for teacher in teachers:
        teacher.over.set()
    for thread in threads:
        thread.join(20)
    return {
        "fps": round(min(fps), 1),
        "core_per_teacher": round(statistics.mean(cores), 2),
        "mb_per_teacher": round(statistics.mean(memory)),
        "mbit_s_per_teacher": round(statistics.mean(mbit), 1),
        "delay_ms": round(1000 * by["proxy"]),
        "added_delay_ms": round(1000 * (by["proxy"] - by["straight"]), 1),
    }


def main() -> dict[str, Any]:
    units = [message(unit) for unit in access_units(60)]
    found: dict[str, Any] = {}
    with tempfile.TemporaryDirectory() as folder:
        school = School(Path(folder) / "data", fps=FPS)
        school.teacher("teacher-0")
        school.start()
        try:
            for count in TEACHERS:
                found[f"teachers_{count}"] = at_work(school, count, units)
                print(count, found[f"teachers_{count}"], file=sys.stderr, flush=True)
            idle = school.lesson_process("teacher-0")
            assert idle is not None
            time.sleep(SETTLES_S)
            before = sum(idle.cpu_times()[:2])
            time.sleep(SECONDS)
            found["idle_core"] = round((sum(idle.cpu_times()[:2]) - before) / SECONDS, 3)
        finally:
            school.stop()
    return found


if __name__ == "__main__":
    print(json.dumps(main()))
