"""Which pictures come too late to go out: after a moment in which a computer did other work, the next one is newer.

Real-time media drop what is late rather than queue it: a far end would else hold everything back that follows.
"""

import math

from cartouche.core.watch.rate import Rate

MAX_AGE_S = 0.16  # what is left of 0.2 s is for encoding and the way to whoever looks
MAX_SENT_AGE_S = 0.19  # of one that was in time and waited to be sent: what is left is for the way
MAX_USUAL_AGE_S = 0.15  # where pictures are late as a rule (a slow computer, a held page), a late one is better than none
MAX_WITHOUT_S = 0.25  # after the first: a picture that stands is worse than one that is late


class _LeftOut:
    """What is late is left out, but never so long that the picture stands."""

    def __init__(self) -> None:
        self._out_s, self._left_out = -math.inf, True  # the first goes out however late

    def drops(self, now_s: float, late: bool) -> bool:
        self._left_out = late and (not self._left_out or now_s - self._out_s < MAX_WITHOUT_S)
        if not self._left_out:
            self._out_s = now_s
        return self._left_out


class Lateness:
    """Told of each picture that was made; time is passed in."""

    def __init__(self) -> None:
        self._made, self._left_out = Rate(), _LeftOut()

    def drops(self, now_s: float, captured_s: float) -> bool:
        """Whether this one is left out. captured_s: of the newest that it shows, on now_s's clock."""
        age_s, usual_s = now_s - captured_s, self._made.delay_s(now_s)
        self._made.add(now_s, age_s)
        return self._left_out.drops(now_s, age_s > MAX_AGE_S and usual_s is not None and usual_s < MAX_USUAL_AGE_S)


class Waiting:
    """Told of each picture that waited to be sent to one viewer; time is passed in."""

    def __init__(self) -> None:
        self._left_out = _LeftOut()

    def drops(self, now_s: float, until_s: float) -> bool:
        """Whether this one is left out. until_s: see `sent_until_s`."""
        return self._left_out.drops(now_s, now_s > until_s)


def sent_until_s(now_s: float, captured_s: float) -> float:
    """Until when a picture that is handed on now may be sent; endless where it was late already, which is not for once then."""
    return captured_s + MAX_SENT_AGE_S if now_s - captured_s <= MAX_AGE_S else math.inf
