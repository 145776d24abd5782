"""From a rough quadrilateral to edges at a fraction of a pixel: where brightness rises fastest along each edge's normal."""

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Corners, Plane

SAMPLES = 64  # spots along an edge
REACHES_SHARE = (0.008, 0.003)  # of the picture's width, to either side: first the search's own error, then the fit's
_LEAST_SPOTS = 8
_SHARES = np.linspace(0.05, 0.95, SAMPLES)


def refine_quad(luma: Plane, rough: Corners) -> Corners:
    """(4, 2) corners in px, clockwise, each edge refitted by its own brightness profile. An edge without enough contrast stays."""
    corners = rough
    for share in REACHES_SHARE:
        reach = max(3, round(share * luma.shape[1]))
        sides = _refit(luma, corners, reach)
        corners = np.array([_cross(sides[i - 1], sides[i]) for i in range(4)])
    return corners


def _refit(luma: Plane, corners: Corners, reach: int) -> list[NDArray[np.float64]]:
    """The four edges, each as (point, direction), (2, 2); all are sampled in one call."""
    edges = np.roll(corners, -1, axis=0) - corners
    along = edges / np.maximum(np.linalg.norm(edges, axis=1, keepdims=True), 1e-9)
    inward = np.stack([-along[:, 1], along[:, 0]], axis=1)
    spots = corners[:, None] + _SHARES[None, :, None] * edges[:, None]
    offsets = np.arange(-reach, reach + 1, dtype=np.float64)
    found, rise = _steepest(luma, spots, inward, offsets)
    height, width = luma.shape
    seen = (spots > 2).all(axis=2) & (spots[..., 0] < width - 2) & (spots[..., 1] < height - 2)
    points = spots + found[..., None] * inward[:, None]
    return [_side(corners[i], along[i], points[i], rise[i], seen[i]) for i in range(4)]


def _steepest(
    luma: Plane, spots: NDArray[np.float64], inward: NDArray[np.float64], offsets: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float32]]:
    """How far inward of each spot brightness rises fastest, px to a fraction, and by how much: two (4, SAMPLES) arrays."""
    grid = (spots[:, :, None] + offsets[:, None] * inward[:, None, None] - 0.5).reshape(4 * SAMPLES, -1, 2).astype(np.float32)
    profile = cv2.remap(luma, grid, None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)  # type: ignore[call-overload]
    rise = np.diff(cv2.GaussianBlur(profile.astype(np.float32), (5, 5), 0), axis=1)
    peak = rise[:, 1:-1].argmax(axis=1) + 1
    rows = np.arange(len(rise))
    before, at, after = rise[rows, peak - 1], rise[rows, peak], rise[rows, peak + 1]
    bend = before - 2 * at + after
    fine = np.where(np.abs(bend) > 1e-6, 0.5 * (before - after) / np.where(bend == 0, 1, bend), 0.0)
    return (offsets[peak] + 0.5 + np.clip(fine, -0.5, 0.5)).reshape(4, -1), at.reshape(4, -1)


def _side(
    start: NDArray[np.float64], along: NDArray[np.float64], points: NDArray[np.float64], rise: NDArray[np.float32], seen: NDArray[np.bool_]
) -> NDArray[np.float64]:
    strong = seen & (rise > max(1.5, 0.35 * _middle(rise)))
    return np.stack([start, along]) if strong.sum() < _LEAST_SPOTS else _robust_line(points[strong], along)


def _robust_line(points: NDArray[np.float64], along: NDArray[np.float64]) -> NDArray[np.float64]:
    """Fit by Welsch's weights, then once more without what lies off: a hand over a third of the edge does not pull it."""
    for limit in (2.5, 1.2):
        dx, dy, x, y = (float(value[0]) for value in cv2.fitLine(points.astype(np.float32), cv2.DIST_WELSCH, 0, 0.001, 0.001))
        off = np.abs((points[:, 0] - x) * dy - (points[:, 1] - y) * dx)
        near = off < max(limit, 2.5 * _middle(off))
        if near.sum() >= _LEAST_SPOTS:
            points = points[near]
    sign = 1.0 if dx * along[0] + dy * along[1] > 0 else -1.0
    return np.array([[x, y], [sign * dx, sign * dy]])


def _middle(values: NDArray[np.floating]) -> float:
    """The upper median: np.median costs ten times as much on a few dozen values."""
    half = values.size // 2
    return float(np.partition(values, half)[half])


def _cross(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    (p, d), (q, e) = a, b
    cross = d[0] * e[1] - d[1] * e[0]
    if abs(cross) < 1e-9:
        return np.asarray(q)
    t = ((q[0] - p[0]) * e[1] - (q[1] - p[1]) * e[0]) / cross
    return np.asarray(p + t * d)
