"""Flash against click, where the truth is known."""

import numpy as np
import pytest

from cartouche.bench.microphones import microphone
from cartouche.core.sound.clap import claps, clicks, flashes
from cartouche.core.sound.loudness import RATE


def pictures(moments: list[float], seconds: float = 8.0, seed: int = 1) -> tuple[np.ndarray, np.ndarray]:
    """30 a second with noise, a slow change of light, and a flash of a tenth of a second at each moment."""
    random = np.random.default_rng(seed)
    at = np.arange(0, seconds, 1 / 30) + random.normal(0, 0.002, int(seconds * 30))
    means = 110 + 6 * np.sin(at) + random.normal(0, 0.4, at.size)
    for moment in moments:
        means[(at >= moment) & (at < moment + 0.1)] += 40
    return at, means


def sound(moments: list[float], seconds: float = 8.0) -> np.ndarray:
    samples = microphone("quiet room", seconds, 3).astype(int)
    for moment in moments:
        start = int(moment * RATE)
        samples[start : start + 400] += np.round(9000 * np.sin(np.arange(400) * 0.4)).astype(int)
    return np.clip(samples, -32768, 32767).astype(np.int16)


@pytest.mark.parametrize("offset_s", [-0.08, 0.0, 0.05, 0.2])
def test_the_offset_is_found_within_a_picture(offset_s: float) -> None:
    true = [1.1, 2.3, 3.4, 4.6, 5.7]
    told = claps(flashes(*pictures(true)), clicks(sound([one + offset_s for one in true]), 0.0))
    assert told.pairs == 5
    assert told.offset_s == pytest.approx(offset_s, abs=0.025)


def test_without_flashes_or_clicks_nothing_is_claimed() -> None:
    true = [1.1, 2.3, 3.4, 4.6]
    assert "no flash" in claps(flashes(*pictures([])), clicks(sound(true), 0.0)).says
    assert "no click" in claps(flashes(*pictures(true)), clicks(sound([]), 0.0)).says
    assert claps([], []).offset_s is None
    assert clicks(np.zeros(0, np.int16), 0.0) == []


def test_claps_that_do_not_agree_are_not_measured() -> None:
    seen = [1.0, 2.5, 4.0, 5.5]
    assert claps(seen, [1.3, 2.4, 4.2, 5.2]).offset_s is None
    assert claps(seen, [1.9, 3.3, 4.8, 6.3]).offset_s is None


def test_a_voice_makes_no_flash_and_moving_light_none() -> None:
    at = np.arange(0, 8, 1 / 30)
    assert flashes(list(at), list(110 + 25 * np.sin(1.5 * at))) == []
