"""Desk tops: wood with a ruler and a compass on it, cloth, black, and one nearly the paper's own colour."""

from functools import cache
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.bench.camera import Desk

Kind = Literal["wood", "cloth", "black", "pale"]

_SIZE_MM = (1400, 1100)
_PX_PER_MM = 1.5
_TONES: dict[Kind, tuple[int, int, int]] = {"wood": (92, 136, 178), "cloth": (128, 104, 72), "black": (38, 36, 36), "pale": (206, 214, 220)}


@cache
def desk(kind: Kind = "wood", with_objects: bool = True) -> Desk:
    width, height = (int(mm * _PX_PER_MM) for mm in _SIZE_MM)
    random = np.random.default_rng(11)
    if kind == "wood":
        picture = _wood(width, height, random)
    else:
        grain = cv2.GaussianBlur(random.normal(0, 12 if kind == "cloth" else 5, (height, width)).astype(np.float32), (3, 3), 0)
        picture = np.clip(np.array(_TONES[kind]) + grain[:, :, None], 0, 255).astype(np.uint8)
    if with_objects:
        _ruler(picture)
        _compass(picture)
    return Desk(picture, _PX_PER_MM)


def _wood(width: int, height: int, random: np.random.Generator) -> NDArray[np.uint8]:
    """Boards along x: long streaks, slow colour changes, a seam every 220 mm."""
    streaks = cv2.resize(random.normal(0, 1, (height, 24)).astype(np.float32), (width, height), interpolation=cv2.INTER_CUBIC)
    fine = cv2.resize(random.normal(0, 1, (height, width // 40)).astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR)
    slow = cv2.resize(random.normal(0, 1, (7, 4)).astype(np.float32), (width, height), interpolation=cv2.INTER_CUBIC)
    value = 5.5 * streaks + 4.5 * fine + 7 * slow
    seams = np.arange(height) % int(220 * _PX_PER_MM)
    value -= np.where(seams < 3, 34, 0)[:, None]
    shade = np.array(_TONES["wood"], np.float32) + value[:, :, None] * np.array([0.8, 0.95, 1.05], np.float32)
    return np.asarray(np.clip(shade, 0, 255), np.uint8)


def _at(x_mm: float, y_mm: float) -> tuple[int, int]:
    return int((x_mm + _SIZE_MM[0] / 2) * _PX_PER_MM), int((y_mm + _SIZE_MM[1] / 2) * _PX_PER_MM)


def _ruler(picture: NDArray[np.uint8]) -> None:
    layer = picture.copy()
    cv2.rectangle(layer, _at(-186, -120), _at(-158, 92), (150, 205, 222), -1, cv2.LINE_AA)
    for mm in range(0, 201, 2):
        length = 8 if mm % 10 == 0 else 4
        cv2.line(layer, _at(-158, -114 + mm), _at(-158 - length, -114 + mm), (50, 60, 70), 1, cv2.LINE_AA)
    cv2.addWeighted(layer, 0.82, picture, 0.18, 0, dst=picture)
    cv2.rectangle(picture, _at(-186, -120), _at(-158, 92), (96, 140, 160), 1, cv2.LINE_AA)


def _compass(picture: NDArray[np.uint8]) -> None:
    middle = _at(182, -70)

    def disc(radius_mm: float, colour: tuple[int, int, int]) -> None:
        cv2.circle(picture, middle, int(radius_mm * _PX_PER_MM), colour, -1, cv2.LINE_AA)

    disc(33, (48, 52, 58))
    disc(29, (206, 222, 226))
    disc(27, (226, 238, 240))
    for step in range(24):
        angle = step * np.pi / 12
        inner, outer = (21 if step % 6 == 0 else 24), 26
        ends = [(int(middle[0] + np.cos(angle) * r * _PX_PER_MM), int(middle[1] + np.sin(angle) * r * _PX_PER_MM)) for r in (inner, outer)]
        cv2.line(picture, ends[0], ends[1], (70, 80, 90), 2, cv2.LINE_AA)
    for turn, colour in ((-1.2, (46, 56, 178)), (-1.2 + np.pi, (80, 74, 66))):
        tip = (middle[0] + np.cos(turn) * 20 * _PX_PER_MM, middle[1] + np.sin(turn) * 20 * _PX_PER_MM)
        side = (np.cos(turn + np.pi / 2) * 4 * _PX_PER_MM, np.sin(turn + np.pi / 2) * 4 * _PX_PER_MM)
        needle = np.array([tip, (middle[0] + side[0], middle[1] + side[1]), (middle[0] - side[0], middle[1] - side[1])], np.int32)
        cv2.fillConvexPoly(picture, needle, colour, cv2.LINE_AA)
    disc(2.5, (60, 60, 60))
