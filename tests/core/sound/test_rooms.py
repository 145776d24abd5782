"""What is measured between microphones and loudspeakers, against rooms that know the truth."""

import numpy as np
import pytest

from cartouche.bench.microphones import CASES, microphone, voice
from cartouche.bench.rooms import as_samples, at_level, hearings, howling, probed
from cartouche.core.sound.howl import BLOCK, Howl
from cartouche.core.sound.loudness import RATE
from cartouche.core.sound.pairs import same_room
from cartouche.core.sound.probe import PERIOD, heard, probe


def howl_begins(samples: np.ndarray) -> float | None:
    howl = Howl()
    for start in range(0, samples.size - BLOCK, BLOCK):
        howl.take(samples[start : start + BLOCK])
        if howl.hz is not None:
            return start / RATE
    return None


@pytest.mark.parametrize("seed", range(6))
def test_two_microphones_of_one_room_are_found_with_their_delay(seed: int) -> None:
    one, two, delay_s = hearings(seed, together=True)
    pair = same_room(one, two)
    assert pair.together
    assert pair.delay_s == pytest.approx(delay_s, abs=0.006)  # a strong wall may be taken for the mouth


@pytest.mark.parametrize("seed", range(6))
def test_two_rooms_are_two_though_both_are_spoken_in(seed: int) -> None:
    one, two, _ = hearings(seed, together=False)
    assert not same_room(one, two).together


def test_too_little_and_what_stands_still_say_nothing() -> None:
    one, two, _ = hearings(1, together=True, seconds=2.0)
    assert not same_room(one, two).together
    fan = microphone("fan", 4.0, 5)
    assert not same_room(fan, fan).together
    nothing = np.zeros(4 * RATE, np.int16)
    assert not same_room(nothing, nothing).together


def test_the_probe_is_flat_quiet_and_repeats_nowhere() -> None:
    spectrum = np.abs(np.fft.rfft(probe()[::2]))[1:]
    assert spectrum.max() / spectrum.min() < 1.001
    assert np.sqrt((probe() ** 2).mean()) == pytest.approx(10 ** (-32 / 20))


@pytest.mark.parametrize("gain_db", [-10.0, -18.0, -24.0])
def test_a_loudspeaker_that_is_heard_under_speech_is_found_with_its_gain(gain_db: float) -> None:
    for seed in range(3):
        found = heard(probed(seed, gain_db, probe()))
        assert found.gain_db == pytest.approx(gain_db, abs=6)


def test_one_in_another_room_is_not_heard() -> None:
    assert all(heard(probed(seed, None, probe())).gain_db is None for seed in range(6))
    assert heard(np.zeros(PERIOD - 1, np.int16)).gain_db is None
    assert heard(np.zeros(2 * PERIOD, np.int16)).gain_db is None


def test_a_howl_is_heard_as_it_begins() -> None:
    after = [(at or 99) - 2.0 for seed in range(8) if (at := howl_begins(howling(seed, 8.0, 3 + seed % 5, 2.0))) or True]
    assert min(after) > 0
    assert np.median(after) < 2.0
    assert max(after) < 5.0


def test_speech_noise_hum_beeps_and_a_loop_below_one_do_not_howl() -> None:
    moment = np.arange(4 * RATE) / RATE
    beeps = as_samples(
        0.3 * np.sin(2 * np.pi * 1000 * moment) * (moment % 1 < 0.3) + np.random.default_rng(1).normal(0, 0.0005, moment.size)
    )
    loud_speech = as_samples(at_level(np.concatenate((voice("a"), voice("b"))), 6))
    for samples in [beeps, loud_speech, howling(3, 6.0, -6.0, 1.0), *(microphone(case, 5.0, 2) for case in CASES)]:
        assert howl_begins(samples) is None


def test_a_howl_that_was_ended_is_over() -> None:
    howl = Howl()
    samples = howling(1, 6.0, 6.0, 0.5)
    for start in range(0, samples.size - BLOCK, BLOCK):
        howl.take(samples[start : start + BLOCK])
    assert howl.hz is not None
    howl.take(microphone("well", 1.0, 1)[:BLOCK])
    assert howl.hz is None
