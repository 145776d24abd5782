"""The level of a piece of sound."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

SILENCE_DB = -90.0  # the floor of 16-bit sound, rounded up: nothing lower is told


def level_db(samples: NDArray[Any]) -> float:
    """Level in dB relative to a full-scale sine (AES17: that sine has 0 dBFS), SILENCE_DB at the lowest.

    samples: any shape; integers of full scale by their type, or floats between -1 and 1.
    """
    if samples.size == 0:
        return SILENCE_DB
    full = float(np.iinfo(samples.dtype).max) if np.issubdtype(samples.dtype, np.integer) else 1.0
    rms = float(np.sqrt(np.mean(np.square(samples.astype(np.float64) / full))))
    return SILENCE_DB if rms <= 0 else max(SILENCE_DB, float(20 * np.log10(rms * np.sqrt(2))))
