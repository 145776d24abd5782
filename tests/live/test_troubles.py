"""What goes wrong is counted, logged once and said while it goes on; each stage has words for it."""

from types import SimpleNamespace
from typing import get_args

import pytest

from cartouche.live import troubles
from cartouche.live.errors import UndecodablePicture
from cartouche.live.troubles import SAID_FOR_S, Stage, Troubles


@pytest.mark.parametrize("stage", get_args(Stage))
def test_every_stage_has_a_sentence(stage: Stage) -> None:
    kept = Troubles()
    kept.report(stage, RuntimeError("inside"))
    (said,) = kept.now(kept._known[stage, None].last_s)
    assert said.sentence.endswith(".")
    assert "inside" not in said.sentence


def test_it_is_logged_once_and_forgotten_once_it_is_over(caplog: pytest.LogCaptureFixture, monkeypatch: pytest.MonkeyPatch) -> None:
    kept = Troubles()
    for at_s in (10.0, 11.0):
        monkeypatch.setattr(troubles, "time", SimpleNamespace(monotonic=lambda at_s=at_s: at_s))
        with kept.guard("draw", "desk-camera"):
            raise RuntimeError
    assert len(caplog.records) == 1
    (said,) = kept.now(11.5)
    assert (said.count, said.device_id) == (2, "desk-camera")
    assert kept.now(11.0 + SAID_FOR_S) == []


def test_what_has_words_of_its_own_says_them_and_the_newest_comes_first(caplog: pytest.LogCaptureFixture) -> None:
    kept = Troubles()
    kept.report("draw", RuntimeError())
    own = UndecodablePicture("phone", "nothing")
    kept.report("decode", own, "phone")
    assert next(said.sentence for said in kept.now(0.0)) == str(own)
    assert len(caplog.records) == 1, "what is told to the teacher in words of its own is in no log"
