"""Keeps one teacher's process running: it holds the listening socket, so that whoever asks while the process comes back waits a moment.

On Linux all that a lesson needs is loaded here, once, and the process that does the work is forked from it: one that was killed
answers again in well under a second, and what is loaded is shared. Elsewhere it is started from nothing.
"""

import argparse
import contextlib
import gc
import os
import signal
import socket
import sys
import time
from collections.abc import Callable
from types import FrameType

import psutil

from cartouche.errors import SchoolMissing
from cartouche.ports import for_lines
from cartouche.school.place import place_of

MAX_DEATHS, WITHIN_S = 5, 60.0  # then it is left to the hub, which says so to the teacher
ENDS_WITHIN_S = 10.0
FORKS = sys.platform == "linux"  # what other systems load may have threads, which a fork would break


class _Child:
    def __init__(self) -> None:
        self.process: psutil.Process | None = None
        self.over = False

    def end(self, *_: int | FrameType | None) -> None:
        self.over = True
        if self.process is not None:
            with contextlib.suppress(psutil.Error):
                self.process.terminate()

    def wait(self) -> int:
        """Until it has ended: how, by the system's code."""
        assert self.process is not None
        while True:
            try:
                return int(self.process.wait(ENDS_WITHIN_S if self.over else 1.0) or 0)
            except psutil.TimeoutExpired:
                if self.over:
                    self.process.kill()


def keep(options: argparse.Namespace) -> int:
    """Until it is told to end, or its process ended by itself, or died too often.  Raises NotAtASchool, SchoolMissing."""
    place, child, deaths = place_of(), _Child(), list[float]()
    serve = _serve() if FORKS else None  # what another process does need not be loaded here
    for how in (signal.SIGTERM, signal.SIGINT):
        signal.signal(how, child.end)
    with for_lines(socket.socket) as listening:
        listening.bind((place.address, place.port))
        listening.listen(128)
        reads, writes = os.pipe()  # its writing end closes however this process ends
        while True:
            child.process = _forked(writes) if serve else _started(options, listening, reads)
            if serve and child.process is None:
                return serve(options, listening, reads)
            code = child.wait()
            if child.over or code >= 0:
                return max(code, 0) if not child.over else 0
            deaths = [at for at in deaths if time.monotonic() - at < WITHIN_S] + [time.monotonic()]
            if len(deaths) >= MAX_DEATHS:
                return 1
            print(f"This teacher's process died (signal {-code}) and is started again.", file=sys.stderr, flush=True)


def _serve() -> Callable[[argparse.Namespace, socket.socket, int], int]:
    """With all that a lesson needs.  Raises SchoolMissing."""
    try:
        from cartouche.school.lesson import serve
    except ModuleNotFoundError as exc:
        raise SchoolMissing from exc
    return serve


def _forked(writes: int) -> psutil.Process | None:
    """The process that works, or None within it."""
    if sys.platform != "linux":
        raise AssertionError("see FORKS")
    gc.freeze()  # what is loaded stays shared
    if pid := os.fork():
        return psutil.Process(pid)
    os.close(writes)
    for how in (signal.SIGTERM, signal.SIGINT):
        signal.signal(how, signal.SIG_DFL)
    return None


def _started(options: argparse.Namespace, listening: socket.socket, reads: int) -> psutil.Process:
    command = [sys.executable, "-m", "cartouche", "hub", "--data", options.data, "--fps", str(options.fps)]
    command += ["--line", str(listening.fileno()), "--keeper", str(reads)]
    return psutil.Popen(command, pass_fds=[listening.fileno(), reads])


def handed_on(options: argparse.Namespace) -> int:
    """The work of a process that was started from nothing."""
    return _serve()(options, socket.socket(fileno=options.line), options.keeper)
