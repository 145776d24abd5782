"""States from pictures, on a clock of their own; over all the bench's faults: benchmarks/states.py."""

from collections.abc import Callable

import cv2
import numpy as np
import pytest

from benchmarks.states import HEALTHY, IN_TIME_S, WANTED, false_alarms, notice_s
from cartouche.bench.devices import DEVICES, settled
from cartouche.core.watch.rate import Rate
from cartouche.core.watch.signal import (
    BLUR_LIMIT,
    FEED_LOST_AFTER_S,
    LOOK_EVERY_S,
    STARTING_FOR_S,
    STUCK_AFTER_CODEC_S,
    STUCK_AFTER_S,
    Arrivals,
    Lasting,
    Signal,
    blur,
    is_dark,
)

RANDOM = np.random.default_rng(2)
PAGE = settled(DEVICES["document-camera"](), 30.0).y


def noisy(mean: float, sigma: float = 2.0, tilt: float = 0.0) -> np.ndarray:
    ramp = np.linspace(-tilt, tilt, 320)[None, :]
    return np.clip(mean + ramp + RANDOM.normal(0, sigma, (180, 320)), 0, 255).astype(np.uint8)


def fed(pictures: Callable[[int], np.ndarray], seconds: float, *, encoded: bool = False) -> str:
    signal, now = Signal(encoded=encoded), 0.0
    for number in range(int(seconds * 30)):
        now = 100 + number / 30
        signal.see(pictures(number), now)
    return signal.state(Arrivals(100.0, now), now)


@pytest.mark.parametrize(
    ("arrivals", "now", "state"),
    [
        (Arrivals(None, None), 10, "off"),
        (Arrivals(None, 9.9), 10, "off"),
        (Arrivals(5, None), 10, "starting"),
        (Arrivals(5, 4.0), 10, "starting"),
        (Arrivals(5, None), 5 + STARTING_FOR_S, "asleep"),
        (Arrivals(5, None, connected=False), 6, "lost"),
        (Arrivals(5, 9.9), 10, "live"),
        (Arrivals(5, 10 - FEED_LOST_AFTER_S), 10, "asleep"),
        (Arrivals(5, 10 - FEED_LOST_AFTER_S, connected=False), 10, "lost"),
        (Arrivals(5, 9.9, connected=False), 10, "live"),
    ],
)
def test_when_pictures_came(arrivals: Arrivals, now: float, state: str) -> None:
    assert Signal(encoded=False).state(arrivals, now) == state


def test_a_covered_lens_is_black_with_its_own_noise() -> None:
    assert fed(lambda _: noisy(17), 2) == "black"
    assert fed(lambda _: noisy(17, sigma=5), 2) == "black"


def test_a_dim_room_is_not_black() -> None:
    assert fed(lambda _: noisy(22, sigma=5, tilt=9), 2) == "live"
    assert not is_dark(cv2.LUT(PAGE, (np.arange(256) * 0.15).astype(np.uint8)))


def test_a_hand_close_over_the_lens_is_not_a_black_camera() -> None:
    assert fed(lambda number: noisy(17) if 30 <= number < 42 else noisy(120, tilt=40), 2) == "live"


def test_darkness_is_noticed_in_the_very_picture() -> None:
    signal = Signal(encoded=False)
    assert signal.see(noisy(120, tilt=40), 1.0)
    assert not signal.see(noisy(17), 1.0 + LOOK_EVERY_S / 2), "no full look yet"
    assert signal.dark
    assert not signal.see(noisy(120, tilt=40), 1.0 + LOOK_EVERY_S * 0.9)
    assert not signal.dark


def test_the_same_picture_again_and_again_is_stuck() -> None:
    still = noisy(120, tilt=40)
    assert fed(lambda _: still, STUCK_AFTER_S + 0.5) == "stuck"
    assert fed(lambda _: still, STUCK_AFTER_S + 0.5, encoded=True) == "live", "a codec may repeat a still page"
    assert fed(lambda _: still, STUCK_AFTER_CODEC_S + 0.5, encoded=True) == "stuck"


def test_a_still_page_under_a_good_camera_is_not_stuck() -> None:
    assert fed(lambda _: noisy(120, sigma=0.6, tilt=40), 4) == "live"


def test_a_new_size_is_no_standstill() -> None:
    still = noisy(120, tilt=40)
    assert fed(lambda number: still if number % 8 else still[::2, ::2], 3) == "live"


@pytest.mark.parametrize("sigma", [6.0, 9.0])
def test_out_of_focus(sigma: float) -> None:
    soft = cv2.GaussianBlur(PAGE, (0, 0), sigma)

    assert fed(lambda number: cv2.add(soft, number % 7), 2.5) == "blurred"


