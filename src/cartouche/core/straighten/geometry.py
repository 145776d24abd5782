"""Quadrilaterals and the maps between them."""

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Corners, Matrix, Size

NEXT, BEFORE = np.array([1, 2, 3, 0]), np.array([3, 0, 1, 2])  # of four corners or sides; np.roll takes five times as long
KEYSTONE_STEPS = 9  # halvings: within a quarter of a per cent of where the corners can go
_WHOLE = np.array([0.0, 1.0])  # from where to where, as shares of a way
MIN_HEIGHT_SHARE = 0.01  # a triangle flatter than this share of the diagonal has no stable homography


class Keystone(NamedTuple):
    """Signed per cent: vertical > 0 when the top edge looks shorter, horizontal > 0 when the left one does."""

    vertical: float
    horizontal: float


def as_corners(values: ArrayLike) -> Corners:
    """Any four (x, y) pairs as (4, 2) float64. Raises DegenerateCorners."""
    try:
        corners = np.asarray(values, dtype=np.float64)
    except (TypeError, ValueError) as exc:
        raise DegenerateCorners("they are not four pairs of numbers") from exc
    if corners.shape != (4, 2) or not np.isfinite(corners).all():
        raise DegenerateCorners("they are not four pairs of numbers")
    return corners


def rectangle(size: Size) -> Corners:
    """The four corners of a canvas, top-left first, clockwise."""
    return np.array([[0, 0], [size.width, 0], [size.width, size.height], [0, size.height]], np.float64)


def check_quadrilateral(corners: Corners) -> Corners:
    """The same corners if they are convex and clockwise as seen; else raises DegenerateCorners with the reason.

    corners: (4, 2) float64 px.
    """
    sides = corners[NEXT] - corners
    after = sides[NEXT]
    turns = sides[:, 0] * after[:, 1] - sides[:, 1] * after[:, 0]
    diagonal = math.hypot(*np.ptp(corners, axis=0))
    if diagonal <= 0 or np.abs(turns).min() < (MIN_HEIGHT_SHARE * diagonal) ** 2:
        raise DegenerateCorners("three of them lie on one line")
    if (turns < 0).all():
        raise DegenerateCorners("they run the wrong way round")
    if not (turns > 0).all():
        raise DegenerateCorners("two sides cross")
    return corners


def in_order_of(corners: Corners, other: Corners) -> tuple[Corners, float]:
    """The corners started where they lie nearest to another page's, and their mean distance from those, px.

    corners, other: (4, 2) px, both clockwise as seen, started anywhere.
    """
    turns = [np.roll(corners, turn, axis=0) for turn in range(4)]
    off = [float(np.linalg.norm(turn - other, axis=1).mean()) for turn in turns]
    best = int(np.argmin(off))
    return turns[best], off[best]


def meeting(
    p: NDArray[np.floating], along_p: NDArray[np.floating], q: NDArray[np.floating], along_q: NDArray[np.floating]
) -> NDArray[np.float64]:
    """Where the lines through p and q along their directions meet, each (..., 2); not finite where they are parallel."""
    cross = along_p[..., 0] * along_q[..., 1] - along_p[..., 1] * along_q[..., 0]
    apart = q - p
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        t = (apart[..., 0] * along_q[..., 1] - apart[..., 1] * along_q[..., 0]) / cross
        return np.asarray(p + t[..., None] * along_p)


def seen_part(starts: NDArray[np.floating], ends: NDArray[np.floating], picture: Size, margin: float) -> NDArray[np.float64]:
    """From where to where each segment lies in the picture, as shares of its way, (..., 2); the whole of one that misses it.

    starts, ends: (..., 2).  margin: how far from the picture's border, in the same units.
    Source: Liang & Barsky, A new concept and method for line clipping, ACM Transactions on Graphics 3 (1984).
    """
    room = np.array(picture) - margin
    if ((starts > margin) & (starts < room) & (ends > margin) & (ends < room)).all():
        return np.broadcast_to(_WHOLE, starts.shape)
    ways = ends - starts
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        low, high = (margin - starts) / ways, (room - starts) / ways
    first, last = np.minimum(low, high), np.maximum(low, high)
    still = np.abs(ways) < 1e-9
    if still.any():
        inside = (starts > margin) & (starts < room)
        first[still], last[still] = np.where(inside, -np.inf, np.inf)[still], np.where(inside, np.inf, -np.inf)[still]
    part = np.empty(first.shape)
    part[..., 0] = np.minimum(np.maximum(np.maximum(first[..., 0], first[..., 1]), 0), 1)
    part[..., 1] = np.minimum(np.maximum(np.minimum(last[..., 0], last[..., 1]), 0), 1)
    part[part[..., 1] <= part[..., 0]] = 0, 1
    return part


