"""The one-euro filter (Casiez, Roussel and Vogel, CHI 2012): steady while the hand is slow, without lag while it is quick."""

import math

MIN_CUTOFF_HZ, BETA, SPEED_CUTOFF_HZ = 2.2, 0.9, 1.0  # speeds in shares of the picture's width each second


class OneEuro:
    """Of one coordinate. Time is passed in, seconds."""

    def __init__(self) -> None:
        self._value: float | None = None
        self._speed, self._at_s = 0.0, 0.0

    def see(self, value: float, at_s: float) -> float:
        """The newest value, less the hand's tremor."""
        if self._value is None:
            self._value, self._at_s = value, at_s
            return value
        step_s = max(at_s - self._at_s, 1e-3)
        self._at_s = at_s
        self._speed += _weight(SPEED_CUTOFF_HZ, step_s) * ((value - self._value) / step_s - self._speed)
        cutoff = MIN_CUTOFF_HZ + BETA * 60 * abs(self._speed)
        self._value += _weight(cutoff, step_s) * (value - self._value)
        return self._value


def _weight(cutoff_hz: float, step_s: float) -> float:
    return 1 / (1 + 1 / (2 * math.pi * cutoff_hz * step_s))


class SmoothPoint:
    """Of a pointer, in shares of the picture."""

    def __init__(self) -> None:
        self._x, self._y = OneEuro(), OneEuro()

    def see(self, x: float, y: float, at_s: float) -> tuple[float, float]:
        return self._x.see(x, at_s), self._y.see(y, at_s)
