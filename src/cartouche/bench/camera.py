"""A pinhole camera over a desk: pose, focal length, mirrors, light, focus, noise; it knows where the page's corners truly are.

World: millimetres on the desk, x to the reader's right, y towards the reader, z into the desk; a camera stands at z < 0.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.bench.papers import Paper, Sheet
from cartouche.core.pictures import Corners, Frame, Matrix, Size, frame_from_bgr, index_matrix, scaling
from cartouche.core.straighten.geometry import rectangle, transform

SUPERSAMPLE = 2  # pages are drawn once at twice the size and shrunk by area: a lens does not alias


@dataclass(frozen=True)
class Pose:
    """Where the camera stands and looks (mm), and how it is rolled about its axis (degrees clockwise)."""

    position: tuple[float, float, float]
    target: tuple[float, float] = (0.0, 0.0)
    roll_deg: float = 0.0


@dataclass(frozen=True)
class Light:
    """A lamp over the desk. ambient: share of light that comes from everywhere.  vignette: loss in the picture's corners."""

    lamp: tuple[float, float, float] = (-260.0, -320.0, -620.0)
    ambient: float = 0.45
    exposure: float = 1.0
    vignette: float = 0.10


@dataclass(frozen=True)
class Camera:
    """size: px.  focal: in picture widths.  mirrors: reflections in the rig.  blur_px: defocus, sigma.  noise: sigma, 0-255."""

    size: Size
    pose: Pose
    focal: float = 0.95
    mirrors: int = 0
    blur_px: float = 0.0
    noise: float = 2.0
    light: Light = Light()

    def desk_matrix(self) -> Matrix:
        """Desk mm (x, y) to picture px, (3, 3)."""
        eye = np.array(self.pose.position)
        forward = np.array([*self.pose.target, 0.0]) - eye
        forward /= np.linalg.norm(forward)
        right = np.cross((0.0, 1.0, 0.0), forward)
        right /= np.linalg.norm(right)
        down = np.cross(forward, right)
        roll = np.radians(self.pose.roll_deg)
        right, down = np.cos(roll) * right + np.sin(roll) * down, np.cos(roll) * down - np.sin(roll) * right
        rotation = np.stack([right, down, forward])
        focal_px = self.focal * self.size.width
        lens = np.array([[focal_px, 0, self.size.width / 2], [0, focal_px, self.size.height / 2], [0, 0, 1.0]])
        matrix = lens @ np.column_stack([rotation[:, 0], rotation[:, 1], -rotation @ eye])
        if self.mirrors % 2:
            matrix = np.array([[-1, 0, self.size.width], [0, 1, 0], [0, 0, 1.0]]) @ matrix
        return np.asarray(matrix)


@dataclass(frozen=True)
class Lying:
    """How a paper lies on the desk: its middle (mm) and its turn (degrees clockwise)."""

    x: float = 0.0
    y: float = 0.0
    turn_deg: float = 0.0


def paper_matrix(paper: Sheet, lying: Lying) -> Matrix:
    """Paper mm (from its top-left) to desk mm, (3, 3)."""
    angle = np.radians(lying.turn_deg)
    cos, sin = np.cos(angle), np.sin(angle)
    turn = np.array([[cos, -sin, lying.x], [sin, cos, lying.y], [0, 0, 1.0]])
    return np.asarray(turn @ np.array([[1, 0, -paper.width_mm / 2], [0, 1, -paper.height_mm / 2], [0, 0, 1.0]]))


def true_corners(camera: Camera, paper: Sheet, lying: Lying) -> Corners:
    """The page's own top-left, top-right, bottom-right, bottom-left in picture px, (4, 2)."""
    page = rectangle(Size(paper.width_mm, paper.height_mm))
    return transform(camera.desk_matrix() @ paper_matrix(paper, lying), page)


@dataclass(frozen=True, eq=False)
class Desk:
    """A desk top. picture: (h, w, 3) uint8 BGR, centred on the world's origin, px_per_mm pixels a millimetre."""

    picture: NDArray[np.uint8]
    px_per_mm: float

    def matrix(self) -> Matrix:
        height, width = self.picture.shape[:2]
        return np.array(
            [[1 / self.px_per_mm, 0, -width / 2 / self.px_per_mm], [0, 1 / self.px_per_mm, -height / 2 / self.px_per_mm], [0, 0, 1]]
        )


Draw = Callable[[NDArray[np.uint8], Camera], None]


def photograph(
    camera: Camera,
    desk: Desk,
    paper: Paper | None,
    lying: Lying,
    captured_s: float = 0.0,
    *,
    draw: Draw | None = None,
    supersample: int = SUPERSAMPLE,
) -> Frame:
    """One picture of the still scene, without noise (see `grain`). draw: lays more things on the desk, by a camera of the drawn size."""
    fine = replace(camera, size=Size(camera.size.width * supersample, camera.size.height * supersample))
    to_picture = fine.desk_matrix()
    picture = _warp(desk.picture, to_picture @ desk.matrix(), fine.size, cv2.BORDER_REFLECT_101)
    if draw is not None:
        draw(picture, fine)
    if paper is not None:
        lay(picture, fine, paper, lying)
    small = cv2.resize(picture, (int(camera.size.width), int(camera.size.height)), interpolation=cv2.INTER_AREA)
    gain = illumination(camera)
    lit = cv2.multiply(small, cv2.merge([gain * 0.97, gain, gain * 1.01]), dtype=cv2.CV_8U)
    if camera.blur_px:
        lit = cv2.GaussianBlur(lit, (0, 0), camera.blur_px)
    return frame_from_bgr(np.asarray(lit, np.uint8), captured_s)


