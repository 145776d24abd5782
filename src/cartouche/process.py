"""How this process runs: set once, before its threads begin; the benchmarks that run the application in their own process set it too."""

import contextlib
import ctypes
import gc
import sys
import threading
import time
from collections.abc import Callable

import cv2

ARENA_MAX = -8  # M_ARENA_MAX of mallopt(3)
SWITCH_S = 0.0005  # so long, not ten times as long, a thread of pictures that comes back from OpenCV waits for the interpreter
LOOKS_EVERY_S = 1.0


def settle() -> None:
    """Repeatable."""
    _few_arenas()
    sys.setswitchinterval(SWITCH_S)
    cv2.setNumThreads(1)  # our own threads share the cores; OpenCV's would only delay the web's answers


def pass_over_what_is_loaded() -> None:
    """The collector looks through what comes later alone: through all that is loaded it holds every thread for a tenth of a second."""
    gc.collect()
    gc.freeze()


def pass_over_before_a_lesson(going_out: Callable[[], bool]) -> None:
    """Now, and once more as the first picture goes out: by then the screens have loaded the rest."""

    def once_it_goes_out() -> None:
        while not going_out():
            time.sleep(LOOKS_EVERY_S)
        pass_over_what_is_loaded()

    pass_over_what_is_loaded()
    threading.Thread(target=once_it_goes_out, name="collector", daemon=True).start()


def _few_arenas() -> None:
    """glibc gives each of our many threads a heap of its own that never shrinks: over a lesson they grew by a tenth."""
    if sys.platform == "linux":
        with contextlib.suppress(OSError, AttributeError):
            ctypes.CDLL(None).mallopt(ARENA_MAX, 2)
