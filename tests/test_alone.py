"""Nothing is fetched from anywhere and nothing told to anybody: a lesson is held where no network is, and leaves nothing at home."""

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.alone import CANNOT
from tests.helpers import ROOT

ALONE = ["unshare", "--map-root-user", "--net"]


def can_be_alone() -> bool:
    return shutil.which("unshare") is not None and subprocess.run([*ALONE, "true"], capture_output=True).returncode == 0


@pytest.mark.skipif(not can_be_alone(), reason="this system gives no network of one's own")
def test_a_lesson_without_any_network(tmp_path: Path) -> None:
    home = tmp_path / "home"
    home.mkdir()
    environment = {**os.environ, "HOME": str(home), "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT}"}
    for name in [name for name in environment if name.startswith("XDG_")]:
        del environment[name]
    command = [*ALONE, sys.executable, "-m", "tests.alone", str(tmp_path / "data")]
    told = subprocess.run(command, env=environment, cwd=ROOT, capture_output=True, text=True, timeout=200)
    if told.returncode == CANNOT:
        pytest.skip("this system gives no network of one's own")
    assert told.returncode == 0, told.stdout + told.stderr
    seen = json.loads(told.stdout.splitlines()[-1])
    assert seen["devices"] == ["lo"]
    assert all(seen["seen"].values()), seen
    assert seen["kept"] == 1
    assert list(home.iterdir()) == [], "nothing is left at home"
