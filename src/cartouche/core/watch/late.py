"""Which pictures come too late to go out: after a moment in which a computer did other work, the next one is newer.

Real-time media drop what is late rather than queue it: a far end would else hold everything back that follows.
"""

from cartouche.core.watch.rate import Rate

MAX_AGE_S = 0.2
MAX_USUAL_AGE_S = 0.15  # where pictures are late as a rule (a slow computer, a held page), a late one is better than none


class Lateness:
    """Told of each picture that was made; time is passed in. Never leaves out two in a row: that may be half a second without one."""

    def __init__(self) -> None:
        self._made, self._left_out = Rate(), False

    def drops(self, now_s: float, captured_s: float) -> bool:
        """Whether this one is left out. captured_s: of the newest that it shows, on now_s's clock."""
        age_s, usual_s = now_s - captured_s, self._made.delay_s(now_s)
        self._made.add(now_s, age_s)
        self._left_out = not self._left_out and age_s > MAX_AGE_S and usual_s is not None and usual_s < MAX_USUAL_AGE_S
        return self._left_out
