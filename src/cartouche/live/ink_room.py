"""Ink of the running lesson: strokes by the page that they are on, drawn while a hand moves, laid over that page wherever it is shown."""

import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from cartouche.core.errors import DegenerateCorners
from cartouche.core.ink.draw import Over, drawn
from cartouche.core.ink.smooth import SmoothPoint
from cartouche.core.ink.strokes import Ink, Stroke, Tool, sheet_ground, without_part, without_touched
from cartouche.core.pictures import Matrix, Size, bgr_from_frame, frame_from_bgr
from cartouche.core.plates.model import Place
from cartouche.core.plates.placing import placing
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.geometry import transform
from cartouche.core.straighten.page_space import page_space
from cartouche.live.straight import PAGE_FILLS, bare

TRAIL_S = 1.2  # how long what the pointer passed is seen
ERASER = 0.012  # of the page's longer side
POINTER_MM = 2.4


@dataclass(frozen=True, eq=False)
class Ground:
    """What ink is on, as it stands in the outgoing picture now. id: of the page or sheet.  size, unit: of the page, see `PageSpace`.
    to_outgoing: page units -> outgoing px.  box: its place, px."""

    id: str
    size: Size
    unit: str
    to_outgoing: Matrix
    box: tuple[int, int, int, int]
    outgoing: Size

    def at(self, x: float, y: float) -> tuple[float, float]:
        """A spot of the outgoing picture, in shares of it, on the page."""
        there = transform(np.linalg.inv(self.to_outgoing), np.array([(x * self.outgoing.width, y * self.outgoing.height)]))[0]
        return float(there[0]), float(there[1])

    @property
    def mm(self) -> float:
        """Page units to a millimetre."""
        return 1.0 if self.unit == "mm" else 1 / 297


@dataclass(eq=False)
class _Drawing:
    """Under one hand. trail: of a pointer, (x, y, seconds)."""

    ground: str
    stroke: Stroke | None
    smooth: SmoothPoint = field(default_factory=SmoothPoint)
    begun: tuple[Stroke, ...] = ()
    erases: str = ""
    trail: list[tuple[float, float, float]] = field(default_factory=list)


