"""Sheets kept while pages are written on: how like the page, how much of the hand is left, how long it takes; what keeps itself."""

import json
import sys
import time
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.follower import Case, _clockwise
from cartouche.bench.camera import paper_matrix
from cartouche.bench.hand import Hand
from cartouche.core.pictures import Corners, Frame, bgr_from_frame
from cartouche.core.sheets.memory import PageMemory
from cartouche.core.straighten.chain import Chain, SquareLink
from cartouche.core.straighten.geometry import transform
from cartouche.live.page_keeper import JOINED, LOOK_EVERY_S
from cartouche.live.straight import straight
from cartouche.web.pages_seen import FINISHED

LOOKS = 26
DIFFERS = 40  # of 255: what differs by more from the page is hand, or its shade
Picture = NDArray[np.uint8]


class Kept(NamedTuple):
    """ssim: structural similarity (Wang et al., 2004) to the page without hand.  hand: share of the page that is left of the hand: like
    neither the page now nor the page before it was written on; a stroke that was drawn under the hand and not seen since is missing.
    written: share that memory says was written."""

    ssim: float
    hand: float
    seconds: float
    written: float


class Written:
    """A page on which a hand draws lines, seen by one camera: with the hand, and the truth without."""

    def __init__(self, seed: int) -> None:
        self.case = Case(seed)
        frame, corners = self.case.still()
        self.clean = Frame(frame.y.copy(), frame.u.copy(), frame.v.copy(), 0.0)
        if seed % 4 == 3:
            _gloss(self.clean, corners)
        self.onto = self.case.camera.desk_matrix() @ paper_matrix(self.case.paper, self.case.lying)
        self.hand = Hand(self.onto, frame.size, 0.9, (105.0, 150.0))
        self.corners = _clockwise(corners)
        square = SquareLink(on=True, corners=(self.corners / np.array(frame.size)).tolist(), paper="A4", aspect=210 / 297)
        self.chain = Chain(square=square)

    def drawn_on(self, step: int) -> tuple[float, float]:
        """One more stroke; where the pen is then, paper mm."""
        y = 150.0 + 9.0 * (step // 8)
        points = np.array([(30.0 + 18.0 * (step % 8) + 2.0 * k, y + 3.0 * np.sin(k * 1.3 + step)) for k in range(9)])
        line = np.round(transform(self.onto, points) * 16).astype(np.int32)[:, None]
        for plane, value in zip(self.clean.planes, (70, 140, 120), strict=True):
            share = plane.shape[1] / self.clean.y.shape[1]
            cv2.polylines(plane, [np.round(line * share).astype(np.int32)], False, value, max(1, round(3 * share)), cv2.LINE_AA, 4)
        return float(points[-1, 0]), float(points[-1, 1])

    def seen(self, tip: tuple[float, float] | None, shade: float = 1.0) -> Frame:
        frame = Frame(self.clean.y.copy(), self.clean.u.copy(), self.clean.v.copy(), 0.0)
        if tip is not None:
            self.hand.draw(frame, tip)
        if shade < 1:
            frame = Frame(cv2.convertScaleAbs(frame.y, alpha=shade), frame.u, frame.v, 0.0)  # type: ignore[arg-type]
        return self.case.noisy(frame)


def _gloss(frame: Frame, corners: Corners) -> None:
    """A lamp mirrored in glossy paper."""
    x, y = (int(value) for value in corners.mean(axis=0))
    spot = np.zeros(frame.y.shape, np.float32)
    cv2.ellipse(spot, (x + 60, y - 80), (70, 40), 20, 0, 360, 1.0, -1)
    spot = cv2.GaussianBlur(spot, (0, 0), 18)
    frame.y[:] = np.clip(frame.y + spot * (255 - frame.y.astype(np.float32)), 0, 255).astype(np.uint8)


def ssim(a: Picture, b: Picture) -> float:
    """Mean structural similarity of luma, Gaussian window of 1.5 px."""
    x, y = (cv2.cvtColor(one, cv2.COLOR_BGR2GRAY).astype(np.float64) for one in (a, b))

    def soft(plane: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.asarray(cv2.GaussianBlur(plane, (11, 11), 1.5), np.float64)

    mx, my = soft(x), soft(y)
    xx, yy, xy = soft(x * x) - mx * mx, soft(y * y) - my * my, soft(x * y) - mx * my
    c1, c2 = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    return float((((2 * mx * my + c1) * (2 * xy + c2)) / ((mx * mx + my * my + c1) * (xx + yy + c2))).mean())


def keep(seed: int, size_px: float = 1000.0) -> Kept:
    page, memory = Written(seed), PageMemory()
    random = np.random.default_rng(seed)

    def flat(frame: Frame) -> Picture:
        return bgr_from_frame(straight(None, page.chain, frame, size_px)[1])

    bare = flat(page.seen(None))
    memory.see(bare, -LOOK_EVERY_S)
    tip = (60.0, 160.0)
    look = None
    for step in range(LOOKS):
        tip = page.drawn_on(step)
        away = step % 9 == 8
        look = memory.see(flat(page.seen(None if away else tip, 1 - 0.08 * random.random())), step * LOOK_EVERY_S)
    begun = time.perf_counter()
    pages = [flat(page.seen(tip)) for _ in range(JOINED)]
    memory.see(pages[-1], LOOKS * LOOK_EVERY_S)
    made = memory.joined(pages)
    seconds = time.perf_counter() - begun
    truth = flat(page.seen(None))
    made_5, truth_5, bare_5 = (cv2.medianBlur(one, 5) for one in (made, truth, bare))
    apart, added = (cv2.absdiff(made_5, one).max(axis=2) > DIFFERS for one in (truth_5, bare_5))
    assert look is not None
    return Kept(
        ssim(cv2.GaussianBlur(made, (0, 0), 0.8), cv2.GaussianBlur(truth, (0, 0), 0.8)),
        float((apart & added).mean()),
        seconds,
        look.written,
    )


def unwritten(seed: int) -> float:
    """A page over which a hand only points: what memory says was written."""
    page, memory = Written(seed), PageMemory()
    written = 0.0
    for step in range(16):
        frame = page.seen(None if step % 5 == 0 else (60.0 + 8 * step, 170.0))
        written = memory.see(bgr_from_frame(straight(None, page.chain, frame, 1000.0)[1]), step * LOOK_EVERY_S).written
    return written


def main(pages: int = 60) -> None:
    found = [keep(seed) for seed in range(pages)]
    idle = [unwritten(900 + seed) for seed in range(max(4, pages // 4))]
    print(json.dumps({
        "pages": pages, "ssim_median": round(float(np.median([one.ssim for one in found])), 3),
        "ssim_worst": round(min(one.ssim for one in found), 3), "hand_median": round(float(np.median([one.hand for one in found])), 5),
        "hand_worst": round(max(one.hand for one in found), 5),
        "under_two_thousandths": round(float(np.mean([one.hand < 0.002 for one in found])), 3),
        "seconds_p95": round(float(np.percentile([one.seconds for one in found], 95)), 2),
        "finished_kept": round(float(np.mean([one.written >= FINISHED for one in found])), 3),
        "false_keeps": int(sum(one >= FINISHED for one in idle)), "idle_pages": len(idle),
    }))  # fmt: skip


if __name__ == "__main__":
    main(*(int(one) for one in sys.argv[1:2]))