def illumination(camera: Camera) -> NDArray[np.float32]:
    """Light arriving from each pixel's spot on the desk, (h, w) float32, about 1 near the lamp."""
    width, height = int(camera.size.width), int(camera.size.height)
    coarse = (width // 8, height // 8)
    xs, ys = np.meshgrid((np.arange(coarse[0]) + 0.5) * 8, (np.arange(coarse[1]) + 0.5) * 8)
    spots = transform(np.linalg.inv(camera.desk_matrix()), np.stack([xs.ravel(), ys.ravel()], axis=1))
    lamp = np.array(camera.light.lamp)
    offset = np.column_stack([spots, np.zeros(len(spots))]) - lamp
    away = np.linalg.norm(offset, axis=1)
    direct = (-lamp[2] / away) ** 3 * 1.25
    radius = np.hypot(xs / width - 0.5, ys / height - 0.5).ravel() / 0.7071
    light = (camera.light.ambient + (1 - camera.light.ambient) * direct) * (1 - camera.light.vignette * radius**2)
    grid = (light * camera.light.exposure).reshape(xs.shape).astype(np.float32)
    return np.asarray(cv2.resize(grid, (width, height), interpolation=cv2.INTER_LINEAR), np.float32)


def _warp(source: NDArray[np.uint8], matrix: Matrix, size: Size, border: int) -> NDArray[np.uint8]:
    return cv2.warpPerspective(  # type: ignore[return-value]
        source, index_matrix(matrix), (int(size.width), int(size.height)), flags=cv2.INTER_LINEAR, borderMode=border
    )


def lay(picture: NDArray[np.uint8], camera: Camera, paper: Paper, lying: Lying) -> None:
    """Lay a paper on the desk, with the thin shadow beside it."""
    onto = camera.desk_matrix() @ paper_matrix(paper, lying)
    _shade_under(picture, onto, paper)
    _lay(picture, onto, paper)


def _lay(picture: NDArray[np.uint8], to_picture: Matrix, paper: Paper) -> None:
    """Draw the paper over the desk, its edge antialiased."""
    outline = transform(to_picture, rectangle(Size(paper.width_mm, paper.height_mm)))
    x0, y0 = np.maximum(np.floor(outline.min(axis=0)).astype(int) - 2, 0)
    x1, y1 = np.ceil(outline.max(axis=0)).astype(int) + 2
    part = picture[y0:y1, x0:x1]
    if not part.size:
        return
    shift = np.array([[1, 0, -x0], [0, 1, -y0], [0, 0, 1.0]])
    density = np.linalg.norm(outline[1] - outline[0]) / paper.width_mm
    shrink = max(1.0, paper.picture.shape[1] / paper.width_mm / max(density * 1.3, 0.2))
    texture = cv2.resize(paper.picture, None, fx=1 / shrink, fy=1 / shrink, interpolation=cv2.INTER_AREA) if shrink > 1 else paper.picture
    to_mm = scaling(paper.width_mm / texture.shape[1], paper.height_mm / texture.shape[0])
    size = Size(part.shape[1], part.shape[0])
    page = _warp(np.asarray(texture, np.uint8), shift @ to_picture @ to_mm, size, cv2.BORDER_REPLICATE)
    solid = np.full(texture.shape[:2], 255, np.uint8)  # an antialiased polygon of OpenCV's reaches 0.7 px too far
    mask = _warp(solid, shift @ to_picture @ to_mm, size, cv2.BORDER_CONSTANT)
    cv2.copyTo(page, mask, part) if mask.min() == 255 else _blend(part, page, mask)


def _blend(part: NDArray[np.uint8], over: NDArray[np.uint8], mask: NDArray[np.uint8]) -> None:
    alpha = mask.astype(np.float32) / 255
    part[:] = cv2.blendLinear(over, part, alpha, 1 - alpha)


def _shade_under(picture: NDArray[np.uint8], to_picture: Matrix, paper: Paper) -> None:
    """The thin soft shadow that a sheet casts beside itself."""
    grown = rectangle(Size(paper.width_mm, paper.height_mm)) + np.array([[-0.5, 0.5], [2.5, 0.5], [3.0, 3.5], [0.5, 3.5]])
    outline = transform(to_picture, grown) / 4
    mask = np.zeros((picture.shape[0] // 4, picture.shape[1] // 4), np.uint8)
    cv2.fillConvexPoly(mask, (outline * 16).astype(np.int32), 90, cv2.LINE_AA, shift=4)
    soft = cv2.resize(cv2.GaussianBlur(mask, (0, 0), 3), (picture.shape[1], picture.shape[0]))
    cv2.multiply(picture, cv2.merge([255 - soft] * 3), dst=picture, scale=1 / 255)


class Grain:
    """Sensor noise, cheap: a large tile of it added from another corner at each frame."""

    _MARGIN = 64
    _BIAS = 24  # the tile is stored unsigned about this value

    def __init__(self, size: Size, sigma: float, seed: int = 3) -> None:
        self._sigma = sigma
        shape = (int(size.height) + self._MARGIN, int(size.width) + self._MARGIN)
        random = np.random.default_rng(seed)
        noise = self._BIAS + sigma * random.standard_normal(shape, np.float32)
        self._tile = np.clip(np.round(noise), 0, 2 * self._BIAS).astype(np.uint8)
        self._places = random.integers(0, self._MARGIN, (257, 2))

    def add(self, plane: NDArray[np.uint8], number: int) -> None:
        """Add the noise of frame `number` to a plane, in place."""
        if not self._sigma:
            return
        x, y = self._places[number % len(self._places)]
        tile = self._tile[y : y + plane.shape[0], x : x + plane.shape[1]]
        cv2.add(plane, tile, dst=plane)
        cv2.subtract(plane, self._BIAS, dst=plane)  # type: ignore[call-overload]
