"""How long the sound waits for the picture: the picture's own measured delay, held steady, changed without a click."""

from collections import deque

import numpy as np
from numpy.typing import NDArray

MEDIAN_OF = 90  # pictures
CHANGE_FROM_S = 0.02  # a smaller difference is neither seen nor worth a change
CHANGE_AFTER_S = 2.0  # it has lasted so long
MIN_DELAY_S, MAX_DELAY_S = 0.06, 1.0  # the blocks' own unevenness at least; later than the rest nobody waits
SENSOR_S = 0.033  # a camera exposes and reads out before any stamp: a frame at 30 a second, and late is borne better than early
BROWSER_WAY_S, PHONE_WAY_S = 0.019, 0.08  # from a block's last sample to Cartouche: sound takes 26-32 and 83-97 ms, half a block of it
EARLY_S, LATE_S = 0.045, 0.125  # of sound to picture, where viewers begin to see it (ITU-R BT.1359-1)


class LipDelay:
    """Told the delay of each picture that goes out; gives the delay of the sound."""

    def __init__(self) -> None:
        self.delay_s = MIN_DELAY_S
        self._recent: deque[float] = deque(maxlen=MEDIAN_OF)
        self._differs_since_s: float | None = None
        self._settled = False

    def picture(self, delay_s: float, now_s: float) -> None:
        """delay_s: from capture to the outgoing picture."""
        self._recent.append(delay_s)
        wanted = float(np.clip(np.median(self._recent), MIN_DELAY_S, MAX_DELAY_S))
        if not self._settled and len(self._recent) >= MEDIAN_OF // 6:  # the first time there is nothing to disturb
            self.delay_s, self._settled = wanted, True
            return
        if abs(wanted - self.delay_s) < CHANGE_FROM_S:
            self._differs_since_s = None
            return
        self._differs_since_s = now_s if self._differs_since_s is None else self._differs_since_s
        if now_s - self._differs_since_s >= CHANGE_AFTER_S:
            self.delay_s, self._differs_since_s = wanted, None

    def forget(self) -> None:
        """Another device shows the face or the page: what the one before took says nothing of it."""
        self._recent.clear()
        self._differs_since_s, self._settled = None, False


def crossfaded(before: NDArray[np.int16], after: NDArray[np.int16]) -> NDArray[np.int16]:
    """One block that begins as the first and ends as the second: (n,) each. Power stays the same throughout."""
    share = np.linspace(0, np.pi / 2, before.size)
    return np.asarray(np.clip(before * np.cos(share) + after * np.sin(share), -32768, 32767), np.int16)
