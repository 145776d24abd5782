"""Which pictures come too late to go out: after a moment in which a computer did other work, the next one is newer.

Real-time media drop what is late rather than queue it: a far end would else hold everything back that follows.
"""

import math

from cartouche.core.watch.rate import Rate

MAX_AGE_S = 0.16  # when it is made: what is left of 0.2 s is for encoding and the way to whoever looks
MAX_SENT_AGE_S = 0.19  # when it is sent: what is left is for the way
MAX_USUAL_AGE_S = 0.15  # where pictures are late as a rule (a slow computer, a held page), a late one is better than none
MAX_WITHOUT_S = 0.25  # after the first: a picture that stands is worse than one that is late


class Lateness:
    """Told of each picture that was made, or is to be sent; time is passed in."""

    def __init__(self, max_age_s: float = MAX_AGE_S) -> None:
        self._max_age_s = max_age_s
        self._ages, self._out_s, self._left_out = Rate(), -math.inf, False

    def drops(self, now_s: float, captured_s: float) -> bool:
        """Whether this one is left out. captured_s: of the newest that it shows, on now_s's clock."""
        age_s, usual_s = now_s - captured_s, self._ages.delay_s(now_s)
        self._ages.add(now_s, age_s)
        late = age_s > self._max_age_s and usual_s is not None and usual_s < MAX_USUAL_AGE_S
        self._left_out = late and (not self._left_out or now_s - self._out_s < MAX_WITHOUT_S)
        if not self._left_out:
            self._out_s = now_s
        return self._left_out
