"""The package as somebody installs it who has Python and no Node: pages and face out, a doctor, data where the system keeps them."""

import json
import os
import subprocess
import sys
import sysconfig
import urllib.request
import venv
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from cartouche.doctor import Line, examine
from tests.helpers import ROOT, Application, free_port, started


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("wheel")
    command = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation", "--wheel-dir", str(folder), str(ROOT)]
    subprocess.run(command, check=True, capture_output=True, timeout=200)
    (made,) = folder.glob("cartouche-*.whl")
    return made


@pytest.fixture(scope="module")
def installed(wheel: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder of an environment with the package in it; what it depends on is lent from the tests' own."""
    folder = tmp_path_factory.mktemp("installed")
    venv.create(folder, with_pip=False)
    python = folder / "bin" / "python"
    command = [sys.executable, "-m", "pip", "--python", str(python), "install", "-q", "--no-deps", "--no-index", str(wheel)]
    subprocess.run(command, check=True, capture_output=True, timeout=200)
    (packages,) = folder.glob("lib/python*/site-packages")
    (packages / "lent.pth").write_text(f"{sysconfig.get_path('purelib')}\n")
    return folder


@pytest.fixture
def environment(tmp_path: Path) -> dict[str, str]:
    """Neither Node nor our sources can be found."""
    return {"PATH": "/usr/bin:/bin", "HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path / "share"), "LANG": "C.UTF-8"}


@pytest.fixture
def running(installed: Path, environment: dict[str, str]) -> Iterator[Application]:
    app = Application(Path(environment["XDG_DATA_HOME"]) / "Cartouche" / "demo", port=free_port())
    with started(installed / "bin" / "cartouche", app, environment) as running:
        yield running


def test_everything_that_it_needs_is_in_it(wheel: Path) -> None:
    with zipfile.ZipFile(wheel) as opened:
        names = opened.namelist()
        told = opened.read(next(name for name in names if name.endswith("METADATA"))).decode()
    for wanted in (
        "cartouche/web/static/index.html",
        "cartouche/web/static/guest.html",
        "cartouche/web/static/extension/manifest.json",
        "cartouche/store/migrations/0001_first.sql",
        "cartouche/models/print/eng.traineddata",
    ):
        assert wanted in names
    assert sum(name.startswith("cartouche/models/") and name.endswith(".onnx") for name in names) >= 4
    assert any(name.startswith("cartouche/fonts/") and name.endswith(".ttf") for name in names)
    assert not [name for name in names if name.startswith(("tests/", "frontend/", "benchmarks/")) or "__pycache__" in name]
    assert "Requires-Python: >=3.11" in told
    lines = (ROOT / "requirements" / "run.in").read_text().splitlines()
    listed = {line.split(";")[0].strip() for line in lines if not line.startswith("#")}
    assert {
        line.split()[1].split(";")[0].split(">")[0].split("<")[0]
        for line in told.splitlines()
        if line.startswith("Requires-Dist") and "extra" not in line
    } == listed


def test_installed_it_serves_page_and_face_without_node(running: Application) -> None:
    with urllib.request.urlopen(running.address) as page:
        assert b"<div id" in page.read()
    assert running.picture("outgoing").shape[0] > 300
    for surface in ("page:desk-camera", "raw:face-camera"):
        assert running.picture(surface).std() > 10, surface
    assert (running.folder / "cartouche.sqlite3").is_file(), "where this system keeps a program's data"


def test_the_doctor_says_what_this_computer_can_do(installed: Path, environment: dict[str, str]) -> None:
    command = [str(installed / "bin" / "cartouche"), "doctor", "--port", str(free_port())]
    told = subprocess.run(command, env=environment, cwd=environment["HOME"], capture_output=True, text=True, timeout=120)
    lines = told.stdout.splitlines()
    assert told.returncode == 0, told.stdout + told.stderr
    assert len(lines) == 11
    assert any(line.startswith("good  Codecs: H.264") for line in lines)
    assert not any("could not be told" in line for line in lines)


def by_name(lines: list[Line]) -> dict[str, Line]:
    return {line.what: line for line in lines}


def test_the_doctor_finds_a_taken_port_and_mends_a_damaged_database(tmp_path: Path) -> None:
    app = Application(tmp_path / "other", own=True).start()
    try:
        (tmp_path / "data").mkdir()
        (tmp_path / "data" / "cartouche.sqlite3").write_bytes(b"no database" * 200)
        found = by_name(examine(tmp_path / "data", app.port))
        assert found["Port"].good is False
        assert "stop the other program" in found["Port"].says
        assert found["Data folder"].good
        assert "was damaged" in found["Data folder"].says
    finally:
        app.stop()


def test_where_a_look_fails_it_is_said_and_is_not_good(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("shutil.disk_usage", lambda _: json.loads("no"))
    monkeypatch.setattr("shutil.which", lambda _: None)
    monkeypatch.setattr(os.path, "exists", lambda _: False)
    found = by_name(examine(tmp_path, free_port()))
    assert found["Disk"].good is None
    assert "could not be told" in found["Disk"].says
    assert found["Browser"].good is None
