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


@pytest.mark.parametrize("case", ["shouting", "attenuated later", "hum", "hum under voice", "far away", "muted on the device"])
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
