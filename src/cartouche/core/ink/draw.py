"""Strokes as planes to be laid over a picture: premultiplied colour and what is left of the picture; highlighters leave print readable."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import NamedTuple

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
MARKED = 0.55  # of a highlighter's colour that a picture takes on
Planes = tuple[Plane, Plane, Plane]
Bounds = tuple[float, float, float, float]


@dataclass(slots=True, eq=False)
class _Tile:
    """A part on which there is ink: x, y within the whole."""

    x: int
    y: int
    planes: Planes
    rest: tuple[Plane, Plane]


@dataclass(slots=True, eq=False)
class Over:
    """To be laid over a place. x, y: of its upper left corner in the outgoing picture, even px.  planes: what is added to luma and the
    two chromas.  rest: what they are multiplied by first, of luma and of both chromas, 255 = as they are."""

    x: int
    y: int
    planes: Planes
    rest: tuple[Plane, Plane]
    tiles: list[_Tile] = field(default_factory=list)

    def settle(self) -> None:
        """Nothing more is drawn into it: from now on only where something is, work is done."""
        high, wide = self.rest[1].shape
        step = TILE_PX // 2
        rows, columns = -(-high // step), -(-wide // step)
        padded = np.full((rows * step, columns * step), 255, np.uint8)
        padded[:high, :wide] = self.rest[1]
        inked = padded.reshape(rows, step, columns, step).min(axis=1).min(axis=2) < 255
        for row, column in np.argwhere(inked):
            x, y = int(column) * TILE_PX, int(row) * TILE_PX
            part = slice(y, y + TILE_PX), slice(x, x + TILE_PX)
            half = slice(y // 2, y // 2 + step), slice(x // 2, x // 2 + step)
            planes = (self.planes[0][part], self.planes[1][half], self.planes[2][half])
            self.tiles.append(_Tile(x, y, planes, (self.rest[0][part], self.rest[1][half])))

    def lay(self, picture: Planes) -> None:
        """Over these planes, in place, as far as it lies within them."""
        for tile in self.tiles:
            for plane, source, rest, step in zip(picture, tile.planes, (tile.rest[0], tile.rest[1], tile.rest[1]), (1, 2, 2), strict=True):
                x, y = (self.x + tile.x) // step, (self.y + tile.y) // step
                high, wide = min(source.shape[0], plane.shape[0] - y), min(source.shape[1], plane.shape[1] - x)
                if high <= 0 or wide <= 0:
                    continue
                area = plane[y : y + high, x : x + wide]
                cv2.multiply(area, rest[:high, :wide], dst=area, scale=1 / 255)
                cv2.add(area, source[:high, :wide], dst=area)


def drawn(strokes: Sequence[Stroke], to_outgoing: Matrix, box: tuple[int, int, int, int], opacity: float = 1.0) -> Over | None:
    """These strokes, cut to a box (x0, y0, x1, y1) of the outgoing picture, even px; None where nothing of them lies in it.

    to_outgoing: page units -> outgoing px, (3, 3), without perspective.  opacity: 0-1, for a trail that fades.
    """
    scale = float(np.sqrt(abs(np.linalg.det(to_outgoing[:2, :2]))))
    lines = [_Line(stroke, parts, _bounds(parts, _px(stroke, scale))) for stroke, parts in _placed(strokes, to_outgoing)]
    area = _within(_around([line.bounds for line in lines]), box) if lines else None
    if area is None:
        return None
    x0, y0, x1, y1 = area
    over = Over(x0, y0, *_blank(Size(x1 - x0, y1 - y0)))
    for line in sorted(lines, key=lambda line: line.stroke.tool != "marker"):  # pens cover what is highlighted
        own = _within(line.bounds, area)
        if own is None:
            continue
        mask: Plane = np.zeros((own[3] - own[1], own[2] - own[0]), np.uint8)
        for part in line.parts:
            _line(mask, part - own[:2], line.stroke, scale)
        corner = (own[0] - x0, own[1] - y0)
        if opacity < 1:
            cv2.convertScaleAbs(mask, dst=mask, alpha=opacity)
        if line.stroke.tool == "marker":
            _highlight(over, mask, corner, line.stroke.colour)
        else:
            _cover(over, mask, corner, line.stroke.colour)
    over.settle()
    return over


class _Line(NamedTuple):
    """parts: outgoing px, each (n, 2).  bounds: x0, y0, x1, y1 with half of its width and a little."""

    stroke: Stroke
    parts: list[NDArray[np.float64]]
    bounds: Bounds


def _placed(strokes: Sequence[Stroke], to_outgoing: Matrix) -> list[tuple[Stroke, list[NDArray[np.float64]]]]:
    return [(stroke, [transform(to_outgoing, part) for part in stroke.parts()]) for stroke in strokes]


def _bounds(parts: list[NDArray[np.float64]], width: float) -> Bounds:
    points = parts[0] if len(parts) == 1 else np.concatenate(parts)
    (x0, y0), (x1, y1) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    return x0 - width - 2, y0 - width - 2, x1 + width + 2, y1 + width + 2


def _around(every: Sequence[Bounds]) -> Bounds:
    x0, y0, x1, y1 = zip(*every, strict=True)
    return min(x0), min(y0), max(x1), max(y1)


def _within(bounds: Bounds, box: tuple[int, int, int, int]) -> tuple[int, int, int, int] | None:
    """What lies in the box, on even px."""
    x0, y0 = (max(math.floor(value) // 2 * 2, edge) for value, edge in zip(bounds[:2], box[:2], strict=True))
    x1, y1 = (min(math.ceil(value) // 2 * 2 + 2, edge) for value, edge in zip(bounds[2:], box[2:], strict=True))
    return (x0, y0, x1, y1) if x1 - x0 >= 2 and y1 - y0 >= 2 else None


def _blank(size: Size) -> tuple[Planes, tuple[Plane, Plane]]:
    wide, high = int(size.width), int(size.height)
    whole, half = (high, wide), (high // 2, wide // 2)
    planes = (np.zeros(whole, np.uint8), np.zeros(half, np.uint8), np.zeros(half, np.uint8))
    return planes, (np.full(whole, 255, np.uint8), np.full(half, 255, np.uint8))


def _px(stroke: Stroke, scale: float) -> float:
    return max(MIN_PX, stroke.width * scale)


def _line(mask: NDArray[np.uint8], line: NDArray[np.float64], stroke: Stroke, scale: float) -> None:
    """One line into a mask, its width by its pressure."""
    points = np.round(line * 2**SHIFT).astype(np.int32)
    width = _px(stroke, scale)
    pressures = np.array(stroke.points)[:, 2]
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


def _part(plane: Plane, mask: Plane, corner: tuple[int, int], step: int) -> Plane:
    """Where a stroke's own mask lies in a plane of the whole. corner: px of luma."""
    x, y = corner[0] // step, corner[1] // step
    return plane[y : y + mask.shape[0], x : x + mask.shape[1]]


