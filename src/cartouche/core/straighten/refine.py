"""From a rough quadrilateral to edges at a fraction of a pixel: where brightness rises fastest along each edge's normal."""

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Corners, Plane

SAMPLES = 64  # spots along an edge
REACHES_SHARE = (0.008, 0.003)  # of the picture's width, to either side: first the search's own error, then the fit's
_LEAST_SPOTS = 8


def refine_quad(luma: Plane, rough: Corners) -> Corners:
    """(4, 2) corners in px, clockwise, each edge refitted by its own brightness profile. An edge without enough contrast stays."""
    corners = rough
    for share in REACHES_SHARE:
        reach = max(3, round(share * luma.shape[1]))
        sides = [_refit(luma, corners[i], corners[(i + 1) % 4], reach) for i in range(4)]
        corners = np.array([_cross(sides[i - 1], sides[i]) for i in range(4)])
    return corners


def _refit(luma: Plane, start: NDArray[np.float64], end: NDArray[np.float64], reach: int) -> NDArray[np.float64]:
    """One edge as (point, direction), (2, 2)."""
    along = end - start
    length = float(np.linalg.norm(along))
    along = along / max(length, 1e-9)
    inward = np.array([-along[1], along[0]])
    share = np.linspace(0.05, 0.95, SAMPLES)[:, None]
    spots = start + share * (end - start)
    offsets = np.arange(-reach, reach + 1, dtype=np.float64)
    grid = spots[:, None] + offsets[None, :, None] * inward - 0.5
    profile = cv2.remap(
        luma, grid[..., 0].astype(np.float32), grid[..., 1].astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    rise = np.diff(cv2.GaussianBlur(profile.astype(np.float32), (5, 5), 0), axis=1)
    peak = rise[:, 1:-1].argmax(axis=1) + 1
    rows = np.arange(SAMPLES)
    before, at, after = rise[rows, peak - 1], rise[rows, peak], rise[rows, peak + 1]
    bend = before - 2 * at + after
    fine = np.where(np.abs(bend) > 1e-6, 0.5 * (before - after) / np.where(bend == 0, 1, bend), 0.0)
    found = offsets[peak] + 0.5 + np.clip(fine, -0.5, 0.5)
    height, width = luma.shape
    seen = (spots[:, 0] > 2) & (spots[:, 1] > 2) & (spots[:, 0] < width - 2) & (spots[:, 1] < height - 2)
    strong = seen & (at > max(1.5, 0.35 * float(np.median(at))))
    if strong.sum() < _LEAST_SPOTS:
        return np.stack([start, along])
    points = (spots + found[:, None] * inward)[strong]
    return _robust_line(points, along)


def _robust_line(points: NDArray[np.float64], along: NDArray[np.float64]) -> NDArray[np.float64]:
    """Fit by Welsch's weights, then once more without what lies off: a hand over a third of the edge does not pull it."""
    for limit in (2.5, 1.2):
        dx, dy, x, y = (float(value[0]) for value in cv2.fitLine(points.astype(np.float32), cv2.DIST_WELSCH, 0, 0.001, 0.001))
        off = np.abs((points[:, 0] - x) * dy - (points[:, 1] - y) * dx)
        near = off < max(limit, 2.5 * float(np.median(off)))
        if near.sum() >= _LEAST_SPOTS:
            points = points[near]
    sign = 1.0 if dx * along[0] + dy * along[1] > 0 else -1.0
    return np.array([[x, y], [sign * dx, sign * dy]])


def _cross(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    (p, d), (q, e) = a, b
    cross = d[0] * e[1] - d[1] * e[0]
    if abs(cross) < 1e-9:
        return np.asarray(q)
    t = ((q[0] - p[0]) * e[1] - (q[1] - p[1]) * e[0]) / cross
    return np.asarray(p + t * d)
