"""Capture times though clocks drift, and sound that waits for the picture."""

import numpy as np
import pytest

from cartouche.core.sound.clock import DeviceClock
from cartouche.core.sound.lips import CHANGE_AFTER_S, MAX_DELAY_S, MIN_DELAY_S, LipDelay, crossfaded
from cartouche.core.sound.loudness import RATE

BLOCK = RATE // 50


def run(clock: DeviceClock, ppm: float, seconds: float, seed: int = 1, way_s: float = 0.005) -> int:
    """Blocks by a network that is late by chance; the number of samples at the end."""
    random = np.random.default_rng(seed)
    samples = 0
    while samples < seconds * RATE:
        samples += BLOCK
        clock.take(samples, 50.0 + samples / (RATE * (1 + 1e-6 * ppm)) + way_s + random.exponential(0.01))
    return samples


@pytest.mark.parametrize("ppm", [-100.0, 0.0, 40.0, 100.0])
def test_drift_is_found_within_a_few_ppm_and_capture_times_stay_right(ppm: float) -> None:
    clock = DeviceClock()
    samples = run(clock, ppm, 120)
    assert clock.ppm == pytest.approx(ppm, abs=14)
    assert clock.captured_s(samples) == pytest.approx(50.0 + samples / (RATE * (1 + 1e-6 * ppm)) + 0.005, abs=0.002)


def test_a_few_late_blocks_change_nothing_and_a_lasting_slip_is_a_new_beginning() -> None:
    clock = DeviceClock()
    samples = run(clock, 0.0, 10)
    before = clock.captured_s(samples)
    assert clock.take(samples + BLOCK, 50 + (samples + BLOCK) / RATE + 1.5)
    assert clock.captured_s(samples) == pytest.approx(before, abs=1e-6)
    answers = [clock.take(samples + number * BLOCK, 50 + (samples + number * BLOCK) / RATE + 2.0) for number in range(2, 80)]
    assert not all(answers)
    assert clock.captured_s(samples) == pytest.approx(before + 2.0, abs=0.02)


def test_counting_that_starts_anew_is_a_new_beginning() -> None:
    clock = DeviceClock()
    run(clock, 0.0, 5)
    assert not clock.take(BLOCK, 500.0)
    assert clock.captured_s(BLOCK) == pytest.approx(500.0)


def test_sound_waits_as_long_as_the_picture_takes_within_bounds() -> None:
    lips = LipDelay()
    for number in range(100):
        lips.picture(0.14, number / 30)
    assert lips.delay_s == pytest.approx(0.14)
    for number in range(300):
        lips.picture(0.01, 10 + number / 30)
    assert lips.delay_s == MIN_DELAY_S
    lips.forget()
    for number in range(300):
        lips.picture(9.0, 30 + number / 30)
    assert lips.delay_s == MAX_DELAY_S


def test_a_short_hitch_moves_nothing_and_a_lasting_change_moves_once() -> None:
    lips, delays = LipDelay(), set()
    for number in range(900):
        hitch = 300 < number < 330
        now = number / 30
        lips.picture(0.18 if hitch or now > 20 else 0.1, now)
        delays.add(lips.delay_s)
    assert delays == {MIN_DELAY_S, 0.1, 0.18}
    assert CHANGE_AFTER_S > 1


def test_a_crossfade_has_no_step() -> None:
    moment = np.arange(BLOCK) / RATE
    before = np.asarray(12000 * np.sin(2 * np.pi * 200 * moment), np.int16)
    after = np.asarray(12000 * np.sin(2 * np.pi * 200 * moment + 2), np.int16)
    both = crossfaded(before, after)
    assert both[0] == before[0]
    assert abs(int(both[-1]) - int(after[-1])) < 30
    assert np.abs(np.diff(both.astype(int))).max() < 1000