def solve_homography(source: Corners, target: Corners) -> Matrix:
    """The (3, 3) map that takes four points to four points.

    source, target: (4, 2) float64 in one order.  Raises DegenerateCorners if source is not a convex quadrilateral.
    Source: Hartley & Zisserman, Multiple View Geometry, 2nd ed., section 4.1 (DLT).
    """
    check_quadrilateral(source)
    ones, zeros = np.ones((4, 1)), np.zeros((4, 3))
    lifted = np.hstack([source, ones])
    rows = [np.hstack([lifted, zeros, -target[:, :1] * source]), np.hstack([zeros, lifted, -target[:, 1:] * source])]
    solution = np.linalg.solve(np.vstack(rows), target.T.ravel())
    return np.append(solution, 1.0).reshape(3, 3)


def transform(matrix: NDArray[np.floating], points: NDArray[np.floating]) -> NDArray[np.float64]:
    """(n, 2) points through a (3, 3) map, homogeneous division included."""
    lifted = points @ matrix[:, :2].T + matrix[:, 2]
    return np.asarray(lifted[:, :2] / lifted[:, 2:3])


def smallest_stretch(matrix: NDArray[np.floating], points: NDArray[np.floating]) -> NDArray[np.float64]:
    """How many target pixels one source pixel becomes in its worst direction, at each of (n, 2) source points.

    The smaller singular value of the map's Jacobian (Hartley & Zisserman, section 2.4): what limits fine detail there.
    """
    w = points @ matrix[2, :2] + matrix[2, 2]
    mapped = transform(matrix, points)
    jacobian = (matrix[:2, :2][None] - mapped[:, :, None] * matrix[2, :2][None, None]) / w[:, None, None]
    return np.asarray(np.linalg.svd(jacobian, compute_uv=False)[:, -1])


def _bilinear(corners: Corners) -> tuple[NDArray[np.float64], ...]:
    """Centre, half width vector, half height vector and twist of the patch c + s A + t B + s t D, s and t in [-1, 1]."""
    tl, tr, br, bl = corners
    return (tl + tr + br + bl) / 4, (tr + br - tl - bl) / 4, (bl + br - tl - tr) / 4, (tl + br - tr - bl) / 4


def keystone(corners: Corners) -> Keystone:
    """How strongly opposite edges differ, in signed per cent. (4, 2) corners, clockwise, top-left first.

    The twist D of the bilinear patch through the corners, measured along its two axes: 0 for a parallelogram.
    """
    _, across, down, twist = _bilinear(corners)
    return Keystone(
        float(100 * (twist @ across) / (across @ across)),
        float(100 * (twist @ down) / (down @ down)),
    )


def nearest_keystone(corners: Corners, wanted: Keystone, allowed: Callable[[Corners], bool] = lambda _: True) -> Corners:
    """As far towards the wanted keystone as the corners go; where both numbers do not go together, the one that was not changed gives way.

    corners: (4, 2) float64 px, a convex quadrilateral.  allowed: whether corners may be used.  Returns (4, 2).
    """

    def moved(to: Keystone) -> Corners | None:
        try:
            there = with_keystone(corners, to)
        except DegenerateCorners:
            return None
        return there if allowed(there) else None

    start = keystone(corners)
    if (whole := moved(wanted)) is not None:
        return whole
    led_vertical = abs(wanted.vertical - start.vertical) > abs(wanted.horizontal - start.horizontal)
    alone = Keystone(wanted.vertical, 0.0) if led_vertical else Keystone(0.0, wanted.horizontal)
    if moved(alone) is not None:
        start = alone
    reached, low, high = moved(start), 0.0, 1.0
    for _ in range(KEYSTONE_STEPS):
        share = (low + high) / 2
        between = moved(Keystone(*(a + share * (b - a) for a, b in zip(start, wanted, strict=True))))
        if between is None:
            high = share
        else:
            reached, low = between, share
    return corners if reached is None else reached


def with_keystone(corners: Corners, wanted: Keystone) -> Corners:
    """The same centre and axes with another keystone: `keystone(with_keystone(c, k)) == k`.

    Raises DegenerateCorners when the two axes are parallel or the result is no convex quadrilateral.
    """
    centre, across, down, _ = _bilinear(corners)
    axes = np.stack([across, down])
    if abs(np.linalg.det(axes)) < 1e-9:
        raise DegenerateCorners("three of them lie on one line")
    twist = np.linalg.solve(axes, np.array(wanted) / 100 * np.array([across @ across, down @ down]))
    signs = ((-1, -1), (1, -1), (1, 1), (-1, 1))
    return check_quadrilateral(np.stack([centre + s * across + t * down + s * t * twist for s, t in signs]))
