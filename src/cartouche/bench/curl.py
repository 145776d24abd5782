"""A sheet that does not lie flat: corners that curl up, a page that arches, in true perspective."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.bench.camera import Camera, Lying, paper_matrix
from cartouche.bench.papers import Paper
from cartouche.core.pictures import Corners
from cartouche.core.straighten.geometry import transform

_CELL = 16  # px: the surface is worked out once a cell and spread linearly
_ENDS = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])


@dataclass(frozen=True)
class Curl:
    """corners_mm: how far each corner stands up.  arch_mm: how far the middle does, across the sheet's width."""

    corners_mm: tuple[float, float, float, float]
    arch_mm: float

    @classmethod
    def drawn(cls, random: np.random.Generator, paper: Paper) -> "Curl":
        long = max(paper.width_mm, paper.height_mm)
        up = random.uniform(0, 0.055, 4) * long * (random.random(4) < 0.5)
        return cls(tuple(float(value) for value in up), float(random.uniform(0, 0.03) * long))  # type: ignore[arg-type]

    def height_mm(self, uv: NDArray[np.float64]) -> NDArray[np.float64]:
        """Height over the desk at (n, 2) places, -1..1 along both of the sheet's axes."""
        rise = sum(up * np.clip((uv @ end) / 2, 0, 1) ** 4 for up, end in zip(self.corners_mm, _ENDS, strict=True))
        return np.asarray(rise + self.arch_mm * np.maximum(np.cos(np.pi / 2 * np.clip(uv[:, 1], -1, 1)), 0))


def _see(camera: Camera, spots: NDArray[np.float64], heights: NDArray[np.float64]) -> NDArray[np.float64]:
    """Desk mm and heights over it to picture px: a raised spot looks as its shadow by the eye on the desk does."""
    eye = np.array(camera.pose.position)
    share = heights / (-eye[2] - heights)
    return transform(camera.desk_matrix(), spots + (spots - eye[:2]) * share[:, None])


def curled_corners(camera: Camera, paper: Paper, lying: Lying, curl: Curl) -> Corners:
    flat = (_ENDS + 1) / 2 * np.array([paper.width_mm, paper.height_mm])
    return _see(camera, transform(paper_matrix(paper, lying), flat), curl.height_mm(_ENDS))


def lay_curled(picture: NDArray[np.uint8], camera: Camera, paper: Paper, lying: Lying, curl: Curl) -> None:
    """Draw the sheet over the desk in place: from each pixel back to the sheet, its height found by going there thrice."""
    high, wide = picture.shape[:2]
    xs, ys = np.meshgrid(*(_CELL * (np.arange(count // _CELL + 2) - 0.5) for count in (wide, high)))
    on_desk = transform(np.linalg.inv(camera.desk_matrix()), np.stack([xs.ravel(), ys.ravel()], axis=1))
    to_sheet = np.linalg.inv(paper_matrix(paper, lying))
    eye, heights = np.array(camera.pose.position), np.zeros(len(on_desk))
    for _ in range(4):
        under = on_desk + (eye[:2] - on_desk) * (heights / -eye[2])[:, None]
        mm = transform(to_sheet, under)
        heights = curl.height_mm(np.clip(mm / np.array([paper.width_mm, paper.height_mm]) * 2 - 1, -1.3, 1.3))
    texture = paper.picture
    scale = np.array([texture.shape[1] / paper.width_mm, texture.shape[0] / paper.height_mm])
    grid = np.clip(mm * scale - 0.5, -8000, 8000).reshape(*xs.shape, 2).astype(np.float32)
    full = cv2.resize(grid, (xs.shape[1] * _CELL, xs.shape[0] * _CELL), interpolation=cv2.INTER_LINEAR)[_CELL:, _CELL:]
    maps = np.ascontiguousarray(full[:high, :wide])
    shown = cv2.remap(cv2.blur(texture, (3, 3)), maps, None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)  # type: ignore[call-overload]
    mask = cv2.remap(np.full(texture.shape[:2], 255, np.uint8), maps, None, cv2.INTER_LINEAR)  # type: ignore[call-overload]
    soft = cv2.GaussianBlur(cv2.warpAffine(mask, np.array([[1.0, 0, 5], [0, 1, 7]]), (wide, high)), (0, 0), 6)
    shade = cv2.convertScaleAbs(soft, alpha=-0.35, beta=0)
    cv2.multiply(picture, cv2.merge([255 - shade] * 3), dst=picture, scale=1 / 255)
    alpha = mask.astype(np.float32) / 255
    picture[:] = cv2.blendLinear(shown, picture, alpha, 1 - alpha)
