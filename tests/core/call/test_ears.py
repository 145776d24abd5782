"""What learners hear, against a call that knows what it did to the sound."""

import numpy as np
import pytest

from cartouche.bench.call_voice import CallVoice, transcoded
from cartouche.bench.microphones import microphone
from cartouche.bench.rooms import as_samples, random_room, random_spot, response, spoken, through
from cartouche.core.call.ears import apart_s, ears
from cartouche.core.sound.hearing import Hearing, hearing
from cartouche.core.sound.loudness import RATE


def judged(samples: np.ndarray) -> Hearing | None:
    """Every chunk counted as speech: the detector has tests of its own."""
    return hearing(samples, np.full(samples.size // 1536, 0.9))


def voices(seed: int, again_s: float | None) -> np.ndarray:
    """A voice in a room at the far end of a lossy call, once or twice."""
    random = np.random.default_rng(seed)
    room = random_room(random)
    mouth = random_spot(room, random)
    speech = spoken("a" if seed % 2 else "b", 5.0, random)
    heard = through(speech, response(room, mouth, random_spot(room, random), random))
    if again_s is not None:
        again = through(speech, response(room, mouth, random_spot(room, random), random))
        late = int(again_s * RATE)
        heard[late:] += 0.8 * again[:-late]
    return transcoded(as_samples(0.5 * heard / np.abs(heard).max()), CallVoice(0.01, 0.01, seed))


@pytest.mark.parametrize("again_s", [0.12, 0.2, 0.35])
def test_a_voice_that_comes_twice_is_found_with_its_delay(again_s: float) -> None:
    found = [apart_s(voices(seed, again_s)) for seed in range(6)]
    right = [one for one in found if one is not None and abs(one - again_s) < 0.04]
    assert len(right) >= 5, found


def test_a_voice_that_comes_once_is_one_in_any_room() -> None:
    assert sum(apart_s(voices(seed, None)) is not None for seed in range(12)) <= 1  # asked twice before it is said


def test_verdicts_in_their_order() -> None:
    well = judged(microphone("well", 4.0, 1))
    assert ears(well, None, True, None).kind == "howls"
    assert ears(None, None, False, None).kind == "not heard"
    assert ears(well, 0.18, False, None).says == "Learners hear you twice, 180 ms apart."
    assert ears(well, None, False, 0.5).kind == "late"
    assert ears(well, None, False, -0.1).kind == "early"
    assert ears(well, None, False, 0.02).says == "Learners hear you once, and together with your picture."
    assert ears(well, None, False, None).says == "Learners hear you once."
