"""Who keeps a teacher's process running: one that is killed comes back, forked or started from nothing, and none is left behind."""

import os
import signal
import subprocess
import sys
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import psutil
import pytest

from tests.helpers import eventually, free_port

ANEW = """
import sys
import cartouche.school.keep as keep
keep.FORKS = False
from cartouche.cli import main
sys.exit(main(sys.argv[1:]))
"""


class Kept:
    """A keeper as the hub starts it, where no hub is."""

    def __init__(self, start: list[str], folder: Path) -> None:
        self.port = free_port()
        environment = {
            **os.environ,
            "JUPYTERHUB_USER": "anna",
            "JUPYTERHUB_SERVICE_PREFIX": "/user/anna/",
            "JUPYTERHUB_SERVICE_URL": f"http://127.0.0.1:{self.port}/user/anna/",
            "JUPYTERHUB_API_TOKEN": "a-token",
            "JUPYTERHUB_API_URL": "http://127.0.0.1:9/hub/api",
            "JUPYTERHUB_CLIENT_ID": "jupyterhub-user-anna",
        }
        self.process = subprocess.Popen([sys.executable, *start, "hub", "--data", str(folder)], env=environment)

    def worker(self) -> psutil.Process:
        return eventually(lambda: psutil.Process(self.process.pid).children())[0]

    def answers(self) -> bool:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/user/anna/api/live", timeout=45):
                return False  # nobody is let in without the hub
        except urllib.error.HTTPError as exc:
            return exc.code in (401, 403)
        except OSError:  # it does not listen yet, or died before it had answered
            return False


@pytest.fixture(params=["forked", "from nothing"])
def kept(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Kept]:
    if request.param == "forked" and sys.platform != "linux":
        pytest.skip("only Linux forks")
    keeper = Kept(["-m", "cartouche"] if request.param == "forked" else ["-c", ANEW], tmp_path / "data")
    eventually(keeper.answers)
    yield keeper
    keeper.process.kill()
    keeper.process.wait()


def test_a_killed_process_comes_back_and_all_end_with_the_keeper(kept: Kept) -> None:
    first = kept.worker()
    first.kill()
    eventually(kept.answers)
    second = kept.worker()
    assert second.pid != first.pid
    kept.process.terminate()
    assert kept.process.wait(30) == 0
    assert not second.is_running()


def test_a_keeper_that_is_killed_leaves_nobody_behind(kept: Kept) -> None:
    worker = kept.worker()
    kept.process.send_signal(signal.SIGKILL)
    kept.process.wait()
    eventually(lambda: not worker.is_running() or worker.status() == psutil.STATUS_ZOMBIE)


def test_five_deaths_in_a_minute_are_left_to_the_hub(kept: Kept) -> None:
    def killed(before: int) -> int:
        worker = next((one for one in psutil.Process(kept.process.pid).children() if one.pid != before), None)
        if worker is not None:
            worker.kill()
        return worker.pid if worker is not None else 0

    pid = 0
    for _ in range(5):
        pid = eventually(lambda before=pid: killed(before))  # type: ignore[misc]
    assert kept.process.wait(30) == 1
