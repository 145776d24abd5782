"""Following a page: moves are followed, hands, dimmed light and hunting focus are not. More cases: benchmarks/follower.py."""

import numpy as np
import pytest

from benchmarks.follower import Case, _clockwise, run
from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.core.straighten.finder import Found, NotFound
from cartouche.core.straighten.follower import Follower
from cartouche.core.straighten.identity import likeness
from cartouche.core.straighten.paper import Proportions

SEED = 1  # a cloth desk


def first(case: Case) -> np.ndarray:
    return _clockwise(case.still()[1])


@pytest.mark.parametrize("name", ["bump", "slide"])
def test_a_move_is_followed_within_half_a_second(name: str) -> None:
    case = Case(SEED)
    settled_s, moves, _, _ = run(getattr(case, name)(), first(case))
    assert settled_s is not None
    assert settled_s <= 0.5
    assert moves >= 1


@pytest.mark.parametrize("name", ["hand", "dim", "focus_hunt", "nothing"])
def test_what_is_no_move_moves_nothing(name: str) -> None:
    case = Case(SEED)
    _, moves, _, jitter = run(getattr(case, name)(), first(case))
    assert moves == 0
    assert jitter < 1e-6


def test_another_page_at_the_same_place_is_told_once() -> None:
    case = Case(SEED)
    settled_s, _, new_pages, _ = run(case.swap(), first(case))
    assert settled_s is not None
    assert new_pages == 1


GREY = blank_frame(Size(640, 360), YuvColour(128, 128, 128))
QUAD = np.array([[100.0, 60], [400, 60], [400, 300], [100, 300]])


def found(corners: np.ndarray, sure: float = 0.99) -> Found:
    return Found(corners, sure, Proportions(1.25, None, 0.05), None, True)


def test_unseen_it_waits_then_is_lost_and_comes_back() -> None:
    follower = Follower()

    def nothing(_: Frame) -> NotFound:
        return NotFound("no page")

    states = [follower.look(GREY, QUAD, nothing, 0.1 * step).state for step in range(14)]
    assert states[0] == "waiting"
    assert states[-1] == "lost"
    assert follower.look(GREY, QUAD, lambda _: found(QUAD), 2.0).state == "waiting"


def test_two_looks_must_agree_and_an_unsure_one_does_not_count() -> None:
    follower = Follower()
    moved, elsewhere = QUAD + 60, QUAD + np.array([90, -20])
    assert follower.look(GREY, QUAD, lambda _: found(moved), 0.0).moved_to is None
    assert follower.look(GREY, QUAD, lambda _: found(elsewhere), 0.1).moved_to is None
    assert follower.look(GREY, QUAD, lambda _: found(elsewhere, 0.6), 0.2).moved_to is None
    assert follower.look(GREY, QUAD, lambda _: found(elsewhere), 0.3).moved_to is None
    told = follower.look(GREY, QUAD, lambda _: found(np.roll(elsewhere, 1, axis=0)), 0.4)
    assert told.moved_to is not None
    assert np.allclose(told.moved_to, elsewhere)


def test_a_page_of_other_proportions_must_lie_still() -> None:
    follower = Follower()
    other = QUAD * (1.4, 1.0)
    looks = [follower.look(GREY, QUAD, lambda _: found(other), 0.1 * step).moved_to is not None for step in range(10)]
    assert not any(looks[:7])
    assert any(looks)


def test_likeness() -> None:
    random = np.random.default_rng(1)
    a, b = (random.normal(0, 20, (256, 192)).astype(np.float32) for _ in range(2))
    covered = a.copy()
    covered[:100, :80] = 0
    assert likeness(a, a) == pytest.approx(1.0)
    assert likeness(a, covered) > 0.9
    assert likeness(a, b) < 0.2
    assert likeness(np.zeros((256, 192), np.float32), np.zeros((256, 192), np.float32)) == 1.0
