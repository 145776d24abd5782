"""What several tests need: a running application in a process of its own, pictures from its sockets, measures between pictures."""

import asyncio
import json
import os
import signal
import socket
import struct
import subprocess
import sys
import threading
import time
import urllib.request
from collections.abc import Callable, Coroutine, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any, ClassVar, TextIO, TypeVar

import cv2
import numpy as np
from websockets.sync.client import connect

from tests.forked import Forked

ROOT = Path(__file__).resolve().parents[1]
SLOWEST_S = 45.0  # a shared machine: what comes at all counts, not how soon
FEW = ("--fps", "5", "--full")  # what is answered, said and done is the same, in less than half of the time
T = TypeVar("T")


def eventually(look: Callable[[], T], seconds: float = SLOWEST_S) -> T:
    """The first true value that look() gives; fails when none comes in time."""
    until, pause_s = time.monotonic() + seconds, 0.02
    while True:
        seen, missing = None, None
        try:
            seen = look()
        except (LookupError, StopIteration) as exc:  # what it looks into is not there yet
            missing = exc
        if seen or time.monotonic() > until:
            assert seen, f"did not come within {seconds} s: {look}, {missing!r}"
            return seen
        time.sleep(pause_s)
        pause_s = min(1.2 * pause_s, 0.15)  # what is long in coming is not asked for thirty times a second: each answer is work


def settled(look: Callable[[], T], still_s: float = 0.7, seconds: float = SLOWEST_S) -> T:
    """What look() gives once it has stayed the same for still_s: a drag or a press that is still on its way is waited for."""
    until = time.monotonic() + seconds
    value, since = look(), time.monotonic()
    while time.monotonic() - since < still_s:
        assert time.monotonic() < until, f"did not settle within {seconds} s: {look}"
        time.sleep(0.1)
        newer = look()
        if newer != value:
            value, since = newer, time.monotonic()
    return value


def ran(work: Coroutine[Any, Any, T]) -> T:
    """A coroutine on a loop of its own; this thread's may be running already, for the browser."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, work).result()


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Application:
    """`python -m cartouche demo` or `serve` on a port and a data folder, forked or as a program of its own."""

    forks: ClassVar[bool] = False  # tests do, see `forked`; what is measured is the program itself
    drawn: ClassVar[Path | None] = None  # where the bench keeps what it draws: all of a run need not draw it again

    def __init__(self, folder: Path, port: int | None = None, command: str = "demo", more: Sequence[str] = (), own: bool = False) -> None:
        self.folder, self.port, self.guest_port, self.command = folder, port or free_port(), 0, command
        self.more, self.own = list(more), own
        self.address = f"http://127.0.0.1:{self.port}"
        self._process: Forked | subprocess.Popen[str] | None = None

    def start(self) -> "Application":
        if self.drawn is not None and not (self.folder / "bench").exists():
            self.folder.mkdir(parents=True, exist_ok=True)
            (self.folder / "bench").symlink_to(self.drawn)
        arguments = [self.command, "--port", str(self.port), "--data", str(self.folder), "--guest-port", str(self.guest_port), *self.more]
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        if self.own or not self.forks:
            program = [sys.executable, "-m", "cartouche", *arguments]
            self._process = subprocess.Popen(program, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, env=environment)
        else:
            self._process = Forked(arguments, environment)
        said = self._process.stdout
        assert said is not None
        line = said.readline()
        assert "ready" in line, line + said.read()
        self._listener = threading.Thread(target=self._listen, args=(said,), daemon=True)
        self._listener.start()
        eventually(self._answers, SLOWEST_S)
        return self

    @staticmethod
    def _listen(said: TextIO) -> None:
        """What it writes is read on: a full pipe would stop it. Shown with a test that fails."""
        with said:
            for line in said:
                print(line, end="", file=sys.stderr)

    def _answers(self) -> bool:
        try:
            return bool(self.get("/api/live"))
        except OSError:  # nobody listens, or what listens is just beginning or ending
            return False

    @property
    def pid(self) -> int | None:
        return self._process.pid if self._process else None

    def kill(self) -> None:
        """As a power cut would."""
        self._end(signal.SIGKILL)

    def stop(self) -> None:
        self._end(signal.SIGTERM)

    def _end(self, how: signal.Signals) -> None:
        if self._process is not None:
            self._process.send_signal(how)
            self._process.wait(timeout=SLOWEST_S)
            self._listener.join()
            self._process = None

    def get(self, path: str) -> Any:
        return self.ask("GET", path)

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.address + path, data, {"Content-Type": "application/json"}, method=method)
        with urllib.request.urlopen(request, timeout=SLOWEST_S) as answer:
            text = answer.read()
        return json.loads(text) if text else None

    def send(self, path: str, content: bytes) -> Any:
        """A file as it is."""
        request = urllib.request.Request(self.address + path, content, {"Content-Type": "application/octet-stream"}, method="POST")
        with urllib.request.urlopen(request, timeout=SLOWEST_S) as answer:
            return json.loads(answer.read())

    def picture(self, key: str, width: int = 1280, seconds: float = SLOWEST_S) -> np.ndarray:
        """The next picture of a surface, (h, w, 3) BGR."""
        return self.pictures(key, 1, width, seconds)[0]

    def pictures(self, key: str, count: int, width: int = 1280, seconds: float = SLOWEST_S) -> list[np.ndarray]:
        address = f"ws://127.0.0.1:{self.port}/api/surfaces/{key}?width={width}"
        made = []
        with connect(address, origin=self.address, max_size=None) as line:  # type: ignore[arg-type]
            while len(made) < count:
                message = line.recv(timeout=seconds)
                line.send("drawn")
                assert isinstance(message, bytes)
                _, _, wide, high = struct.unpack_from("<IdHH", message)
                picture = cv2.imdecode(np.frombuffer(message, np.uint8, offset=16), cv2.IMREAD_COLOR)
                assert picture.shape == (high, wide, 3)
                made.append(picture)
        return made


@contextmanager
def started(program: Path, app: Application, environment: dict[str, str], *more: str) -> Iterator[Application]:
    """An installed program's demo, on the app's port, with this environment and no other."""
    command = [str(program), "demo", "--port", str(app.port), "--guest-port", "0", *more]
    process = subprocess.Popen(command, env=environment, cwd=environment["HOME"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        eventually(app._answers)
        yield app
    finally:
        process.terminate()
        process.wait(30)


def likeness(a: np.ndarray, b: np.ndarray) -> float:
    """Normalised cross-correlation of two grey pictures of one size, -1 to 1."""
    return float(cv2.matchTemplate(_grey(a), _grey(b), cv2.TM_CCOEFF_NORMED)[0, 0])


def _grey(picture: np.ndarray) -> np.ndarray:
    return picture if picture.ndim == 2 else cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY)
