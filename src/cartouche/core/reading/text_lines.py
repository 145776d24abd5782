"""Lines of print or handwriting on a straightened page: where they run and how tall their small letters are.

No language and no letter is read here: ink is told from paper, letters are joined to lines, and the body of a line is
where its ink is densest. Source: O'Gorman, The document spectrum for page layout analysis, PAMI 15 (1993).
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Plane

MIN_LETTER_PX, MAX_LETTER_PX = 4, 96  # below, nothing can be told; above, it is a picture
OCTAVES = ((4, 8), (7, 13), (12, 22), (20, 36), (34, 60), (56, 96))  # letters of one line differ by less than twice
GAP = 0.75  # of a letter's height: words are joined, lines of usual spacing are not
MIN_LETTERS, MIN_LONG = 3, 2.5
MIN_INK = 38  # of 255 after the paper is white: pencil stays above, paper's own texture below


class TextLine(NamedTuple):
    """box: x0, y0, x1, y1 px.  x_height_px: of its small letters.  body: first and last px of their zone, across the line.

    vertical: it runs down the picture.  letters: how many separate pieces of ink it has.
    """

    box: tuple[int, int, int, int]
    x_height_px: float
    body: tuple[float, float]
    vertical: bool
    letters: int


def ink_map(luma: Plane) -> Plane:
    """(h, w) uint8: 0 where paper is bare, towards 255 where ink is; slow changes of light are divided out."""
    small = cv2.resize(luma, None, fx=0.25, fy=0.25, interpolation=cv2.INTER_AREA)
    paper = cv2.GaussianBlur(cv2.dilate(small, np.ones((9, 9), np.uint8)), (0, 0), 5)
    light = cv2.max(cv2.resize(paper, luma.shape[::-1], interpolation=cv2.INTER_LINEAR), 1)  # type: ignore[call-overload]
    return cv2.bitwise_not(cv2.divide(luma, light, scale=255))  # type: ignore[return-value]


def find_lines(ink: Plane) -> list[TextLine]:
    """Every line that looks like letters in a row, the longest first. ink: see `ink_map`.

    ink: (h, w) uint8. Positions and heights are px of it.
    """
    level = max(MIN_INK, cv2.threshold(ink, 0, 255, cv2.THRESH_OTSU)[0] * 0.8)
    _, solid = cv2.threshold(ink, level, 255, cv2.THRESH_BINARY)
    boxes = _letters(np.asarray(solid, np.uint8))
    lines: list[TextLine] = []
    for vertical in (False, True):
        turned = boxes[:, [1, 0, 3, 2, 4]] if vertical else boxes
        picture = cv2.transpose(ink) if vertical else ink
        for octave in OCTAVES:
            lines += _rows(turned, picture, octave, vertical)  # type: ignore[arg-type]
    return _without_overlap(sorted(lines, key=lambda line: -_length(line)))


def _letters(solid: Plane) -> NDArray[np.int32]:
    """Pieces of ink that may be letters or joined words: (n, 5) x, y, width, height, area."""
    stats = cv2.connectedComponentsWithStats(solid, connectivity=8)[2][1:]
    width, height, area = stats[:, 2], stats[:, 3], stats[:, 4]
    short, long = np.minimum(width, height), np.maximum(width, height)
    kept = (long >= MIN_LETTER_PX) & (short <= MAX_LETTER_PX) & (long <= 12 * np.maximum(short, 3)) & (area >= 0.08 * width * height)
    return np.asarray(stats[kept], np.int32)


def _rows(boxes: NDArray[np.int32], ink: Plane, octave: tuple[int, int], vertical: bool) -> list[TextLine]:
    low, high = octave
    fit = boxes[(boxes[:, 3] >= low) & (boxes[:, 3] < high) & (boxes[:, 2] < 9 * high)]
    if len(fit) < MIN_LETTERS:
        return []
    mask = np.zeros(ink.shape, np.uint8)
    for x, y, width, height, _ in fit.tolist():
        mask[y : y + height, x : x + width] = 255
    reach = 2 * round(GAP * (low + high) / 2 / 2) + 1
    count, labels = cv2.connectedComponents(cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((1, reach), np.uint8)))
    of = labels[fit[:, 1] + fit[:, 3] // 2, fit[:, 0] + fit[:, 2] // 2]
    letters = np.bincount(of, minlength=count)
    words = np.bincount(of[fit[:, 2] > 2.5 * fit[:, 3]], minlength=count)  # whose letters run together
    first, last = np.full((count, 2), max(ink.shape)), np.zeros((count, 2), np.intp)  # closing reaches no farther than the boxes
    np.minimum.at(first, of, fit[:, :2])
    np.maximum.at(last, of, fit[:, :2] + fit[:, 2:4])
    wide, tall = (last - first).T
    rows = []
    for number in np.flatnonzero((wide >= MIN_LONG * tall) & (tall <= 2.2 * high) & (letters + 2 * words >= MIN_LETTERS)):
        (x0, y0), (x1, y1) = first[number].tolist(), last[number].tolist()
        body = _body(ink[y0:y1, x0:x1])
        if body is not None:
            box = (y0, x0, y1, x1) if vertical else (x0, y0, x1, y1)
            rows.append(TextLine(box, body[1] - body[0], (y0 + body[0], y0 + body[1]), vertical, int(letters[number])))
    return rows


def _body(part: Plane) -> tuple[float, float] | None:
    """The zone of the small letters within a line, px from its top, to a fraction: where rows hold at least half the ink of full ones."""
    rows = part.mean(axis=1)
    full = float(np.sort(rows)[-max(1, len(rows) // 4) :].mean())
    if full < 4:
        return None
    half = 0.5 * full
    above = np.flatnonzero(rows >= half)
    first, last = int(above[0]), int(above[-1])
    start, end = float(first), float(last + 1)
    if first > 0:  # where the half is passed between two rows' middles
        start = first + 0.5 - (rows[first] - half) / max(rows[first] - rows[first - 1], 1e-6)
    if last + 1 < len(rows):
        end = last + 0.5 + (rows[last] - half) / max(rows[last] - rows[last + 1], 1e-6)
    return max(start, 0.0), min(end, float(len(rows)))


def _length(line: TextLine) -> int:
    x0, y0, x1, y1 = line.box
    return y1 - y0 if line.vertical else x1 - x0


def _without_overlap(lines: list[TextLine]) -> list[TextLine]:
    """Longest first: what lies for the most part on one already taken is a piece of it, or a column through many."""
    kept: list[TextLine] = []
    taken = np.empty((0, 4))
    for line in lines:
        x0, y0, x1, y1 = line.box
        if len(taken):
            wide = np.minimum(taken[:, 2], x1) - np.maximum(taken[:, 0], x0)
            high = np.minimum(taken[:, 3], y1) - np.maximum(taken[:, 1], y0)
            if (np.maximum(wide, 0) * np.maximum(high, 0)).sum() > 0.35 * (x1 - x0) * (y1 - y0):
                continue
        kept.append(line)
        taken = np.vstack([taken, line.box])
    return kept
