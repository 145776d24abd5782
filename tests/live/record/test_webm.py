"""The copy in WebM: whole, or nothing of it, and never in a lesson's way."""

from pathlib import Path

import av
import pytest

from cartouche.live.record import webm
from cartouche.live.record.finish import Unreadable
from cartouche.live.record.webm import GIVES_WAY, Wishes, webm_copy
from tests import samples

SECONDS = 3.0


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("films") / "lesson.mp4"
    samples.clip(path, seconds=SECONDS)
    return path


def test_it_plays_from_end_to_end(film: Path, tmp_path: Path) -> None:
    told: list[float] = []
    out = tmp_path / "lesson.webm"
    webm_copy(film, out, Wishes(told.append, lambda: False, lambda: False))
    with av.open(str(film)) as before, av.open(str(out)) as copy:
        assert copy.streams.video[0].codec.name == "vp8"
        assert sum(1 for _ in copy.decode(video=0)) == sum(1 for _ in before.decode(video=0))
        assert float((copy.duration or 0) / av.time_base) == pytest.approx(SECONDS, abs=0.1)
    assert told
    assert all(0 < share < 1 for share in told)


def test_while_a_lesson_goes_out_it_rests_longer_than_it_works(film: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    now_s, rests = [0.0], list[float]()

    def work() -> float:
        now_s[0] += 0.01  # each look at the clock is ten milliseconds later
        return now_s[0]

    monkeypatch.setattr(webm.time, "monotonic", work)
    monkeypatch.setattr(webm.time, "sleep", rests.append)
    busy = iter([True] * 20 + [False] * 1000)
    webm_copy(film, tmp_path / "lesson.webm", Wishes(lambda _: None, lambda: False, lambda: next(busy)))
    assert len(rests) == 20
    assert min(rests) > 0.009 * GIVES_WAY


def test_given_up_nothing_stays(film: Path, tmp_path: Path) -> None:
    with pytest.raises(OSError, match="given up"):
        webm_copy(film, tmp_path / "lesson.webm", Wishes(lambda _: None, lambda: True, lambda: False))
    assert not list(tmp_path.iterdir())


def test_what_is_no_film_is_said(tmp_path: Path) -> None:
    (tmp_path / "lesson.mp4").write_bytes(b"nothing that plays" * 100)
    with pytest.raises(Unreadable):
        webm_copy(tmp_path / "lesson.mp4", tmp_path / "lesson.webm", Wishes(lambda _: None, lambda: False, lambda: False))
    assert [path.name for path in tmp_path.iterdir()] == ["lesson.mp4"]
