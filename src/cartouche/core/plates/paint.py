"""Drawing on planes: blending, shapes with smooth edges, borders, shadows. Areas are views of planes, written in place."""

from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Plane, YuvColour
from cartouche.core.plates.placing import Box

Alpha = NDArray[np.float32]  # (h, w), 0-1
STEPS = (1, 2, 2)  # of luma and both chromas
SHADOW_DEPTH = 0.34
SHADOW_SHARE = 0.02  # of the outgoing height: how far it reaches


def areas(picture: Frame, box: Box) -> tuple[Plane, Plane, Plane]:
    y, u, v = (plane[box.y0 // k : box.y1 // k, box.x0 // k : box.x1 // k] for plane, k in zip(picture.planes, STEPS, strict=True))
    return y, u, v


def clear(picture: Frame, box: Box, colour: YuvColour) -> None:
    for area, value in zip(areas(picture, box), colour, strict=True):
        area.fill(value)


def blend(area: Plane, source: Plane, alpha: Alpha) -> None:
    """area = source * alpha + area * (1 - alpha)"""
    cv2.blendLinear(source, area, alpha, 1 - alpha, dst=area)


def mix(area: Plane, source: Plane, opacity: float) -> None:
    """Blend source over area by one opacity, 0-1, in place. area, source: (h, w) uint8."""
    cv2.addWeighted(source, opacity, area, 1 - opacity, 0, dst=area)


@lru_cache(maxsize=32)
def ellipse(width: int, height: int) -> Alpha:
    """Coverage of the ellipse inscribed in width x height px."""
    xs = (np.arange(width, dtype=np.float32) + 0.5) / (width / 2) - 1
    ys = (np.arange(height, dtype=np.float32) + 0.5) / (height / 2) - 1
    reach = np.hypot(xs[None], ys[:, None])
    slope = np.hypot(xs[None] / (width / 2), ys[:, None] / (height / 2)) / np.maximum(reach, 1e-6)  # of reach, per px
    return np.asarray(np.clip(0.5 + (1 - reach) / np.maximum(slope, 1e-6), 0, 1), np.float32)


@lru_cache(maxsize=64)
def rounded_corner(size: int, radius: int) -> Alpha:
    """Coverage of the top-left corner, (size, size), of a rectangle rounded by radius px."""
    if radius < 1:
        return np.ones((size, size), np.float32)
    steps = np.arange(size, dtype=np.float32) + 0.5
    in_corner = np.maximum(radius - steps, 0)
    reach = np.hypot(in_corner[None, :], in_corner[:, None])
    return np.asarray(np.clip(radius - reach + 0.5, 0, 1), np.float32)


def corner_parts(size: int) -> list[tuple[slice, slice]]:
    """Top-left, top-right, bottom-left, bottom-right."""
    if size < 1:
        return []
    near, far = slice(0, size), slice(-size, None)
    return [(near, near), (near, far), (far, near), (far, far)]


def at_corners(corner: Alpha) -> list[Alpha]:
    """The top-left corner's coverage, turned to each of the four."""
    return [np.ascontiguousarray(turned) for turned in (corner, corner[:, ::-1], corner[::-1], corner[::-1, ::-1])]


def under_corners(area: Plane, radius: int) -> list[Plane]:
    """Copies of what lies under the four corners of an area. area: (h, w) uint8.  radius: px. Returns four (radius, radius) uint8."""
    return [area[part].copy() for part in corner_parts(radius)]


def round_off(area: Plane, under: list[Plane], radius: int) -> None:
    """Put back what lay under the corners of a place that was drawn square.

    area: (h, w) uint8, in place.  below: four (radius, radius) uint8, see `under_corners`.  radius: px.
    """
    if radius < 1:
        return
    for part, below, alpha in zip(corner_parts(radius), under, at_corners(rounded_corner(radius, radius)), strict=True):
        area[part] = cv2.blendLinear(np.ascontiguousarray(area[part]), below, alpha, 1 - alpha)


def ring(area: Plane, value: int, width: int, radius: int, opacity: float) -> None:
    """A border of this width inside a (rounded) rectangle."""
    if width < 1:
        return
    size = min(max(radius, width), min(area.shape) // 2)
    inner = np.zeros((size, size), np.float32)
    inner[width:, width:] = rounded_corner(size - width, max(radius - width, 0)) if size > width else 0
    corner = np.asarray(np.maximum(rounded_corner(size, min(radius, size)) - inner, 0) * opacity, np.float32)
    for part, alpha in zip(corner_parts(size), at_corners(corner), strict=True):
        under = np.ascontiguousarray(area[part])
        area[part] = cv2.blendLinear(np.full_like(under, value), under, alpha, 1 - alpha)
    for strip in (area[:width, size:-size], area[-width:, size:-size], area[size:-size, :width], area[size:-size, -width:]):
        if strip.size:
            mix(strip, np.full(strip.shape, value, np.uint8), opacity) if opacity < 1 else strip.fill(value)


def oval_ring(area: Plane, value: int, width: int, opacity: float) -> None:
    """A ring along the ellipse that fills the area, in place. area: (h, w) uint8.  width: px.  opacity: 0-1."""
    high, wide = area.shape
    alpha = ellipse(wide, high).copy()
    if wide > 2 * width and high > 2 * width:
        alpha[width:-width, width:-width] -= ellipse(wide - 2 * width, high - 2 * width)
    blend(area, np.full(area.shape, value, np.uint8), np.clip(alpha, 0, 1) * np.float32(opacity))


@lru_cache(maxsize=16)
def shadow_gain(width: int, height: int, radius: int, round_: bool, reach: int, depth: float) -> NDArray[np.uint8]:
    """What luma is multiplied by, 255 = as it is: (height + 2 reach, width + 2 reach)."""
    solid = np.zeros((height + 2 * reach, width + 2 * reach), np.float32)
    inner = solid[reach:-reach, reach:-reach]
    if round_:
        inner[:] = ellipse(width, height)
    else:
        inner[:] = 1
        for part, alpha in zip(corner_parts(radius), at_corners(rounded_corner(radius, radius)) if radius else [], strict=True):
            inner[part] = alpha
    soft = cv2.GaussianBlur(np.roll(solid, reach // 3, axis=0), (0, 0), reach / 2.6)
    return np.asarray(255 * (1 - depth * soft), np.uint8)


def cast_shadow(picture: Frame, box: Box, radius: int, round_: bool, opacity: float) -> None:
    reach = shadow_reach(picture)
    gain = shadow_gain(box.x1 - box.x0, box.y1 - box.y0, radius, round_, reach, round(SHADOW_DEPTH * opacity, 2))
    high, wide = picture.y.shape
    x0, y0, x1, y1 = box.x0 - reach, box.y0 - reach, box.x1 + reach, box.y1 + reach
    area = picture.y[max(y0, 0) : min(y1, high), max(x0, 0) : min(x1, wide)]
    part = gain[max(-y0, 0) : gain.shape[0] - max(y1 - high, 0), max(-x0, 0) : gain.shape[1] - max(x1 - wide, 0)]
    cv2.multiply(area, part, dst=area, scale=1 / 255)


def shadow_reach(picture: Frame) -> int:
    return max(4, int(SHADOW_SHARE * picture.y.shape[0]) // 2 * 2)
