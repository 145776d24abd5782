"""A quadrilateral's sides in the map of the page: how clear a border runs along them, and where near them it runs."""

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Size
from cartouche.core.straighten.fits import powers, straight, sums
from cartouche.core.straighten.geometry import BEFORE, NEXT, meeting, seen_part
from cartouche.core.straighten.page_map import Map

BY_BORDER = 2.5  # cells: a side that runs along the picture's border is where the picture ends, not the page
MARGIN, MIN_SEEN = 1.0, 4.0  # cells: the outermost are unreliable; of a side that shows less nothing is said
CLEAR, MIN_CLEAR = 0.25, 5  # a spot where a border runs; with fewer of them along a side, it stays
BESIDE = 0.3  # cells: spots farther off a side's line weigh less (Huber)
_REACH = 6  # cells to either side of a quadrilateral's side in which a better line is sought
_SHARES = np.linspace(0.06, 0.94, 24)
_STEPS = np.arange(-_REACH, _REACH + 1)
_STARTS, _STOPS = (grid.ravel() for grid in np.meshgrid(_STEPS, _STEPS))
_COARSE, _POWERS = _SHARES[::2], powers(_SHARES)
_CLOSE = np.arange(-2, 2.01, 0.5)  # cells to either side, once it is close
_AT = np.rint(_STARTS[:, None] + (_STOPS - _STARTS)[:, None] * _COARSE).astype(np.intp) + _REACH + np.arange(len(_COARSE)) * len(_STEPS)
_CENTRED = 1 - 0.15 * ((_STARTS + _STOPS) / (2 * _REACH)) ** 2 - 0.1 * ((_STARTS - _STOPS) / (2 * _REACH)) ** 2
Points = NDArray[np.float64]  # (..., 2) cells of the map


def clear_along(quads: Points, border: Map) -> Points:
    """How clear the border is along each side's seen part, (n, 4) in 0..1; a side that is not seen counts as half."""
    starts, ends = _seen_sides(quads, border)
    spots = starts[:, :, None] + _SHARES[:, None] * (ends - starts)[:, :, None]
    half = np.array(border.shape[::-1]) / 2
    inside = (np.maximum(np.abs(starts - half), np.abs(ends - half)) < half - 0.5 * MARGIN).all(axis=2)
    long_enough = inside & (np.linalg.norm(ends - starts, axis=2) > MIN_SEEN)
    clear = np.where(long_enough, _look_up(border, spots).mean(axis=2), 0.5)
    near = np.count_nonzero((np.abs(spots - half) > half - BY_BORDER).any(axis=3), axis=2)
    return np.asarray(np.where(near > 0.8 * len(_SHARES), 0.2 * clear, clear))


def _seen_sides(quads: Points, border: Map) -> tuple[Points, Points]:
    """Start and end of each side's part in the picture, (..., 4, 2); the whole side where none of it is."""
    ends = quads[..., NEXT, :]
    part = seen_part(quads, ends, Size(border.shape[1], border.shape[0]), MARGIN)
    ways = ends - quads
    return quads + part[..., :1] * ways, quads + part[..., 1:] * ways


def sought(quads: Points, border: Map) -> Points:
    """Each side moved, both its ends by themselves, to the line near it along which the border is clearest. (n, 4, 2)."""
    starts, ends = _seen_sides(quads, border)
    edges = ends - starts
    inward = _inward(edges)
    spots = starts[:, :, None] + _COARSE[:, None] * edges[:, :, None]
    heat = _look_up(border, spots[..., None, :] + _STEPS[:, None] * inward[:, :, None, None])  # (n, 4, spots, steps)
    votes = heat.reshape(*heat.shape[:2], -1).take(_AT, axis=2).sum(axis=3) * _CENTRED
    best = votes.argmax(axis=2)
    best[votes.max(axis=2) < 0.5] = len(_STARTS) // 2  # nothing near: it stays
    starts = starts + _STARTS[best][..., None] * inward
    ways = ends + _STOPS[best][..., None] * inward - starts
    return _joined(starts, ways, quads, border)


def refitted(quads: Points, border: Map) -> Points:
    """Each side moved to where the border runs near it; a side that is not seen stays. (n, 4, 2)."""
    starts, ends = _seen_sides(quads, border)
    ways = ends - starts
    inward = _inward(ways)
    spots = starts[:, :, None] + _SHARES[:, None] * ways[:, :, None]
    heat = _look_up(border, spots[..., None, :] + _CLOSE[:, None] * inward[:, :, None, None]).reshape(-1, len(_SHARES), len(_CLOSE))
    square = heat * heat
    beside = (square @ _CLOSE) / np.maximum(square.sum(axis=2), 1e-6)
    strong = heat.max(axis=2) > CLEAR
    strong &= (np.count_nonzero(strong, axis=1) >= MIN_CLEAR)[:, None]
    weight = strong.astype(np.float64)
    for _ in range(2):
        bows = straight(*sums(_POWERS, beside, weight))
        weight = strong / np.maximum(1, np.abs(beside - bows @ _POWERS[:, :3].T) / BESIDE)
    a, b = (bows[:, k].reshape(-1, 4, 1) for k in (0, 1))
    return _joined(starts + a * inward, ways + b * inward, quads, border)


def _inward(ways: Points) -> Points:
    along = ways / np.maximum(np.linalg.norm(ways, axis=-1, keepdims=True), 1e-6)
    return np.stack([-along[..., 1], along[..., 0]], axis=-1)


def _joined(starts: Points, ways: Points, before: Points, border: Map) -> Points:
    """The corners where sides meet; a quadrilateral that would come out far away stays as it was."""
    corners = meeting(starts[:, BEFORE], ways[:, BEFORE], starts, ways)
    good = np.isfinite(corners).all(axis=(1, 2)) & (np.abs(corners - before).max(axis=(1, 2)) < 0.35 * max(border.shape))
    return np.where(good[:, None, None], corners, before)


def _look_up(field: Map, points: Points) -> Map:
    """Linear between cells, 0 outside the picture. points: (..., 2) in cells."""
    grid = (points - 0.5).astype(np.float32)
    return np.asarray(cv2.remap(field, grid.reshape(-1, grid.shape[-2], 2), None, cv2.INTER_LINEAR).reshape(grid.shape[:-1]))  # type: ignore[call-overload]
