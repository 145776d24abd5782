"""The network that hears speech: a voice is one, a fan and keys are none, and pieces give what the whole gives."""

import numpy as np
import pytest
import soxr

from cartouche.bench.microphones import Case, microphone
from cartouche.core.sound.loudness import RATE
from cartouche.models import SpeechNet


def heard(case: Case) -> np.ndarray:
    """Five seconds as the network takes them."""
    return np.asarray(soxr.resample(microphone(case, 5.0, 7, 50.0), RATE, SpeechNet.RATE), np.int16)


def test_a_voice_is_speech_most_of_the_time() -> None:
    assert (SpeechNet()(heard("well")) > 0.5).mean() > 0.6


@pytest.mark.parametrize("case", ["fan", "hum", "quiet room"])
def test_what_is_no_voice_is_not(case: Case) -> None:
    assert (SpeechNet()(heard(case)) > 0.5).mean() < 0.1


def test_pieces_give_what_the_whole_gives() -> None:
    samples, net = heard("well"), SpeechNet()
    pieces = np.concatenate([net(samples[at : at + 7 * SpeechNet.CHUNK]) for at in range(0, samples.size, 7 * SpeechNet.CHUNK)])
    assert np.allclose(pieces, SpeechNet()(samples), atol=1e-4)
    assert SpeechNet()(samples[:100]).shape == (0,)
