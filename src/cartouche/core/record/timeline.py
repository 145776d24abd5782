"""The recording's own time: what was recorded, one piece of time after another, without what lay between."""

from bisect import bisect_right
from typing import NamedTuple


class Span(NamedTuple):
    """From one press to the next. from_s, to_s: moments of capture, to_s None while it runs.  at_s: where it begins in the recording."""

    from_s: float
    to_s: float | None
    at_s: float


class Timeline:
    """Moments of capture (monotonic, seconds) to moments of the recording (seconds from its beginning)."""

    def __init__(self) -> None:
        self._spans: list[Span] = []

    @property
    def runs(self) -> bool:
        return bool(self._spans) and self._spans[-1].to_s is None

    def go_on(self, captured_s: float) -> None:
        """From this moment on it is recorded, right behind what was before. Nothing where it runs already."""
        if not self.runs:
            begins_s = max(captured_s, (self._spans[-1].to_s or captured_s) if self._spans else captured_s)
            self._spans.append(Span(begins_s, None, self.length_s(begins_s)))

    def pause(self, captured_s: float) -> None:
        """Up to this moment. Nothing where it does not run."""
        if self.runs:
            last = self._spans[-1]
            self._spans[-1] = last._replace(to_s=max(captured_s, last.from_s))

    def at(self, captured_s: float) -> float | None:
        """None for what was not recorded."""
        number = bisect_right(self._spans, captured_s, key=lambda span: span.from_s) - 1
        if number < 0:
            return None
        span = self._spans[number]
        return None if span.to_s is not None and captured_s > span.to_s else span.at_s + captured_s - span.from_s

    def length_s(self, now_s: float) -> float:
        if not self._spans:
            return 0.0
        last = self._spans[-1]
        return last.at_s + max(0.0, (last.to_s if last.to_s is not None else now_s) - last.from_s)
