"""A face made the best of: brightness, contrast and colour by hand, the light evened over the skin, white balanced by itself."""

from collections.abc import Callable
from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Plane
from cartouche.core.plates.model import Grade

Mask = NDArray[np.float32]  # (h, w) 0-1, 1 where the person is
Table = NDArray[np.uint8]  # (256,)

SKIN_CR, SKIN_CB = (134, 178), (80, 127)  # of 8 bit; skin of any shade (Chai and Ngan, 1999), a little wider
LEAST_SKIN = 0.004  # of the picture: with less nobody knows how the face is lit
SKIN_LUMA = 118.0  # of evenly lit skin of a middle shade; darker skin is lifted by part of the way alone
LIFT_SHARE = 0.55
DARKEST, BRIGHTEST = 0.7, 1.9  # by which the light is changed at most
FIT_ROUNDS, OUTLIER = 3, 1.5  # eyes, lips and glasses are no light; in spreads
NEUTRAL = 20  # of 255 from grey: such spots may be grey under a tinted light
LEAST_NEUTRAL = 0.05  # of the picture
MAX_BALANCE, BALANCE_SHARE = 14.0, 0.6  # of it: a wall in a warm colour is not white
GAMMA, CONTRAST, WARM_U, WARM_V = 0.9, 0.6, -16.0, 12.0  # at full brightness, contrast, warmth


class Light(NamedTuple):
    """gain: (144, 256) float32, what the person's luma is multiplied by; None where it is well lit or nobody knows.
    balance: what is added to the two colour differences so that grey is grey."""

    gain: NDArray[np.float32] | None
    balance: tuple[float, float]


NO_LIGHT = Light(None, (0.0, 0.0))


@lru_cache(maxsize=64)
def luma_table(brightness: float, contrast: float) -> Table:
    """Brightness bends the middle tones and leaves black and white; contrast turns about the middle."""
    tone = np.arange(256) / 255
    bent = tone ** (2.0 ** (-GAMMA * brightness))
    wide = 0.5 + (bent - 0.5) * (1 + CONTRAST * contrast)
    return np.asarray(np.clip(255 * wide, 0, 255).round(), np.uint8)


@lru_cache(maxsize=64)
def chroma_table(saturation: float, shift: float) -> Table:
    return np.asarray(np.clip(128 + (np.arange(256) - 128 + shift) * (1 + saturation), 0, 255).round(), np.uint8)


def tables(grade: Grade, balance: tuple[float, float]) -> tuple[Table, Table, Table] | None:
    """For luma and the two colour differences; None where nothing changes."""
    u, v = balance if grade.balanced else (0.0, 0.0)
    u, v = round(u + WARM_U * grade.warmth, 1), round(v + WARM_V * grade.warmth, 1)
    if not (grade.brightness or grade.contrast or grade.saturation or u or v):
        return None
    return luma_table(grade.brightness, grade.contrast), chroma_table(grade.saturation, u), chroma_table(grade.saturation, v)


def light_of(frame: Frame, mask: Mask | None, seen: Callable[[Frame], tuple[Plane, ...]]) -> Light:
    """How a person is lit. mask: of the same view, None where nobody was looked for.  seen: makes planes of the mask's size."""
    y, u, v = (plane.astype(np.float32) for plane in seen(frame))
    return Light(_gain(y, u, v, mask) if mask is not None else None, _balance(y, u, v))


def _gain(y: NDArray[np.float32], u: NDArray[np.float32], v: NDArray[np.float32], mask: Mask) -> NDArray[np.float32] | None:
    skin = (mask > 0.7) & (v > SKIN_CR[0]) & (v < SKIN_CR[1]) & (u > SKIN_CB[0]) & (u < SKIN_CB[1]) & (y > 12) & (y < 250)
    if skin.mean() < LEAST_SKIN:
        return None
    rows, columns = np.nonzero(skin)
    high, wide = mask.shape
    spots = np.stack([np.ones(rows.size), columns / wide - 0.5, rows / high - 0.5], axis=1)
    stops = np.log2(y[skin].astype(np.float64))
    kept = np.ones(rows.size, bool)
    slope = np.zeros(3)
    for _ in range(FIT_ROUNDS):  # least squares, outliers left out
        slope = np.linalg.lstsq(spots[kept], stops[kept], rcond=None)[0]
        off = np.abs(stops - spots @ slope)
        kept = off <= OUTLIER * max(float(off[kept].std()), 0.05)
    middle = float(np.median(stops))
    lift = LIFT_SHARE * max(0.0, np.log2(SKIN_LUMA) - middle)
    xs, ys = np.meshgrid(np.arange(wide) / wide - 0.5, np.arange(high) / high - 0.5)
    about = slope[0] + slope[1] * xs + slope[2] * ys
    return np.asarray(np.clip(2.0 ** (middle - about + lift), DARKEST, BRIGHTEST), np.float32)


def _balance(y: NDArray[np.float32], u: NDArray[np.float32], v: NDArray[np.float32]) -> tuple[float, float]:
    """From what may be grey: of little colour, neither dark nor burnt (grey candidates)."""
    neutral = (np.abs(u - 128) < NEUTRAL) & (np.abs(v - 128) < NEUTRAL) & (y > 70) & (y < 245)
    if neutral.mean() < LEAST_NEUTRAL:
        return 0.0, 0.0
    apart = (BALANCE_SHARE * (128 - float(np.median(plane[neutral]))) for plane in (u, v))
    return tuple(float(np.clip(one, -MAX_BALANCE, MAX_BALANCE)) for one in apart)  # type: ignore[return-value]


def lit(luma: Plane, mask: NDArray[np.float32], gain: NDArray[np.float32], even: float) -> None:
    """The person's light evened in place. mask: (h, w) of luma.  even: how much of it, 0-1."""
    more: NDArray[np.float32] = (gain - 1) * np.float32(even)
    strength = cv2.resize(more, luma.shape[::-1], interpolation=cv2.INTER_LINEAR)
    cv2.multiply(strength, mask, dst=strength)
    cv2.add(strength, 1.0, dst=strength)  # type: ignore[call-overload]
    cv2.multiply(luma, strength, dst=luma, dtype=cv2.CV_8U)
