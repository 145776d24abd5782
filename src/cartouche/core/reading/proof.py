"""Proof from the page itself: do its letters read true or reversed, and which way up?

A small network judges windows of lines, each as one of four ways that a line which runs across can stand. Windows are
cut so that small letters have one height, so neither type size nor picture size matters. A line that runs down the
picture is turned by a quarter first. Windows that are no print (contours, squares) are given to a class of their own.
"""

from collections.abc import Callable, Sequence
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Plane
from cartouche.core.reading.text_lines import TextLine, find_lines, ink_map

WINDOW_HEIGHT, WINDOW_WIDTH = 32, 128
BODY_PX = 12  # small letters' height within a window
MAX_WINDOWS = 24  # more say nothing new and cost a quarter of a millisecond each
MIN_PRINT = 1.5  # windows' worth of print: below, one word decides alone
SURE = 0.97  # below it says that it cannot tell: being wrong once costs a lesson more than asking to look
MAX_PER_WINDOW = 3.0  # natural log: no single window may outvote two others

LEAST_X_HEIGHT = 2.0  # camera px: whatever is made of letters smaller than this, the camera did not see which way round they stand
SMEARED, TOLD_APART = 0.03, 0.055  # change of ink from px to px of a window, over its ink: below, a fifth are read the wrong way round
MAX_WORTH, ALIKE = 0.5, 0.1  # windows of one page share a hand, a font and a blur: many say little more than a few

Net = Callable[[NDArray[np.float32]], NDArray[np.float32]]  # (n, 1, 32, 128) -> (n, 5) logits
WAYS = ("upright", "half turn", "reversed", "reversed half turn", "no print")
Turned = Literal[0, 1, 2, 3]


class Proof(NamedTuple):
    """reads_true: None when it cannot tell.  quarters: clockwise quarter turns that would set it upright (after a flip
    left-right if reversed).  confidence: 0-1, of the whole statement.  windows: how many were judged to be print."""

    reads_true: bool | None
    quarters: Turned
    confidence: float
    windows: float


class Windows(NamedTuple):
    """Cut from lines of print. cut: (n, 1, 32, 128) float32, 0-1.  vertical: whether each comes from a line that runs down the picture,
    (n,).  x_height: of its line, px of the picture it was cut from, (n,)."""

    cut: NDArray[np.float32]
    vertical: NDArray[np.bool_]
    x_height: NDArray[np.float32]


def read_way(luma: Plane, net: Net, camera_px: float = 1.0) -> Proof:
    """Which way round a straightened page stands. luma: (h, w) uint8, letters at least 4 px tall.  camera_px: see `proof_of`."""
    ink = ink_map(luma)
    return proof_of(windows(ink, find_lines(ink)), net, camera_px)


def proof_of(found: Windows, net: Net, camera_px: float = 1.0) -> Proof:
    """What they say together. camera_px: how many of the camera's px one px of the picture stands for, below 1 where it was made larger."""
    if not len(found.cut):
        return Proof(None, 0, 0.0, 0.0)
    seen = found.x_height * camera_px >= LEAST_X_HEIGHT
    return judged(net(found.cut), found.vertical, clear(found.cut) * seen)


def clear(cut: NDArray[np.float32]) -> NDArray[np.float32]:
    """Whether a window's letters are told apart, 0-1, (n,): in a smear the ink along the line hardly changes, and it is read either way."""
    top = (WINDOW_HEIGHT - BODY_PX) // 2
    body = cut[:, 0, top : top + BODY_PX]
    changes = np.abs(np.diff(body, axis=2)).mean(axis=(1, 2)) / np.maximum(body.mean(axis=(1, 2)), 1e-3)
    return np.asarray(np.clip((changes - SMEARED) / (TOLD_APART - SMEARED), 0, 1), np.float32)


def windows(ink: Plane, lines: Sequence[TextLine], most: int = MAX_WINDOWS) -> Windows:
    """The longest lines first; of a long line no more than four windows, spread evenly."""
    cut: list[Plane] = []
    of: list[TextLine] = []
    for line in lines:
        for window in _of_line(ink, line):
            if len(cut) < most:
                cut.append(window)
                of.append(line)
    if not cut:
        return Windows(np.empty((0, 1, WINDOW_HEIGHT, WINDOW_WIDTH), np.float32), np.empty(0, bool), np.empty(0, np.float32))
    stacked = np.asarray(np.stack(cut)[:, None] / np.float32(255), np.float32)
    return Windows(stacked, np.array([line.vertical for line in of]), np.array([line.x_height_px for line in of], np.float32))


