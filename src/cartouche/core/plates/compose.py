"""Drawing a plate: every place sampled once, straight from its feed's planes to the outgoing planes.

Speed rules: one warp per plane and place, work worked out once per change, picture memory reused.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np

from cartouche.core.pictures import Frame, Matrix, Plane, Size, YuvColour, blank_frame, half_size, index_matrix, scaling, translation
from cartouche.core.plates.model import Place
from cartouche.core.plates.placing import Box, Placing, placing, shrink_level
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.geometry import transform
from cartouche.core.straighten.lens import bent
from cartouche.core.straighten.tone import Correction, Tone, apply_tone, correction

RING = 8  # at 30 frames/s a picture stays untouched for a quarter of a second after it was handed out: longer than any reader holds it


@dataclass(frozen=True, slots=True, eq=False)
class Layer:
    """One place with the newest frame of its feed, that feed's chain and the light measured on its page."""

    place: Place
    chain: Chain
    frame: Frame
    tone: Tone | None = None


Tables = tuple[np.ndarray, np.ndarray]  # what cv2.remap takes, fixed point


@dataclass(slots=True, eq=False)
class _Plan:
    """What a layer comes to for as long as its place, chain and feed size stay the same."""

    place: Place
    chain: Chain
    feed: Size
    placing: Placing
    level: int
    luma: Matrix  # level pixels -> box pixels, between pixel indices
    chroma: Matrix
    straight: bool  # scaling and shifting only
    tables: tuple[Tables, Tables] | None = None  # of luma and chroma, where the lens bends
    tone: Tone | None = None
    correction: Correction | None = None
    halves: dict[int, tuple[Plane, ...]] = field(default_factory=dict)

    def fits(self, layer: Layer) -> bool:
        return layer.place is self.place and layer.chain is self.chain and layer.frame.size == self.feed


class Composer:
    """Draws plates of one outgoing size. Not for use by two threads at once."""

    def __init__(self, size: Size, background: YuvColour) -> None:
        self.size = size
        self.background = background
        self._ring = [blank_frame(size, background) for _ in range(RING)]
        self._drawn: list[tuple[Box, ...]] = [()] * RING
        self._next = 0
        self._plans: list[_Plan | None] = []

    def compose(self, layers: Sequence[Layer], captured_s: float) -> Frame:
        """Draw layers back to front; the result stays valid for RING - 1 more calls.

        captured_s: the moment to carry, seconds.  Raises DegenerateCorners for a chain that cannot be drawn.
        """
        plans = [self._plan(number, layer) for number, layer in enumerate(layers)]
        del self._plans[len(layers) :]
        slot = self._next
        self._next = (slot + 1) % RING
        picture = self._ring[slot]
        boxes = tuple(plan.placing.box for plan in plans)
        if boxes != self._drawn[slot]:
            for plane, value in zip(picture.planes, self.background, strict=True):
                plane.fill(value)
            self._drawn[slot] = boxes
        for layer, plan in zip(layers, plans, strict=True):
            if not plan.placing.box.empty:
                _draw(picture, layer.frame, plan, self.background)
        return Frame(picture.y, picture.u, picture.v, captured_s)

    def placings(self) -> list[Placing]:
        """How the places of the last picture were laid, in order."""
        return [plan.placing for plan in self._plans if plan is not None]

    def _plan(self, number: int, layer: Layer) -> _Plan:
        known = self._plans[number] if number < len(self._plans) else None
        if known is None or not known.fits(layer):
            known = _make_plan(layer, self.size)
            self._plans[number : number + 1] = [known]
        if layer.tone is not known.tone:
            known.tone, known.correction = layer.tone, _correction(layer, known.placing)
        return known


