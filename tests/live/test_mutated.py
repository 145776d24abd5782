"""Damage from outside, a short run of each kind by kept seeds. The long one: benchmarks/mutated.py."""

from pathlib import Path

from tests import mutated
from tests.helpers import ran

SEED = 1128


def test_damaged_streams_end_no_thread() -> None:
    assert mutated.streams(60, SEED)["shown"] > 20


def test_damaged_pictures(tmp_path: Path) -> None:
    told = mutated.pictures(300, SEED, tmp_path)
    assert set(told) <= {"taken", "other", "UnreadableFile", "TooManyPixels", "WrongKind"}
    assert told["taken"] > 30


def test_damaged_pdfs(tmp_path: Path) -> None:
    told = mutated.pdfs(60, SEED, tmp_path)
    assert told["taken"] > 10
    assert told["UnreadableFile"] > 1


def test_damaged_clips(tmp_path: Path) -> None:
    told = mutated.clips(80, SEED, tmp_path)
    assert told["taken"] > 10
    assert told["UnreadableFile"] > 1


def test_damaged_offers() -> None:
    assert ran(mutated.offers(40, SEED))["UnusableOffer"] > 5


def test_damaged_kits_plates_steps_timetables_and_ink(tmp_path: Path) -> None:
    assert sum(mutated.texts(500, SEED, tmp_path).values()) == 500
