import numpy as np
import pytest

from cartouche.core.sound.level import SILENCE_DB, level_db

SINE = np.sin(np.linspace(0, 200 * np.pi, 48_000))


def test_a_full_sine_is_nought() -> None:
    assert level_db(SINE) == pytest.approx(0, abs=0.01)
    assert level_db((SINE * 32767).astype(np.int16)) == pytest.approx(0, abs=0.01)


@pytest.mark.parametrize("db", [-6.0, -20.0, -60.0])
def test_it_falls_as_the_sound_does(db: float) -> None:
    assert level_db(SINE * 10 ** (db / 20)) == pytest.approx(db, abs=0.01)


def test_silence_and_nothing_are_the_floor() -> None:
    assert level_db(np.zeros((1, 960), np.int16)) == SILENCE_DB
    assert level_db(np.zeros(0)) == SILENCE_DB
    assert level_db(SINE * 1e-9) == SILENCE_DB
