"""Whether two microphones hear one room: the shape of their loudness in bands, then the delay between them."""

import itertools
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.loudness import RATE, as_float

FRAME, HOP = 1024, 512  # samples: 21 ms, a new one each 10.7 ms
BANDS_HZ = np.geomspace(150, 6000, 8)  # seven bands of speech
ENOUGH_S = 3.0
MAX_LAG_S = 0.5  # of one to the other on their way to Cartouche
TOGETHER = 0.55  # correlation of the envelopes: one room lies above, two rooms below even when both are spoken in
QUIET_DB = -60.0  # below this no envelope says anything
MIN_SPREAD_DB = 3.0  # an envelope that stands still (a fan) correlates with anything
GCC_MAX_HZ = 8000.0


class Pair(NamedTuple):
    """correlation: of the envelopes at their best lag, -1 to 1.  delay_s: the second after the first, None unless together."""

    together: bool
    correlation: float
    delay_s: float | None


def envelopes(samples: NDArray[np.int16]) -> NDArray[np.float64]:
    """Level of each band in dB, floored at QUIET_DB. samples: (n,) mono at RATE.  Returns (7, frames)."""
    sound = as_float(samples)
    frames = np.lib.stride_tricks.sliding_window_view(sound, FRAME)[::HOP]
    power = np.abs(np.fft.rfft(frames * np.hanning(FRAME), axis=1)) ** 2 / FRAME
    hz = np.fft.rfftfreq(FRAME, 1 / RATE)
    inside = np.array([(hz >= low) & (hz < high) for low, high in itertools.pairwise(BANDS_HZ)], np.float64)
    return np.asarray(np.maximum(10 * np.log10(power @ inside.T + 1e-12), QUIET_DB).T)


def same_room(one: NDArray[np.int16], two: NDArray[np.int16]) -> Pair:
    """one, two: (n,) mono at RATE, the same seconds of both, ENOUGH_S or more. Source of the delay: GCC-PHAT (Knapp and Carter, 1976)."""
    count = min(one.size, two.size)
    if count < ENOUGH_S * RATE:
        return Pair(False, 0.0, None)
    first, second = envelopes(one[-count:]), envelopes(two[-count:])
    moving = (first.std(axis=1) > MIN_SPREAD_DB) & (second.std(axis=1) > MIN_SPREAD_DB)
    if moving.sum() < 3:
        return Pair(False, 0.0, None)
    correlation, lag = _best_lag(first[moving], second[moving])
    if correlation < TOGETHER:
        return Pair(False, correlation, None)
    return Pair(True, correlation, gcc_phat(one[-count:], two[-count:], lag * HOP / RATE))


def _best_lag(first: NDArray[np.float64], second: NDArray[np.float64]) -> tuple[float, int]:
    """Mean correlation over the bands at the lag (frames, the second later) where it is largest."""
    most = int(MAX_LAG_S * RATE / HOP)
    best = (-1.0, 0)
    for lag in range(-most, most + 1):
        a, b = (first[:, : first.shape[1] - lag], second[:, lag:]) if lag >= 0 else (first[:, -lag:], second[:, :lag])
        a, b = a - a.mean(axis=1, keepdims=True), b - b.mean(axis=1, keepdims=True)
        scale = np.sqrt((a**2).sum(axis=1) * (b**2).sum(axis=1))
        best = max(best, (float(((a * b).sum(axis=1) / np.maximum(scale, 1e-9)).mean()), lag))
    return best


def gcc_phat(one: NDArray[np.int16], two: NDArray[np.int16], near_s: float = 0.0, within_s: float = 0.03) -> float:
    """Delay of the second after the first in seconds, the sharpest one within `within_s` of near_s."""
    size = 1 << int(np.ceil(np.log2(one.size + two.size)))
    cross = np.fft.rfft(as_float(two), size) * np.conj(np.fft.rfft(as_float(one), size))
    cross /= np.abs(cross) + 1e-12
    cross[int(GCC_MAX_HZ * size / RATE) :] = 0  # above it rooms and microphones differ most
    spread = np.fft.irfft(cross, size)
    lags = np.arange(round((near_s - within_s) * RATE), round((near_s + within_s) * RATE) + 1)
    return float(lags[int(np.argmax(spread[lags % size]))]) / RATE
