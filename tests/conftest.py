import gc
import os
import sys
import threading
import traceback
from collections.abc import Iterator
from contextlib import suppress

import pytest
from hypothesis import HealthCheck, settings

from cartouche.bench.keep import keep_in
from tests.helpers import Application, eventually
from tests.sessions import shared_alike

settings.register_profile("busy", deadline=None, suppress_health_check=[HealthCheck.too_slow])  # how quick it is, is for benchmarks/
settings.load_profile("busy")


@pytest.fixture(scope="session", autouse=True)
def sessions_share_alike() -> Iterator[None]:
    with shared_alike():
        yield


@pytest.fixture(scope="session", autouse=True)
def loaded_and_drawn_once(tmp_path_factory: pytest.TempPathFactory) -> None:
    """The application, and the bench's desk, sheet and hand, for every application that is started here."""
    Application.forks = True
    base = tmp_path_factory.getbasetemp()
    Application.drawn = (base.parent if "PYTEST_XDIST_WORKER" in os.environ else base) / "drawn"
    Application.drawn.mkdir(exist_ok=True)
    keep_in(Application.drawn)


@pytest.fixture(scope="session", autouse=True)
def what_is_left_open_is_found_in_a_test() -> Iterator[None]:
    yield
    with suppress(AssertionError):
        eventually(lambda: not still_at_work(), 20)
    left = still_at_work()
    assert not left, "\n".join(left)
    gc.collect()  # found after the last test it would fail a run in which no test failed, and none could be run again


def still_at_work() -> list[str]:
    """Where our own threads are: one that still draws while the interpreter ends brings it down."""
    frames = sys._current_frames()
    ours = {thread.name: frames[thread.ident] for thread in threading.enumerate() if thread.daemon and thread.ident in frames}
    stacks = {name: "".join(traceback.format_stack(frame)) for name, frame in ours.items()}
    return [f"{name}: {stack}" for name, stack in stacks.items() if "/src/cartouche/" in stack]
