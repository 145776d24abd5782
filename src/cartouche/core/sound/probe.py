"""Whether a microphone hears a loudspeaker: a quiet noise that is known, sought in what comes in."""

from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.loudness import RATE, as_float

ORDER, TAPS = 15, (15, 14)  # x^15 + x^14 + 1 is primitive: 32 767 chips before it repeats
SLOWER = 2  # samples a chip lasts: most of its power then lies below 12 kHz, where loudspeakers play
PERIOD = ((1 << ORDER) - 1) * SLOWER  # samples: 1.37 s
PERIODS = 2  # heard whole; more do not help, the two clocks drift apart
LEVEL_DB = -32.0  # of full scale as it is played: below speech, above a room's floor
SURE = 7.5  # the peak against the deviation of all else; of 65 534 values of noise the largest is at 4.3
NEAR_S = 0.025  # after its first sound what a room adds belongs to it


class Heard(NamedTuple):
    """gain_db: from what was played to what came in, None where it was not heard.  sure: peak against the noise beside it."""

    gain_db: float | None
    sure: float


@cache
def probe() -> NDArray[np.float64]:
    """One period of a maximum length sequence at LEVEL_DB: (PERIOD,). Source: Golomb, Shift Register Sequences."""
    register = np.ones(ORDER, bool)
    chips = np.empty((1 << ORDER) - 1)
    for number in range(chips.size):
        chips[number] = 1.0 if register[-1] else -1.0
        register = np.concatenate(([register[TAPS[0] - 1] ^ register[TAPS[1] - 1]], register[:-1]))
    held: NDArray[np.float64] = np.repeat(chips, SLOWER) * 10 ** (LEVEL_DB / 20)
    return held


def heard(samples: NDArray[np.int16]) -> Heard:
    """samples: (n,) mono at RATE while the probe ran, PERIOD or more of it."""
    periods = min(PERIODS, samples.size // PERIOD)
    if not periods:
        return Heard(None, 0.0)
    came = as_float(samples[-periods * PERIOD :]).reshape(periods, PERIOD).mean(axis=0)
    played = np.fft.rfft(probe())
    spectrum = np.fft.rfft(came)
    weights = np.abs(spectrum)  # whitened: a voice has its power in few bands
    found = np.fft.irfft(spectrum / (weights + np.median(weights) + 1e-12) * np.conj(played), PERIOD)
    at = int(np.argmax(np.abs(found)))
    deviation = float(np.median(np.abs(found))) / 0.6745 + 1e-12
    sure = float(np.abs(found[at]) / deviation)
    return Heard(_gain_db(spectrum, played, at) if sure >= SURE else None, sure)


def _gain_db(spectrum: NDArray[np.complex128], played: NDArray[np.complex128], at: int) -> float:
    """Power of the impulse response from its first sound on."""
    power = np.abs(played) ** 2
    response = np.fft.irfft(spectrum * np.conj(played) / (power + 1e-3 * power.mean()), PERIOD)
    taps = np.take(response, np.arange(at - 8, at + int(NEAR_S * RATE)), mode="wrap")
    noise = float(np.median(response**2)) / 0.455  # a squared normal's median
    return float(10 * np.log10(max(float((taps**2).sum()) - noise * taps.size, float((taps**2).max()))))
