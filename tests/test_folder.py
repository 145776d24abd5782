"""The self-contained folder, built here and started where no Python can be found."""

import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests import samples
from tests.helpers import ROOT, Application, eventually, free_port, started


@pytest.fixture(scope="module")
def program(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("folder")
    command = [sys.executable, "-m", "PyInstaller", "--noconfirm", "--log-level", "ERROR", "--distpath", str(folder / "dist")]
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    subprocess.run(
        [*command, "--workpath", str(folder / "work"), str(ROOT / "packaging" / "cartouche.spec")],
        check=True, capture_output=True, timeout=700, env=environment,
    )  # fmt: skip
    return folder / "dist" / "cartouche" / "cartouche"


@pytest.fixture
def running(program: Path, tmp_path: Path) -> Iterator[Application]:
    environment = {"PATH": str(tmp_path), "HOME": str(tmp_path), "LANG": "C.UTF-8"}
    app = Application(tmp_path / "data", port=free_port())
    with started(program, app, environment, "--data", str(app.folder)) as running:
        yield running


@pytest.mark.timeout(900)
def test_page_and_face_go_out_a_file_is_drawn_and_a_lesson_recorded_without_python(running: Application, tmp_path: Path) -> None:
    for surface in ("outgoing", "page:desk-camera", "raw:face-camera"):
        assert running.picture(surface).std() > 10, surface
    device = running.send("/api/kit/files?name=three.pdf", samples.pdf(tmp_path / "three.pdf").read_bytes())
    assert running.picture(f"raw:{device['id']}").mean() > 100, "drawn by a process of its own"
    running.ask("POST", "/api/teach/actions", {"action": "record"})
    eventually(lambda: running.get("/api/teach/tools")["recording"]["bytes"] > 10_000)
    assert "Recorded as" in running.ask("POST", "/api/teach/actions", {"action": "stop"})["said"]
