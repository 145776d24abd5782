"""Picture against sound by a clapper: flashes and clicks that were one event, and how far apart they come out."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.loudness import RATE, as_float

FLASH_RISE = 10.0  # of 255, the whole picture's mean within three pictures: a hand or a face does not do that
CLICK_WINDOW = RATE // 500  # 2 ms
CLICK_DB, CLICK_FLOOR_DB = 18.0, -45.0  # above what is usual; above silence
APART_S = 0.4  # from one to the next of a kind
MATCH_S = 0.45  # a flash and its click
ENOUGH = 3
SPREAD_S = 0.04


class Claps(NamedTuple):
    """offset_s: sound after picture, None where there were too few or they did not agree.  pairs: of flash and click."""

    offset_s: float | None
    pairs: int
    says: str


def flashes(moments: Sequence[float], means: Sequence[float]) -> list[float]:
    """When the picture became bright: moments of the pictures, seconds; means of their luma, 0-255."""
    at, level = np.asarray(moments, np.float64), np.asarray(means, np.float64)
    found: list[float] = []
    for number in range(3, level.size):
        rise = level[number] - level[number - 3 : number].min()
        if rise >= FLASH_RISE and (not found or at[number] - found[-1] > APART_S):
            half = level[number - 3 : number].min() + rise / 2
            first = next(one for one in range(number - 2, number + 1) if level[one] >= half)
            found.append(float(at[first]))
    return found


def clicks(samples: NDArray[np.int16], from_s: float) -> list[float]:
    """When a click began. samples: (n,) mono at RATE, the first at from_s."""
    whole = as_float(samples[: samples.size // CLICK_WINDOW * CLICK_WINDOW]).reshape(-1, CLICK_WINDOW)
    if not whole.size:
        return []
    level = 10 * np.log10((whole**2).mean(axis=1) + 1e-10)
    loud = level > max(float(np.median(level)) + CLICK_DB, CLICK_FLOOR_DB)
    found: list[float] = []
    for number in np.flatnonzero(loud & ~np.concatenate(([False], loud[:-1]))):
        moment = from_s + float(number) * CLICK_WINDOW / RATE
        if not found or moment - found[-1] > APART_S:
            found.append(moment)
    return found


def claps(seen: Sequence[float], heard: Sequence[float]) -> Claps:
    """seen, heard: when flashes and clicks came out, seconds on one clock."""
    offsets = [min((click - flash for click in heard), key=abs) for flash in seen] if heard else []
    near = np.array([offset for offset in offsets if abs(offset) < MATCH_S])
    if near.size < ENOUGH:
        alone = "no flash was seen" if len(seen) < ENOUGH else "no click was heard" if len(heard) < ENOUGH else "flash and click do not fit"
        return Claps(None, int(near.size), f"Not measured: {alone}. Show the clapper to the camera, with its sound on, and try again.")
    offset = float(np.median(near))
    if float(np.median(np.abs(near - offset))) > SPREAD_S:
        return Claps(None, int(near.size), "Not measured: each clap came out otherwise. Hold the clapper still and try again.")
    when = "after" if offset > 0 else "before"
    return Claps(offset, int(near.size), f"Sound comes {abs(round(1000 * offset))} ms {when} the picture, by {near.size} claps.")
