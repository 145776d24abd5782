"""Prepared pictures laid over frames: drawn once, warped once for each of four pixel phases, then only shifted."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Matrix, Plane, Size, frame_from_bgr, index_matrix, scaling, translation
from cartouche.core.straighten.geometry import rectangle, transform


class Sprite(NamedTuple):
    """What lies over a picture: picture * through / 255 + own. luma: (h, w, 2) [own, through]; chroma: half size, [u, v, through]."""

    luma: NDArray[np.uint8]
    chroma: NDArray[np.uint8]


class Painting:
    """A picture with transparency, painted shape by shape; each touches only its own part of it.

    picture: (h, w, 3) float32 BGR 0-255.  cover: (h, w) float32 0-1.
    """

    def __init__(self, width: int, height: int) -> None:
        self.picture, self.cover = np.zeros((height, width, 3), np.float32), np.zeros((height, width), np.float32)

    def part(self, points: NDArray[np.float64], pad: float) -> tuple[slice, slice]:
        """Rows and columns that hold (n, 2) points and `pad` px about them."""
        height, width = self.cover.shape
        x0, y0 = (int(max(0, value - pad)) for value in points.min(axis=0))
        x1, y1 = (int(min(most, value + pad + 1)) for value, most in zip(points.max(axis=0), (width, height), strict=True))
        return slice(y0, y1), slice(x0, x1)

    def lay(self, part: tuple[slice, slice], alpha: NDArray[np.float32], colour: str, light: NDArray[np.float32] | float = 1.0) -> None:
        """Paint a colour ('#RRGGBB') over one part. alpha, light: (h, w) of that part."""
        below = self.picture[part]
        for channel, start in enumerate((5, 3, 1)):
            below[..., channel] += alpha * (int(colour[start : start + 2], 16) * light - below[..., channel])
        np.maximum(self.cover[part], alpha, out=self.cover[part])

    def sprite(self, gain: float = 1.0, shadow: NDArray[np.float32] | float = 0.0) -> Sprite:
        """gain: light on it.  shadow: (h, w) 0-1, what it takes from what lies below."""
        frame, cover = frame_from_bgr(np.clip(self.picture, 0, 255).astype(np.uint8)), self.cover
        luma = cv2.merge([frame.y * cover * gain, 255 * (1 - cover) * (1 - shadow)])
        half = cv2.resize(cover, (cover.shape[1] // 2, cover.shape[0] // 2), interpolation=cv2.INTER_AREA)
        chroma = cv2.merge([frame.u * half, frame.v * half, 255 * (1 - half)])
        return Sprite(luma.round().astype(np.uint8), chroma.round().astype(np.uint8))


class Shifted:
    """A sprite as it looks through one affine map, laid wherever its anchor is wanted, to the nearest pixel."""

    def __init__(self, sprite: Sprite, to_anchor: Matrix, most: Size) -> None:
        """to_anchor: sprite px to px about the anchor, (3, 3) affine.  most: what lies further than this from the anchor is cut off."""
        height, width = sprite.luma.shape[:2]
        corners = transform(to_anchor, rectangle(Size(width, height)))
        room = np.array(most)
        self._low = _even(np.maximum(corners.min(axis=0), -room))
        size = _even(np.minimum(corners.max(axis=0), room)) - self._low + 2
        self._phases = {
            (x, y): _warped(sprite, translation(x - self._low[0], y - self._low[1]) @ to_anchor, size) for x in (0, 1) for y in (0, 1)
        }

    def draw(self, picture: Frame, anchor: NDArray[np.float64]) -> None:
        """Lay it over planes that the caller owns. anchor: (2,) px in the picture."""
        spot = np.round(anchor).astype(int)
        phase = spot % 2
        x0, y0 = (int(value) for value in spot - phase + self._low)
        for planes, step in (((picture.y,), 1), ((picture.u, picture.v), 2)):
            *own, through = self._phases[int(phase[0]), int(phase[1])][step - 1]
            for plane, light in zip(planes, own, strict=True):
                _lay(plane, light, through, x0 // step, y0 // step)


def _lay(plane: Plane, own: Plane, through: Plane, x0: int, y0: int) -> None:
    height, width = plane.shape
    left, top, right, bottom = max(0, x0), max(0, y0), min(width, x0 + own.shape[1]), min(height, y0 + own.shape[0])
    if right <= left or bottom <= top:
        return
    part = plane[top:bottom, left:right]
    inside = (slice(top - y0, bottom - y0), slice(left - x0, right - x0))
    cv2.multiply(part, through[inside], dst=part, scale=1 / 255)
    cv2.add(part, own[inside], dst=part)


def _warped(sprite: Sprite, matrix: Matrix, size: NDArray[np.int_]) -> tuple[tuple[Plane, ...], tuple[Plane, ...]]:
    """The sprite's planes through a map, full size and half size, each with `through` last."""
    warped = []
    for step, planes in ((1, sprite.luma), (2, sprite.chroma)):
        to_box = scaling(1 / step, 1 / step) @ matrix @ scaling(step, step)
        clear = (*(0,) * (planes.shape[2] - 1), 255)
        boxed = cv2.warpAffine(planes, index_matrix(to_box)[:2], tuple(int(value) for value in size // step), borderValue=clear)
        warped.append(tuple(np.ascontiguousarray(plane, np.uint8) for plane in cv2.split(boxed)))
    return warped[0], warped[1]


def _even(values: NDArray[np.float64]) -> NDArray[np.int_]:
    return np.floor(values / 2).astype(int) * 2
