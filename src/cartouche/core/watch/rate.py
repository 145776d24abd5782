"""Frames a second and delay, over the last moments."""

from collections import deque

WINDOW_S = 2.0


class Rate:
    """Counts arrivals over WINDOW_S; time is passed in."""

    def __init__(self) -> None:
        self._arrivals: deque[tuple[float, float]] = deque(maxlen=240)

    def add(self, now_s: float, delay_s: float = 0.0) -> None:
        self._arrivals.append((now_s, delay_s))

    def fps(self, now_s: float) -> float:
        recent = [t for t, _ in tuple(self._arrivals) if now_s - t <= WINDOW_S]
        if len(recent) < 2:
            return 0.0
        return (len(recent) - 1) / max(recent[-1] - recent[0], 1e-6)

    def delay_s(self, now_s: float) -> float | None:
        """Median delay of the recent arrivals, None without any."""
        recent = sorted(d for t, d in tuple(self._arrivals) if now_s - t <= WINDOW_S)
        return recent[len(recent) // 2] if recent else None
