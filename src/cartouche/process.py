"""How this process runs: set once, before its threads begin; the benchmarks that run the application in their own process set it too."""

import contextlib
import ctypes
import sys

import cv2

ARENA_MAX = -8  # M_ARENA_MAX of mallopt(3)
SWITCH_S = 0.0005  # so long, not ten times as long, a thread of pictures that comes back from OpenCV waits for the interpreter


def settle() -> None:
    """Repeatable."""
    _few_arenas()
    sys.setswitchinterval(SWITCH_S)
    cv2.setNumThreads(1)  # our own threads share the cores; OpenCV's would only delay the web's answers


def _few_arenas() -> None:
    """glibc gives each of our many threads a heap of its own that never shrinks: over a lesson they grew by a tenth."""
    if sys.platform == "linux":
        with contextlib.suppress(OSError, AttributeError):
            ctypes.CDLL(None).mallopt(ARENA_MAX, 2)
