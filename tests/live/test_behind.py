"""Behind the face, live: worked out once a picture, and off by itself where the machine is too slow."""

import time

import numpy as np

from cartouche.core.pictures import Size, YuvColour, blank_frame
from cartouche.core.plates.model import Behind
from cartouche.live.behind import AGAIN_S, FOR_S, MAX_MS, BehindFace

SOFT = Behind(way="soften")


def picture() -> object:
    return blank_frame(Size(320, 180), YuvColour(100, 128, 128))


def test_one_picture_is_worked_out_once_however_often_it_is_asked_for() -> None:
    asked = []

    def net(given: np.ndarray) -> np.ndarray:
        asked.append(given.shape)
        return given[:, :1] * 0 + 1

    behind, frame = BehindFace(net), picture()
    first = behind.frame("f", frame, SOFT, 0.0)  # type: ignore[arg-type]
    assert behind.frame("f", frame, SOFT, 0.1) is first  # type: ignore[arg-type]
    assert asked == [(1, 3, 144, 256)]
    assert behind.frame("f", frame, Behind(), 0.2) is frame, "nothing is wished: nothing is done"  # type: ignore[arg-type]
    assert behind.cost_ms is not None
    behind.idle()
    assert behind.cost_ms is None


def test_a_machine_that_cannot_keep_up_switches_it_off_says_so_and_tries_again() -> None:
    def slow(given: np.ndarray) -> np.ndarray:
        time.sleep(2 * MAX_MS / 1000)
        return given[:, :1] * 0 + 1

    behind, now_s = BehindFace(slow), 0.0
    while not behind.too_slow and now_s < 3 * FOR_S:
        behind.frame("f", picture(), SOFT, now_s)  # type: ignore[arg-type]
        now_s += 0.2
    assert behind.too_slow
    assert now_s > FOR_S, "one slow picture is no reason"
    frame = picture()
    assert behind.frame("f", frame, SOFT, now_s) is frame, "the picture goes out as it is"  # type: ignore[arg-type]
    assert behind.frame("f", frame, SOFT, now_s + AGAIN_S + 1) is not frame  # type: ignore[arg-type]
    assert not behind.too_slow
