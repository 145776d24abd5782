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
HANDS_S = 10.0  # where hands have been so lately is no calm place
MAX_BY_HAND = 0.5  # of all cells: a hand and its arm move no more at once
JUST_S, HAND_CELLS = 0.6, 4  # a hand is where so many cells have moved so lately
BESIDE = 3  # cells: a hand nearer than that is beside it
NEAR, CALM, GAIN = 7.0, 2.0, 3.0  # cells: writing so near is coming; so far it is calm; so much farther is worth a move
FAR = 40.0
MIN_BETWEEN_S = 40.0  # between two moves, unless writing touches it
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
            if moving.mean() > MAX_BY_HAND:  # another page, or the camera was moved
                moving[:] = False
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

    def works_under(self, box: "CellBox", now_s: float) -> bool:
        """Whether a hand is at work where the box is: what it writes there would be hidden."""
        return int((now_s - self.moved_s[box.part] < JUST_S).sum()) >= HAND_CELLS

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
    """box: where the face may go.  clear: cells between it and the nearest writing or work, 0 when something lies under it."""

    box: CellBox
    clear: float


def clearance(taken: NDArray[np.bool_]) -> Cells:
    """How far each cell is from what is taken, in cells.

    taken: (rows, columns) bool. Returns (rows, columns) float32, cells.
    """
    if not taken.any():
        return np.full(taken.shape, FAR, np.float32)
    return np.minimum(cv2.distanceTransform((~taken).astype(np.uint8), cv2.DIST_L2, 3), FAR).astype(np.float32)


def clear_of(clear: Cells, box: CellBox) -> float:
    return float(clear[box.part].min(initial=FAR))


def calm_place(clear: Cells, wanted: CellBox) -> Calm:
    """The place farthest from all writing: there the face can stay longest. Smaller only where at full size there is none.

    clear: see `clearance`.  wanted: where the face is, at its full size; of places alike the nearest to it, at the border.
    """
    best: Calm | None = None
    for size in SIZES:
        width, height = max(2, round(wanted.width * size)), max(2, round(wanted.height * size))
        least = cv2.erode(clear, np.ones((height, width), np.uint8), anchor=(0, 0), borderType=cv2.BORDER_CONSTANT, borderValue=FAR)
        least = least[: ROWS - height + 1, : COLUMNS - width + 1]
        ys, xs = np.indices(least.shape)
        off = np.hypot(xs + width / 2 - wanted.x - wanted.width / 2, ys + height / 2 - wanted.y - wanted.height / 2)
        edge = np.minimum(xs, least.shape[1] - 1 - xs) + np.minimum(ys, least.shape[0] - 1 - ys)
        at = int((np.floor(least) - 0.008 * off - 0.01 * edge).argmax())
        y, x = divmod(at, least.shape[1])
        found = Calm(CellBox(x, y, width, height), float(least[y, x]))
        if best is None or found.clear > best.clear:
            best = found
        if best.clear >= CALM:
            break
    assert best is not None
    return best


class Floating(NamedTuple):
    """Where a floating face is. moved_s: when it last set off.  crowded: no calm place is left; the page should make room."""

    box: CellBox
    moved_s: float
    crowded: bool = False


def floated(ink: InkMap, face: Floating, full: CellBox, now_s: float) -> Floating:
    """Where the face should be now: where it is, unless writing comes near; then, before it is reached, where it is clear for long.

    Never while a hand is at work close beside it, and seldom; at once when a hand comes under it. full: its box at its full size.
    """
    written = ink.written
    here = clear_of(clearance(written), face.box)
    under = ink.works_under(face.box, now_s)
    if here >= NEAR and not face.crowded and not under:
        return face
    if not under and not ink.quiet(face.box, now_s):
        return face
    clear = clearance(written | (now_s - ink.moved_s < HANDS_S))
    found = calm_place(clear, CellBox(face.box.x, face.box.y, full.width, full.height))
    if under:
        here = 0.0
    if found.clear >= here + GAIN and (here <= 1 or now_s - face.moved_s > MIN_BETWEEN_S):
        return Floating(found.box, now_s)
    if here > 1:
        return face._replace(crowded=False)
    return Floating(found.box, now_s) if found.clear >= CALM else face._replace(crowded=True)


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
