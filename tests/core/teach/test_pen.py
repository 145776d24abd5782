"""The frame goes with the pen: over bench pages that a hand writes on, whose tip the bench knows."""

import numpy as np
import pytest

from benchmarks.sheets import Written
from cartouche.core.pictures import Size, bgr_from_frame
from cartouche.core.straighten.chain import FrameLink
from cartouche.core.straighten.framing import seen_share
from cartouche.core.teach.pen import BETWEEN_S, LOOK_EVERY_S, PAGE_PX, PenFollower, Tip, tip_of
from cartouche.live.straight import straight

A4_MM = (210.0, 297.0)
CANVAS, PLACE = Size(210, 297), Size(1280, 720)
CLOSE = FrameLink(zoom=2.4, x=0.5, y=0.2)


def flat(page: Written, tip: tuple[float, float] | None) -> np.ndarray:
    return bgr_from_frame(straight(None, page.chain, page.seen(tip), PAGE_PX)[1])


@pytest.mark.parametrize("seed", [1, 5])
def test_the_tip_is_found_within_a_finger(seed: int) -> None:
    page, pen = Written(seed), PenFollower()
    pen.see(flat(page, None), CLOSE, CANVAS, PLACE, 0.0)
    off = []
    for step, mm in enumerate([(40.0, 60.0), (90.0, 110.0), (150.0, 160.0), (60.0, 220.0), (140.0, 235.0)]):
        pen.see(flat(page, mm), CLOSE, CANVAS, PLACE, 0.5 + 0.5 * step)
        assert pen.tip is not None
        off.append(np.hypot(pen.tip.x * A4_MM[0] - mm[0], pen.tip.y * A4_MM[1] - mm[1]))
    assert max(off) < 16.0, off


def test_lines_down_the_page_stay_in_sight_and_the_frame_moves_rarely() -> None:
    page, pen, frame = Written(2), PenFollower(), CLOSE
    pen.see(flat(page, None), frame, CANVAS, PLACE, 0.0)
    out_of_sight, moves, looks, now_s = 0, 0, 0, 0.0
    for line in range(9):
        for along in range(0, 10, 3):
            written = (25.0 + 17.0 * along, 45.0 + 24.0 * line)
            now_s += LOOK_EVERY_S
            rests = along == 9
            for _ in range(4 if rests else 1):  # at the end of a line the pen rests
                now_s += LOOK_EVERY_S * rests
                moved = pen.see(flat(page, written), frame, CANVAS, PLACE, now_s)
                if moved is not None:
                    assert rests, "it moved during a stroke"
                    frame, moves = moved, moves + 1
            seen = seen_share(frame, CANVAS, PLACE)
            looks += 1
            out_of_sight += abs(written[1] / A4_MM[1] - frame.y) > seen.height / 2
    assert out_of_sight == 0
    assert 2 <= moves <= 5, moves
    assert frame.x == CLOSE.x  # all of the line is in sight: nothing moves sideways


def arm(x: int, y: int) -> np.ndarray:
    """A bare page with an arm from the lower right whose tip is at x, y of 170 x 240."""
    page = np.full((240, 170, 3), 235, np.uint8)
    for share in np.linspace(0, 1, 60):
        at = (round(x + share * (175 - x)), round(y + share * (250 - y)))
        page[max(0, at[1] - 8) : at[1] + 8, max(0, at[0] - 8) : at[0] + 8] = (80, 110, 160)
    return page


def run(tips: list[tuple[int, int] | None], frame: FrameLink = CLOSE) -> list[FrameLink]:
    pen, moves = PenFollower(), []
    pen.see(np.full((240, 170, 3), 235, np.uint8), frame, CANVAS, PLACE, -LOOK_EVERY_S)
    for number, tip in enumerate(tips):
        page = arm(*tip) if tip is not None else np.full((240, 170, 3), 235, np.uint8)
        moved = pen.see(page, frame, CANVAS, PLACE, number * LOOK_EVERY_S)
        if moved is not None:
            frame = moved
            moves.append(moved)
    return moves


def test_a_hand_that_passes_or_is_away_moves_nothing() -> None:
    assert run([(60, 60), (70, 150), (60, 60), None, None, (70, 200), None] * 3) == []


def test_the_whole_page_is_never_moved() -> None:
    assert run([(60, 180)] * 20, FrameLink()) == []
    assert run([(60, 180)] * 20, CLOSE.model_copy(update={"on": False})) == []


def test_who_rests_out_of_sight_is_brought_into_it_once() -> None:
    moves = run([(60, 60)] * 4 + [(60, 180)] * 20)
    assert len(moves) == 1
    assert abs(moves[0].y - 0.79) < 0.06  # the tip above the middle: there is room for lines to come


def test_moves_have_time_between_them() -> None:
    waits = int(BETWEEN_S / LOOK_EVERY_S)
    moves = run([(60, 60)] * 4 + ([(60, 180)] * 5 + [(60, 40)] * 5) * 4)
    assert len(moves) <= 40 // waits + 1


def test_no_hand_no_tip() -> None:
    assert tip_of(np.zeros((20, 20), bool)) is None
    island = np.zeros((20, 20), bool)
    island[5:9, 5:9] = True
    assert tip_of(island) is None  # it does not come in over the edge
    reach = np.zeros((20, 40), bool)
    reach[10, 8:40] = True
    assert tip_of(reach) == Tip(pytest.approx(0.25, abs=0.06), pytest.approx(0.525, abs=0.01))
