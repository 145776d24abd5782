from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from cartouche.bench import devices, keep
from cartouche.bench.devices import DOCUMENT_CAMERA, sheet_view
from cartouche.bench.keep import keep_in, kept


@pytest.fixture(autouse=True)
def folder(tmp_path: Path) -> Iterator[Path]:
    keep_in(tmp_path / "bench")
    yield tmp_path / "bench"
    keep_in(None)


def refuse() -> tuple[np.ndarray, ...]:
    raise AssertionError("drawn again")


def test_the_second_time_nothing_is_drawn() -> None:
    first = kept("dots", lambda: (np.arange(6), np.eye(2)))
    second = kept("dots", refuse)
    assert all(np.array_equal(a, b) for a, b in zip(first, second, strict=True))


def test_other_code_draws_anew_and_leaves_no_old_file(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    kept("dots", lambda: (np.arange(6),))
    monkeypatch.setattr(keep, "_code", lambda: "other")
    assert kept("dots", lambda: (np.arange(3),))[0].size == 3
    assert [file.name for file in folder.iterdir()] == ["dots-other.npz"]


@pytest.mark.parametrize("damage", [b"", b"not a picture", b"PK\x03\x04 cut off"])
def test_a_damaged_file_is_drawn_anew(folder: Path, damage: bytes) -> None:
    kept("dots", lambda: (np.arange(6),))
    next(folder.iterdir()).write_bytes(damage)
    assert kept("dots", lambda: (np.arange(3),))[0].size == 3
    assert kept("dots", refuse)[0].size == 3


def test_a_folder_that_cannot_be_written_is_no_hindrance() -> None:
    keep_in(Path("/proc/nowhere"))
    assert kept("dots", lambda: (np.arange(3),))[0].size == 3


def test_a_kept_scene_is_the_drawn_one(monkeypatch: pytest.MonkeyPatch) -> None:
    devices._still.cache_clear()
    drawn = sheet_view(DOCUMENT_CAMERA).picture(1.0, 0.0)
    devices._still.cache_clear()
    monkeypatch.setattr(devices, "photograph", refuse)
    again = sheet_view(DOCUMENT_CAMERA).picture(1.0, 0.0)
    assert all(np.array_equal(a, b) for a, b in zip(drawn.planes, again.planes, strict=True))
