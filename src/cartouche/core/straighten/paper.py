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
SNAP_WITHIN = 0.06  # A-series and Letter differ by 9 %: a third less than half of that gap never confuses them
FLAT_BELOW = 0.02  # opposite edges parallel within two per cent: noise in the corners decides the focal length, not the view
USUAL_FOCAL = 0.95  # focal length over picture width of a usual webcam (55 degrees across), where a view cannot tell its own


class Proportions(NamedTuple):
    """aspect: width / height.  focal_px: focal length behind the estimate, or None for a view without perspective."""

    aspect: float
    focal_px: float | None


def true_proportions(corners: Corners, picture: Size) -> Proportions:
    """Width / height of the rectangle behind a quadrilateral, from this one view.

    corners: (4, 2) px in the picture, top-left first, clockwise; square pixels, principal point at the picture's centre.
    Raises DegenerateCorners.  Where perspective is too weak to tell the focal length, edge lengths decide.
    Source: Zhang & He, Whiteboard scanning and image enhancement, Digital Signal Processing 17 (2007), section 3.
    """
    middle = np.array([picture.width / 2, picture.height / 2])
    homography(corners, rectangle(Size(1, 1)))
    m1, m2, m4, m3 = (np.append(p - middle, 1.0) for p in as_corners(corners))
    k2 = (np.cross(m1, m4) @ m3) / (np.cross(m2, m4) @ m3)
    k3 = (np.cross(m1, m4) @ m2) / (np.cross(m3, m4) @ m2)
    n2, n3 = k2 * m2 - m1, k3 * m3 - m1
    scale = picture.width**2
    if abs(n2[2]) > FLAT_BELOW and abs(n3[2]) > FLAT_BELOW:
        focal_squared = -(n2[0] * n3[0] + n2[1] * n3[1]) / (n2[2] * n3[2])
        if 0.1 * scale < focal_squared < 25 * scale:
            return Proportions(_aspect(n2, n3, focal_squared), math.sqrt(focal_squared))
    return Proportions(_aspect(n2, n3, (USUAL_FOCAL * picture.width) ** 2), None)


def _aspect(across: NDArray[np.float64], down: NDArray[np.float64], focal_squared: float) -> float:
    weights = np.array([1, 1, focal_squared])
    return float(np.sqrt((weights * across * across).sum() / (weights * down * down).sum()))


def snap(aspect: float) -> tuple[str, bool] | None:
    """The paper nearest in proportions and whether it lies on its side; None when none is near.

    A-series sizes share one aspect: A4 stands for all of them until the teacher says otherwise.
    """
    best: tuple[float, str, bool] | None = None
    for name in ("A4", "Letter", "Legal"):
        short, long = PAPERS_MM[name]
        for lying, value in ((False, short / long), (True, long / short)):
            off = abs(math.log(aspect / value))
            if off < SNAP_WITHIN and (best is None or off < best[0]):
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
