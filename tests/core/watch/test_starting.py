import numpy as np
import pytest

from cartouche.core.watch.signal import STARTING_FOR_S, Arrivals, Signal
from cartouche.core.watch.starting import patience_s, share_started, usual_start_s


def test_a_device_that_took_a_minute_is_given_more_than_a_minute() -> None:
    assert patience_s(None) == STARTING_FOR_S
    assert patience_s(2.0) == STARTING_FOR_S
    assert patience_s(60.0) == 90.0
    assert patience_s(1e9) == 180.0


def test_the_usual_time_follows_the_newest_by_half() -> None:
    assert usual_start_s(None, 12.0) == 12.0
    assert usual_start_s(10.0, 20.0) == 15.0
    assert usual_start_s(None, 1e9) == 180.0


def test_the_bar_ends_at_the_usual_time() -> None:
    assert share_started(3.0, None) is None
    assert share_started(3.0, 12.0) == pytest.approx(0.25)
    assert share_started(99.0, 12.0) == 1.0
    assert share_started(-1.0, 12.0) == 0.0


def test_its_state_is_starting_for_as_long_as_that() -> None:
    signal = Signal(encoded=False)
    assert signal.state(Arrivals(0.0, None, patience_s=patience_s(60.0)), 70.0) == "starting"
    assert signal.state(Arrivals(0.0, None), 70.0) == "asleep"


def test_waiting_for_somebody_comes_before_starting() -> None:
    assert Signal(encoded=False).state(Arrivals(0.0, None, waiting=True), 1.0) == "waiting"
    assert Signal(encoded=False).state(Arrivals(None, None, waiting=True), 1.0) == "off"


def test_pages_and_windows_may_stand_still_and_be_dark() -> None:

    signal = Signal(encoded=False, judged=False)
    for n in range(100):
        signal.see(np.zeros((90, 160), np.uint8), n / 10)
    assert signal.state(Arrivals(0.0, 0.5), 10.0) == "live"
    assert not signal.dark
    assert signal.state(Arrivals(0.0, 0.5, connected=False), 10.0) == "lost"
