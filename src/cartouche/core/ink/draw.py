"""Strokes as planes to be laid over a picture: colour and coverage for pens, a gain for highlighters, which leave print readable."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.ink.strokes import Stroke
from cartouche.core.pictures import Matrix, Plane, Size, yuv_of_hex
from cartouche.core.straighten.geometry import transform

SHIFT = 4  # cv2 draws at a sixteenth of a pixel
MIN_PX = 1.0
TILE_PX = 96  # even
THIN = 0.35  # of its width, a pen that hardly presses
Alpha = NDArray[np.float32]


@dataclass(slots=True, eq=False)
class _Tile:
    """A part on which there is ink: x, y within the whole.  rest: 1 less alpha."""

    x: int
    y: int
    planes: tuple[Plane, Plane, Plane]
    alpha: tuple[Alpha, Alpha]
    rest: tuple[Alpha, Alpha]
    gain: Plane | None


@dataclass(slots=True, eq=False)
class Over:
    """To be laid over a place. x, y: of its upper left corner in the outgoing picture, even px.  planes, alpha: of luma and the two
    chromas.  gain: what luma is multiplied by first, 255 = as it is; None where nothing is highlighted."""

    x: int
    y: int
    planes: tuple[Plane, Plane, Plane]
    alpha: tuple[Alpha, Alpha]
    gain: Plane | None = None

    tiles: list[_Tile] = field(default_factory=list)

    def settle(self) -> None:
        """Nothing more is drawn into it: from now on only where something is, work is done."""
        high, wide = self.alpha[1].shape
        step = TILE_PX // 2
        rows, columns = -(-high // step), -(-wide // step)
        padded = np.zeros((rows * step, columns * step), np.float32)
        padded[:high, :wide] = self.alpha[1]
        inked = padded.reshape(rows, step, columns, step).max(axis=(1, 3)) > 0
        for row, column in np.argwhere(inked):
            x, y = int(column) * TILE_PX, int(row) * TILE_PX
            part = slice(y, y + TILE_PX), slice(x, x + TILE_PX)
            half = slice(y // 2, y // 2 + step), slice(x // 2, x // 2 + step)
            planes = (self.planes[0][part], self.planes[1][half], self.planes[2][half])
            alphas = (self.alpha[0][part], self.alpha[1][half])
            gain = self.gain[part] if self.gain is not None else None
            self.tiles.append(_Tile(x, y, planes, alphas, (1 - alphas[0], 1 - alphas[1]), gain))

    def lay(self, picture: tuple[Plane, Plane, Plane]) -> None:
        """Over these planes, in place, as far as it lies within them."""
        for tile in self.tiles:
            for number, (plane, source, step) in enumerate(zip(picture, tile.planes, (1, 2, 2), strict=True)):
                x, y = (self.x + tile.x) // step, (self.y + tile.y) // step
                high, wide = min(source.shape[0], plane.shape[0] - y), min(source.shape[1], plane.shape[1] - x)
                if high <= 0 or wide <= 0:
                    continue
                area = plane[y : y + high, x : x + wide]
                if tile.gain is not None and step == 1:
                    cv2.multiply(area, tile.gain[:high, :wide], dst=area, scale=1 / 255)
                alpha, rest = tile.alpha[min(number, 1)], tile.rest[min(number, 1)]
                cv2.blendLinear(source[:high, :wide], area, alpha[:high, :wide], rest[:high, :wide], dst=area)


def drawn(strokes: Sequence[Stroke], to_outgoing: Matrix, box: tuple[int, int, int, int], opacity: float = 1.0) -> Over | None:
    """These strokes, cut to a box (x0, y0, x1, y1) of the outgoing picture, even px; None where nothing of them lies in it.

    to_outgoing: page units -> outgoing px, (3, 3), without perspective.  opacity: 0-1, for a trail that fades.
    """
    scale = float(np.sqrt(abs(np.linalg.det(to_outgoing[:2, :2]))))
    lines = [(stroke, [transform(to_outgoing, part) for part in stroke.parts()]) for stroke in strokes]
    area = _area(lines, scale, box)
    if area is None:
        return None
    x0, y0, x1, y1 = area
    over = Over(x0, y0, *_blank(Size(x1 - x0, y1 - y0)))
    for stroke, parts in lines:
        own = _area([(stroke, parts)], scale, area)
        if own is None:
            continue
        mask = np.zeros((own[3] - own[1], own[2] - own[0]), np.uint8)
        for part in parts:
            _line(mask, part - own[:2], stroke, scale)
        corner = (own[0] - x0, own[1] - y0)
        if stroke.tool == "marker":
            _highlight(over, mask, corner, stroke.colour, opacity)
        else:
            _cover(over, mask, corner, stroke.colour, opacity)
    over.settle()
    return over


def _area(
    lines: Sequence[tuple[Stroke, list[NDArray[np.float64]]]], scale: float, box: tuple[int, int, int, int]
) -> tuple[int, int, int, int] | None:
    """What they touch of the box, on even px."""
    if not lines:
        return None
    low = np.min([part.min(axis=0) - _px(stroke, scale) for stroke, parts in lines for part in parts], axis=0)
    high = np.max([part.max(axis=0) + _px(stroke, scale) for stroke, parts in lines for part in parts], axis=0)
    x0, y0 = (max(int(np.floor(value)) // 2 * 2, edge) for value, edge in zip(low - 2, box[:2], strict=True))
    x1, y1 = (min(int(np.ceil(value)) // 2 * 2 + 2, edge) for value, edge in zip(high + 2, box[2:], strict=True))
    return (x0, y0, x1, y1) if x1 - x0 >= 2 and y1 - y0 >= 2 else None


def _blank(size: Size) -> tuple[tuple[Plane, Plane, Plane], tuple[Alpha, Alpha]]:
    wide, high = int(size.width), int(size.height)
    half = (high // 2, wide // 2)
    planes = (np.zeros((high, wide), np.uint8), np.full(half, 128, np.uint8), np.full(half, 128, np.uint8))
    return planes, (np.zeros((high, wide), np.float32), np.zeros(half, np.float32))


def _px(stroke: Stroke, scale: float) -> float:
    return max(MIN_PX, stroke.width * scale)


def _line(mask: NDArray[np.uint8], line: NDArray[np.float64], stroke: Stroke, scale: float) -> None:
    """One line into a mask, its width by its pressure."""
    points = np.round(line * 2**SHIFT).astype(np.int32)
    width = _px(stroke, scale)
    pressures = np.array([point[2] for point in stroke.points])
    if len(points) == 1:
        cv2.circle(mask, tuple(int(value) for value in points[0]), round(width / 2 * 2**SHIFT), 255, -1, cv2.LINE_AA, SHIFT)
        return
    if stroke.tool != "pen" or len(pressures) != len(points) or np.ptp(pressures) < 0.02:
        share = 1.0 if stroke.tool != "pen" else THIN + (1 - THIN) * float(pressures.mean())
        cv2.polylines(mask, [points[:, None]], False, 255, max(1, round(width * share)), cv2.LINE_AA, SHIFT)
        return
    thick = np.maximum(1, np.round(width * (THIN + (1 - THIN) * pressures[1:]))).astype(int)
    begins = np.concatenate([[0], np.flatnonzero(np.diff(thick)) + 1, [len(thick)]])
    for begin, end in pairwise(begins):
        run = points[begin : end + 1, None]
        cv2.polylines(mask, [run], False, 255, int(thick[begin]), cv2.LINE_AA, SHIFT)


def _part(plane: NDArray, mask: NDArray, corner: tuple[int, int], step: int) -> NDArray:
    """Where a stroke's own mask lies in a plane of the whole. corner: px of luma."""
    x, y = corner[0] // step, corner[1] // step
    return np.asarray(plane[y : y + mask.shape[0], x : x + mask.shape[1]])


