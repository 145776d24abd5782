"""A writing hand: drawn once as rounded, shaded shapes in paper millimetres from the pen's tip, then laid over each frame."""

from functools import cache
from itertools import pairwise
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.bench.keep import kept
from cartouche.bench.sprite import Painting, Shifted, Sprite
from cartouche.core.pictures import Frame, Matrix, Size, scaling, translation
from cartouche.core.straighten.geometry import transform

PX_PER_MM = 3.0  # as fine as any bench camera sees it
ORIGIN_MM = (14.0, 14.0)  # room left of and above the pen's tip
SIZE_MM = (360.0, 400.0)
_SHADOW_MM, _SHADOW_DEPTH = (7.0, 9.0), 0.34
_LIGHT = np.array([-0.45, -0.62, 0.65], np.float32)  # from the upper left, as the bench's lamp stands

_SKIN, _NAIL, _SLEEVE, _CUFF = "#AE7650", "#D2A588", "#2A5F6B", "#234F5A"
_PEN, _PEN_TIP = "#2B3F73", "#C9CCD2"


class Part(NamedTuple):
    """A limb: (x, y, radius) mm along its middle, colour, and how strongly its edge turns away from the light (0 flat - 1 round)."""

    spine: tuple[tuple[float, float, float], ...]
    colour: str
    round: float = 1.0


PARTS = (
    Part(((90, 80, 23), (128, 120, 25)), _SKIN),
    Part(((118, 112, 33), (340, 386, 42)), _SLEEVE),
    Part(((114, 107, 31), (123, 117, 33)), _CUFF),
    Part(((46, 52, 8.5), (62, 66, 10.5), (84, 82, 14)), _SKIN),
    Part(((39, 43, 8.5), (53, 54, 10.5), (76, 70, 16)), _SKIN),
    Part(((66, 50, 20), (90, 75, 24.5)), _SKIN, 0.8),
    Part(((27, 21, 6.6), (42, 30, 8.8), (66, 45, 13)), _SKIN),
    Part(((0.8, 0.4, 0.6), (8, 4.0, 2.2)), _PEN_TIP),
    Part(((7.5, 3.7, 2.7), (60, 30, 3.2)), _PEN, 0.9),
    Part(((22, 9.0, 5.8), (39, 10.5, 7.6), (58, 25, 9.0), (80, 53, 15)), _SKIN),
    Part(((23.5, 8.2, 2.7), (27, 8.2, 2.6)), _NAIL, 0.5),
    Part(((24.5, 22.5, 6.2), (42, 36, 8.4), (70, 57, 14)), _SKIN),
    Part(((26.5, 22.4, 2.6), (30, 24.6, 2.5)), _NAIL, 0.5),
    Part(((58, 29, 3.2), (118, 60, 3.4)), _PEN, 0.9),
    Part(((114, 58, 3.5), (120, 61, 3.5)), _PEN_TIP, 0.9),
)


@cache
def painted() -> tuple[Painting, NDArray[np.float32]]:
    """The hand and its soft shadow, (h, w) 0-1."""
    picture, cover, shadow = kept("hand", _paint)
    painting = Painting(cover.shape[1], cover.shape[0])
    painting.picture[:], painting.cover[:] = picture, cover
    return painting, shadow.astype(np.float32)


