"""Keeps one teacher's process running: it holds the listening socket, so that whoever asks while the process comes back waits a moment."""

import argparse
import contextlib
import signal
import socket
import subprocess
import sys
import time
from types import FrameType

from cartouche.ports import for_lines
from cartouche.school.place import place_of

MAX_DEATHS, WITHIN_S = 5, 60.0  # then it is left to the hub, which says so to the teacher
ENDS_WITHIN_S = 10.0


class _Child:
    def __init__(self) -> None:
        self.process: subprocess.Popen[bytes] | None = None
        self.over = False

    def end(self, *_: int | FrameType | None) -> None:
        self.over = True
        if self.process is not None:
            with contextlib.suppress(OSError):
                self.process.terminate()


def keep(options: argparse.Namespace) -> int:
    """Until it is told to end, or its process ended by itself, or died too often."""
    place, child, deaths = place_of(), _Child(), list[float]()
    for how in (signal.SIGTERM, signal.SIGINT):
        signal.signal(how, child.end)
    with for_lines(socket.socket) as listening:
        listening.bind((place.address, place.port))
        listening.listen(128)
        listening.set_inheritable(True)
        command = [sys.executable, "-m", "cartouche", "hub", "--data", options.data, "--fps", str(options.fps)]
        command += ["--line", str(listening.fileno())]
        while True:
            child.process = subprocess.Popen(command, stdin=subprocess.PIPE, pass_fds=[listening.fileno()])
            code = _waited(child)
            if child.over or code >= 0:
                return max(code, 0) if not child.over else 0
            deaths = [at for at in deaths if time.monotonic() - at < WITHIN_S] + [time.monotonic()]
            if len(deaths) >= MAX_DEATHS:
                return 1
            print(f"This teacher's process died (signal {-code}) and is started again.", file=sys.stderr, flush=True)


def _waited(child: _Child) -> int:
    assert child.process is not None
    while True:
        try:
            return child.process.wait(ENDS_WITHIN_S if child.over else 1.0)
        except subprocess.TimeoutExpired:
            if child.over:
                child.process.kill()
