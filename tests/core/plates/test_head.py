"""The frame on the head: found in masks of drawn people, moved rarely and calmly."""

import numpy as np
import pytest

from benchmarks.face import person
from cartouche.core.pictures import Size
from cartouche.core.plates.head import (
    BETWEEN_S,
    HEAD_SHARE,
    LOOK_EVERY_S,
    PAUSE_AFTER_S,
    Head,
    HeadFollower,
    framed_on,
    head_of,
    on_canvas,
)
from cartouche.core.straighten.chain import FrameLink


@pytest.mark.parametrize("seed", range(12))
def test_the_head_is_found_in_a_mask(seed: int) -> None:
    drawn = person(seed)
    found = head_of(drawn.mask)
    assert found is not None
    assert abs(found.x - drawn.head.x) < 0.03
    assert abs(found.y - drawn.head.y) < 0.05
    assert 0.7 < found.high / drawn.head.high < 1.45


def test_nobody_no_head() -> None:
    assert head_of(np.zeros((144, 256), np.float32)) is None
    speck = np.zeros((144, 256), np.float32)
    speck[10:20, 10:20] = 1
    assert head_of(speck) is None


def looks(heads: list[Head], frame: FrameLink, speaks: bool = False) -> list[FrameLink]:
    follower, moves = HeadFollower(), []
    for number, head in enumerate(heads):
        moved = follower.see(head, frame, speaks, number * LOOK_EVERY_S)
        if moved is not None:
            frame = moved
            moves.append(moved)
    return moves


FAR = Head(0.3, 0.4, 0.09, 0.2)


def test_a_small_head_at_the_side_is_brought_to_the_middle_once() -> None:
    moves = looks([FAR] * 30, FrameLink())
    assert len(moves) == 1
    assert abs(FAR.high * moves[0].zoom - HEAD_SHARE) < 0.01
    assert abs(moves[0].x - FAR.x) < 0.01


def test_who_sways_or_nods_is_left_alone() -> None:
    swaying = [Head(0.3 + 0.03 * np.sin(step), 0.4 + 0.02 * np.cos(2 * step), 0.09, 0.2) for step in range(60)]
    assert looks(swaying, framed_on(FAR)) == []


def test_nothing_moves_in_mid_sentence_and_who_speaks_on_is_framed_all_the_same() -> None:
    few = int(PAUSE_AFTER_S / LOOK_EVERY_S)
    assert looks([FAR] * (few - 1), FrameLink(), speaks=True) == []
    assert len(looks([FAR] * (few + 4), FrameLink(), speaks=True)) == 1


def test_between_two_moves_there_is_time() -> None:
    other = Head(0.7, 0.4, 0.09, 0.2)
    moves = looks(([FAR] * 6 + [other] * 6) * 6, FrameLink())
    assert len(moves) <= 72 * LOOK_EVERY_S / BETWEEN_S + 1


def test_a_large_face_is_shown_whole_and_a_far_one_not_blown_up() -> None:
    assert framed_on(Head(0.5, 0.5, 0.4, 0.7)).zoom == 1.0
    assert framed_on(Head(0.5, 0.5, 0.02, 0.04)).zoom == 2.5


def test_a_mirrored_picture_has_its_head_on_the_other_side() -> None:
    feed = Size(1280, 720)
    mirror = np.array([[-1.0, 0, 1280], [0, 1, 0], [0, 0, 1]])
    there = on_canvas(FAR, mirror, feed, feed)
    assert abs(there.x - 0.7) < 1e-6
    assert abs(there.high - FAR.high) < 1e-6
