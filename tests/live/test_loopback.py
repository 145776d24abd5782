"""A camera device on Linux. The kernel's module cannot be had everywhere: a library that is preloaded answers in its place."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from cartouche.live.out.loopback import loopback_devices
from tests.helpers import ROOT

HERE = Path(__file__).parent
COMPILER = shutil.which("cc") or shutil.which("gcc")
pytestmark = pytest.mark.skipif(sys.platform != "linux", reason="camera devices of this kind are Linux's")
SIZE = 640 * 360


@pytest.fixture(scope="module")
def library(tmp_path_factory: pytest.TempPathFactory) -> Path:
    assert COMPILER, "the tests need a C compiler: ./run test installs it"
    path = tmp_path_factory.mktemp("stand-in") / "video_device.so"
    subprocess.run([COMPILER, "-shared", "-fPIC", "-o", str(path), str(HERE / "video_device.c"), "-ldl"], check=True)
    return path


def started(library: Path, folder: Path) -> subprocess.Popen[str]:
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src"), "LD_PRELOAD": str(library), "STAND_IN_DEVICES": str(folder)}
    command = [sys.executable, str(HERE / "loopback_run.py"), str(folder)]
    return subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env=environment)


def device(folder: Path, *marks: str) -> Path:
    path = folder / "video7"
    path.touch()
    for mark in marks:
        Path(f"{path}.{mark}").touch()
    return path


def said(running: subprocess.Popen[str]) -> str:
    """The next thing that it says."""
    assert running.stdout is not None
    return running.stdout.readline().strip()


def ended(running: subprocess.Popen[str]) -> list[str]:
    """What it says when its input ends."""
    out, _ = running.communicate(timeout=60)
    return out.split()


def test_a_picture_is_written_as_the_device_wants_it(library: Path, tmp_path: Path) -> None:
    path = device(tmp_path)
    running = started(library, tmp_path)
    assert [said(running), said(running)] == ["[('video7', 'Stand-in camera')]", "taken"]
    assert ended(running) == ["0"]
    written = np.fromfile(path, np.uint8)
    assert written.size == SIZE * 3 // 2
    assert set(written[:SIZE]) == {235}  # white in limited range
    assert set(written[SIZE : SIZE * 5 // 4]) == {128}
    assert set(written[SIZE * 5 // 4 :]) == {16}


def test_another_format_is_agreed_on(library: Path, tmp_path: Path) -> None:
    path = device(tmp_path, "yuyv")
    running = started(library, tmp_path)
    assert [said(running), said(running)][1] == "taken"
    ended(running)
    written = np.fromfile(path, np.uint8).reshape(-1, 4)
    assert written.size == SIZE * 2
    assert written[0].tolist() == [235, 128, 235, 16]
    assert (written == written[0]).all()


def test_a_busy_device_is_said_and_taken_once_it_is_free(library: Path, tmp_path: Path) -> None:
    path = device(tmp_path, "busy")
    running = started(library, tmp_path)
    said(running)
    assert said(running).startswith("Another program writes to this camera device.")
    Path(f"{path}.busy").unlink()
    assert said(running) == "taken"
    assert ended(running) == ["0"]


def test_an_unplugged_device_is_said_and_comes_back(library: Path, tmp_path: Path) -> None:
    path = device(tmp_path)
    running = started(library, tmp_path)
    said(running)
    assert said(running) == "taken"
    Path(f"{path}.gone").touch()
    assert said(running) == "This camera device is gone. Cartouche goes on when it is back."
    Path(f"{path}.gone").unlink()
    assert said(running) == "taken"
    assert ended(running) == ["0"]


def test_a_camera_that_takes_no_pictures_is_none_of_ours(library: Path, tmp_path: Path) -> None:
    device(tmp_path, "camera")
    assert ended(started(library, tmp_path)) == ["[]"]


def test_what_is_no_device_is_not_listed(tmp_path: Path) -> None:
    (tmp_path / "video0").write_text("no device")
    assert loopback_devices(tmp_path) == []
