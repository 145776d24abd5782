"""One loop: an exception ends a turn, never the thread; stopping is for good and repeatable."""

import threading
import time

from cartouche.live.worker import Worker
from tests.helpers import eventually


def test_a_turn_that_fails_is_told_and_the_next_one_comes() -> None:
    turns, errors = [], []

    def turn() -> None:
        worker.wait(0.005)
        turns.append(1)
        if len(turns) % 2:
            raise ValueError(len(turns))

    worker = Worker("odd", turn, errors.append)
    worker.start()
    eventually(lambda: len(turns) > 20)
    worker.stop()
    assert len(errors) >= 10
    assert all(isinstance(error, ValueError) for error in errors)


def test_a_turn_that_fails_at_once_does_not_spin() -> None:
    errors: list[Exception] = []

    def turn() -> None:
        raise RuntimeError

    worker = Worker("spins", turn, errors.append)
    worker.start()
    time.sleep(0.3)
    worker.stop()
    assert 2 < len(errors) < 40


def test_whoever_waits_is_woken_by_a_change_and_by_the_end() -> None:
    ready, gone_on = threading.Event(), []

    def turn() -> None:
        gone_on.append(worker.wait(None, ready.is_set))
        ready.clear()

    worker = Worker("waits", turn, gone_on.append)  # type: ignore[arg-type]
    worker.start()
    worker.wake()  # woken with nothing changed: it goes on waiting
    time.sleep(0.05)
    assert gone_on == []
    ready.set()
    worker.wake()
    eventually(lambda: gone_on == [True])
    worker.stop()
    worker.stop()
    assert gone_on == [True, False]


def test_it_can_be_stopped_from_its_own_turn() -> None:
    worker = Worker("ends itself", lambda: worker.stop(), lambda _: None)
    worker.start()
    eventually(lambda: not any(thread.name == "ends itself" for thread in threading.enumerate()))
