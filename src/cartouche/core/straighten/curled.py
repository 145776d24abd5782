"""Corners of a sheet that curls: the last part of a side leaves its line, and the corner lies off where the lines meet.

What the map and a line through the whole side cannot have: each end of a side along which no edge runs is looked for farther
off, along curves that leave the side's line at some share of its way, straight or arched. Only an edge that runs
through, as bright inside as the rest of the side is, is taken; what a hand covers stays where the lines meet.
"""

from itertools import product

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Corners, Plane
from cartouche.core.straighten.geometry import BEFORE, check_quadrilateral, meeting
from cartouche.core.straighten.refine import ENOUGH_STEEP, MIN_STEEP, NEAR, Curves, fitted_curves, profiles

REACH = 0.03  # of the picture's longer side: so far off its line a side's end is looked for
FAR, SPOTS = 0.5, 40  # share of a side, from its corner, that is looked at; spots along it
END = 0.25  # of a side: without an edge on its line, this part is looked for
WEAK = 0.5  # share of its spots with an edge on the side's line: with fewer, another curve is looked for
BORNE_OUT, BETTER = 0.75, 0.35  # share of them on a curve that is taken, and more than on the line
LEAVES_AT = (0.15, 0.25, 0.35, 0.45)  # share of the side, from the corner, where it leaves its line
SAME_WAY = 0.6  # of the side's edge, brighter inside less darker: more, and its end is as bright inside
AS_STEEP = 0.3  # of the side's own edge, luma a px: an edge as clear
MIN_MOVED, MAX_MOVED = 3.0, 0.06  # px, and a share of the picture's longer side: what a corner moves by
_SHARES = np.linspace(0.01, FAR, SPOTS)
Values = NDArray[np.float64]


def curled_corners(luma: Plane, corners: Corners) -> Corners:
    """The corners, (4, 2) px, moved to where the ends of their sides run. luma: (h, w) uint8.  corners: clockwise, refined before."""
    sides = fitted_curves(luma, corners)
    height, width = luma.shape
    shown = np.all((corners > 2) & (corners < (width - 3, height - 3)), axis=1)
    weak = np.stack([sides.borne_out(0, END), sides.borne_out(1 - END, 1)], axis=1) < WEAK
    points = sides.at(np.array([0.0, 1.0]))
    ways = np.stack([sides.ways(0.0), sides.ways(1.0)], axis=1)
    led = np.zeros(4, bool)
    for side, last in np.argwhere(weak):
        corner = (side + last) % 4
        if shown[corner] and (end := _end_of(luma, sides, side, bool(last))) is not None:
            points[side, last], ways[side, last], led[corner] = *end, True
    if not led.any():
        return corners
    met = meeting(points[BEFORE, 1], ways[BEFORE, 1], points[:, 0], ways[:, 0])
    off = np.linalg.norm(met - corners, axis=1)
    taken = led & (off > MIN_MOVED) & (off < MAX_MOVED * max(width, height))
    try:
        return check_quadrilateral(np.where(taken[:, None], met, corners))
    except DegenerateCorners:
        return corners


def _shapes() -> tuple[Values, Values]:
    """Curves a px off a side's line at the corner: px beside it, (shapes, spots), and how steep there, px a side, (shapes,)."""
    shapes = list(product(LEAVES_AT, (1, 2)))
    return np.array([np.clip((at - _SHARES) / at, 0, 1) ** power for at, power in shapes]), np.array([-power / at for at, power in shapes])


_BESIDE, _SLOPES = _shapes()


def _end_of(luma: Plane, sides: Curves, side: int, last: bool) -> tuple[Values, Values] | None:
    """Where a side's end lies and which way it runs there, each (2,); None where no edge leads there."""
    reach = round(REACH * max(luma.shape))
    steep = _inward_steepness(luma, sides.at(1 - _SHARES if last else _SHARES)[side], sides.inward[side], reach + 1)
    sign = _brighter_inside(luma, sides, side)
    clear = cv2.dilate(np.abs(steep) if sign == 0 else sign * steep, np.ones((1, 3), np.uint8))  # an edge beside a curve bears it out
    offsets = np.arange(-reach, reach + 1)
    at = np.rint(offsets[:, None] * _BESIDE[:, None]).astype(np.intp) + reach + 1
    found = clear[np.arange(SPOTS), at]
    shape, best = np.unravel_index(np.clip(found, 0, ENOUGH_STEEP).sum(axis=2).argmax(), found.shape[:2])
    borne_out = (found[:, :, _SHARES < END] > max(MIN_STEEP, AS_STEEP * sides.steep[side])).mean(axis=2)
    if borne_out[shape, best] < max(BORNE_OUT, borne_out[0, reach] + BETTER):
        return None
    off, share = float(offsets[best]), float(last)
    slope = off * _SLOPES[shape] * (-1 if last else 1) / sides.length[side]
    return sides.at(np.array([share]))[side, 0] + off * sides.inward[side], sides.ways(share)[side] + slope * sides.inward[side]


def _inward_steepness(luma: Plane, line: Values, inward: Values, far: int) -> NDArray[np.float32]:
    """How much brighter it grows inward, luma a px, at each spot and so many px off it, (spots, 2 far + 1)."""
    soft = profiles(luma, line[None], inward[None], np.arange(-far, far + 2, dtype=np.float32) - 0.5)
    return np.asarray(soft[:, 1:] - soft[:, :-1])


def _brighter_inside(luma: Plane, sides: Curves, side: int) -> int:
    """1 where a side is brighter inside, -1 where darker, 0 where that changes along it."""
    shares = np.linspace(END, 1 - END, SPOTS)
    steep = _inward_steepness(luma, sides.at(shares)[side], sides.inward[side], NEAR)
    most = np.take_along_axis(steep, np.abs(steep).argmax(axis=1)[:, None], axis=1)
    even = float(np.sign(most[np.abs(most) > MIN_STEEP]).sum() / SPOTS)
    return round(np.sign(even)) if abs(even) > SAME_WAY else 0
