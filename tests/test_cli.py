"""Starting: one clear sentence for each thing that stands in the way."""

import os
import socket
import subprocess
import sys
from pathlib import Path

import pytest

from cartouche import cli
from tests.helpers import ROOT, Application, eventually

ENVIRONMENT = {**os.environ, "PYTHONPATH": str(ROOT / "src")}


def start(*arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-m", "cartouche", *arguments], capture_output=True, text=True, timeout=60, env=ENVIRONMENT)


def one_sentence(result: subprocess.CompletedProcess[str]) -> str:
    assert result.returncode == 1
    assert len(result.stderr.strip().splitlines()) == 1, result.stderr
    return result.stderr


def test_a_port_that_is_taken(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        said = one_sentence(start("demo", "--port", str(port), "--data", str(tmp_path)))
    assert f"Port {port} is taken" in said
    assert f"--port {port + 1}" in said


def test_a_port_that_does_not_exist(tmp_path: Path) -> None:
    assert "between 1 and 65535" in one_sentence(start("demo", "--port", "70000", "--data", str(tmp_path)))


def test_a_data_folder_that_cannot_be_used(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("in the way")
    assert "cannot write to its data folder" in one_sentence(start("demo", "--port", "0", "--data", str(tmp_path / "file" / "data")))


def test_pages_that_are_not_built(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setattr("cartouche.web.app.STATIC", tmp_path)
    assert cli.main(["demo", "--port", "0", "--data", str(tmp_path)]) == 1
    assert "./run demo" in capsys.readouterr().err


def test_a_wrong_python(tmp_path: Path) -> None:
    """The set-up command, with nothing on the path but a Python that is none of 3.11."""
    for tool in ("bash", "dirname", "env"):
        found = subprocess.run(["which", tool], capture_output=True, text=True, check=True).stdout.strip()
        (tmp_path / tool).symlink_to(found)
    for name in ("python3", "python3.11"):
        (tmp_path / name).write_text("#!/bin/sh\nexit 1\n")
        (tmp_path / name).chmod(0o755)
    (tmp_path / "mkdir").symlink_to("/bin/mkdir")
    copy = tmp_path / "copy"
    copy.mkdir()
    (copy / "run").write_bytes((ROOT / "run").read_bytes())
    (copy / "run").chmod(0o755)
    result = subprocess.run([str(copy / "run"), "demo"], capture_output=True, text=True, timeout=60, env={"PATH": str(tmp_path)})
    assert result.returncode == 1
    assert "Cartouche needs Python 3.11" in result.stderr


def test_an_unknown_word_lists_the_known_ones() -> None:
    result = subprocess.run([str(ROOT / "run"), "lecture"], capture_output=True, text=True, timeout=60)
    assert result.returncode == 1
    assert "./run demo" in result.stderr


def test_it_stops_when_asked_and_lets_go_of_its_port(tmp_path: Path) -> None:
    app = Application(tmp_path, own=True)
    for _ in range(2):
        app.start()
        app.stop()


def test_half_a_request_does_not_keep_it_from_stopping(tmp_path: Path, capfd: pytest.CaptureFixture[str]) -> None:
    application = Application(tmp_path / "data", command="serve", own=True).start()
    half = "POST /api/lessons HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: 1000\r\n\r\n{"
    with socket.create_connection(("127.0.0.1", application.port)) as line:
        line.sendall(half.encode())
        eventually(lambda: application.get("/api/live"))  # asked after it, so it has come
        application.stop()
    assert "Traceback" not in capfd.readouterr().err


def test_the_set_up_card_is_written_to_print(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    target = tmp_path / "card.pdf"
    assert cli.main(["card", "--paper", "Letter", "--out", str(target)]) == 0
    assert target.read_bytes().startswith(b"%PDF")
    assert "100 %" in capsys.readouterr().out
    assert cli.main(["card", "--out", str(tmp_path / "nowhere" / "card.pdf")]) == 1
    assert "--out" in capsys.readouterr().err


@pytest.mark.parametrize("fps", ["4", "61", "nan", "many"])
def test_so_many_pictures_a_second_cannot_go_out(fps: str, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit):
        cli.main(["serve", "--fps", fps])
    assert f"{fps} is no number of pictures from 5 to 60" in capsys.readouterr().err
