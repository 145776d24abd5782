"""Straight lines in the map of the page, directed with the page to their right, and the quadrilaterals that four of them make."""

from itertools import combinations

import cv2
import numpy as np

from cartouche.core.straighten.geometry import BEFORE, NEXT, meeting
from cartouche.core.straighten.map_sides import BY_BORDER, Points
from cartouche.core.straighten.page_map import MIN_PAGE, Map

MAX_LINES = 13
BELIEFS = (MIN_PAGE, 0.7)  # outlines are taken of what is half believed and of what is sure
MIN_OUTLINE = 5.0  # cells: shorter pieces of an outline have no direction
SAME_TURN, SAME_OFFSET = np.radians(4), 1.5  # lines nearer than that are one
_TURNS = np.linspace(0, np.pi, 72, endpoint=False)
_NORMALS = np.stack([np.cos(_TURNS), np.sin(_TURNS)])


def border_lines(border: Map, middle: Points) -> Points:
    """Lines of the border with most votes, (n, 4): unit direction and a point in cells, with the page's middle to the right.

    Source: Duda & Hart, Use of the Hough transformation to detect lines and curves in pictures, CACM 15 (1972).
    """
    thin = border * (border >= cv2.dilate(border, np.ones((3, 3), np.uint8)) - 0.12) * (border > 0.2)
    ys, xs = np.nonzero(thin)
    if len(xs) < 8:
        return np.empty((0, 4))
    reach = int(np.hypot(*border.shape)) + 2
    offsets = np.stack([xs + 0.5, ys + 0.5], axis=1) @ _NORMALS
    bins = np.rint(offsets).astype(np.intp) + reach + np.arange(len(_TURNS)) * 2 * reach
    votes = np.bincount(bins.ravel(), np.repeat(thin[ys, xs], len(_TURNS)), 2 * reach * len(_TURNS)).reshape(len(_TURNS), 2 * reach)
    votes = np.asarray(cv2.blur(votes.astype(np.float32), (3, 1)))
    lines: list[list[float]] = []
    while len(lines) < MAX_LINES - 3:
        turn, offset = np.unravel_index(int(votes.argmax()), votes.shape)
        if votes[turn, offset] < 3.5:
            break
        for near in range(turn - 3, turn + 4):  # the same line again, turned by a few degrees
            at = offset if 0 <= near < len(_TURNS) else 2 * reach - offset  # turned past upright, it counts from the other side
            votes[near % len(_TURNS), max(0, at - 5) : at + 6] = 0
        normal = _NORMALS[:, turn]
        lines.append(_facing(np.array([normal[1], -normal[0]]), normal * (offset - reach), middle))
    return np.array(lines).reshape(-1, 4)


def outline_lines(page: Map, middle: Points) -> Points:
    """The straight pieces of the region's outline, (n, 4), the longest first: a side of which little is seen gets few votes."""
    high, wide = page.shape
    pieces: list[tuple[float, list[float]]] = []
    for least in BELIEFS:
        outlines, _ = cv2.findContours((page > least).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        if not outlines:
            continue
        corners = cv2.approxPolyDP(max(outlines, key=cv2.contourArea), 1.2, True).reshape(-1, 2) + 0.5
        for start, end in zip(corners, np.roll(corners, -1, axis=0), strict=True):
            length = float(np.linalg.norm(end - start))
            low, far = np.minimum(start, end), np.maximum(start, end)
            along_border = (far < BY_BORDER).any() or low[0] > wide - BY_BORDER or low[1] > high - BY_BORDER
            if length >= MIN_OUTLINE and not along_border:
                pieces.append((length, _facing((end - start) / length, (start + end) / 2, middle)))
    pieces.sort(key=lambda piece: -piece[0])
    return np.array([line for _, line in pieces]).reshape(-1, 4)


def _facing(along: Points, point: Points, middle: Points) -> list[float]:
    """The directed line with the middle to its right."""
    right = along[0] * (middle[1] - point[1]) - along[1] * (middle[0] - point[0])
    return [*(along if right > 0 else -along), *point]


def unlike(lines: Points) -> Points:
    """The first MAX_LINES of those that differ from all before them, (n, 4)."""
    turned = np.abs(lines[:, None, 0] * lines[:, 1] - lines[:, None, 1] * lines[:, 0]) < np.sin(SAME_TURN)
    same_way = lines[:, :2] @ lines[:, :2].T > 0
    away = lines[:, None, 2:] - lines[:, 2:]
    off = np.abs(lines[:, 0] * away[..., 1] - lines[:, 1] * away[..., 0])  # of each row's line from each column's
    same = turned & same_way & (off < SAME_OFFSET)
    kept: list[int] = []
    for at in range(len(lines)):
        if len(kept) < MAX_LINES and not same[at, kept].any():
            kept.append(at)
    return np.asarray(lines[kept])


def line_quads(lines: Points, shape: tuple[int, ...]) -> Points:
    """(n, 4, 2) clockwise quadrilaterals of four directed lines (dx, dy, x, y) each, inside on the right. shape: of the picture, h, w."""
    if len(lines) < 4:
        return np.empty((0, 4, 2))
    lines = lines[np.argsort(np.arctan2(lines[:, 1], lines[:, 0]))]
    angles = np.arctan2(lines[:, 1], lines[:, 0])
    sets = np.array(list(combinations(range(len(lines)), 4)))
    gaps = np.diff(np.concatenate([angles[sets], angles[sets[:, :1]] + 2 * np.pi], axis=1), axis=1)
    sets = sets[((gaps > np.radians(20)) & (gaps < np.radians(160))).all(axis=1)]
    if not len(sets):
        return np.empty((0, 4, 2))
    sides = lines[sets]
    before = sides[:, BEFORE]
    quads = meeting(before[..., 2:], before[..., :2], sides[..., 2:], sides[..., :2])
    room = np.array([shape[1], shape[0]])
    inside = np.isfinite(quads).all(axis=(1, 2)) & ((quads > -0.3 * room) & (quads < 1.3 * room)).all(axis=(1, 2))
    along = quads[:, NEXT] - quads
    runs_with = ((along * sides[..., :2]).sum(axis=2) > 0.04 * shape[1]).all(axis=1)
    return np.asarray(quads[inside & runs_with])
