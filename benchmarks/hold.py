"""Sheets changed under the camera: whether a half page ever goes out, how soon the new one shows, and that writing holds nothing."""

import json
import sys
import time
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from benchmarks.follower import SIZE, Case, _clockwise
from cartouche.bench.camera import Lying, paper_matrix, photograph, true_corners
from cartouche.bench.hand import Hand
from cartouche.bench.more_papers import Look, sheet
from cartouche.core.pictures import Corners, Frame
from cartouche.core.straighten.finder import Found, NotFound, find_page
from cartouche.core.straighten.follower import LOOK_EVERY_S, Follower
from cartouche.core.teach.hold import AutoHold, lies
from cartouche.models import page_nets

FPS = 15.0
HALF_MM = 6.0  # a page that lies so far from where it was is on its way


class Moment(NamedTuple):
    """A picture, where the page is (None: none is there), and whether it lies still."""

    frame: Frame
    corners: Corners | None
    still: bool


def with_hand(case: Case, frame: Frame, tip: tuple[float, float]) -> Frame:
    onto = case.camera.desk_matrix() @ paper_matrix(case.paper, case.lying)
    made = Frame(frame.y.copy(), frame.u.copy(), frame.v.copy(), 0.0)
    Hand(onto, SIZE, 0.9, (105.0, 150.0)).draw(made, tip)
    return made


def change(case: Case, number: int) -> Iterator[Moment]:
    """A page lies there; it is drawn off, by another side each time; another is laid a little elsewhere."""
    before, corners = case.still()
    for _ in range(8):
        yield Moment(case.noisy(before), corners, True)
    away = [(260.0, 30.0), (-250.0, 20.0), (30.0, 330.0), (-20.0, -330.0)][number % 4]
    for share in (0.04, 0.15, 0.35, 0.6, 1.0):
        lying = Lying(case.lying.x + share * away[0], case.lying.y + share * away[1], case.lying.turn_deg + 6 * share)
        frame = photograph(case.camera, case.desk, case.paper, lying, supersample=1)
        yield Moment(case.noisy(with_hand(case, frame, (150 + 0.4 * share * away[0], 240 + 0.3 * share * away[1]))), None, False)
    bare = photograph(case.camera, case.desk, None, case.lying, supersample=1)
    for _ in range(6):
        yield Moment(case.noisy(bare), None, False)
    to = Lying(case.lying.x + case.random.uniform(-6, 6), case.lying.y + case.random.uniform(-6, 6), case.random.uniform(-3, 3))
    other = sheet("A4", False, Look("text", 10 + number % 5))
    for share in (0.7, 0.4, 0.15):
        lying = Lying(to.x - share * away[0], to.y - share * away[1], to.turn_deg + 8 * share)
        yield Moment(case.noisy(photograph(case.camera, case.desk, other, lying, supersample=1)), None, False)
    after = photograph(case.camera, case.desk, other, to, supersample=1)
    for _ in range(30):
        yield Moment(case.noisy(after), true_corners(case.camera, other, to), True)


def writing(case: Case) -> Iterator[Moment]:
    """A hand that writes line after line, from margin to margin, and leaves now and then."""
    frame, corners = case.still()
    for step in range(60):
        line, along = divmod(step, 12)
        tip = (30.0 + 14.0 * along, 60.0 + 42.0 * line + 2.0 * np.sin(step * 2.0))
        yield Moment(case.noisy(frame if step % 20 > 17 else with_hand(case, frame, tip)), corners, True)


class Told(NamedTuple):
    half: int
    shows_s: float | None
    holds: int


def run(moments: Iterator[Moment], first: Corners) -> Told:
    """As the lesson runs it: each picture is judged before it is let out, the follower looks ten times a second."""
    nets, auto, follower = page_nets(), AutoHold(), Follower()
    corners, looked_s, half, holds, lay_s, shows_s = first, -1.0, 0, 0, None, None
    was_away = False
    for number, moment in enumerate(moments):
        now_s = number / FPS
        if now_s - looked_s >= LOOK_EVERY_S:
            looked_s = now_s

            def find(frame: Frame) -> Found | NotFound:
                return find_page(frame, nets)

            told = follower.look(moment.frame, corners, find, now_s)
            corners = told.moved_to if told.moved_to is not None else corners
        held_before = auto.held_since_s is not None
        out = auto.see(lies(moment.frame.y, corners), now_s)
        holds += int(auto.held_since_s is not None and not held_before)
        half += int(out and not moment.still)
        was_away = was_away or not moment.still
        if moment.still and was_away:
            lay_s = now_s if lay_s is None else lay_s
            if out and shows_s is None:
                shows_s = now_s - lay_s
    return Told(half, shows_s, holds)


def main(changes: int = 60, minutes: float = 60.0, first: int = 500) -> None:
    """first: seed of the first minute that is written, so that two processes share an hour."""
    half, shows, unheld, false_holds = 0, [], 0, 0
    for number in range(changes):
        case = Case(number)
        told = run(change(case, number), _clockwise(case.still()[1]))
        half, unheld = half + told.half, unheld + int(told.holds == 0)
        shows.append(told.shows_s if told.shows_s is not None else 9.0)
    written = 0
    while written < minutes * 60 * FPS / 60:
        case = Case(first + written)
        false_holds += run(writing(case), _clockwise(case.still()[1])).holds
        written += 1
    case = Case(1)
    frame, corners = case.still()
    begun = time.perf_counter()
    for _ in range(50):
        lies(frame.y, corners)
    ms = 1000 * (time.perf_counter() - begun) / 50
    print(json.dumps({
        "changes": changes, "half_pages": half, "not_held": unheld, "shows_median_s": round(float(np.median(shows)), 2),
        "shows_p95_s": round(float(np.percentile(shows, 95)), 2), "writing_min": round(written * 60 / FPS / 60, 1),
        "false_holds": false_holds, "ms": round(ms, 2),
    }))  # fmt: skip


if __name__ == "__main__":
    main(*(int(one) for one in sys.argv[1:4]))
