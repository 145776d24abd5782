"""The face off the writing: where ink and hands are on the outgoing picture, and the calm place for a floating face.

All in cells of a coarse grid over the outgoing picture, looked at a few times a second.
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Matrix, Size, half_size, index_matrix, scaling
from cartouche.core.plates.model import Rect

COLUMNS, ROWS = 64, 36
VIEW = Size(320, 180)  # the page as it goes out, before it becomes cells: five px each
INK_CONTRAST = 9  # luma against what lies around it
INK_SHARE = 0.06  # of a cell: less is grain
MOVED_CONTRAST = 14
QUIET_S = 2.0  # so long nothing may have moved beside the face before it moves, or where it goes
BESIDE = 3  # cells
LEAST_BETWEEN_S = 12.0  # between two moves, unless it covers ink
COVERS = 0.002  # of all ink: from so much on it is said that the face covers writing
SIZES = (1.0, 0.85, 0.7)  # of the wanted size: a smaller calm place is better than a larger one on the writing
Cells = NDArray[np.float32]


class InkMap:
    """What is written where, (ROWS, COLUMNS). ink: share of each cell, 0-1.  moved_s: when something last moved there."""

    def __init__(self) -> None:
        self.ink: Cells = np.zeros((ROWS, COLUMNS), np.float32)
        self.moved_s = np.full((ROWS, COLUMNS), -np.inf)
        self._before: NDArray[np.uint8] | None = None

    def see(self, view: NDArray[np.uint8], shown: NDArray[np.uint8], now_s: float) -> None:
        """view: (180, 320) luma of the page as it goes out, without the face.  shown: the same size, 255 where the page is.

        Ink is what differs from its surroundings, darker or lighter; where something moves, what was seen before is kept.
        """
        around = cv2.blur(view, (25, 25))
        marks = (cv2.absdiff(view, around) > INK_CONTRAST).astype(np.uint8) * 255
        cv2.bitwise_and(marks, cv2.erode(shown, np.ones((5, 5), np.uint8)), dst=marks)
        ink = cv2.resize(marks, (COLUMNS, ROWS), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
        moving = np.zeros((ROWS, COLUMNS), bool)
        if self._before is not None:
            moves = (cv2.absdiff(view, self._before) > MOVED_CONTRAST).astype(np.uint8) * 255
            moving = cv2.resize(moves, (COLUMNS, ROWS), interpolation=cv2.INTER_AREA) > 40
            self.moved_s[moving] = now_s
        hidden = cv2.dilate(moving.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
        self.ink = np.where(hidden, np.maximum(self.ink, ink), ink).astype(np.float32)
        self._before = view.copy()

    @property
    def written(self) -> NDArray[np.bool_]:
        return self.ink > INK_SHARE

    def quiet(self, box: "CellBox", now_s: float) -> bool:
        """Whether nothing has moved in or beside a box for a while."""
        return bool(now_s - self.moved_s[box.grown(BESIDE).part].max(initial=-np.inf) > QUIET_S)

    def covered(self, box: "CellBox") -> float:
        """The share of all writing that lies under a box."""
        written = self.written
        return float(written[box.part].sum()) / max(float(written.sum()), 1.0)


class CellBox(NamedTuple):
    """x, y: upper left cell.  width, height: cells."""

    x: int
    y: int
    width: int
    height: int

    @property
    def part(self) -> tuple[slice, slice]:
        return slice(max(self.y, 0), self.y + self.height), slice(max(self.x, 0), self.x + self.width)

    def grown(self, by: int) -> "CellBox":
        return CellBox(self.x - by, self.y - by, self.width + 2 * by, self.height + 2 * by)

    @property
    def rect(self) -> Rect:
        return Rect(x=self.x / COLUMNS, y=self.y / ROWS, width=self.width / COLUMNS, height=self.height / ROWS)


def cells_of(rect: Rect) -> CellBox:
    """The cells that a rectangle touches."""
    x, y = int(rect.x * COLUMNS + 1e-6), int(rect.y * ROWS + 1e-6)
    right, bottom = np.ceil((rect.x + rect.width) * COLUMNS - 1e-6), np.ceil((rect.y + rect.height) * ROWS - 1e-6)
    return CellBox(x, y, int(right) - x, int(bottom) - y)


class Calm(NamedTuple):
    """box: where the face may go.  ink: written cells under it and close beside."""

    box: CellBox
    ink: int


def calm_place(written: NDArray[np.bool_], wanted: CellBox, busy: NDArray[np.bool_] | None = None) -> Calm:
    """The largest place with nothing written under or close beside it, the nearest to where the face is; else the emptiest.

    written: (ROWS, COLUMNS).  wanted: where the face is, at its full size.  busy: cells where somebody is at work.
    """
    taken = written if busy is None else written | busy
    near = cv2.dilate(taken.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    total = np.pad(np.cumsum(np.cumsum(near, axis=0), axis=1), ((1, 0), (1, 0)))
    best: Calm | None = None
    for size in SIZES:
        width, height = max(2, round(wanted.width * size)), max(2, round(wanted.height * size))
        sums = total[height:, width:] - total[:-height, width:] - total[height:, :-width] + total[:-height, :-width]
        ys, xs = np.indices(sums.shape)
        off = np.hypot(xs + width / 2 - wanted.x - wanted.width / 2, ys + height / 2 - wanted.y - wanted.height / 2)
        edge = np.minimum(np.minimum(xs, sums.shape[1] - 1 - xs), np.minimum(ys, sums.shape[0] - 1 - ys))
        score = sums * 1000.0 + off + 1.5 * edge  # a face at the border leaves the page whole
        at = int(score.argmin())
        y, x = divmod(at, sums.shape[1])
        found = Calm(CellBox(x, y, width, height), int(sums[y, x]))
        if best is None or found.ink < best.ink:
            best = found
        if best.ink == 0:
            break
    assert best is not None
    return best


class Floating(NamedTuple):
    """Where a floating face is. moved_s: when it last set off.  crowded: no calm place is left; the page should make room."""

    box: CellBox
    moved_s: float
    crowded: bool = False


def floated(seen: InkMap, face: Floating, full: CellBox, now_s: float) -> Floating:
    """Where the face should be now: where it is, unless writing has come close, and then only in a pause of the hand.

    full: its box at its full size.
    """
    written = seen.written
    close = bool(written[face.box.grown(1).part].any())
    if not close and not face.crowded:
        return face
    if not seen.quiet(face.box, now_s):
        return face
    covers = seen.covered(face.box) > COVERS
    if not covers and now_s - face.moved_s < LEAST_BETWEEN_S:
        return face
    busy = now_s - seen.moved_s < QUIET_S
    found = calm_place(written, CellBox(face.box.x, face.box.y, full.width, full.height), busy)
    if found.ink > 0:
        better = found.ink < int(written[face.box.grown(1).part].sum()) // 2
        return Floating(found.box, now_s, True) if better else face._replace(crowded=True)
    return Floating(found.box, now_s) if found.box != face.box else face._replace(crowded=False)


def page_view(frame: Frame, to_outgoing: Matrix, outgoing: Size) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """The page's luma as it goes out, (180, 320), and where it is (255). to_outgoing: feed px -> outgoing px."""
    luma, matrix = frame.y, scaling(VIEW.width / outgoing.width, VIEW.height / outgoing.height) @ to_outgoing
    middle = matrix @ np.array([frame.size.width / 2, frame.size.height / 2, 1.0])
    stretch = float(np.linalg.det(matrix) / middle[2] ** 3)
    while abs(stretch) < 0.25 and min(luma.shape) > 64:
        luma, matrix, stretch = half_size(luma), matrix @ scaling(2, 2), stretch * 4
    index = index_matrix(matrix)
    size = (int(VIEW.width), int(VIEW.height))
    view = cv2.warpPerspective(luma, index, size, borderMode=cv2.BORDER_REPLICATE)
    shown = cv2.warpPerspective(np.full(luma.shape, 255, np.uint8), index, size)
    return np.asarray(view, np.uint8), np.asarray(shown, np.uint8)