def _halved(mask: Plane) -> Plane:
    return np.asarray(cv2.resize(mask, (mask.shape[1] // 2, mask.shape[0] // 2), interpolation=cv2.INTER_AREA), np.uint8)


def _cover(over: Over, mask: Plane, corner: tuple[int, int], colour: str) -> None:
    half = _halved(mask)
    for number, (plane, value, own, step) in enumerate(zip(over.planes, yuv_of_hex(colour), (mask, half, half), (1, 2, 2), strict=True)):
        left, target = cv2.bitwise_not(own), _part(plane, own, corner, step)
        cv2.multiply(target, left, dst=target, scale=1 / 255)
        cv2.add(target, cv2.convertScaleAbs(own, alpha=value / 255), dst=target)
        if number < 2:
            rest = _part(over.rest[number], own, corner, step)
            cv2.multiply(rest, left, dst=rest, scale=1 / 255)


def _highlight(over: Over, mask: Plane, corner: tuple[int, int], colour: str) -> None:
    """Luma times the colour's own, chroma towards the colour's: dark print stays dark. Two that cross are no darker than one."""
    y, u, v = yuv_of_hex(colour)
    rest = _part(over.rest[0], mask, corner, 1)
    cv2.min(rest, cv2.convertScaleAbs(mask, alpha=(y - 255) / 255, beta=255), dst=rest)
    half: Plane = np.asarray(cv2.convertScaleAbs(_halved(mask), alpha=MARKED), np.uint8)
    left = cv2.bitwise_not(half)
    for plane, value in zip(over.planes[1:], (u, v), strict=True):
        target = _part(plane, half, corner, 2)
        cv2.multiply(target, left, dst=target, scale=1 / 255)
        cv2.add(target, cv2.convertScaleAbs(half, alpha=value / 255), dst=target)
    chroma = _part(over.rest[1], half, corner, 2)
    cv2.multiply(chroma, left, dst=chroma, scale=1 / 255)
