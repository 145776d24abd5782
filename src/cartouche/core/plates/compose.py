"""Drawing a plate: every place sampled once, straight from its feed's planes to the outgoing planes.

Speed rules: one warp per plane and place, work worked out once per change, picture memory reused.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np

from cartouche.core.ink.draw import Over
from cartouche.core.pictures import (
    Frame,
    Matrix,
    Plane,
    Size,
    YuvColour,
    blank_frame,
    half_size,
    index_matrix,
    scaling,
    translation,
    yuv_of_hex,
)
from cartouche.core.plates import paint
from cartouche.core.plates.model import ColourContent, FrameContent, Place
from cartouche.core.plates.placing import Box, Placing, place_box, placing, shrink_level
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.geometry import transform
from cartouche.core.straighten.lens import distort
from cartouche.core.straighten.tone import Correction, Tone, apply_tone, correction

# at 30 frames/s a picture stays untouched for a quarter of a second after it was handed out: longer than any reader holds it
COMPOSED_RING = 8
NO_CHAIN = Chain()


@dataclass(frozen=True, slots=True, eq=False)
class Layer:
    """One place with the newest frame of its feed, that feed's chain and the light measured on its page.

    frame: None for a place without a picture.  opacity: 0-1.  alpha: luma's and chroma's coverage for a frame that was drawn
    for just this place (a caption): it is laid over what lies below, neither sampled nor straightened.  over: ink on it.
    """

    place: Place
    chain: Chain = NO_CHAIN
    frame: Frame | None = None
    tone: Tone | None = None
    opacity: float = 1.0
    alpha: tuple[paint.Alpha, paint.Alpha] | None = None
    over: tuple[Over, ...] = ()


OnFailure = Callable[[int, Exception], None]
Tables = tuple[np.ndarray, np.ndarray]  # what cv2.remap takes, fixed point


@dataclass(slots=True, eq=False)
class _Sampling:
    """How a feed's pixels come to its place."""

    placing: Placing
    level: int
    luma: Matrix  # level pixels -> box pixels, between pixel indices
    chroma: Matrix
    straight: bool  # scaling and shifting only
    tables: tuple[Tables, Tables] | None = None  # of luma and chroma, where the lens bends
    tone: Tone | None = None
    correction: Correction | None = None
    halves: dict[int, tuple[Plane, ...]] = field(default_factory=dict)


@dataclass(slots=True, eq=False)
class _Plan:
    """What a layer comes to for as long as its place, chain and feed size stay the same."""

    place: Place
    chain: Chain
    feed: Size | None
    box: Box
    radius: int
    border: tuple[int, YuvColour] | None
    sampling: _Sampling | None = None
    scratch: Frame | None = None
    held: bool = False  # it cannot be drawn: its area stays as it was in the last picture

    def fits(self, layer: Layer) -> bool:
        return (
            not self.held
            and layer.place is self.place
            and layer.chain is self.chain
            and (layer.frame.size if layer.frame else None) == self.feed
        )

    def key(self, layer: Layer) -> tuple[object, ...]:
        return self.box, self.radius, self.place.round, self.place.shadow, layer.opacity < 1


