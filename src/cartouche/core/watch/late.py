"""Which pictures come too late to go out: after a moment in which a computer did other work, the next one is newer.

Real-time media drop what is late rather than queue it: a far end would else hold everything back that follows.
"""

from cartouche.core.watch.rate import Rate

MAX_AGE_S = 0.2
MAX_USUAL_AGE_S = 0.15  # where pictures are late as a rule (a slow computer, a held page), a late one is better than none
MAX_IN_A_ROW = 1  # where few go out a second, two would be half a second without a picture


class Lateness:
    """Told of each picture that was made; time is passed in."""

    def __init__(self) -> None:
        self._made, self._in_a_row = Rate(), 0
        self.dropped = 0

    def drops(self, now_s: float, captured_s: float) -> bool:
        """Whether this one is left out. captured_s: of the newest that it shows, on now_s's clock."""
        age_s, usual_s = now_s - captured_s, self._made.delay_s(now_s)
        self._made.add(now_s, age_s)
        late = age_s > MAX_AGE_S and usual_s is not None and usual_s < MAX_USUAL_AGE_S
        self._in_a_row = self._in_a_row + 1 if late and self._in_a_row < MAX_IN_A_ROW else 0
        self.dropped += int(self._in_a_row > 0)
        return self._in_a_row > 0
