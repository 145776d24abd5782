"""The bench's microphones: a voice that ships, and everything that goes wrong between mouth and computer; they know the truth."""

from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Literal, get_args

import av
import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.hearing import Kind
from cartouche.core.sound.loudness import RATE, integrated_lufs

Voice = Literal["a", "b"]  # two synthesised speakers, half a minute in all: bench/voices
Case = Literal[
    "well", "far away", "shouting", "attenuated later", "noisy room", "fan", "quiet room", "hum", "hum under voice", "muted on the device"
]
CASES: tuple[Case, ...] = get_args(Case)
TRUTH: dict[Case, Kind] = {
    "well": "well",
    "far away": "too quiet",
    "shouting": "too loud",
    "attenuated later": "too loud",
    "noisy room": "noisy",
    "fan": "noise",
    "quiet room": "no voice",
    "hum": "hum",
    "hum under voice": "hum",
    "muted on the device": "nothing",
}


@cache
def voice(name: Voice) -> NDArray[np.float64]:
    """(n,) mono at RATE, at -23 LUFS."""
    with av.open(str(Path(__file__).parent / "voices" / f"voice-{name}.opus")) as container:
        resampler = av.AudioResampler("s16", "mono", RATE)
        parts = [piece.to_ndarray().ravel() for frame in container.decode(audio=0) for piece in resampler.resample(frame)]
    samples = np.concatenate(parts).astype(np.float64) / 32768
    return np.asarray(samples * 10 ** ((-23 - integrated_lufs(samples)) / 20))


def microphone(case: Case, seconds: float, seed: int, mains: float = 50.0) -> NDArray[np.int16]:
    """What this microphone gives: (n,) int16 at RATE."""
    random = np.random.default_rng(seed)
    count = int(seconds * RATE)
    speech = voice("a" if seed % 2 else "b")
    speech = np.take(speech, np.arange(count) + int(random.integers(0, speech.size)), mode="wrap") * _gain(random.uniform(-3, 3))
    floor = random.normal(0, 1, count) * _gain(random.uniform(-82, -70))
    sound = floor + (_SOUNDS[case](speech, random, mains) if case in _SOUNDS else speech)
    if case == "shouting":
        sound = np.clip(sound * _gain(26), -1, 1)
    if case == "attenuated later":
        sound = np.clip(sound * _gain(26), -1, 1) * 0.4
    whole: NDArray[np.int16] = np.round(np.clip(sound, -1, 1) * 32767).astype(np.int16)
    if case == "muted on the device":
        whole[:] = 0
    return whole


def _gain(db: float) -> float:
    return float(10 ** (db / 20))


def pink(count: int, random: np.random.Generator) -> NDArray[np.float64]:
    """Noise whose power falls by 3 dB an octave, at 1 root mean square."""
    spectrum = np.fft.rfft(random.normal(0, 1, count))
    spectrum /= np.sqrt(np.maximum(np.arange(spectrum.size), 1))
    noise = np.fft.irfft(spectrum, count)
    return np.asarray(noise / np.sqrt(np.mean(noise**2)))


def _hum(count: int, mains: float, random: np.random.Generator) -> NDArray[np.float64]:
    moment = np.arange(count) / RATE
    tones = [
        np.sin(2 * np.pi * mains * (k + 1) * moment + random.uniform(0, 6)) * share for k, share in enumerate((1, 0.6, 0.7, 0.3, 0.4, 0.2))
    ]
    return np.asarray(np.sum(tones, axis=0))


_SOUNDS: dict[Case, Callable[[NDArray[np.float64], np.random.Generator, float], NDArray[np.float64]]] = {
    "far away": lambda speech, random, mains: speech * _gain(-26),
    "noisy room": lambda speech, random, mains: speech * _gain(-4) + pink(speech.size, random) * _gain(-30),
    "fan": lambda speech, random, mains: pink(speech.size, random) * _gain(random.uniform(-45, -35)),
    "quiet room": lambda speech, random, mains: speech * 0,
    "hum": lambda speech, random, mains: _hum(speech.size, mains, random) * _gain(random.uniform(-36, -28)),
    "hum under voice": lambda speech, random, mains: speech + _hum(speech.size, mains, random) * _gain(random.uniform(-34, -28)),
}
