"""Where a straightened feed lands on the outgoing picture: one matrix and one rectangle per place."""

from dataclasses import dataclass

import numpy as np

from cartouche.core.pictures import Matrix, Size, scaling, translation
from cartouche.core.plates.model import Place
from cartouche.core.straighten.chain import Chain, Straightened, straighten
from cartouche.core.straighten.geometry import smallest_stretch, transform


@dataclass(frozen=True, slots=True)
class Box:
    """Whole, even pixels of the outgoing picture: half-size chroma then covers the same area."""

    x0: int
    y0: int
    x1: int
    y1: int

    @property
    def empty(self) -> bool:
        return self.x1 <= self.x0 or self.y1 <= self.y0


@dataclass(frozen=True, slots=True, eq=False)
class Placing:
    """One place, worked out.

    matrix: feed px -> outgoing px, (3, 3).  box: pixels of the outgoing picture that the feed covers.
    canvas_matrix: canvas units -> outgoing px.  straightened: the map it was built on.
    """

    matrix: Matrix
    canvas_matrix: Matrix
    straightened: Straightened
    box: Box


def place_box(place: Place, outgoing: Size) -> Box:
    rect = place.rect
    return _even_box(
        rect.x * outgoing.width,
        rect.y * outgoing.height,
        (rect.x + rect.width) * outgoing.width,
        (rect.y + rect.height) * outgoing.height,
        outgoing,
    )


def placing(place: Place, chain: Chain, feed: Size, outgoing: Size) -> Placing:
    """Compose chain, frame and place. feed, outgoing: px.  Raises DegenerateCorners.

    fit at zoom 1 shows the whole canvas with margins; fill covers the place. Zooming in from there uses the whole
    place, and the canvas never leaves a margin that it could cover.
    """
    straightened = straighten(chain, feed)
    area = place_box(place, outgoing)
    width, height = area.x1 - area.x0, area.y1 - area.y0
    canvas = straightened.canvas
    both = (width / canvas.width, height / canvas.height)
    frame = chain.frame
    zoom, x, y = (frame.zoom, frame.x, frame.y) if frame.on else (1.0, 0.5, 0.5)
    if zoom <= 1 and place.fit == "fill":
        x, y = place.focus.x, place.focus.y
    scale = (min(both) if place.fit == "fit" else max(both)) * zoom
    left = _edge(width, canvas.width * scale, x)
    top = _edge(height, canvas.height * scale, y)
    to_outgoing = translation(area.x0 + left, area.y0 + top) @ scaling(scale, scale)
    box = _even_box(
        max(area.x0, area.x0 + left),
        max(area.y0, area.y0 + top),
        min(area.x1, area.x0 + left + canvas.width * scale),
        min(area.y1, area.y0 + top + canvas.height * scale),
        outgoing,
    )
    return Placing(to_outgoing @ straightened.matrix, to_outgoing, straightened, box)


def stretch_over(result: Placing, steps: int = 3) -> tuple[np.ndarray, np.ndarray]:
    """Detail across the visible part of the canvas, its edges included, on a steps x steps grid of it.

    Returns two (steps * steps,) arrays: feed pixels per canvas unit and outgoing pixels per canvas unit, each in its worst direction.
    """
    box = result.box
    points = np.array([(x, y) for y in np.linspace(box.y0, box.y1, steps) for x in np.linspace(box.x0, box.x1, steps)])
    on_canvas = transform(np.linalg.inv(result.canvas_matrix), points).clip(0, result.straightened.canvas)
    to_feed = np.linalg.inv(result.straightened.matrix)
    return smallest_stretch(to_feed, on_canvas), np.full(len(points), result.canvas_matrix[0, 0])


def shrink_level(matrix: Matrix, box: Box) -> int:
    """How often to halve the feed before sampling it, so that one sample never skips more than 1.5 feed pixels.

    Judged at the middle of the box: finer levels at its near end cost more than they show.

    matrix: (3, 3), feed px -> outgoing px.
    """
    centre = np.array([[(box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2]])
    shrink = float(smallest_stretch(np.linalg.inv(matrix), centre)[0])
    level = 0
    while shrink > SHRINK_AT and level < MAX_LEVEL:
        shrink, level = shrink / 2, level + 1
    return level


SHRINK_AT = 1.5  # linear interpolation reads 2 px: beyond this it skips some and small print breaks up
MAX_LEVEL = 3  # an eighth: a thumbnail of a 4K feed


def _edge(room: float, length: float, centre: float) -> float:
    """Where a canvas of this length begins in a room, so that `centre` of it lies in the middle, without needless margin."""
    if length <= room:
        return (room - length) / 2
    return min(0.0, max(room - length, room / 2 - centre * length))


def _even_box(x0: float, y0: float, x1: float, y1: float, outgoing: Size) -> Box:
    def even(value: float, most: float) -> int:
        return int(min(max(round(value / 2) * 2, 0), most // 2 * 2))

    return Box(even(x0, outgoing.width), even(y0, outgoing.height), even(x1, outgoing.width), even(y1, outgoing.height))
