"""What a microphone gives, in words, against the bench, which knows; over more of them: benchmarks/verdicts.py."""

import numpy as np
import pytest

from benchmarks.verdicts import spoken
from cartouche.bench.microphones import CASES, TRUTH, Case, microphone
from cartouche.core.sound.hearing import clipped_share, hearing, hum_hz, longest_zeros
from cartouche.core.sound.loudness import RATE


@pytest.mark.parametrize("mains", [50.0, 60.0])
@pytest.mark.parametrize("case", CASES)
def test_each_microphone_of_the_bench_is_told_for_what_it_is(case: Case, mains: float) -> None:
    samples = microphone(case, 5.0, 7, mains)
    told = hearing(samples, spoken(samples))
    assert told is not None
    assert told.kind == TRUTH[case]
    assert told.says.endswith(".")


def test_with_too_little_nothing_is_said() -> None:
    assert hearing(np.zeros(RATE, np.int16), np.zeros(0)) is None


def test_the_mains_is_named() -> None:
    assert hum_hz(microphone("hum", 5.0, 1, 50.0)) == 50.0
    assert hum_hz(microphone("hum", 5.0, 1, 60.0)) == 60.0
    assert hum_hz(microphone("well", 5.0, 1)) is None
    assert hum_hz(np.zeros(100, np.int16)) is None


def test_zeros_and_clipping_are_counted() -> None:
    assert longest_zeros(np.array([1, 0, 0, 0, 2, 0, 0], np.int16)) == 3
    assert longest_zeros(np.ones(5, np.int16)) == 0
    assert clipped_share(np.zeros(100, np.int16)) == 0
    sine = (3 * np.sin(np.arange(48_000) / 50)).clip(-1, 1)
    assert clipped_share((sine * 12_000).astype(np.int16)) > 0.5
    assert clipped_share((np.sin(np.arange(48_000) / 50) * 12_000).astype(np.int16)) < 0.01


def window(before: Case, case: Case, since_s: float) -> np.ndarray:
    """Five seconds, the newest of which are another case."""
    both = np.concatenate([microphone(before, 5.0, 8), microphone(case, since_s, 8)])
    return both[-5 * RATE :]


@pytest.mark.parametrize(
    "case", ["shouting", "attenuated later", "hum", "hum under voice", "far away", "muted on the device", "noisy room", "fan"]
)
def test_what_goes_wrong_while_one_speaks_is_told_within_two_and_a_half_seconds(case: Case) -> None:
    samples = window("well", case, 2.4)
    told = hearing(samples, spoken(samples))
    assert told is not None
    assert told.kind == TRUTH[case]


def test_a_pause_and_what_is_well_again_are_no_fault() -> None:
    for samples in (window("well", "quiet room", 2.4), microphone("well", 5.0, 11)):
        told = hearing(samples, spoken(samples))
        assert told is not None
        assert told.kind == "well"


def in_a_room(samples: np.ndarray, rings_s: float) -> np.ndarray:
    """The same where walls answer as loud as the voice itself and fall by 60 dB in rings_s."""
    moment = np.arange(int(RATE * rings_s)) / RATE
    walls = np.random.default_rng(5).normal(0, 1, moment.size) * 10 ** (-3 * moment / rings_s)
    walls /= np.sqrt(np.sum(walls**2))
    walls[0] += 1
    size = samples.size + walls.size
    heard = np.fft.irfft(np.fft.rfft(samples.astype(float), size) * np.fft.rfft(walls, size), size)[: samples.size]
    return np.clip(heard / np.sqrt(2), -32768, 32767).astype(np.int16)


@pytest.mark.parametrize("seed", [1, 2])
def test_a_clear_voice_without_a_pause_is_not_called_noisy_in_a_room_that_rings(seed: int) -> None:
    """Two seconds at a time: what set in just now is judged by them alone."""
    spoken_on = in_a_room(microphone("well", 20.0, seed), 0.6)
    chances = spoken(spoken_on)
    for begin_s in range(0, 14, 1):
        part, voice = (whole[int(begin_s / 20 * whole.size) : int((begin_s + 5) / 20 * whole.size)] for whole in (spoken_on, chances))
        told = hearing(part, voice)
        assert told is not None
        assert told.kind == "well", begin_s


def test_a_pause_in_a_room_that_was_never_quiet_is_no_new_noise() -> None:
    random = np.random.default_rng(3)
    fan = np.round(random.normal(0, 200, 5 * RATE)).astype(np.int16)
    speech = np.concatenate([microphone("well", 2.6, 8), np.zeros(int(2.4 * RATE), np.int16)])
    told = hearing(speech + fan, spoken(speech + fan))
    assert told is not None
    assert told.kind == "well"
