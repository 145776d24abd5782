"""What is known of a page that is being written on: the page itself, learned wherever and whenever no hand is over it.

A hand comes in from the page's border, is large, and moves; writing is thin and stays. So what differs from the page as it is known, in
one large piece that touches the border, is left out with the shade about it, until it has lain still for so long that it belongs to
the page. All decisions are made on a coarse picture; the page itself is kept at full detail.
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]  # (h, w, 3) BGR
Mask = NDArray[np.bool_]

COARSE_PX = 240  # longer side: a finger is five px wide there, a stroke less than one
DIFFERS, SHADE, MOVES = 15.0, 5.0, 7.0  # luma
COLOUR_WEIGHS = 1.6
SAMPLED = 3  # every third spot each way says how bright paper is
STROKE_PX = 5  # thinner is writing
LEAST_HAND = 0.004  # of the page
SHADE_REACH_PX = 22
BORDER_PX = 3
AROUND_PX = 5  # about a hand nothing is learned: its edge is soft
LAID_S = 12.0  # a large thing that has lain still for so long belongs to the page
ANOTHER_PAGE, ANOTHER_S = 0.6, 1.0  # share that differs, and for how long: everything is learned afresh
LEARNS, NEWS = 0.5, 14  # of what is kept, with each look: noise is averaged away; what differs by more (of 255) is new and taken whole


class Look(NamedTuple):
    """hand: share of the page under a hand and its shade, 0-1.  moving: share that moves.  written: share of the page that has
    changed for good since it was first seen."""

    hand: float
    moving: float
    written: float


class PageMemory:
    """Of one page, at one size. Time is passed in, seconds."""

    def __init__(self) -> None:
        self.page: Picture | None = None
        self._coarse = self._before = self._first = np.zeros((0, 0, 3), np.float32)
        self._still_since: NDArray[np.float64] = np.zeros((0, 0))
        self._other_since_s: float | None = None
        self._doubt: Mask = np.zeros((0, 0), bool)
        self._begun_s = 0.0
        self.free: Mask = np.zeros((0, 0), bool)  # where the newest look saw the page itself
        self.hand: Mask = np.zeros((0, 0), bool)  # where it saw a hand and its shade, coarse

    def forget(self) -> None:
        self.page = None

    def see(self, page: Picture, now_s: float) -> Look:
        """One look at the straightened page, whole and in the same size each time; another size begins afresh."""
        coarse = _coarse(page)
        if self.page is None or self.page.shape != page.shape:
            return self._begin(page, coarse, now_s)
        self._still_since[_changed(coarse, self._before) > MOVES] = now_s
        self._before = coarse
        lit = _lit_as(coarse, self._coarse)
        differs = _changed(lit, self._coarse)
        if self._is_another(differs, now_s):
            return self._begin(page, coarse, now_s)
        still_s = now_s - self._still_since
        covers = no_paper(coarse)
        uncovered = (lit[..., 0] > self._coarse[..., 0] + SHADE) & ~_grown(covers, AROUND_PX)
        self.hand = hand = (hand_in(differs) | self._doubted(covers, now_s)) & ~uncovered & (still_s < LAID_S)
        moving = _grown(still_s < 0.05, 3) & ~uncovered
        self.free = (~_grown(hand, AROUND_PX) & ~moving) | uncovered
        self._doubt &= ~self.free
        self._learn(page, coarse, uncovered)
        return Look(float(hand.mean()), float(moving.mean()), self._written())

    def _begin(self, page: Picture, coarse: NDArray[np.float32], now_s: float) -> Look:
        self.page = page.copy()
        self._coarse, self._before, self._first = coarse.copy(), coarse, coarse.copy()
        self._still_since = np.full(coarse.shape[:2], now_s)
        self._other_since_s = None
        self._doubt, self._begun_s = no_paper(coarse), now_s
        self.free, self.hand = ~_grown(self._doubt, AROUND_PX), self._doubt.copy()
        return Look(float(self._doubt.mean()), 0.0, 0.0)

    def _doubted(self, covers: Mask, now_s: float) -> Mask:
        """What may be a hand that was there from the beginning: no paper, from the border inwards, where the first look had the like."""
        if not self._doubt.any() or now_s - self._begun_s > LAID_S:
            self._doubt[:] = False
            return self._doubt
        return np.asarray(covers & _grown(self._doubt, SHADE_REACH_PX), bool)

    def _is_another(self, differs: NDArray[np.float32], now_s: float) -> bool:
        if float((differs > DIFFERS).mean()) < ANOTHER_PAGE:
            self._other_since_s = None
            return False
        self._other_since_s = now_s if self._other_since_s is None else self._other_since_s
        return now_s - self._other_since_s >= ANOTHER_S

    def _learn(self, page: Picture, coarse: NDArray[np.float32], uncovered: Mask) -> None:
        """What comes free is taken as it is, the rest bit by bit."""
        assert self.page is not None
        self._coarse += np.maximum(LEARNS * self.free, uncovered).astype(np.float32)[..., None] * (coarse - self._coarse)
        free = cv2.resize(self.free.astype(np.float32), page.shape[1::-1], interpolation=cv2.INTER_LINEAR)
        apart = cv2.cvtColor(cv2.absdiff(page, self.page), cv2.COLOR_BGR2GRAY)
        fine = np.where(apart > NEWS, free, np.float32(LEARNS) * free)
        cv2.blendLinear(page, self.page, fine, 1 - fine, dst=self.page)

    def _written(self) -> float:
        fine = _changed(_lit_as(self._coarse, self._first), self._first) > 0.6 * DIFFERS
        return float(fine.mean())

    @property
    def unseen(self) -> float:
        """Share of the page that has not been seen without a hand yet, as far as is known."""
        return float(self._doubt.mean()) if self._doubt.size else 0.0

    def joined(self, pages: list[Picture]) -> Picture:
        """The page at its best: where the newest look saw it, these pictures of the same moment joined; elsewhere as it is known.

        pages: in the size of those seen, taken while nothing moved that was free.  Raises ValueError before the first look.
        """
        if self.page is None or not pages:
            raise ValueError("no page was seen yet")
        if any(page.shape != self.page.shape for page in pages):
            raise ValueError("pages of one size are joined")
        mean = np.zeros(self.page.shape, np.float32)
        for number, page in enumerate(pages):
            cv2.accumulateWeighted(page, mean, 1 / (number + 1))
        fine = cv2.resize(self.free.astype(np.float32), pages[0].shape[1::-1], interpolation=cv2.INTER_LINEAR)
        fine = cv2.GaussianBlur(fine, (0, 0), 4)
        return np.asarray(cv2.blendLinear(mean.round().astype(np.uint8), self.page, fine, 1 - fine), np.uint8)


def no_paper(coarse: NDArray[np.float32]) -> Mask:
    """Large pieces from the border inwards that are darker than paper, or coloured. coarse: (h, w, 3) luma and colour differences."""
    paper = np.percentile(coarse[::SAMPLED, ::SAMPLED].reshape(-1, 3), 75, axis=0)
    apart = _changed(coarse, np.broadcast_to(paper, coarse.shape).astype(np.float32))
    soft = cv2.morphologyEx(apart, cv2.MORPH_OPEN, np.ones((STROKE_PX + 2, STROKE_PX + 2), np.uint8))
    return hand_in(np.asarray(np.where(soft > 2 * DIFFERS, soft, 0), np.float32))


def hand_in(differs: NDArray[np.float32]) -> Mask:
    """Large pieces that touch the border, with their shade. differs: (h, w), how far each spot is from the page as it is known, luma."""
    solid = cv2.morphologyEx((differs > DIFFERS).astype(np.uint8), cv2.MORPH_OPEN, np.ones((STROKE_PX, STROKE_PX), np.uint8))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(solid, connectivity=8)
    high, wide = solid.shape
    hand = np.zeros(solid.shape, np.uint8)
    for label in range(1, count):
        x, y, w, h, area = stats[label]
        touches = x < BORDER_PX or y < BORDER_PX or x + w > wide - BORDER_PX or y + h > high - BORDER_PX
        if touches and area >= LEAST_HAND * solid.size:
            hand[labels == label] = 1
    if not hand.any():
        return np.zeros(solid.shape, bool)
    near = _grown(hand > 0, SHADE_REACH_PX)
    soft = cv2.GaussianBlur(differs, (0, 0), 1.5) > SHADE
    return np.asarray((hand > 0) | (near & soft), bool)


def _coarse(page: Picture) -> NDArray[np.float32]:
    """(h, w, 3) luma and the two colour differences."""
    scale = COARSE_PX / max(page.shape[:2])
    size = (max(16, round(page.shape[1] * scale)), max(16, round(page.shape[0] * scale)))
    small = cv2.resize(page, size, interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.cvtColor(small, cv2.COLOR_BGR2YCrCb), np.float32)


def _lit_as(a: NDArray[np.float32], b: NDArray[np.float32]) -> NDArray[np.float32]:
    """a as bright as b where both show paper: a lamp that was dimmed is no hand."""
    gain = _brightness(b) / max(_brightness(a), 1.0)
    lit = a.copy()
    lit[..., 0] *= min(max(gain, 0.8), 1.25)
    return lit


def _brightness(coarse: NDArray[np.float32]) -> float:
    return float(np.percentile(coarse[::SAMPLED, ::SAMPLED, 0], 70))


def _changed(a: NDArray[np.float32], b: NDArray[np.float32]) -> NDArray[np.float32]:
    apart = np.abs(a - b)
    return np.asarray(np.maximum(apart[..., 0], COLOUR_WEIGHS * np.maximum(apart[..., 1], apart[..., 2])), np.float32)


def _grown(mask: Mask, by: int) -> Mask:
    return cv2.dilate(mask.astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * by + 1, 2 * by + 1))) > 0
