"""Strokes and what is done to them. All lengths are units of the page: millimetres, or shares of its longer side."""

import math
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

Tool = Literal["pen", "marker", "line", "arrow"]
Points = NDArray[np.float64]  # (n, 2)
MAX_STROKES, MAX_POINTS = 2000, 4000
STEPS_KEPT = 100
HEAD = 5.0  # an arrow's head, in widths of its stroke


def sheet_ground(sheet_id: str) -> str:
    """A kept sheet as what ink is on."""
    return f"sheet:{sheet_id}"


class Stroke(BaseModel):
    """points: (x, y, pressure 0-1).  width: at full pressure."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    id: Annotated[str, Field(min_length=1, max_length=40)]
    tool: Tool = "pen"
    colour: Annotated[str, Field(pattern=r"^#[0-9A-Fa-f]{6}$")] = "#23459B"
    width: Annotated[float, Field(gt=0.0, le=100.0)] = 0.8
    points: Annotated[tuple[tuple[float, float, float], ...], Field(min_length=1, max_length=MAX_POINTS)]

    @property
    def line(self) -> Points:
        return np.array(self.points, np.float64)[:, :2]

    def through(self, x: float, y: float, pressure: float) -> "Stroke":
        """Drawn on to here. A line or an arrow has two ends, the second one moves."""
        point = (x, y, pressure)
        if self.tool in ("line", "arrow"):
            return self.model_copy(update={"points": (self.points[0], point)})
        if len(self.points) >= MAX_POINTS:
            return self
        return self.model_copy(update={"points": (*self.points, point)})

    def parts(self) -> list[Points]:
        """What is drawn: the line, and an arrow's head."""
        line = self.line
        if self.tool != "arrow" or len(line) < 2:
            return [line]
        along = line[-1] - line[0]
        length = float(np.hypot(*along))
        if length < 1e-6:
            return [line]
        back = -along / length * min(HEAD * self.width, 0.6 * length)
        sides = [line[-1] + _turned(back, angle) for angle in (0.45, -0.45)]
        return [line, np.array([sides[0], line[-1], sides[1]])]


def _turned(vector: Points, angle: float) -> Points:
    cos, sin = math.cos(angle), math.sin(angle)
    return np.array([cos * vector[0] - sin * vector[1], sin * vector[0] + cos * vector[1]])


@dataclass(frozen=True, slots=True)
class Ink:
    """strokes: in the order in which they were drawn.  before, after: what undo and redo lead to."""

    strokes: tuple[Stroke, ...] = ()
    before: tuple[tuple[Stroke, ...], ...] = ()
    after: tuple[tuple[Stroke, ...], ...] = ()

    def settled(self, strokes: tuple[Stroke, ...]) -> "Ink":
        """These from now on; undo leads back to those before."""
        if strokes == self.strokes:
            return self
        return Ink(strokes[-MAX_STROKES:], (*self.before, self.strokes)[-STEPS_KEPT:], ())

    def with_stroke(self, stroke: Stroke) -> "Ink":
        return self.settled((*self.strokes, stroke))

    def undone(self) -> "Ink":
        if not self.before:
            return self
        return Ink(self.before[-1], self.before[:-1], (self.strokes, *self.after))

    def redone(self) -> "Ink":
        if not self.after:
            return self
        return replace(self, strokes=self.after[0], before=(*self.before, self.strokes), after=self.after[1:])


def quarter_turned(strokes: tuple[Stroke, ...], high: float) -> tuple[Stroke, ...]:
    """As they lie on their sheet once it is turned a quarter clockwise. high: of the sheet before that."""
    return tuple(stroke.model_copy(update={"points": tuple((high - y, x, p) for x, y, p in stroke.points)}) for stroke in strokes)


def without_touched(strokes: tuple[Stroke, ...], spot: Points, reach: float) -> tuple[Stroke, ...]:
    """Those that do not run within reach of a spot, (2,)."""
    return tuple(stroke for stroke in strokes if _apart(stroke, spot) > reach + stroke.width / 2)


def without_part(strokes: tuple[Stroke, ...], spot: Points, reach: float) -> tuple[Stroke, ...]:
    """The same, but of a drawn line only what lies within reach is gone; what is left of it are strokes of their own."""
    left: list[Stroke] = []
    for stroke in strokes:
        if _apart(stroke, spot) > reach + stroke.width / 2:
            left.append(stroke)
        elif stroke.tool in ("pen", "marker"):
            left += _cut(_fine(stroke, reach / 2), spot, reach)
    return tuple(left)


def _fine(stroke: Stroke, step: float) -> Stroke:
    """With points at least so close, so that a long straight piece can be cut within."""
    made: list[tuple[float, float, float]] = [stroke.points[0]]
    for (x0, y0, p0), (x1, y1, p1) in zip(stroke.points, stroke.points[1:], strict=False):
        count = min(200, max(1, math.ceil(math.hypot(x1 - x0, y1 - y0) / step)))
        made += [(x0 + (x1 - x0) * k / count, y0 + (y1 - y0) * k / count, p0 + (p1 - p0) * k / count) for k in range(1, count + 1)]
    return stroke.model_copy(update={"points": tuple(made[:MAX_POINTS])})


def _cut(stroke: Stroke, spot: Points, reach: float) -> list[Stroke]:
    keep = np.hypot(*(stroke.line - spot).T) > reach
    pieces: list[list[tuple[float, float, float]]] = [[]]
    for point, kept in zip(stroke.points, keep, strict=True):
        if kept:
            pieces[-1].append(point)
        elif pieces[-1]:
            pieces.append([])
    whole = [piece for piece in pieces if len(piece) > 1]
    return [stroke.model_copy(update={"id": f"{stroke.id[:32]}.{number}", "points": tuple(piece)}) for number, piece in enumerate(whole)]


def _apart(stroke: Stroke, spot: Points) -> float:
    """From a spot to the nearest of its line."""
    line = stroke.line
    if len(line) == 1:
        return float(np.hypot(*(line[0] - spot)))
    start, along = line[:-1], np.diff(line, axis=0)
    share = np.clip(((spot - start) * along).sum(axis=1) / np.maximum((along**2).sum(axis=1), 1e-12), 0, 1)
    return float(np.hypot(*(start + share[:, None] * along - spot).T).min())
