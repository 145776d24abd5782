"""The echo test against calls of which the loss, the level and the noise are known."""

import numpy as np
import pytest

from cartouche.bench.call_voice import CallVoice, transcoded
from cartouche.bench.microphones import microphone
from cartouche.core.sound.echo import Kind, echo, missing_share
from tests.core.call.test_ears import judged


@pytest.mark.parametrize(
    ("case", "kind"),
    [("well", "well"), ("far away", "too quiet"), ("shouting", "clipped"), ("noisy room", "noisy")],
)
def test_what_arrives_is_told_as_learners_hear_it(case: str, kind: Kind) -> None:
    spoken = microphone(case, 5.0, 3)  # type: ignore[arg-type]
    arrived = transcoded(spoken, CallVoice(0.0, 0.0))
    assert echo(spoken, arrived, judged(arrived)).kind == kind


def test_pieces_that_the_network_lost_are_counted() -> None:
    spoken = microphone("well", 5.0, 4)
    clean = transcoded(spoken, CallVoice(0.0, 0.0))
    assert missing_share(spoken, clean) < 0.02
    holes = clean.copy()
    pieces = holes[: holes.size // 960 * 960].reshape(-1, 960)
    pieces[np.random.default_rng(1).random(pieces.shape[0]) < 0.2] = 0
    found = echo(spoken, holes, judged(holes))
    assert found.kind == "torn"
    assert found.missing == pytest.approx(0.2, abs=0.08)


def test_silence_is_not_heard_and_nothing_divides_by_nothing() -> None:
    silent = np.zeros(5 * 48_000, np.int16)
    assert echo(silent, silent, judged(silent)).kind == "not heard"
    assert echo(silent, silent, None).kind == "not heard"
    assert missing_share(silent, silent) == 0
    assert missing_share(np.zeros(0, np.int16), silent) == 0
