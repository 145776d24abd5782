"""The frame set on the head: calm, rarely, never in mid-sentence."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Matrix, Size
from cartouche.core.straighten.chain import ZOOM_MAX, FrameLink
from cartouche.core.straighten.framing import within
from cartouche.core.straighten.geometry import transform

LOOK_EVERY_S = 0.5
HEAD_SHARE = 0.42  # of the height in sight: face large, shoulders there
HEAD_AT = 0.45  # how far down its middle stands: a little above the middle
CALM, CALM_SIZE = 0.11, 1.3  # within these, of what is in sight, nothing moves
OUTSIDE_S, BETWEEN_S = 1.5, 5.0
PAUSE_AFTER_S = 8.0  # who speaks on and on is framed all the same
LARGEST = 2.5  # a face that is far off is not blown up to nothing
LEAST_PERSON = 0.02  # of the picture
NECK = 0.75  # of the head's width: narrower, and wider below, is a neck


class Head(NamedTuple):
    """Shares of the picture's width and height. x, y: its middle.  wide, high: its size, hair included."""

    x: float
    y: float
    wide: float
    high: float


def head_of(mask: NDArray[np.float32]) -> Head | None:
    """Of the largest person. mask: (h, w) 0-1, upright.  None where nobody is seen."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats((mask > 0.5).astype(np.uint8), connectivity=4)
    if count < 2:
        return None
    largest = 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))
    if stats[largest, cv2.CC_STAT_AREA] < LEAST_PERSON * mask.size:
        return None
    person = labels == largest
    rows = np.flatnonzero(person.any(axis=1))
    widths = person[rows].sum(axis=1).astype(np.float64)
    bottom = _neck_row(widths)
    head = person[rows[0] : rows[0] + bottom]
    columns = np.flatnonzero(head.any(axis=0))
    high, wide = mask.shape
    middle = (columns[0] + columns[-1] + 1) / 2
    return Head(middle / wide, (rows[0] + bottom / 2) / high, (columns[-1] - columns[0] + 1) / wide, bottom / high)


def _neck_row(widths: NDArray[np.float64]) -> int:
    """How many rows from the top the head is high. widths: of a person, row by row, px."""
    smooth = np.convolve(np.pad(widths, 2, mode="edge"), np.ones(5) / 5, mode="valid")
    widest = 0.0
    for row, width in enumerate(smooth):
        widest = max(widest, width)
        below = smooth[row:]
        if width <= NECK * widest and below.max() > 1.15 * widest:  # narrower than the head, and shoulders below
            return row + int(np.argmin(below[: max(1, round(0.5 * widest))]))
        if row > 0.5 * widest and width > 1.5 * max(float(np.median(smooth[: row + 1])), 1.0):
            return row  # hair that hides the neck: the shoulders begin
    return min(len(widths), max(1, round(1.35 * float(np.median(smooth[: max(1, len(smooth) // 2)])))))


def on_canvas(head: Head, matrix: Matrix, feed: Size, canvas: Size) -> Head:
    """The same where the picture is turned, mirrored or squared. matrix: feed px -> canvas units, (3, 3)."""
    x0, y0 = (head.x - head.wide / 2) * feed.width, (head.y - head.high / 2) * feed.height
    x1, y1 = (head.x + head.wide / 2) * feed.width, (head.y + head.high / 2) * feed.height
    spots = transform(matrix, np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])) / (canvas.width, canvas.height)
    low, high = spots.min(axis=0), spots.max(axis=0)
    return Head(*(float(value) for value in (*((low + high) / 2), *(high - low))))


class HeadFollower:
    """Of one face. Seconds are passed in."""

    def __init__(self) -> None:
        self._heads: list[Head] = []
        self._outside_since_s: float | None = None
        self._moved_s = -np.inf

    def see(self, head: Head | None, frame: FrameLink, speaks: bool, now_s: float) -> FrameLink | None:
        """One look; the frame from now on, None where it stays. head: on the canvas.  speaks: the teacher is in mid-sentence."""
        if head is None:
            self._heads, self._outside_since_s = [], None
            return None
        self._heads = [*self._heads[-2:], head]
        calm = Head(*(float(value) for value in np.median(np.array(self._heads), axis=0)))
        before = frame if frame.on else FrameLink()
        wanted = framed_on(calm)
        share = 1 / before.zoom
        off = max(abs(wanted.x - before.x), abs(wanted.y - before.y)) / share
        if off < CALM and 1 / CALM_SIZE < wanted.zoom / before.zoom < CALM_SIZE:
            self._outside_since_s = None
            return None
        self._outside_since_s = now_s if self._outside_since_s is None else self._outside_since_s
        outside_s = now_s - self._outside_since_s
        if outside_s < OUTSIDE_S or now_s - self._moved_s < BETWEEN_S or (speaks and outside_s < PAUSE_AFTER_S):
            return None
        self._moved_s, self._outside_since_s = now_s, None
        return wanted


def framed_on(head: Head) -> FrameLink:
    """The frame that shows this head well."""
    zoom = float(np.clip(HEAD_SHARE / head.high, 1.0, min(LARGEST, ZOOM_MAX)))
    share = 1 / zoom
    return FrameLink(zoom=zoom, x=within(head.x, share), y=within(head.y + (0.5 - HEAD_AT) * share, share))
