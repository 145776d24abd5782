"""Applications for tests, forked from a process that has loaded all of it: loading takes longer than many a test.

How the program itself starts and ends is for `test_cli`, `test_package` and `test_alone`.
"""

import gc
import multiprocessing
import os
import signal
import sys
from multiprocessing.connection import Connection

_context = multiprocessing.get_context("forkserver")
_context.set_forkserver_preload(["tests.forked_from"])


class Forked:
    """One of them, as a `subprocess.Popen` whose output is one text stream."""

    def __init__(self, arguments: list[str], environment: dict[str, str]) -> None:
        os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # read as it is loaded: no thread may run where it forks
        reads, writes = _context.Pipe(duplex=False)
        self._process = _context.Process(target=_run, args=(arguments, environment, writes), name="cartouche")
        self._process.start()
        writes.close()
        self.stdout = os.fdopen(os.dup(reads.fileno()), encoding="utf-8")
        reads.close()

    @property
    def pid(self) -> int:
        assert self._process.pid is not None
        return self._process.pid

    def send_signal(self, how: signal.Signals) -> None:
        if self._process.is_alive():
            os.kill(self.pid, how)

    def wait(self, timeout: float) -> int:
        self._process.join(timeout)
        if self._process.exitcode is None:
            raise TimeoutError(f"{self.pid} goes on")
        return self._process.exitcode


def _run(arguments: list[str], environment: dict[str, str], said: Connection) -> None:
    os.environ.clear()
    os.environ.update(environment)
    for number in (1, 2):
        os.dup2(said.fileno(), number)
    said.close()
    gc.freeze()  # what is loaded stays shared
    from cartouche.cli import main

    sys.exit(main(arguments))