def _of_line(ink: Plane, line: TextLine) -> list[Plane]:
    scale = BODY_PX / line.x_height_px
    x0, y0, x1, y1 = line.box
    start, end = (y0, y1) if line.vertical else (x0, x1)
    length = (end - start) * scale
    count = min(4, max(1, int(length / WINDOW_WIDTH)))
    step = length / count
    middle = (line.body[0] + line.body[1]) / 2
    source: Plane = ink if scale > 0.7 else cv2.resize(ink, None, fx=scale * 1.4, fy=scale * 1.4, interpolation=cv2.INTER_AREA)  # type: ignore[assignment]
    shrunk = 1.0 if scale > 0.7 else scale * 1.4
    windows = []
    for number in range(count):
        centre = start + (number + 0.5) * step / scale
        windows.append(_window(source, centre * shrunk, middle * shrunk, scale / shrunk, line.vertical))
    return windows


def _window(ink: Plane, along: float, across: float, scale: float, vertical: bool) -> Plane:
    """A window about a spot of a line; one that runs down is turned a quarter anticlockwise, so that its foot points right."""
    x, y = (WINDOW_WIDTH / 2 - scale * along - 0.5 + 0.5 * scale), (WINDOW_HEIGHT / 2 - scale * across - 0.5 + 0.5 * scale)
    if vertical:  # picture (x, y) -> window (y, -x): the quarter turn, no reflection
        matrix = np.array([[0, scale, x], [-scale, 0, WINDOW_HEIGHT / 2 + scale * across - 0.5 - 0.5 * scale]])
    else:
        matrix = np.array([[scale, 0, x], [0, scale, y]])
    cut = cv2.warpAffine(ink, matrix, (WINDOW_WIDTH, WINDOW_HEIGHT), flags=cv2.INTER_LINEAR)
    strongest = float(np.partition(cut, -64, axis=None)[-64])
    return cv2.convertScaleAbs(cut, alpha=255 / max(strongest, 30.0))  # type: ignore[return-value]


_FLIP_OF = np.array([0, 0, 1, 1])
# Class of a window -> quarter turns clockwise that set the page upright, once flipped left-right if it is reversed.
_QUARTERS_ACROSS = np.array([0, 2, 0, 2])
# A line that ran down was turned a quarter anticlockwise: the page needs that quarter (3 clockwise) besides; a flip comes first and
# turns the other way.
_QUARTERS_DOWN = np.array([3, 1, 1, 3])


def judged(logits: NDArray[np.float32], vertical: NDArray[np.bool_], clear: NDArray[np.float32] | float = 1.0) -> Proof:
    """All windows together: their log-odds add up, each bounded; windows that are no print, or smeared, count for little.

    logits: (windows, 5) float32, the four ways and no print.  vertical: (windows,).  clear: (windows,), or one number for all, 0-1.
    """
    shifted = logits - logits.max(axis=1, keepdims=True)
    share = np.exp(shifted)
    share /= share.sum(axis=1, keepdims=True)
    ways = share[:, :4] / np.maximum(1 - share[:, 4:], 1e-6)
    print_share = (1 - share[:, 4]) * clear
    printed = float((1 - share[:, 4]).sum())
    votes = np.maximum(np.log(np.maximum(ways, 1e-6)), -MAX_PER_WINDOW) * print_share[:, None]
    totals = np.zeros((2, 4))
    for down, quarters in ((False, _QUARTERS_ACROSS), (True, _QUARTERS_DOWN)):
        part = votes[vertical == down]
        other = -MAX_PER_WINDOW * print_share[vertical != down].sum()
        for way in range(4):
            totals[_FLIP_OF[way], quarters[way]] += part[:, way].sum() + other
    print_sum = float(print_share.sum())
    worth = min(MAX_WORTH, 1 / (1 + ALIKE * max(print_sum - 1, 0)))
    chances = np.exp(worth * (totals - totals.max()))
    chances /= chances.sum()
    reversed_chance = float(chances[1].sum())
    best = int(chances.argmax())
    sure = max(reversed_chance, 1 - reversed_chance)
    tells = sure >= SURE and print_sum >= MIN_PRINT
    return Proof(reversed_chance < 0.5 if tells else None, best % 4, float(chances.max()) if tells else sure, printed)  # type: ignore[arg-type]
