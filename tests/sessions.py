"""How what a test starts shares the processors with what runs besides.

A system that shares by session (Linux, sched_autogroup) asks no single process how nice it is: one that only keeps a processor busy gets
as much as all tests together, if it has a session of its own, and so has every browser and every server of a school.
"""

import contextlib
import os
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TypeVar

import psutil

EVERY_S = 1.0
T = TypeVar("T")


def share(session: int | str = "self") -> int | None:
    """How nice a session is, as a process, -20 to 19; None where the system does not share so."""
    try:
        return int(Path(f"/proc/{session}/autogroup").read_text().split()[-1])
    except (OSError, ValueError, IndexError):
        return None


def weigh(processes: set[psutil.Process], nice: int) -> None:
    """The sessions that these lead get this share; below nought is for administrators."""
    for one in processes:
        with contextlib.suppress(psutil.Error, OSError):
            if os.getsid(one.pid) == one.pid:
                Path(f"/proc/{one.pid}/autogroup").write_text(str(nice))


def elsewhere(start: Callable[[], T], nice: int) -> T:
    """What start starts comes after all else here, as if it ran on another computer."""
    before = set(psutil.Process().children(recursive=True))
    value = start()
    begun = set(psutil.Process().children(recursive=True)) - before
    for one in begun:
        with contextlib.suppress(psutil.Error, OSError):
            one.nice(nice)
    weigh(begun, nice)
    return value


@contextlib.contextmanager
def shared_alike() -> Iterator[None]:
    """Sessions that begin meanwhile, by whatever is started here, get as much as the one that the tests run in."""
    ours, ended = share(), threading.Event()

    def look() -> None:
        while not ended.wait(EVERY_S):
            with contextlib.suppress(psutil.Error):
                begun = psutil.Process().children(recursive=True)
                weigh({one for one in begun if share(one.pid) == 0}, ours or 0)  # what was given another share keeps it

    looks = threading.Thread(target=look, daemon=True)
    if ours:
        looks.start()
    yield
    ended.set()
    if ours:
        looks.join()
