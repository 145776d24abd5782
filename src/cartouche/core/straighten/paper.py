"""Paper sizes, and the true proportions of a page seen at a slant."""

import math
from typing import NamedTuple

import numpy as np

from cartouche.core.pictures import Corners, Size
from cartouche.core.straighten.geometry import as_corners, check_quadrilateral, rectangle, solve_homography

PAPERS_MM: dict[str, tuple[float, float]] = {  # width, height, upright; ISO 216 and ANSI/ASME Y14.1
    "A3": (297, 420),
    "A4": (210, 297),
    "A5": (148, 210),
    "A6": (105, 148),
    "Letter": (215.9, 279.4),
    "Legal": (215.9, 355.6),
}
SNAP_WITHIN, SNAP_WIDEST = 0.06, 0.1  # log; A-series and Letter differ by 9 %, A-series and Legal by 15 %: the nearest wins
USUAL_FOCAL = 0.95  # focal length over picture width of a usual webcam (55 degrees across), where a view cannot tell its own
USUAL_DEVIATION = 1.3  # webcams lie within this factor of it (44 to 69 degrees across)
CORNER_NOISE_PX = 1.0  # what a found corner may be off
MIN_DEVIATION = 0.01  # log; no estimate by an assumed lens is better


class Proportions(NamedTuple):
    """aspect: width / height.  focal_px: the view's own, None where it cannot tell.  deviation: how far aspect may be off, log."""

    aspect: float
    focal_px: float | None
    deviation: float


def true_proportions(corners: Corners, picture: Size) -> Proportions:
    """Width / height of the rectangle behind a quadrilateral, from this one view.

    corners: (4, 2) px in the picture, top-left first, clockwise; square pixels, principal point at the picture's centre.
    Raises DegenerateCorners.  Two estimates are weighed by how far each may be off: by the view's own focal length, which
    noise in the corners blurs where edges hardly converge, and by a usual webcam's, which may be another lens.
    Source: Zhang & He, Whiteboard scanning and image enhancement, Digital Signal Processing 17 (2007), section 3.
    """
    corners = check_quadrilateral(as_corners(corners))
    across, down = _edge_vectors(corners, picture)
    usual = USUAL_FOCAL * picture.width
    assumed = _aspect(across, down, usual**2)
    unknown_lens = (
        abs(math.log(_aspect(across, down, (usual * USUAL_DEVIATION) ** 2) / _aspect(across, down, (usual / USUAL_DEVIATION) ** 2))) / 2
    )
    unknown_lens = max(unknown_lens, MIN_DEVIATION)
    own = _own_focal(across, down, picture)
    if own is None:
        return Proportions(assumed, None, unknown_lens)
    aspect = _aspect(across, down, own**2)
    noise = max(_noise(corners, picture, aspect), MIN_DEVIATION / 100)
    trust = unknown_lens**2 / (unknown_lens**2 + noise**2)  # two estimates, each weighed by the other's variance
    both = math.exp(trust * math.log(aspect) + (1 - trust) * math.log(assumed))
    return Proportions(both, own if trust > 0.5 else None, math.sqrt(trust) * noise if trust else unknown_lens)


Vector = tuple[float, float, float]


def _edge_vectors(corners: Corners, picture: Size) -> tuple[Vector, Vector]:
    """The rectangle's two edge directions up to the focal length, homogeneous px (Zhang & He, equations 11 to 14).

    By plain numbers: on so few, arrays take ten times as long.
    """
    (x1, y1), (x2, y2), (x4, y4), (x3, y3) = (corners - (picture.width / 2, picture.height / 2)).tolist()
    m14 = _cross(x1, y1, x4, y4)
    k2 = _dot(m14, x3, y3) / _dot(_cross(x2, y2, x4, y4), x3, y3)
    k3 = _dot(m14, x2, y2) / _dot(_cross(x3, y3, x4, y4), x2, y2)
    return (k2 * x2 - x1, k2 * y2 - y1, k2 - 1), (k3 * x3 - x1, k3 * y3 - y1, k3 - 1)


def _cross(ax: float, ay: float, bx: float, by: float) -> Vector:
    """Of (ax, ay, 1) and (bx, by, 1)."""
    return ay - by, bx - ax, ax * by - ay * bx


def _dot(a: Vector, x: float, y: float) -> float:
    return a[0] * x + a[1] * y + a[2]


def _own_focal(across: Vector, down: Vector, picture: Size) -> float | None:
    """The focal length in px that makes the two edges meet at a right angle; None where they do not converge enough to tell."""
    depth = across[2] * down[2]
    squared = -(across[0] * down[0] + across[1] * down[1]) / depth if depth else -1.0
    return math.sqrt(squared) if 0.1 < squared / picture.width**2 < 25 else None


def _noise(corners: Corners, picture: Size, aspect: float) -> float:
    """How far noise in the corners moves the aspect, log, when the view's own focal length is used; inf where it then has none."""
    moved = 0.0
    for corner in range(4):
        for axis in range(2):
            shifted = corners.copy()
            shifted[corner, axis] += CORNER_NOISE_PX
            try:
                across, down = _edge_vectors(shifted, picture)
            except ZeroDivisionError:  # so small that a pixel puts three corners on one line
                return math.inf
            own = _own_focal(across, down, picture)
            if own is None:
                return math.inf
            moved += math.log(_aspect(across, down, own**2) / aspect) ** 2
    return math.sqrt(moved)


def _aspect(across: Vector, down: Vector, focal_squared: float) -> float:
    (ax, ay, az), (dx, dy, dz) = across, down
    return math.sqrt((ax * ax + ay * ay + focal_squared * az * az) / (dx * dx + dy * dy + focal_squared * dz * dz))


def snap(proportions: Proportions) -> tuple[str, bool] | None:
    """The paper nearest in proportions and whether it lies on its side; None when none is near.

    A-series sizes share one aspect: A4 stands for all of them until the teacher says otherwise.
    """
    best: tuple[float, str, bool] | None = None
    within = min(max(SNAP_WITHIN, proportions.deviation), SNAP_WIDEST)
    for name in ("A4", "Letter", "Legal"):
        short, long = PAPERS_MM[name]
        for lying, value in ((False, short / long), (True, long / short)):
            off = abs(math.log(proportions.aspect / value))
            if off < within and (best is None or off < best[0]):
                best = (off, name, lying)
    return None if best is None else best[1:]


def tilt_deg(corners: Corners, picture: Size, aspect: float, focal_px: float | None) -> float:
    """Angle between the camera's axis and the page's upright, degrees; 0 when looking straight down.

    Source: Zhang, A flexible new technique for camera calibration, PAMI 22 (2000), section 3.1 (r1, r2 from H).
    """
    focal = focal_px or USUAL_FOCAL * picture.width
    page = rectangle(Size(aspect, 1.0)) - np.array([aspect / 2, 0.5])
    to_picture = solve_homography(page, corners - np.array([picture.width / 2, picture.height / 2]))
    rays = np.diag([1 / focal, 1 / focal, 1.0]) @ to_picture
    normal = np.cross(rays[:, 0], rays[:, 1])
    return math.degrees(math.acos(min(1.0, abs(normal[2]) / float(np.linalg.norm(normal)))))