class Composer:
    """Draws plates of one outgoing size. Not for use by two threads at once."""

    def __init__(self, size: Size, background: YuvColour) -> None:
        self.size = size
        self.background = background
        self._ring = [blank_frame(size, background) for _ in range(COMPOSED_RING)]
        self._drawn: list[object] = [None] * COMPOSED_RING
        self._next = 0
        self._plans: list[_Plan] = []

    def compose(self, layers: Sequence[Layer], captured_s: float, on_failure: OnFailure | None = None) -> Frame:
        """Draw layers back to front; the result stays valid for COMPOSED_RING - 1 more calls.

        captured_s: the moment to carry, seconds.  on_failure: told the number of a layer that cannot be drawn and why; that
        layer's area then stays as it was in the last picture.  Without it the layer's own error is raised, DegenerateCorners
        for a chain that spans no page.
        """
        plans = [self._plan_or_hold(number, layer, on_failure) for number, layer in enumerate(layers)]
        del self._plans[len(layers) :]
        slot = self._next
        self._next = (slot + 1) % COMPOSED_RING
        picture = self._ring[slot]
        drawn = (self.background, *(plan.key(layer) for plan, layer in zip(plans, layers, strict=True)))
        if drawn != self._drawn[slot]:
            self._drawn[slot] = drawn
            paint.clear(picture, Box(0, 0, int(self.size.width), int(self.size.height)), self.background)
        else:
            self._clear_under_soft(picture, plans, layers)
        before = self._ring[slot - 1]
        for number, (layer, plan) in enumerate(zip(layers, plans, strict=True)):
            if plan.box.empty or layer.opacity <= 0:
                continue
            try:
                if not plan.held:
                    _draw(picture, layer, plan, self.background)
                    for over in layer.over:
                        over.lay(picture.planes)
            except Exception as exc:
                if on_failure is None:
                    raise
                on_failure(number, exc)
                plan.held = True
            if plan.held:
                _hold(picture, before, plan.box)
        return Frame(picture.y, picture.u, picture.v, captured_s)

    def placings(self) -> list[Placing]:
        """How the places of the last picture that show a feed were laid, in order."""
        return [plan.sampling.placing for plan in self._plans if plan.sampling is not None]

    def placing_of(self, number: int) -> Placing | None:
        """How one place of the last picture was laid; None where it shows no feed."""
        sampling = self._plans[number].sampling if number < len(self._plans) else None
        return sampling.placing if sampling is not None else None

    def _clear_under_soft(self, picture: Frame, plans: Sequence[_Plan], layers: Sequence[Layer]) -> None:
        """What is blended over the ground must not be blended over its own last picture."""
        reach = paint.shadow_reach(picture)
        for plan, layer in zip(plans, layers, strict=True):
            if plan.radius or plan.place.round or plan.place.shadow or layer.opacity < 1 or layer.alpha is not None:
                more, box = (reach if plan.place.shadow else 0), plan.box
                wide, high = int(self.size.width), int(self.size.height)
                grown = Box(max(box.x0 - more, 0), max(box.y0 - more, 0), min(box.x1 + more, wide), min(box.y1 + more, high))
                paint.clear(picture, grown, self.background)

    def _plan_or_hold(self, number: int, layer: Layer, on_failure: OnFailure | None) -> _Plan:
        try:
            return self._plan(number, layer)
        except Exception as exc:
            if on_failure is None:
                raise
            on_failure(number, exc)
            plan = _Plan(layer.place, layer.chain, None, place_box(layer.place, self.size), 0, None, held=True)
            self._plans[number : number + 1] = [plan]
            return plan

    def _plan(self, number: int, layer: Layer) -> _Plan:
        known = self._plans[number] if number < len(self._plans) else None
        if known is None or not known.fits(layer):
            known = _make_plan(layer, self.size)
            self._plans[number : number + 1] = [known]
        sampling = known.sampling
        if sampling is not None and layer.tone is not sampling.tone:
            sampling.tone, sampling.correction = layer.tone, _correction(layer, sampling.placing)
        return known


