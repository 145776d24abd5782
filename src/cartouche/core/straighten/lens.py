"""Unbend: the radial bulge of a wide lens, by one number.

The division model with its centre in the middle of the picture: a distorted point at radius r lies at r / (1 + distortion r^2)
on the straight picture, radii in half diagonals. Both directions have a closed form, so no table is ever iterated.
Source: Fitzgibbon, Simultaneous linear estimation of multiple view geometry and lens distortion, CVPR 2001.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Size

Points = NDArray[np.float64]  # (..., 2) px

MAX_DISTORTION = 0.3  # beyond it a lens is a fish-eye, and one number no longer tells it
MIN_DISTORTION = 0.0005  # below it no pixel of a 1080p picture moves by half a pixel
MIN_LINE_SHARE = 0.25  # of the diagonal: a shorter line hardly bends
MAX_DEVIATION = 0.012  # one standard deviation: less sure, the lens is left as it is


class Distortion(NamedTuple):
    """value: of the division model; below 0 barrel, as wide lenses have it.  deviation: one standard deviation.  lines: how many told."""

    value: float
    deviation: float
    lines: int

    def __bool__(self) -> bool:
        return self.lines > 0 and self.deviation < MAX_DEVIATION


def _half_diagonal(picture: Size) -> float:
    return float(np.hypot(picture.width, picture.height)) / 2


def undistort(points: Points, distortion: float, picture: Size) -> Points:
    """Points of the picture as it comes, moved to where a straight lens would have put them. points: (..., 2) px."""
    middle, unit = np.array(picture, np.float64) / 2, _half_diagonal(picture)
    away = (points - middle) / unit
    return np.asarray(middle + unit * away / (1 + distortion * (away**2).sum(axis=-1, keepdims=True)))


def distort(points: Points, distortion: float, picture: Size) -> Points:
    """The way back: `distort(undistort(p)) == p` within the picture. points: (..., 2) px."""
    middle, unit = np.array(picture, np.float64) / 2, _half_diagonal(picture)
    away = (points - middle) / unit
    squared = (away**2).sum(axis=-1, keepdims=True)
    root = np.sqrt(np.maximum(1 - 4 * distortion * squared, 0))  # 0: farther out than this lens sees at all
    return np.asarray(middle + unit * away * 2 / (1 + root))


def fold(points: Points, distortion: float, picture: Size) -> float:
    """How near to where the model turns back on itself the farthest of the points lies; beyond 1 it has. points: (..., 2) px."""
    away = (points - np.array(picture, np.float64) / 2) / _half_diagonal(picture)
    return float(abs(distortion) * (away**2).sum(axis=-1).max())


def edge_share(distortion: float, picture: Size) -> float:
    """How far the middle of the picture's longer side is moved, as a share of half that side; what lens tests call distortion."""
    radius = max(picture) / 2 / _half_diagonal(picture)
    return distortion * radius**2 / (1 + distortion * radius**2)


def estimate_distortion(lines: Sequence[Points], picture: Size) -> Distortion:
    """The distortion that makes lines straight which are straight in truth.

    lines: each (n, 2) px along one edge of a page or one ruled line, n >= 8, from one or several frames.
    One number is sought: Gauss-Newton on the points' distances from the line through their own, all lines at once.
    Returns a falsy Distortion when no line is long enough.  Source: Devernay & Faugeras, Straight lines have to be straight,
    Machine Vision and Applications 13 (2001).
    """
    diagonal = 2 * _half_diagonal(picture)
    used = [line for line in lines if len(line) >= 8 and np.linalg.norm(np.ptp(line, axis=0)) > MIN_LINE_SHARE * diagonal]
    if not used:
        return Distortion(0.0, np.inf, 0)
    value, step = 0.0, 1e-3
    for _ in range(12):
        here, ahead = _residuals(used, value, picture), _residuals(used, value + step, picture)
        slope = (ahead - here) / step
        weight = 1 / (1 + (here / max(1.0, 2 * float(np.median(np.abs(here))))) ** 2)  # a hand on the edge does not count
        steepness = float((weight * slope**2).sum())
        if steepness < 1e-9:
            return Distortion(0.0, np.inf, 0)
        change = -float((weight * slope * here).sum()) / steepness
        value = float(np.clip(value + change, -MAX_DISTORTION, MAX_DISTORTION))
        if abs(change) < 1e-6:
            break
    noise = float(np.sqrt((weight * here**2).sum() / max(weight.sum() - 2 * len(used), 1)))
    return Distortion(value, max(noise, 0.15) / float(np.sqrt(steepness)), len(used))


def _residuals(lines: Sequence[Points], distortion: float, picture: Size) -> NDArray[np.float64]:
    """Signed distances of every point from its own line, px, after unbending."""
    return np.concatenate([_off_line(undistort(line, distortion, picture)) for line in lines])


def _off_line(points: Points) -> NDArray[np.float64]:
    centred = points - points.mean(axis=0)
    (xx, xy), (_, yy) = centred.T @ centred
    angle = 0.5 * np.arctan2(2 * xy, xx - yy)
    return np.asarray(centred @ np.array([-np.sin(angle), np.cos(angle)]))
