"""Where something small stands: the corner of the outgoing picture that hides neither a face nor writing. It moves seldom."""

from cartouche.core.plates.model import Place, Plate, Rect, RoleContent
from cartouche.core.plates.placement import Cells, cells_of

MARGIN = 0.025  # of the outgoing picture's height
MIN_BETWEEN_S = 20.0  # between two moves
LESS_BY = 0.15  # share of its area that must lie freer elsewhere
FACE_WEIGHS = 4.0  # against writing


class Corner:
    """Time is passed in."""

    def __init__(self) -> None:
        self._rect: Rect | None = None
        self._moved_s = float("-inf")
        self._plate_id = ""

    def at(self, plate: Plate, page_id: str | None, written: Cells | None, wide: float, high: float, now_s: float) -> Rect:
        """page_id: the device that serves as page.  written: (36, 64) ink of the page as it goes out, None while it is not known.
        wide, high: shares of the outgoing picture."""
        corners = _corners(wide, high)
        hidden = [_hidden(rect, plate, page_id, written) for rect in corners]
        best = min(range(4), key=hidden.__getitem__)
        here = corners.index(self._rect) if self._rect in corners else best
        fresh = self._rect is None or plate.id != self._plate_id
        if fresh or (hidden[here] - hidden[best] > LESS_BY and now_s - self._moved_s > MIN_BETWEEN_S):
            if self._rect != corners[best]:
                self._moved_s = now_s
            self._rect = corners[best]
        self._plate_id = plate.id
        assert self._rect is not None
        return self._rect


def _corners(wide: float, high: float) -> list[Rect]:
    """Upper right first: of corners alike it is taken."""
    across = MARGIN * 9 / 16
    return [Rect(x=x, y=y, width=wide, height=high) for y in (MARGIN, 1 - MARGIN - high) for x in (1 - across - wide, across)]


def _hidden(rect: Rect, plate: Plate, page_id: str | None, written: Cells | None) -> float:
    """Shares of its own area that lie on faces, and on writing."""
    area = rect.width * rect.height
    faces = sum(_overlap(rect, place.rect) for place in plate.places if place.has_picture and not _is_page(place, page_id))
    part = written[cells_of(rect).part] if written is not None else None
    ink = float((part > 0).mean()) if part is not None and part.size else 0.0
    return FACE_WEIGHS * faces / area + ink


def _is_page(place: Place, page_id: str | None) -> bool:
    content = place.content
    if isinstance(content, RoleContent):
        return content.role == "page"
    return getattr(content, "feed_id", None) == page_id


def _overlap(a: Rect, b: Rect) -> float:
    wide = min(a.x + a.width, b.x + b.width) - max(a.x, b.x)
    high = min(a.y + a.height, b.y + b.height) - max(a.y, b.y)
    return max(0.0, wide) * max(0.0, high)