def _paint() -> tuple[NDArray[np.float32], ...]:
    width, height = (int(mm * PX_PER_MM) for mm in SIZE_MM)
    painting = Painting(width, height)
    for part in PARTS:
        _add_part(painting, part)
    coarse = cv2.resize(painting.cover, (width // 4, height // 4), interpolation=cv2.INTER_AREA)
    shift = np.array([[1, 0, _SHADOW_MM[0] * PX_PER_MM / 4], [0, 1, _SHADOW_MM[1] * PX_PER_MM / 4]])
    soft = cv2.GaussianBlur(cv2.warpAffine(coarse, shift, (width // 4, height // 4)), (0, 0), 3.5 * PX_PER_MM / 4)
    shadow = cv2.resize(soft, (width, height)) * _SHADOW_DEPTH
    return painting.picture.astype(np.float16), painting.cover.astype(np.float16), shadow.astype(np.float16)  # type: ignore[return-value]


@cache
def hand_sprite(gain: float) -> Sprite:
    """The hand under this much light (0-1)."""
    painting, shadow = painted()
    return painting.sprite(gain, shadow)


def _add_part(painting: Painting, part: Part) -> None:
    """Lay one limb over what is there, shaded as if round, with a thin shade where it touches what lies below."""
    spine = [((np.array([x, y]) + ORIGIN_MM) * PX_PER_MM, radius * PX_PER_MM) for x, y, radius in part.spine]
    widest, touch = max(radius for _, radius in spine), 1.6 * PX_PER_MM
    area = painting.part(np.array([spot for spot, _ in spine]), widest + 3 * touch)
    corner = np.array([area[1].start, area[0].start])
    mask = np.zeros(painting.cover[area].shape, np.uint8)
    for (start, r0), (end, r1) in pairwise(spine):
        for share in np.linspace(0, 1, 48):
            spot, radius = start + share * (end - start) - corner, r0 + share * (r1 - r0)
            cv2.circle(mask, tuple(int(value * 16) for value in spot), int(radius * 16), 255, -1, cv2.LINE_AA, shift=4)
    near = cv2.GaussianBlur(mask, (0, 0), touch).astype(np.float32) / 255
    painting.picture[area] *= (1 - 0.35 * near)[..., None]
    painting.lay(area, mask.astype(np.float32) / np.float32(255), part.colour, _shade(mask, widest, part.round))


def _shade(mask: NDArray[np.uint8], reach: float, roundness: float) -> NDArray[np.float32]:
    """Light on a rounded shape, (h, w) about 1: Lambert's law over a height that rises from the outline like a half circle."""
    away = np.minimum(cv2.distanceTransform(mask, cv2.DIST_L2, 5), reach)
    height = cv2.GaussianBlur(np.sqrt(np.maximum(reach**2 - (reach - away) ** 2, 0)), (0, 0), 0.9 * PX_PER_MM) * roundness
    slope_x, slope_y = (cv2.Sobel(height, cv2.CV_32F, dx, 1 - dx, ksize=3, scale=1 / 8) for dx in (1, 0))
    facing = (-_LIGHT[0] * slope_x - _LIGHT[1] * slope_y + _LIGHT[2]) / np.sqrt(1 + slope_x**2 + slope_y**2)
    return np.asarray(0.62 + 0.60 * np.clip(facing, 0, 1), np.float32)


class Hand:
    """The hand as one camera sees it. A hand is no plane, nor still: its size and slant are taken at one spot of the paper."""

    def __init__(self, paper_to_picture: Matrix, picture: Size, gain: float, about_mm: tuple[float, float]) -> None:
        """gain: light on the page about there (0-1).  about_mm: where on the paper its size and slant are taken."""
        self._to_picture = paper_to_picture
        from_tip = translation(-ORIGIN_MM[0], -ORIGIN_MM[1]) @ scaling(1 / PX_PER_MM, 1 / PX_PER_MM)
        self._shifted = Shifted(hand_sprite(round(gain, 2)), _linear_about(paper_to_picture, about_mm) @ from_tip, picture)

    def draw(self, picture: Frame, tip_mm: tuple[float, float]) -> None:
        """Lay the hand and its shadow over planes that the caller owns."""
        self._shifted.draw(picture, transform(self._to_picture, np.array([tip_mm]))[0])


def _linear_about(matrix: Matrix, spot: tuple[float, float]) -> Matrix:
    """How a projective map stretches and slants what lies near a spot, (3, 3), leaving the origin in place."""
    around = transform(matrix, np.array([spot, (spot[0] + 30, spot[1]), (spot[0], spot[1] + 30)], np.float64))
    about = np.eye(3)
    about[:2, :2] = np.stack([around[1] - around[0], around[2] - around[0]], axis=1) / 30
    return about
