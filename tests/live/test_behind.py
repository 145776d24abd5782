"""Behind the face, live: worked out once a picture, and off by itself where the machine is too slow."""

import time

import numpy as np

from cartouche.core.pictures import Size, YuvColour, blank_frame
from cartouche.core.plates.model import WHOLE_RECT, Behind, Grade, Place, RoleContent
from cartouche.live.behind import AGAIN_S, FOR_S, MAX_MS, BehindFace


def place(**wish: object) -> Place:
    return Place.model_validate({"content": RoleContent(role="face"), "rect": WHOLE_RECT, **wish})


SOFT, AS_IT_IS = place(behind=Behind(way="soften")), place()


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
    assert behind.frame("f", frame, AS_IT_IS, 0.2) is frame, "nothing is wished: nothing is done"  # type: ignore[arg-type]
    assert behind.cost_ms is not None
    behind.idle()
    assert behind.cost_ms is None


def test_a_machine_that_cannot_keep_up_switches_it_off_says_so_and_tries_again() -> None:
    def slow(given: np.ndarray) -> np.ndarray:
        time.sleep(3 * MAX_MS / 1000)
        return given[:, :1] * 0 + 1

    behind, now_s = BehindFace(slow), 0.0
    while not behind.lowered and now_s < 3 * FOR_S:
        behind.frame("f", picture(), SOFT, now_s)  # type: ignore[arg-type]
        now_s += 0.2
    assert behind.lowered, "first the person is looked for less often"
    assert not behind.too_slow
    assert now_s > FOR_S, "one slow picture is no reason"
    while not behind.too_slow and now_s < 9 * FOR_S:
        behind.frame("f", picture(), SOFT, now_s)  # type: ignore[arg-type]
        now_s += 0.2
    assert behind.too_slow
    frame = picture()
    assert behind.frame("f", frame, SOFT, now_s) is frame, "the picture goes out as it is"  # type: ignore[arg-type]
    tinted = blank_frame(Size(320, 180), YuvColour(100, 150, 150))
    grey = place(behind=Behind(way="soften"), grade=Grade(saturation=-1.0))
    assert behind.frame("f", tinted, grey, now_s).u.max() == 128, "its colours stay as they are wished"
    assert behind.too_slow
    assert behind.frame("f", frame, SOFT, now_s + AGAIN_S + 1) is not frame  # type: ignore[arg-type]
    assert not behind.too_slow


def test_for_colours_alone_nobody_is_looked_for() -> None:
    def net(given: np.ndarray) -> np.ndarray:
        raise AssertionError("nobody is wanted")

    behind, tinted = BehindFace(net), blank_frame(Size(320, 180), YuvColour(150, 136, 122))
    assert behind.frame("f", tinted, place(grade=Grade(saturation=-1.0)), 0.0).u.max() == 128
    balanced = behind.frame("f", tinted, place(grade=Grade(balanced=True)), 1.0)
    assert abs(float(balanced.u.mean()) - 131) < 1.5


def test_the_picture_behind_is_taken_up_when_it_changes() -> None:
    behind, wish = BehindFace(lambda given: given[:, :1] * 0), place(behind=Behind(way="picture", feed_id="beach"))
    frame, first, second = (
        picture(),
        blank_frame(Size(640, 480), YuvColour(30, 128, 128)),
        blank_frame(Size(64, 48), YuvColour(220, 128, 128)),
    )
    for ground in (first, second):
        shown = behind.frame("f", frame, wish, 0.0, ground)  # type: ignore[arg-type]
        assert abs(float(shown.y.mean()) - float(ground.y.mean())) < 1


def test_a_light_is_measured_now_and_then_and_calmed() -> None:
    behind, wish = BehindFace(lambda given: given[:, :1] * 0 + 1), place(grade=Grade(balanced=True))
    tinted = blank_frame(Size(320, 180), YuvColour(150, 136, 122))
    first = behind.frame("f", tinted, wish, 0.0)
    assert abs(float(first.u.mean()) - 131) < 1.5
    other = blank_frame(Size(320, 180), YuvColour(150, 120, 122))
    assert float(behind.frame("f", other, wish, 0.1).u.mean()) < 118, "the light of a moment ago still counts"
