"""What learners hear: whether a voice reaches them once, twice, howling, late or not at all; from the sound at their end alone."""

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.hearing import Hearing
from cartouche.core.sound.lips import EARLY_S, LATE_S
from cartouche.core.sound.loudness import RATE, as_float

Kind = Literal["once", "twice", "howls", "not heard", "late", "early"]
MIN_APART_S, MAX_APART_S = 0.08, 0.7  # below are the walls of a room, above two people
TWICE = 8.6  # the peak of the whitened autocorrelation against its deviation
ENOUGH_S = 2.5
MAX_HZ = 7000.0


class Ears(NamedTuple):
    """apart_s: between the two, where a voice is heard twice.  offset_s: sound after picture, None where either is not measured."""

    kind: Kind
    says: str
    loudness: float
    apart_s: float | None
    offset_s: float | None


def ears(heard: Hearing | None, apart: float | None, howls: bool, offset_s: float | None) -> Ears:
    """heard: of the newest seconds at a learner's end.  apart: how far apart the voice comes twice there, seconds, None for once."""
    loudness = heard.loudness if heard is not None else -90.0
    if howls:
        return Ears("howls", "It howls. Close all microphones.", loudness, None, offset_s)
    if heard is None or heard.voice < 0.05:
        return Ears("not heard", "Learners hear no voice.", loudness, None, offset_s)
    if apart is not None:
        return Ears("twice", f"Learners hear you twice, {round(1000 * apart)} ms apart.", loudness, apart, offset_s)
    if offset_s is not None and offset_s > LATE_S:
        return Ears("late", f"Learners hear you {round(1000 * offset_s)} ms after they see you speak.", loudness, None, offset_s)
    if offset_s is not None and offset_s < -EARLY_S:
        return Ears("early", f"Learners hear you {round(-1000 * offset_s)} ms before they see you speak.", loudness, None, offset_s)
    together = ", and together with your picture" if offset_s is not None else ""
    return Ears("once", f"Learners hear you once{together}.", loudness, None, offset_s)


def apart_s(samples: NDArray[np.int16]) -> float | None:
    """How far apart one voice comes twice, None where it comes once; chance finds one in a hundred, so ask twice.

    Source: autocorrelation of the whitened spectrum (cf. GCC-PHAT)."""
    if samples.size < ENOUGH_S * RATE:
        return None
    size = 1 << int(np.ceil(np.log2(2 * samples.size)))
    width = int(200 * size / RATE)  # Hz: the voice's own shape is taken out, a repeat's ripple is finer and stays
    top = int(MAX_HZ * size / RATE)
    power = np.abs(np.fft.rfft(as_float(samples), size)[: top + width]) ** 2
    smooth = cv2.blur(power[np.newaxis], (width, 1), borderType=cv2.BORDER_CONSTANT)[0]
    white = (power / (smooth + 1e-12))[:top]
    white[: int(100 * size / RATE)] = 0
    lags = np.fft.irfft(white, size)[: int(MAX_APART_S * RATE)]
    start = int(MIN_APART_S * RATE)
    deviation = float(np.median(np.abs(lags[start:]))) / 0.6745 + 1e-15
    at = start + int(np.argmax(lags[start:]))
    return at / RATE if lags[at] / deviation > TWICE else None
