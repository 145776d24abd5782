"""Watches the page as it goes out, keeps a floating face off the writing, and measures what a face covers."""

from typing import NamedTuple

import numpy as np

from cartouche.core.pictures import Frame, Size
from cartouche.core.plates.model import Content, Place, Plate, Rect, Role, RoleContent
from cartouche.core.plates.placement import COVERS, Cells, Floating, InkMap, cells_of, floated, page_view
from cartouche.core.plates.placing import Placing

LOOK_EVERY_S = 0.35
FREED_SHARE = 0.5  # of what was written when the page made room: with less, the face may lie on it again


class Covered(NamedTuple):
    """place: number of the place in front.  share: of all writing on the page, what it covers, 0-1."""

    place: int
    share: float


class Placer:
    """Used by the desk's thread; `covered` may be read by others."""

    def __init__(self) -> None:
        self._map, self._looked_s, self._plate_id, self._crowded_at = InkMap(), 0.0, "", 0.0
        self._faces: dict[Content, Floating] = {}
        self.crowded = False
        self.covered: list[Covered] = []
        self._looked = False

    @property
    def floats(self) -> dict[Content, Rect]:
        """Where floating faces are."""
        return {content: face.box.rect for content, face in self._faces.items()}

    @property
    def written(self) -> Cells | None:
        """Where the page is written on, None while nobody has looked."""
        return np.asarray(self._map.written, np.float32) if self._looked else None

    def look(self, plate: Plate, page: tuple[int, Frame, Placing] | None, outgoing: Size, now_s: float, *, corner: bool = False) -> bool:
        """Some times a second. page: the page's place, picture and placing.  corner: something small keeps off the writing too.

        Whether a face should be elsewhere now.
        """
        if now_s - self._looked_s < LOOK_EVERY_S:
            return False
        self._looked_s = now_s
        if plate.id != self._plate_id:
            self._map, self._plate_id, self.crowded, self._looked = InkMap(), plate.id, False, False
            self._faces.clear()
        fronts = [] if page is None else _over(plate, page[0], page[2], outgoing)
        if page is None or not (fronts or self.crowded or corner):
            self.covered, self._looked = [], False
            return False
        view, shown = page_view(page[1], page[2].matrix, outgoing)
        self._map.see(view, shown, now_s)
        self._looked = True
        written = float(self._map.written.sum()) / max(float((shown > 0).mean()), 0.01)
        if self.crowded and written < FREED_SHARE * self._crowded_at:
            self.crowded = False
            self._faces.clear()
            return True
        return self._placed(fronts, written, now_s)

    def _placed(self, fronts: list[tuple[int, Place]], written: float, now_s: float) -> bool:
        moved, covered = False, []
        for number, place in fronts:
            full = cells_of(place.rect)
            face = self._faces.get(place.content, Floating(full, -1e9))
            if place.off_writing and not self.crowded:
                after = floated(self._map, face, full, now_s)
                self._faces[place.content] = after
                moved = moved or after.box != face.box
                if after.crowded and not face.crowded:
                    self.crowded, self._crowded_at, moved = True, written, True
                face = after
            share = self._map.covered(face.box if place.off_writing else full)
            if share > COVERS:
                covered.append(Covered(number, share))
        self.covered = covered
        return moved


def _over(plate: Plate, page: int, placed: Placing, outgoing: Size) -> list[tuple[int, Place]]:
    """The places with a picture that lie in front of the page's."""
    box = placed.box
    over = []
    for number, place in enumerate(plate.places[page + 1 :], page + 1):
        rect = place.rect
        x0, y0 = rect.x * outgoing.width, rect.y * outgoing.height
        x1, y1 = x0 + rect.width * outgoing.width, y0 + rect.height * outgoing.height
        if place.has_picture and x0 < box.x1 and x1 > box.x0 and y0 < box.y1 and y1 > box.y0:
            over.append((number, place))
    return over


def page_place(plate: Plate, roles: dict[Role, str]) -> int | None:
    """The number of the first place that shows the page."""
    for number, place in enumerate(plate.places):
        content = place.content
        if (isinstance(content, RoleContent) and content.role == "page") or getattr(content, "feed_id", None) == roles.get("page", ""):
            return number
    return None