class InkRoom:
    """May be used from any thread. keep: told the ground whose strokes have changed for good."""

    def __init__(self, touch: Callable[[], None]) -> None:
        self._lock = threading.Lock()
        self._inks: dict[str, Ink] = {}
        self._drawing: dict[str, _Drawing] = {}
        self._touch = touch
        self.hidden = False
        self.ground: Ground | None = None
        self.on_change: list[Callable[[], None]] = []
        self.pages: dict[str, str] = {}  # by device, the id of the page that lies there
        self._made: tuple[object, ...] = ()
        self._stood: Over | None = None  # the strokes that no hand draws on
        self._stands: tuple[object, ...] = ()

    # what is on which page

    def ink(self, ground: str) -> Ink:
        return self._inks.get(ground, Ink())

    def take_up(self, inks: dict[str, Ink]) -> None:
        """As a lesson left them."""
        with self._lock:
            self._inks, self._drawing = dict(inks), {}
        self._changed()

    def change(self, ground: str, work: Callable[[Ink], Ink]) -> Ink:
        with self._lock:
            after = self._inks[ground] = work(self.ink(ground))
        self._changed()
        return after

    def hide(self, hidden: bool) -> None:
        self.hidden = hidden
        self._changed()

    def _changed(self) -> None:
        for tell in self.on_change:
            tell()
        self._touch()

    def ground_of(self, device_id: str, sheet_id: str = "") -> str:
        """The id of what is shown of a device: the page that lies there, or a sheet in its place."""
        return sheet_ground(sheet_id) if sheet_id else self.pages.get(device_id, f"{device_id}:1")

    # a hand draws

    def begin(self, hand: str, tool: str, colour: str, width_mm: float, spot: tuple[float, float, float], at_s: float) -> bool:
        """hand: whose it is.  tool: of a stroke, or 'pointer', 'eraser', 'rubber'.

        spot: x, y in shares of the outgoing picture, pressure.  False where no page is shown."""
        ground = self.ground
        if ground is None:
            return False
        drawing = _Drawing(ground.id, None, begun=self.ink(ground.id).strokes, erases=tool if tool in ("eraser", "rubber") else "")
        x, y = ground.at(*drawing.smooth.see(spot[0], spot[1], at_s))
        if tool in ("pen", "marker", "line", "arrow"):
            points = ((x, y, spot[2]),)
            name: Tool = tool  # type: ignore[assignment]
            drawing.stroke = Stroke(
                id=f"{hand}-{time.monotonic_ns():x}"[:40], tool=name, colour=colour, width=width_mm * ground.mm, points=points
            )
        elif tool == "pointer":
            drawing.stroke = Stroke(id=f"pointer-{hand}"[:40], colour=colour, width=POINTER_MM * ground.mm, points=((x, y, 1.0),))
            drawing.trail.append((x, y, time.monotonic()))
        with self._lock:
            self._drawing[hand] = drawing
        if drawing.erases:
            self._erase(drawing, ground, x, y)
        self._tell()
        return True

    def move(self, hand: str, spots: list[tuple[float, float, float, float]]) -> None:
        """spots: x, y, pressure, seconds of the hand's own clock."""
        drawing, ground = self._drawing.get(hand), self.ground
        if drawing is None or ground is None or ground.id != drawing.ground:
            return
        for x, y, pressure, at_s in spots:
            px, py = ground.at(*drawing.smooth.see(x, y, at_s))
            if drawing.erases:
                self._erase(drawing, ground, px, py)
            elif drawing.trail:
                drawing.trail.append((px, py, time.monotonic()))
            elif drawing.stroke is not None:
                drawing.stroke = drawing.stroke.through(px, py, pressure)
        self._tell()

    def end(self, hand: str) -> str | None:
        """The ground whose strokes have changed, None where none have."""
        with self._lock:
            drawing = self._drawing.pop(hand, None)
            if drawing is None or drawing.trail:
                return None
            ink = self.ink(drawing.ground)
            if drawing.stroke is not None:
                self._inks[drawing.ground] = ink.with_stroke(drawing.stroke)
            elif ink.strokes != drawing.begun:
                self._inks[drawing.ground] = Ink(drawing.begun, ink.before, ink.after).settled(ink.strokes)
        self._changed()
        return drawing.ground

    def unfinished(self) -> dict[str, tuple[Stroke, ...]]:
        """By ground, what is there with the strokes that are still under a hand."""
        with self._lock:
            found: dict[str, tuple[Stroke, ...]] = {}
            for drawing in self._drawing.values():
                if drawing.stroke is not None and not drawing.trail:
                    found[drawing.ground] = (*found.get(drawing.ground, self.ink(drawing.ground).strokes), drawing.stroke)
            return found

    def _erase(self, drawing: _Drawing, ground: Ground, x: float, y: float) -> None:
        erase = without_touched if drawing.erases == "eraser" else without_part
        reach = ERASER * max(ground.size)
        with self._lock:
            ink = self.ink(ground.id)
            left = erase(ink.strokes, np.array([x, y]), reach)
            if left != ink.strokes:
                self._inks[ground.id] = Ink(left, ink.before, ink.after)

    def _tell(self) -> None:
        for tell in self.on_change:
            tell()

    # the desk

    def over(self, ground_id: str, place: Place, chain: Chain, feed: Size, outgoing: Size, now_s: float) -> tuple[Over, ...]:
        """What lies over the page where it stands in this picture; remembered as the ground that hands draw on."""
        if self._stands != (ground_id, place, chain, feed, outgoing):
            self.ground = ground_on(ground_id, place, chain, feed, outgoing)
            self._stands = (ground_id, place, chain, feed, outgoing)
        ground = self.ground
        if ground is None or self.hidden:
            return ()
        with self._lock:
            strokes = self.ink(ground_id).strokes
            under = tuple(one.stroke for one in self._drawing.values() if one.ground == ground_id and one.stroke and not one.trail)
        if self._made != (strokes, ground):
            self._made, self._stood = (strokes, ground), drawn(strokes, ground.to_outgoing, ground.box)
        moving = (*under, *self._trails(ground_id, now_s))
        return tuple(one for one in (self._stood, drawn(moving, ground.to_outgoing, ground.box) if moving else None) if one is not None)

    def nobody(self) -> None:
        """No page is shown."""
        self.ground, self._stands = None, ()

    def _trails(self, ground_id: str, now_s: float) -> tuple[Stroke, ...]:
        """What pointers passed a moment ago."""
        found = []
        for drawing in tuple(self._drawing.values()):
            if drawing.trail and drawing.ground == ground_id and drawing.stroke is not None:
                last = drawing.trail[-1]
                drawing.trail[:] = [one for one in drawing.trail if now_s - one[2] < TRAIL_S] or [last]
                found.append(drawing.stroke.model_copy(update={"points": tuple((x, y, 1.0) for x, y, _ in drawing.trail)}))
        return tuple(found)


def ground_on(id_: str, place: Place, chain: Chain, feed: Size, outgoing: Size) -> Ground | None:
    try:
        placed, page = placing(place, chain, feed, outgoing), page_space(chain, feed)
    except DegenerateCorners:
        return None
    box = (placed.box.x0, placed.box.y0, placed.box.x1, placed.box.y1)
    return Ground(id_, page.size, page.unit, placed.canvas_matrix @ page.to_canvas, box, outgoing)


def inked(picture: NDArray[np.uint8], strokes: Sequence[Stroke], chain: Chain, feed: Size) -> NDArray[np.uint8] | None:
    """A straightened page with ink on it; None where there is none. picture: (h, w, 3) BGR, even.  chain: the page is straightened by.

    feed: of the pictures that it was made from, px.
    """
    high, wide = picture.shape[:2]
    ground = ground_on("", PAGE_FILLS, bare(chain), feed, Size(wide, high)) if strokes else None
    over = drawn(strokes, ground.to_outgoing, ground.box) if ground is not None else None
    if over is None:
        return None
    frame = frame_from_bgr(picture)
    over.lay(frame.planes)
    return bgr_from_frame(frame)