def test_blur_grows_with_defocus_and_noise_does_not_pass_for_sharpness() -> None:
    values = []
    for sigma in (0.5, 1.5, 3, 6):
        soft = cv2.GaussianBlur(PAGE, (0, 0), sigma)
        grainy = np.clip(soft + RANDOM.normal(0, 4, soft.shape), 0, 255).astype(np.uint8)
        plain, with_noise = blur(soft), blur(grainy)
        assert plain is not None
        assert with_noise is not None
        assert with_noise == pytest.approx(plain, abs=0.06)
        values.append(plain)
    assert values == sorted(values)
    assert values[1] < BLUR_LIMIT < values[3]


def test_an_empty_sheet_has_no_focus_to_judge() -> None:
    assert blur(noisy(220, sigma=1.5)) is None


@pytest.mark.parametrize("fault", WANTED)
def test_each_fault_of_the_bench_is_found_in_time(fault: str) -> None:
    noticed = notice_s("clip-mirror", fault)  # type: ignore[arg-type]
    assert noticed is not None
    assert noticed <= IN_TIME_S


@pytest.mark.parametrize("setting", [HEALTHY[0], HEALTHY[9], HEALTHY[18], HEALTHY[29]], ids=str)
def test_healthy_settings_raise_no_alarm(setting) -> None:  # type: ignore[no-untyped-def]
    assert false_alarms(setting, 4.0) == 0


def test_a_new_start_forgets() -> None:
    signal, still = Signal(encoded=False), noisy(17)
    for number in range(90):
        signal.see(still, number / 30)
    signal.forget()
    assert not signal.dark
    assert signal.state(Arrivals(0.0, 2.9), 3.0) == "live"


def test_rate_counts_the_last_moments_only() -> None:
    rate = Rate()
    for number in range(300):
        rate.add(number / 60, 0.02)
    assert rate.fps(5.0) == pytest.approx(60, abs=1)
    assert rate.delay_s(5.0) == pytest.approx(0.02)
    assert rate.fps(9.0) == 0
    assert rate.delay_s(9.0) is None


def test_the_delay_is_the_median() -> None:
    rate = Rate()
    for delay in (0.01, 0.02, 9.0):
        rate.add(1.0, delay)
    assert rate.delay_s(1.0) == 0.02


def test_a_camera_that_was_just_opened_and_pauses_once_more_starts_and_does_not_sleep() -> None:
    signal = Signal(encoded=False)
    assert signal.state(Arrivals(wanted_since_s=10, last_s=10.5), 12.5) == "starting"
    assert signal.state(Arrivals(wanted_since_s=10, last_s=10.5), 13.5) == "asleep"
    assert signal.state(Arrivals(wanted_since_s=10, last_s=10.5, connected=False), 12.5) == "lost"


@pytest.mark.parametrize("seed", range(8))
def test_a_phone_that_is_back_on_a_busy_computer_does_not_flap(seed: int) -> None:
    """Offline for 20 s, then pictures with gaps of up to 2.5 s for a minute: told apart at once, and steady within 5 s."""
    random, signal, picture = np.random.default_rng(seed), Signal(encoded=True), noisy(120, tilt=40)
    signal.see(picture, 100.0)
    back = 120.0
    gaps = iter([0.1, 1.2, *random.choice([0.1, 0.6, 1.2, 2.5], 200, p=[0.6, 0.25, 0.1, 0.05])])
    due, last, changed, before = back, 100.0, [], "asleep"
    for tick in range(1200):
        now = back + tick / 20
        if now >= due:
            signal.see(picture + np.uint8(tick % 7), now)
            last, due = now, now + next(gaps)
        state = signal.state(Arrivals(50.0, last), now)
        if state != before:
            changed.append(now - back)
            before = state
    assert changed[0] < 0.2, "back at once"
    assert changed[-1] < 5.0
    assert len(changed) <= 3


def test_soft_pictures_now_and_then_are_neither_here_nor_there() -> None:
    """A condition counts once it has lasted, and until it has been over for as long."""
    lasting = Lasting(1.0)
    said = []
    for tick in range(400):
        now = tick / 20
        lasting.see((tick // 9) % 2 == 0 if tick < 200 else tick < 300, now)  # changes every half second, then stays, then is over
        said.append(lasting.on(now))
    assert not any(said[:210])
    assert said.index(True) == pytest.approx(220, abs=2)
    assert said[310]
    assert not said[325]
