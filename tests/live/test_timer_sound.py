"""The timer's end is heard once, at its moment, and only where it is wished."""

import numpy as np
import pytest

from cartouche.core.sound.chime import chime
from cartouche.core.sound.loudness import RATE
from cartouche.core.teach.timer import Timer
from cartouche.live.clock import monotonic_of as mono
from cartouche.live.clock import steady_s
from cartouche.live.sound.timer_sound import TimerSound

BLOCK = RATE // 50


def heard(timer: Timer, from_s: float, seconds: float) -> np.ndarray:
    source = TimerSound(lambda: timer)
    return np.concatenate([source.read(from_s + block * BLOCK / RATE, BLOCK) for block in range(round(seconds * RATE / BLOCK))])


def test_it_is_heard_whole_and_at_the_end() -> None:
    now_s = steady_s()
    timer = Timer(total_s=2.0, chime=True).pressed(now_s)
    samples = heard(timer, mono(now_s), 5.0)
    loud = np.flatnonzero(np.abs(samples) > 200)
    assert loud[0] / RATE == pytest.approx(2.0, abs=0.03)
    assert np.abs(samples[: 2 * RATE - BLOCK]).max() == 0
    assert np.abs(samples).max() == pytest.approx(np.abs(chime()).max(), abs=2)
    assert np.abs(samples[-RATE:]).max() < 200


@pytest.mark.parametrize(
    "timer",
    [Timer(total_s=1.0).pressed(steady_s()), Timer(total_s=1.0, chime=True), Timer(way="up", total_s=1.0, chime=True).pressed(steady_s())],
)
def test_otherwise_nothing_is_heard(timer: Timer) -> None:
    assert np.abs(heard(timer, mono(steady_s()), 3.0)).max() == 0