def _halved(fine: Alpha) -> Alpha:
    return np.asarray(cv2.resize(fine, (fine.shape[1] // 2, fine.shape[0] // 2), interpolation=cv2.INTER_AREA), np.float32)


def _cover(over: Over, mask: NDArray[np.uint8], corner: tuple[int, int], colour: str, opacity: float) -> None:
    fine = mask.astype(np.float32) * np.float32(opacity / 255)
    half = _halved(fine)
    for plane, value, alpha, step in zip(over.planes, yuv_of_hex(colour), (fine, half, half), (1, 2, 2), strict=True):
        _part(plane, alpha, corner, step)[alpha > 0] = value
    for whole, alpha, step in zip(over.alpha, (fine, half), (1, 2), strict=True):
        target = _part(whole, alpha, corner, step)
        target += alpha * (1 - target)


def _highlight(over: Over, mask: NDArray[np.uint8], corner: tuple[int, int], colour: str, opacity: float) -> None:
    """Luma times the colour's own, chroma towards the colour's: dark print stays dark."""
    y, u, v = yuv_of_hex(colour)
    if over.gain is None:
        over.gain = np.full(over.planes[0].shape, 255, np.uint8)
    fine = mask.astype(np.float32) * np.float32(opacity / 255)
    target = _part(over.gain, mask, corner, 1)
    np.minimum(target, (255 - fine * np.float32(255 - y)).astype(np.uint8), out=target)
    half = _halved(fine) * np.float32(0.55)
    for plane, value in zip(over.planes[1:], (u, v), strict=True):
        _part(plane, half, corner, 2)[half > 0] = value
    chroma = _part(over.alpha[1], half, corner, 2)
    chroma += half * (1 - chroma)
