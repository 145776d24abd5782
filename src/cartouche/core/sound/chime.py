"""The end of the timer, as it is heard: two soft struck notes, a fourth apart."""

from functools import cache

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.loudness import RATE

LASTS_S = 1.6
NOTES = ((0.0, 659.26), (0.22, 880.0))  # seconds after the end, Hz
LEVEL, DECAY_S, ATTACK_S = 0.16, 0.45, 0.008  # of full scale: well below a voice


@cache
def chime() -> NDArray[np.int16]:
    """Its samples, mono, at RATE."""
    at = np.arange(round(LASTS_S * RATE)) / RATE
    made = np.zeros(at.size)
    for begins_s, hertz in NOTES:
        since = np.maximum(at - begins_s, 0)
        struck = np.exp(-since / DECAY_S) * np.minimum(since / ATTACK_S, 1)
        made += LEVEL * struck * (np.sin(2 * np.pi * hertz * since) + 0.2 * np.sin(4 * np.pi * hertz * since))
    made *= np.minimum((LASTS_S - at) / 0.1, 1)
    return np.asarray(np.clip(made, -1, 1) * 32767, np.int16)
