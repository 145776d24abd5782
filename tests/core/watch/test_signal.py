import pytest

from cartouche.core.watch.rate import Rate
from cartouche.core.watch.signal import LOST_AFTER_S, STARTING_FOR_S, feed_state


@pytest.mark.parametrize(
    ("wanted_since", "last_frame", "now", "state"),
    [
        (None, None, 10, "off"),
        (None, 9.9, 10, "off"),
        (5, None, 10, "starting"),
        (5, 4.0, 10, "starting"),
        (5, None, 5 + STARTING_FOR_S, "lost"),
        (5, 9.9, 10, "live"),
        (5, 10 - LOST_AFTER_S, 10, "lost"),
    ],
)
def test_states(wanted_since: float | None, last_frame: float | None, now: float, state: str) -> None:
    assert feed_state(wanted_since, last_frame, now) == state


def test_rate_counts_the_last_moments_only() -> None:
    rate = Rate()
    for number in range(300):
        rate.add(number / 60, 0.02)
    assert rate.frames_s(5.0) == pytest.approx(60, abs=1)
    assert rate.delay_s(5.0) == pytest.approx(0.02)
    assert rate.frames_s(9.0) == 0
    assert rate.delay_s(9.0) is None


def test_the_delay_is_the_median() -> None:
    rate = Rate()
    for delay in (0.01, 0.02, 9.0):
        rate.add(1.0, delay)
    assert rate.delay_s(1.0) == 0.02