def _make_plan(layer: Layer, outgoing: Size) -> _Plan:
    laid = placing(layer.place, layer.chain, layer.frame.size, outgoing)
    level = shrink_level(laid.matrix, laid.box)
    to_box = np.array([[1, 0, -laid.box.x0], [0, 1, -laid.box.y0], [0, 0, 1.0]])
    luma = to_box @ laid.matrix @ scaling(2.0**level, 2.0**level)
    chroma = scaling(0.5, 0.5) @ luma @ scaling(2.0, 2.0)
    off_axis = np.abs(luma[[0, 1, 2, 2], [1, 0, 0, 1]]).max()
    bend, feed = laid.straightened.bend, layer.frame.size
    straight = bool(off_axis < 1e-9 and luma[0, 0] > 0 and luma[1, 1] > 0) and not bend
    plan = _Plan(layer.place, layer.chain, feed, laid, level, luma / luma[2, 2], chroma / chroma[2, 2], straight)
    if bend and not laid.box.empty:
        size = (laid.box.x1 - laid.box.x0, laid.box.y1 - laid.box.y0)
        source = Size(feed.width / 2**level, feed.height / 2**level)
        plan.tables = (
            _tables(plan.luma, bend, source, size),
            _tables(plan.chroma, bend, Size(source.width / 2, source.height / 2), (size[0] // 2, size[1] // 2)),
        )
    return plan


def _correction(layer: Layer, laid: Placing) -> Correction | None:
    if layer.tone is None or laid.box.empty or not (layer.chain.light.on or layer.chain.colour.on):
        return None
    to_canvas = np.linalg.inv(laid.canvas_matrix) @ translation(laid.box.x0, laid.box.y0)
    size = (laid.box.x1 - laid.box.x0, laid.box.y1 - laid.box.y0)
    return correction(layer.tone, layer.chain, to_canvas, laid.straightened.canvas, size)


_TABLE_STEP = 8  # px: the table is worked out at every eighth and spread linearly; off by less than a hundredth of a pixel


def _tables(matrix: Matrix, bend: float, source: Size, size: tuple[int, int]) -> Tables:
    """Where in the bent source each pixel of the box comes from. matrix: unbent source px -> box px."""
    columns, rows = size[0] // _TABLE_STEP + 3, size[1] // _TABLE_STEP + 3
    xs, ys = np.meshgrid((np.arange(columns) - 0.5) * _TABLE_STEP, (np.arange(rows) - 0.5) * _TABLE_STEP)
    points = transform(np.linalg.inv(matrix), np.stack([xs.ravel(), ys.ravel()], axis=1))
    grid = (bent(points, bend, source) - 0.5).reshape(rows, columns, 2).astype(np.float32)
    full = cv2.resize(grid, (columns * _TABLE_STEP, rows * _TABLE_STEP), interpolation=cv2.INTER_LINEAR)
    part = np.ascontiguousarray(full[_TABLE_STEP : _TABLE_STEP + size[1], _TABLE_STEP : _TABLE_STEP + size[0]])
    fixed, fractions = cv2.convertMaps(part, None, cv2.CV_16SC2)  # type: ignore[call-overload]
    return np.asarray(fixed), np.asarray(fractions)


def _draw(picture: Frame, frame: Frame, plan: _Plan, background: YuvColour) -> None:
    box, radius = plan.placing.box, plan.placing.radius_px
    areas = [plane[box.y0 // k : box.y1 // k, box.x0 // k : box.x1 // k] for plane, k in zip(picture.planes, (1, 2, 2), strict=True)]
    kept = [[area[part].copy() for part in _corner_parts(radius // k)] for area, k in zip(areas, (1, 2, 2), strict=True)] if radius else []
    for area, source, value, step in zip(areas, _at_level(frame, plan), background, (1, 2, 2), strict=True):
        if plan.tables is not None:
            cv2.remap(source, *plan.tables[step - 1], cv2.INTER_LINEAR, dst=area, borderMode=cv2.BORDER_CONSTANT, borderValue=value)
        else:
            _sample(source, plan.luma if step == 1 else plan.chroma, area, value, plan.straight)
    if plan.correction is not None:
        apply_tone((areas[0], areas[1], areas[2]), plan.correction)
    for area, below, step in zip(areas, kept, (1, 2, 2), strict=False):
        for part, under, alpha in zip(_corner_parts(radius // step), below, corner_alphas(radius // step), strict=False):
            area[part] = area[part] * alpha + under * (1 - alpha)


def _at_level(frame: Frame, plan: _Plan) -> tuple[Plane, ...]:
    planes: tuple[Plane, ...] = frame.planes
    for level in range(plan.level):
        kept = plan.halves.get(level)
        if kept is None:
            kept = plan.halves[level] = tuple(half_size(plane) for plane in planes)
        else:
            for plane, half in zip(planes, kept, strict=True):
                cv2.resize(plane, (half.shape[1], half.shape[0]), dst=half, interpolation=cv2.INTER_AREA)
        planes = kept
    return planes


def _sample(source: Plane, matrix: Matrix, area: Plane, outside: int, straight: bool) -> None:
    height, width = area.shape
    if straight:
        left, top = -matrix[0, 2] / matrix[0, 0], -matrix[1, 2] / matrix[1, 1]
        x0, y0 = max(0, round(left)), max(0, round(top))
        x1 = min(source.shape[1], max(x0 + 1, round(left + width / matrix[0, 0])))
        y1 = min(source.shape[0], max(y0 + 1, round(top + height / matrix[1, 1])))
        cv2.resize(source[y0:y1, x0:x1], (width, height), dst=area, interpolation=cv2.INTER_LINEAR)
    else:
        cv2.warpPerspective(source, index_matrix(matrix), (width, height), dst=area, borderMode=cv2.BORDER_CONSTANT, borderValue=outside)


def _corner_parts(radius: int) -> list[tuple[slice, slice]]:
    if radius < 1:
        return []
    near, far = slice(0, radius), slice(-radius, None)
    return [(near, near), (near, far), (far, near), (far, far)]


_alphas: dict[int, list[np.ndarray]] = {}


def corner_alphas(radius: int) -> list[np.ndarray]:
    """Coverage of a rounded corner, (radius, radius) float32 in 0..1: top-left, top-right, bottom-left, bottom-right."""
    if radius not in _alphas:
        steps = np.arange(radius, dtype=np.float32) + 0.5
        reach = np.hypot(radius - steps[None, :], radius - steps[:, None])
        top_left = np.clip(radius - reach + 0.5, 0, 1).astype(np.float32)
        _alphas[radius] = [top_left, top_left[:, ::-1], top_left[::-1], top_left[::-1, ::-1]]
    return _alphas[radius]
