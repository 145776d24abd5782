"""Accounts of a trial, the share of a disk, and who keeps a teacher's process running."""

import json
import stat
import subprocess
import sys
from pathlib import Path

import pytest

from cartouche import cli, disk
from cartouche.errors import SchoolMissing
from cartouche.school.accounts import FORGOTTEN_S, MAX_WRONG, Accounts
from cartouche.school.place import NotAtASchool


def test_an_account_opens_by_its_password_alone(tmp_path: Path) -> None:
    accounts = Accounts(tmp_path / "accounts.json")
    first, other = accounts.add("anna"), accounts.add("bert")
    assert first != other
    assert accounts.fits("anna", first)
    assert not accounts.fits("anna", other)
    assert not accounts.fits("carl", first)
    again = accounts.add("anna")
    assert not accounts.fits("anna", first)
    assert accounts.fits("anna", again)
    accounts.remove("anna")
    assert not accounts.fits("anna", again)
    assert accounts.names() == ["bert"]


def test_neither_passwords_nor_the_file_are_open(tmp_path: Path) -> None:
    path = tmp_path / "accounts.json"
    password = Accounts(path).add("anna")
    assert password not in path.read_text()
    assert set(json.loads(path.read_text())["anna"]) == {"salt", "hash"}
    assert stat.S_IMODE(path.stat().st_mode) == 0o600


@pytest.mark.parametrize("name", ["", "Anna", "../bert", "a b", "ann@a", "9a", "a" * 41, "a\n"])
def test_what_is_no_name_of_a_folder_is_no_account(tmp_path: Path, name: str) -> None:
    with pytest.raises(ValueError, match="no name"):
        Accounts(tmp_path / "accounts.json").add(name)


def test_who_guesses_has_to_wait(tmp_path: Path) -> None:
    accounts = Accounts(tmp_path / "accounts.json")
    password = accounts.add("anna")
    for _ in range(MAX_WRONG):
        assert not accounts.fits("anna", "guess", 100.0)
    assert not accounts.fits("anna", password, 100.0)
    assert accounts.fits("anna", password, 101.0 + FORGOTTEN_S)


def test_a_share_of_the_disk_is_all_there_is(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "film.mp4").write_bytes(b"x" * 700_000)
    monkeypatch.setattr(disk, "SHARE", disk.Share())
    before = disk.free_bytes(tmp_path)
    disk.SHARE.give(tmp_path, 1_000_000)
    assert disk.free_bytes(tmp_path) == 300_000 < before
    monkeypatch.setattr(disk, "SHARE", disk.Share())
    disk.SHARE.give(tmp_path, 500_000)
    assert disk.free_bytes(tmp_path) == 0


def test_the_command_for_a_school_says_where_it_belongs(tmp_path: Path) -> None:
    tried = subprocess.run([sys.executable, "-m", "cartouche", "hub", "--data", str(tmp_path)], capture_output=True, text=True, check=False)
    assert tried.returncode == 1
    assert str(NotAtASchool("JUPYTERHUB_USER")) in tried.stderr


def test_without_the_engine_it_is_said_what_to_install(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setitem(sys.modules, "jupyterhub.services.auth", None)
    monkeypatch.delitem(sys.modules, "cartouche.school.lesson", raising=False)
    for name in ("USER", "SERVICE_PREFIX", "SERVICE_URL", "API_TOKEN"):
        monkeypatch.setenv(f"JUPYTERHUB_{name}", "somewhere")
    assert cli.main(["hub", "--data", "anywhere"]) == 1
    assert str(SchoolMissing()) in capsys.readouterr().err
