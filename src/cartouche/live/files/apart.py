"""Foreign files are drawn in a process of their own: with a deadline, bounded memory, one at a time. What it cannot do is said.

Asked by a line of JSON, answered by a header, then planes or the error. A file that hangs or bursts it costs that process alone.
"""

import atexit
import json
import os
import struct
import subprocess
import sys
import threading
from pathlib import Path
from typing import Any

import numpy as np

import cartouche
from cartouche.core.pictures import Frame
from cartouche.live.files import errors
from cartouche.live.files.errors import TooComplicated, UnreadableFile
from cartouche.live.files.pages import PageFile, count_pages, page_frame

DEADLINE_S = 20.0
MAX_MEMORY = 2_000_000_000  # bytes of address space; a page of 50 million pixels takes a fifth
HEADER = struct.Struct("<BII")  # what follows; its height and width, or its length and nothing
PICTURE, NUMBER, FAULT = 1, 2, 3


class DrawingRoom:
    """May be asked from any thread; one file at a time. The process starts with the first."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None

    def count(self, path: Path, kind: str, name: str) -> int:
        """How many pages it has; the first is drawn once. Raises an UnreadableFile."""
        return int(self._ask({"do": "count", "path": str(path), "kind": kind, "name": name}, name))

    def draw(self, file: PageFile, page: int, name: str = "") -> Frame:
        """Raises an UnreadableFile."""
        asked = {"do": "draw", "path": str(file.path), "kind": file.kind, "pages": file.pages, "page": page, "name": name}
        made = self._ask(asked, name or file.path.name)
        assert isinstance(made, Frame)
        return made

    def interrupt(self) -> None:
        """At once, whatever it draws: who waits for it is told. The next one starts another."""
        self._end()

    def _end(self) -> None:
        process, self._process = self._process, None
        if process is not None:
            process.kill()
            for pipe in (process.stdin, process.stdout):
                if pipe is not None:
                    pipe.close()
            process.wait()

    def _ask(self, what: dict[str, Any], name: str) -> Any:
        with self._lock:
            if self._process is None or self._process.poll() is not None:
                self._end()
                self._process = _started()
            process = self._process
            late = threading.Timer(DEADLINE_S, process.kill)
            late.start()
            try:
                assert process.stdin is not None
                assert process.stdout is not None
                process.stdin.write(json.dumps(what).encode() + b"\n")
                process.stdin.flush()
                return _answer(process.stdout)
            except (EOFError, BrokenPipeError, ValueError) as exc:
                if isinstance(exc, UnreadableFile):
                    raise
                self._end()
                raise TooComplicated(name) from exc
            finally:
                late.cancel()


def _started() -> "subprocess.Popen[bytes]":
    frozen = bool(getattr(sys, "frozen", False))  # then the program itself is what can be started, and no Python
    command = [sys.executable, "draw"] if frozen else [sys.executable, "-m", "cartouche.live.files.apart"]
    found_by = os.pathsep.join(part for part in (str(Path(cartouche.__file__).parents[1]), os.environ.get("PYTHONPATH", "")) if part)
    environment = {**os.environ, "PYTHONPATH": found_by}  # the same program, however this one was found
    return subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=environment)


def _exactly(pipe: Any, count: int) -> bytes:
    content = bytes(pipe.read(count))
    if len(content) < count:
        raise EOFError
    return content


def _answer(pipe: Any) -> Any:
    kind, high, wide = HEADER.unpack(_exactly(pipe, HEADER.size))
    if kind == NUMBER:
        return high
    if kind == FAULT:
        told = json.loads(_exactly(pipe, high))
        fault = getattr(errors, told["fault"], UnreadableFile)
        raise fault(*told["args"])
    sizes = [(high, wide), (high // 2, wide // 2), (high // 2, wide // 2)]
    return Frame.of([np.frombuffer(_exactly(pipe, h * w), np.uint8).reshape(h, w).copy() for h, w in sizes], 0.0)


ROOM = DrawingRoom()
atexit.register(ROOM.interrupt)

# the process of its own


def _bound_memory() -> None:
    if sys.platform == "win32":  # a system without limits: the deadline is left
        return
    import resource

    resource.setrlimit(resource.RLIMIT_AS, (MAX_MEMORY, MAX_MEMORY))


def _do(asked: dict[str, Any]) -> list[bytes]:
    path = Path(asked["path"])
    if asked["do"] == "count":
        return [HEADER.pack(NUMBER, count_pages(path, asked["kind"], asked["name"]), 0)]
    frame = page_frame(PageFile(path, asked["kind"], asked["pages"]), asked["page"], asked["name"])
    high, wide = frame.y.shape
    return [HEADER.pack(PICTURE, high, wide), *(np.ascontiguousarray(plane).tobytes() for plane in frame.planes)]


def serve(given: Any, told: Any) -> None:
    """Until nobody asks any more."""
    _bound_memory()
    for line in given:
        asked = json.loads(line)
        try:
            parts = _do(asked)
        except UnreadableFile as exc:
            text = json.dumps({"fault": type(exc).__name__, "args": exc.args}).encode()
            parts = [HEADER.pack(FAULT, len(text), 0), text]
        except Exception as exc:  # a file can make a library raise anything
            fault = "TooComplicated" if isinstance(exc, MemoryError) else "UnreadableFile"
            why = "it is not there any more" if isinstance(exc, OSError) else "it is damaged"
            text = json.dumps({"fault": fault, "args": [asked["name"] or Path(asked["path"]).name, why]}).encode()
            parts = [HEADER.pack(FAULT, len(text), 0), text]
        for part in parts:
            told.write(part)
        told.flush()


if __name__ == "__main__":
    serve(sys.stdin.buffer, sys.stdout.buffer)
