"""The frame of a close look goes with the line being written: it moves rarely, calmly, and never during a stroke."""

from collections import deque
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Size
from cartouche.core.sheets.memory import Mask, PageMemory
from cartouche.core.straighten.chain import FrameLink
from cartouche.core.straighten.framing import seen_share, within

LOOK_EVERY_S = 0.25
PAGE_PX = 240.0  # longer side of the page that is looked at: a finger is five px wide there
TIP_SHARE = 0.01  # of the hand's spots: those farthest in, whose middle is the tip
CALM_UP, CALM_DOWN, CALM_SIDE = 0.40, 0.26, 0.42  # from the middle, in shares of what is in sight: within, nothing moves
PUT_AT_DOWN, PUT_AT_SIDE = -0.16, -0.05  # where the tip comes to stand: there is room for lines to come
OUTSIDE_S = 0.5  # a hand that only passes moves nothing
RESTS_WITHIN, RESTS_S = 0.012, 0.5  # of the page's longer side, in so long: the pen is up, or thinks
LONGEST_S = 3.0  # who writes on without a rest sees nothing of it: then it moves all the same
LEAST_MOVE = 0.01  # of the page
BETWEEN_S = 2.0  # from one move to the next


class Tip(NamedTuple):
    """Shares of the page's width and height, from its upper left."""

    x: float
    y: float


def tip_of(hand: Mask) -> Tip | None:
    """Where a hand writes: the spots of its largest piece that lie farthest from where it comes in over the page's edge.

    hand: (h, w) bool, on the straightened page.  None where no hand comes in.
    """
    count, labels, stats, _ = cv2.connectedComponentsWithStats(hand.astype(np.uint8), connectivity=8)
    if count < 2:
        return None
    piece = labels == 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))
    edge = piece.copy()
    edge[1:-1, 1:-1] = False
    if not edge.any():
        return None
    comes_in = np.argwhere(edge).mean(axis=0)
    spots = np.argwhere(piece).astype(np.float64)
    apart = np.hypot(*(spots - comes_in).T)
    farthest = spots[np.argsort(apart)[-max(3, round(TIP_SHARE * len(spots))) :]].mean(axis=0) + 0.5
    return Tip(float(farthest[1] / hand.shape[1]), float(farthest[0] / hand.shape[0]))


class PenFollower:
    """Of one page. Time is passed in, seconds."""

    def __init__(self) -> None:
        self._memory = PageMemory()
        self._tips: deque[tuple[float, Tip]] = deque(maxlen=8)
        self._outside_since_s: float | None = None
        self._moved_s = -np.inf
        self.tip: Tip | None = None

    def see(self, page: NDArray[np.uint8], frame: FrameLink, canvas: Size, place: Size, now_s: float) -> FrameLink | None:
        """One look; how close the page should be looked at from now on, None where that stays as it is.

        page: (h, w, 3) BGR, straightened, whole, about PAGE_PX.  canvas, place: of the page and the room it is shown in, each in its
        own unit.
        """
        self._memory.see(page, now_s)
        self.tip = tip_of(self._memory.hand)
        if self.tip is None or not frame.on or frame.zoom <= 1:
            self._tips.clear()
            self._outside_since_s = None
            return None
        self._tips.append((now_s, self.tip))
        seen = seen_share(frame, canvas, place)
        if _is_calm(self._middle(), frame, seen):
            self._outside_since_s = None
            return None
        self._outside_since_s = now_s if self._outside_since_s is None else self._outside_since_s
        outside_s = now_s - self._outside_since_s
        due = outside_s >= OUTSIDE_S and (self._rests(page.shape, now_s) or outside_s >= LONGEST_S)
        if not due or now_s - self._moved_s < BETWEEN_S:
            return None
        moved = _onto(self._middle(), frame, seen)
        if abs(moved.x - frame.x) < LEAST_MOVE and abs(moved.y - frame.y) < LEAST_MOVE:
            return None  # at the page's edge
        self._moved_s, self._outside_since_s = now_s, None
        return moved

    def _middle(self) -> Tip:
        """Of the last three looks: a mask that fails once moves nothing."""
        newest = np.array([tip for _, tip in list(self._tips)[-3:]])
        return Tip(*(float(value) for value in np.median(newest, axis=0)))

    def _rests(self, shape: tuple[int, ...], now_s: float) -> bool:
        """Whether the tip has stood still for a moment."""
        late = [tip for at_s, tip in self._tips if now_s - at_s <= RESTS_S + 1e-6]
        if len(late) < 3:
            return False
        spots = np.array(late) * (shape[1], shape[0]) / max(shape[:2])
        return float(np.hypot(*np.ptp(spots, axis=0))) < RESTS_WITHIN


def _apart(tip: Tip, frame: FrameLink, seen: Size) -> tuple[float, float]:
    """How far right of and below the middle of what is in sight, in shares of it; 0 where all of the page is in sight that way."""
    right = (tip.x - frame.x) / seen.width if seen.width < 1 else 0.0
    return right, (tip.y - frame.y) / seen.height if seen.height < 1 else 0.0


def _is_calm(tip: Tip, frame: FrameLink, seen: Size) -> bool:
    right, down = _apart(tip, frame, seen)
    return abs(right) < CALM_SIDE and -CALM_UP < down < CALM_DOWN


def _onto(tip: Tip, frame: FrameLink, seen: Size) -> FrameLink:
    """Only along the way in which it has left what is in sight: a line that goes on moves nothing up or down."""
    right, down = _apart(tip, frame, seen)
    x = frame.x if abs(right) < CALM_SIDE else within(tip.x - PUT_AT_SIDE * seen.width, seen.width)
    y = frame.y if -CALM_UP < down < CALM_DOWN else within(tip.y - PUT_AT_DOWN * seen.height, seen.height)
    return FrameLink(zoom=frame.zoom, x=x, y=y)
