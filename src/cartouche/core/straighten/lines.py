"""Quadrilaterals from directed lines: every line has its bright side to the right, so a page is four lines that turn clockwise."""

from itertools import combinations

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Plane

MOST_LINES = 16  # 1820 combinations at most: about 2 ms
SAME_ANGLE_DEG, SAME_OFFSET_PX = 4.0, 4.0
_SHORTEST = 0.035  # of the diagonal

_detector = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD)


def candidate_quads(soft: Plane) -> NDArray[np.float64]:
    """(n, 4, 2) clockwise quadrilaterals whose four sides lie on strong lines with the bright side inside."""
    lines = _strong_lines(soft)
    if len(lines) < 4:
        return np.empty((0, 4, 2))
    angles = np.arctan2(lines[:, 1], lines[:, 0])
    lines = lines[np.argsort(angles)]
    angles = np.sort(angles)
    sets = np.array(list(combinations(range(len(lines)), 4)))
    gaps = np.diff(np.concatenate([angles[sets], angles[sets[:, :1]] + 2 * np.pi], axis=1), axis=1)
    sets = sets[((gaps > np.radians(25)) & (gaps < np.radians(155))).all(axis=1)]
    if not len(sets):
        return np.empty((0, 4, 2))
    sides = lines[sets]  # (n, 4, [dx, dy, x, y])
    quads = _meet(np.roll(sides, 1, axis=1), sides)
    height, width = soft.shape
    room = np.array([width, height])
    inside = np.isfinite(quads).all(axis=(1, 2)) & ((quads > -0.25 * room) & (quads < 1.25 * room)).all(axis=(1, 2))
    along = np.roll(quads, -1, axis=1) - quads
    runs_with = ((along * sides[..., :2]).sum(axis=2) > 0.05 * width).all(axis=1)
    return np.asarray(quads[inside & runs_with])


def _meet(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    """Where directed lines (dx, dy, x, y) cross, (..., 2)."""
    cross = a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]
    offset = b[..., 2:] - a[..., 2:]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (offset[..., 0] * b[..., 1] - offset[..., 1] * b[..., 0]) / cross
        return np.asarray(a[..., 2:] + t[..., None] * a[..., :2])


def _strong_lines(soft: Plane) -> NDArray[np.float64]:
    """The lines with most support, merged from segments: (n, 4) unit direction and a point, bright side to the right."""
    found = _detector.detect(soft)[0]
    if found is None:
        return np.empty((0, 4))
    segments = found.reshape(-1, 4).astype(np.float64)
    along = segments[:, 2:] - segments[:, :2]
    length = np.linalg.norm(along, axis=1)
    kept = length > _SHORTEST * np.hypot(*soft.shape)
    segments, along, length = segments[kept], along[kept] / length[kept, None], length[kept]
    middle = (segments[:, :2] + segments[:, 2:]) / 2
    right = np.stack([-along[:, 1], along[:, 0]], axis=1)
    rise = _sample(soft, middle + 3 * right) - _sample(soft, middle - 3 * right)
    along[rise < 0] *= -1
    weight = length * np.sqrt(np.abs(rise) + 1)
    lines: list[NDArray[np.float64]] = []
    left = np.argsort(-weight)
    while len(left) and len(lines) < MOST_LINES:
        first = left[0]
        turn = np.degrees(np.arccos(np.clip(along[left] @ along[first], -1, 1)))
        offset = np.abs((middle[left] - middle[first]) @ np.array([-along[first, 1], along[first, 0]]))
        same = (turn < SAME_ANGLE_DEG) & (offset < SAME_OFFSET_PX)
        lines.append(_fit(segments[left[same]], along[first]))
        left = left[~same]
    return np.array(lines).reshape(-1, 4)


def _fit(segments: NDArray[np.float64], direction: NDArray[np.float64]) -> NDArray[np.float64]:
    points = segments.reshape(-1, 2).astype(np.float32)
    dx, dy, x, y = (float(value[0]) for value in cv2.fitLine(points, cv2.DIST_L2, 0, 0.01, 0.01))
    sign = 1.0 if dx * direction[0] + dy * direction[1] > 0 else -1.0
    return np.array([sign * dx, sign * dy, x, y])


def _sample(soft: Plane, points: NDArray[np.float64]) -> NDArray[np.float64]:
    x = np.clip(points[:, 0], 0, soft.shape[1] - 1).astype(np.intp)
    y = np.clip(points[:, 1], 0, soft.shape[0] - 1).astype(np.intp)
    return soft[y, x].astype(np.float64)
