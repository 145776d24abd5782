"""The echo test: what was spoken against what a call made of it."""

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.hearing import TOO_LOUD_LUFS, TOO_QUIET_LUFS, Hearing
from cartouche.core.sound.loudness import RATE, as_float

Kind = Literal["well", "not heard", "too quiet", "clipped", "noisy", "torn"]
PIECE = RATE // 50  # 20 ms
HOLE_DB = 18.0  # so much quieter than what was spoken there: a piece is missing
HEARD_DB = -45.0  # of what was spoken; below there is nothing to miss
TORN_SHARE = 0.03  # of all spoken pieces
MAX_LAG_S = 0.5


class Echo(NamedTuple):
    """loudness: LUFS of the voice as it arrived.  snr_db: voice over what is there without it.  missing: share of the spoken pieces.

    clipped: share of samples.
    """

    kind: Kind
    says: str
    loudness: float
    snr_db: float
    clipped: float
    missing: float


def echo(spoken: NDArray[np.int16], arrived: NDArray[np.int16], heard: Hearing | None) -> Echo:
    """spoken, arrived: (n,) mono at RATE.  heard: of `arrived`, None where it was too short to judge."""
    if heard is None or heard.kind in ("nothing", "no voice", "noise") or heard.voice == 0:
        return Echo("not heard", "No voice arrived. Speak while it records.", -90.0, 0.0, 0.0, 0.0)
    missing = missing_share(spoken, arrived)
    snr = heard.loudness - heard.floor
    values = (heard.loudness, snr, heard.clipped, missing)
    if missing > TORN_SHARE:
        return Echo("torn", f"Pieces are missing: {round(100 * missing)}% of what you said. The network loses them.", *values)
    if heard.kind == "too loud" or heard.loudness > TOO_LOUD_LUFS:
        return Echo("clipped", "Learners hear you clipped. Lower this microphone's level, or move back a little.", *values)
    if heard.loudness < TOO_QUIET_LUFS:
        return Echo("too quiet", "Learners hear you too quietly. Come closer to this microphone, or raise its level.", *values)
    if heard.kind in ("noisy", "hum"):
        return Echo("noisy", "Learners hear you with much noise. Come closer to this microphone, or try another.", *values)
    return Echo("well", "Learners hear you well.", *values)


def missing_share(spoken: NDArray[np.int16], arrived: NDArray[np.int16]) -> float:
    """Of the pieces with a voice in them, how many arrived as a hole."""
    first, second = _levels(spoken), _levels(arrived)
    if not first.size or not second.size:
        return 0.0
    lag = _lag(first, second)
    first, second = first[max(0, -lag) :], second[max(0, lag) :]
    count = min(first.size, second.size)
    first, second = first[:count], second[:count]
    heard = first > max(HEARD_DB, float(np.percentile(first, 60)) - 10)
    if not heard.any():
        return 0.0
    usual = float(np.median((second - first)[heard]))
    return float((second - first - usual < -HOLE_DB)[heard].mean())


def _levels(samples: NDArray[np.int16]) -> NDArray[np.float64]:
    whole = as_float(samples[: samples.size // PIECE * PIECE]).reshape(-1, PIECE)
    return np.asarray(10 * np.log10((whole**2).mean(axis=1) + 1e-9)) if whole.size else np.zeros(0)


def _lag(first: NDArray[np.float64], second: NDArray[np.float64]) -> int:
    """Pieces by which the second comes later."""
    scores = np.correlate(second - second.mean(), first - first.mean(), "full")
    lags = np.arange(-first.size + 1, second.size)
    near = np.abs(lags) <= MAX_LAG_S * RATE / PIECE
    return int(lags[near][int(np.argmax(scores[near]))])
