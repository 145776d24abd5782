"""One loop on a thread of its own: started once, stopped for good, ended by nothing else."""

import threading
from collections.abc import Callable

AFTER_ERROR_S = 0.02  # a turn that fails at once must not spin; a frame at 30 a second is not missed by it
JOIN_WITHIN_S = 5.0


class Worker:
    """Calls `turn` again and again. An exception ends that turn alone and is handed to `on_error`; `stop` ends the thread.

    A turn that has nothing to do calls `wait`; `wake` lets whoever waits look again.
    """

    def __init__(self, name: str, turn: Callable[[], None], on_error: Callable[[Exception], None]) -> None:
        self._turn, self._on_error = turn, on_error
        self._change = threading.Condition()
        self._stopping = False
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    def start(self) -> None:
        self._thread.start()

    @property
    def stopping(self) -> bool:
        return self._stopping

    def wake(self) -> None:
        with self._change:
            self._change.notify_all()

    def wait(self, seconds: float | None, until: Callable[[], bool] = lambda: False) -> bool:
        """Until `until` holds, the time has passed or it is stopped; whether to go on. Asked again at each `wake`."""
        with self._change:
            self._change.wait_for(lambda: self._stopping or until(), seconds)
            return not self._stopping

    def stop(self, within_s: float = JOIN_WITHIN_S) -> None:
        """Repeatable; from the worker's own thread too."""
        with self._change:
            self._stopping = True
            self._change.notify_all()
        if self._thread.is_alive() and self._thread is not threading.current_thread():
            self._thread.join(timeout=within_s)

    def _run(self) -> None:
        while not self._stopping:
            try:
                self._turn()
            except Exception as exc:  # nothing ends a lesson
                self._on_error(exc)
                self.wait(AFTER_ERROR_S)