def _make_plan(layer: Layer, outgoing: Size) -> _Plan:
    place, frame = layer.place, layer.frame
    sampling = _sampling(layer, frame.size, outgoing) if frame is not None and layer.alpha is None else None
    box = sampling.placing.box if sampling is not None else place_box(place, outgoing)
    radius = min(int(place.rounding * outgoing.height), (box.x1 - box.x0) // 2, (box.y1 - box.y0) // 2) // 4 * 4 if not box.empty else 0
    border = None
    if place.border is not None or isinstance(place.content, FrameContent):
        width = place.border.width if place.border else FRAME_WIDTH
        colour = place.content.colour if isinstance(place.content, FrameContent) else place.border.colour if place.border else ""
        border = (max(2, round(width * outgoing.height / 2) * 2), yuv_of_hex(colour))
    return _Plan(place, layer.chain, frame.size if frame else None, box, radius, border, sampling)


FRAME_WIDTH = 0.008


def _sampling(layer: Layer, feed: Size, outgoing: Size) -> _Sampling:
    placed = placing(layer.place, layer.chain, feed, outgoing)
    level = shrink_level(placed.matrix, placed.box)
    to_box = np.array([[1, 0, -placed.box.x0], [0, 1, -placed.box.y0], [0, 0, 1.0]])
    luma = to_box @ placed.matrix @ scaling(2.0**level, 2.0**level)
    chroma = scaling(0.5, 0.5) @ luma @ scaling(2.0, 2.0)
    off_axis = np.abs(luma[[0, 1, 2, 2], [1, 0, 0, 1]]).max()
    distortion = placed.straightened.distortion
    straight = bool(off_axis < 1e-9 and luma[0, 0] > 0 and luma[1, 1] > 0) and not distortion
    sampling = _Sampling(placed, level, luma / luma[2, 2], chroma / chroma[2, 2], straight)
    if distortion and not placed.box.empty:
        size = (placed.box.x1 - placed.box.x0, placed.box.y1 - placed.box.y0)
        source = Size(feed.width / 2**level, feed.height / 2**level)
        sampling.tables = (
            _tables(sampling.luma, distortion, source, size),
            _tables(sampling.chroma, distortion, Size(source.width / 2, source.height / 2), (size[0] // 2, size[1] // 2)),
        )
    return sampling


def _correction(layer: Layer, placed: Placing) -> Correction | None:
    if layer.tone is None or placed.box.empty or not (layer.chain.light.on or layer.chain.colour.on):
        return None
    to_canvas = np.linalg.inv(placed.canvas_matrix) @ translation(placed.box.x0, placed.box.y0)
    size = (placed.box.x1 - placed.box.x0, placed.box.y1 - placed.box.y0)
    return correction(layer.tone, layer.chain, to_canvas, placed.straightened.canvas, size)


_TABLE_STEP = 8  # px: the table is worked out at every eighth and spread linearly; off by less than a hundredth of a pixel


def _tables(matrix: Matrix, distortion: float, source: Size, size: tuple[int, int]) -> Tables:
    """Where in the distorted source each pixel of the box comes from. matrix: undistorted source px -> box px."""
    columns, rows = size[0] // _TABLE_STEP + 3, size[1] // _TABLE_STEP + 3
    xs, ys = np.meshgrid((np.arange(columns) - 0.5) * _TABLE_STEP, (np.arange(rows) - 0.5) * _TABLE_STEP)
    points = transform(np.linalg.inv(matrix), np.stack([xs.ravel(), ys.ravel()], axis=1))
    grid = (distort(points, distortion, source) - 0.5).reshape(rows, columns, 2).astype(np.float32)
    full = cv2.resize(grid, (columns * _TABLE_STEP, rows * _TABLE_STEP), interpolation=cv2.INTER_LINEAR)
    part = np.ascontiguousarray(full[_TABLE_STEP : _TABLE_STEP + size[1], _TABLE_STEP : _TABLE_STEP + size[0]])
    fixed, fractions = cv2.convertMaps(part, None, cv2.CV_16SC2)  # type: ignore[call-overload]
    return np.asarray(fixed), np.asarray(fractions)


def _hold(picture: Frame, before: Frame, box: Box) -> None:
    """What stood there in the picture before stays."""
    for area, last in zip(paint.areas(picture, box), paint.areas(before, box), strict=True):
        np.copyto(area, last)


def _draw(picture: Frame, layer: Layer, plan: _Plan, background: YuvColour) -> None:
    place, opacity = plan.place, layer.opacity
    if place.shadow:
        paint.cast_shadow(picture, plan.box, plan.radius, place.round, opacity)
    areas = paint.areas(picture, plan.box)
    if layer.alpha is not None and layer.frame is not None:
        for area, source, alpha in zip(areas, layer.frame.planes, (layer.alpha[0], layer.alpha[1], layer.alpha[1]), strict=True):
            paint.blend(area, source, alpha * np.float32(opacity) if opacity < 1 else alpha)
    elif plan.sampling is not None or isinstance(place.content, ColourContent):
        _draw_content(areas, layer, plan, background)
    if plan.border is not None:
        width, colour = plan.border
        for area, value, step in zip(areas, colour, paint.STEPS, strict=True):
            if place.round:
                paint.oval_ring(area, value, width // step, opacity)
            else:
                paint.ring(area, value, width // step, plan.radius // step, opacity)


def _draw_content(areas: tuple[Plane, Plane, Plane], layer: Layer, plan: _Plan, background: YuvColour) -> None:
    """Straight into the picture where its place covers all that lies below, else by way of a scratch picture."""
    if not plan.place.round and layer.opacity >= 1:
        under = [paint.under_corners(area, plan.radius // step) for area, step in zip(areas, paint.STEPS, strict=True)]
        _fill(areas, layer, plan, background)
        for area, below, step in zip(areas, under, paint.STEPS, strict=True):
            paint.round_off(area, below, plan.radius // step)
        return
    if plan.scratch is None:
        plan.scratch = blank_frame(Size(areas[0].shape[1], areas[0].shape[0]), background)
    _fill(plan.scratch.planes, layer, plan, background)
    for area, source, step in zip(areas, plan.scratch.planes, paint.STEPS, strict=True):
        if plan.place.round:
            alpha = paint.ellipse(area.shape[1], area.shape[0])
            paint.blend(area, source, alpha * np.float32(layer.opacity) if layer.opacity < 1 else alpha)
            continue
        below = paint.under_corners(area, plan.radius // step)
        paint.mix(area, source, layer.opacity)
        paint.round_off(area, below, plan.radius // step)


def _fill(areas: tuple[Plane, Plane, Plane], layer: Layer, plan: _Plan, background: YuvColour) -> None:
    sampling, frame = plan.sampling, layer.frame
    if sampling is None or frame is None:
        assert isinstance(plan.place.content, ColourContent)
        for area, value in zip(areas, yuv_of_hex(plan.place.content.colour), strict=True):
            area.fill(value)
        return
    for area, source, value, step in zip(areas, _at_level(frame, sampling), background, paint.STEPS, strict=True):
        if sampling.tables is not None:
            cv2.remap(source, *sampling.tables[step - 1], cv2.INTER_LINEAR, dst=area, borderMode=cv2.BORDER_CONSTANT, borderValue=value)
        else:
            _sample(source, sampling.luma if step == 1 else sampling.chroma, area, value, sampling.straight)
    if sampling.correction is not None:
        apply_tone(areas, sampling.correction)


def _at_level(frame: Frame, plan: _Sampling) -> tuple[Plane, ...]:
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
