"""Paper sizes, and the true proportions of a page seen at a slant."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Corners, Size
from cartouche.core.straighten.geometry import as_corners, homography, rectangle

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
USUAL_SPREAD = 1.3  # webcams lie within this factor of it (44 to 69 degrees across)
CORNER_NOISE_PX = 1.0  # what a found corner may be off
LEAST_SPREAD = 0.01  # log; no estimate by an assumed lens is better


class Proportions(NamedTuple):
    """aspect: width / height.  focal_px: the view's own, None where it cannot tell.  spread: how far aspect may be off, log."""

    aspect: float
    focal_px: float | None
    spread: float


def true_proportions(corners: Corners, picture: Size) -> Proportions:
    """Width / height of the rectangle behind a quadrilateral, from this one view.

    corners: (4, 2) px in the picture, top-left first, clockwise; square pixels, principal point at the picture's centre.
    Raises DegenerateCorners.  Two estimates are weighed by how far each may be off: by the view's own focal length, which
    noise in the corners blurs where edges hardly converge, and by a usual webcam's, which may be another lens.
    Source: Zhang & He, Whiteboard scanning and image enhancement, Digital Signal Processing 17 (2007), section 3.
    """
    corners = as_corners(corners)
    homography(corners, rectangle(Size(1, 1)))
    across, down = _edge_vectors(corners, picture)
    usual = USUAL_FOCAL * picture.width
    assumed = _aspect(across, down, usual**2)
    unknown_lens = (
        abs(math.log(_aspect(across, down, (usual * USUAL_SPREAD) ** 2) / _aspect(across, down, (usual / USUAL_SPREAD) ** 2))) / 2
    )
    unknown_lens = max(unknown_lens, LEAST_SPREAD)
    own = _own_focal(across, down, picture)
    if own is None:
        return Proportions(assumed, None, unknown_lens)
    aspect = _aspect(across, down, own**2)
    noise = max(_noise(corners, picture, aspect), LEAST_SPREAD / 100)
    trust = unknown_lens**2 / (unknown_lens**2 + noise**2)  # two estimates, each weighed by the other's variance
    both = math.exp(trust * math.log(aspect) + (1 - trust) * math.log(assumed))
    return Proportions(both, own if trust > 0.5 else None, math.sqrt(trust) * noise if trust else unknown_lens)


def _edge_vectors(corners: Corners, picture: Size) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The rectangle's two edge directions up to the focal length, homogeneous px (Zhang & He, equations 11 to 14)."""
    m1, m2, m4, m3 = np.column_stack([corners - np.array(picture) / 2, np.ones(4)])
    k2 = (_cross(m1, m4) @ m3) / (_cross(m2, m4) @ m3)
    k3 = (_cross(m1, m4) @ m2) / (_cross(m3, m4) @ m2)
    return k2 * m2 - m1, k3 * m3 - m1


def _cross(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    """np.cross takes ten times as long for two vectors."""
    return np.array([a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]])


def _own_focal(across: NDArray[np.float64], down: NDArray[np.float64], picture: Size) -> float | None:
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
            across, down = _edge_vectors(shifted, picture)
            own = _own_focal(across, down, picture)
            if own is None:
                return math.inf
            moved += math.log(_aspect(across, down, own**2) / aspect) ** 2
    return math.sqrt(moved)


def _aspect(across: NDArray[np.float64], down: NDArray[np.float64], focal_squared: float) -> float:
    (ax, ay, az), (dx, dy, dz) = across, down
    return math.sqrt((ax * ax + ay * ay + focal_squared * az * az) / (dx * dx + dy * dy + focal_squared * dz * dz))


def snap(proportions: Proportions) -> tuple[str, bool] | None:
    """The paper nearest in proportions and whether it lies on its side; None when none is near.

    A-series sizes share one aspect: A4 stands for all of them until the teacher says otherwise.
    """
    best: tuple[float, str, bool] | None = None
    within = min(max(SNAP_WITHIN, proportions.spread), SNAP_WIDEST)
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
    to_picture = homography(page, corners - np.array([picture.width / 2, picture.height / 2]))
    rays = np.diag([1 / focal, 1 / focal, 1.0]) @ to_picture
    normal = np.cross(rays[:, 0], rays[:, 1])
    return math.degrees(math.acos(min(1.0, abs(normal[2]) / float(np.linalg.norm(normal)))))
