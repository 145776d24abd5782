"""Plates that somebody looks at before they go out, large or at a glance: drawn small and seldom, each by a composer of its own."""

from collections.abc import Callable
from dataclasses import replace

from cartouche.core.pictures import Size, YuvColour, yuv_of_hex
from cartouche.core.plates.compose import Composer, Layer, OnFailure
from cartouche.core.plates.fade import Shown
from cartouche.core.plates.model import Place
from cartouche.live.demand import Demand, Surface
from cartouche.live.feeds import Feeds
from cartouche.live.hub import Hub
from cartouche.live.scene import laid_plate
from cartouche.live.setup import Setup

PREVIEW_SIZE, GLANCE_SIZE = Size(960, 540), Size(320, 180)
MAX_KNOWN_PLACES = 64
MakeLayer = Callable[[Setup, Shown, Size, float], Layer]


class Previews:
    """Used by the desk's thread."""

    def __init__(self, feeds: Feeds, demand: Demand, hub: Hub, make_layer: MakeLayer, background: YuvColour) -> None:
        self._feeds, self._demand, self._hub, self._make_layer, self._background = feeds, demand, hub, make_layer, background
        self._composers: dict[Surface, Composer] = {}
        self._places: dict[Surface, dict[Place, Place]] = {}
        self._glanced_s: dict[Surface, float] = {}

    def draw(self, setup: Setup, now_s: float, on_failure: OnFailure) -> None:
        """A picture of each plate that is looked at and whose viewers are ready for one; of the glances one at a time."""
        wanted = {surface for surface in self._demand.surfaces if surface.kind in ("plate", "glance") and surface.id in setup.plates}
        for surface in self._composers.keys() - wanted:
            del self._composers[surface]
            self._places.pop(surface, None)
        ready = [surface for surface in wanted if self._hub.ready(surface, now_s)]
        glances = [surface for surface in ready if surface.kind == "glance"]
        due = min(glances, key=lambda surface: self._glanced_s.get(surface, 0.0), default=None)
        if due is not None:
            self._glanced_s = {surface: at_s for surface, at_s in self._glanced_s.items() if surface in wanted} | {due: now_s}
        for surface in ready:
            if surface.kind != "glance" or surface == due:
                self._draw_one(setup, surface, now_s, on_failure)

    def _draw_one(self, setup: Setup, surface: Surface, now_s: float, on_failure: OnFailure) -> None:
        plate, size = setup.plates[surface.id], GLANCE_SIZE if surface.kind == "glance" else PREVIEW_SIZE
        composer = self._composers.setdefault(surface, Composer(size, self._background))
        composer.background = yuv_of_hex(plate.background)
        rest = laid_plate(replace(setup, plate=plate), self._feeds, size.aspect, lambda feed_id: feed_id is None)
        places = rest.places if rest is not None else ()
        layers = [self._make_layer(setup, Shown(self._same(surface, place)), size, now_s) for place in places]
        self._hub.publish(surface, composer.compose(layers, now_s, on_failure), now_s)

    def _same(self, surface: Surface, place: Place) -> Place:
        """The same object for the same place: what the composer has worked out for it is kept by it."""
        known = self._places.setdefault(surface, {})
        if len(known) > MAX_KNOWN_PLACES:
            known.clear()
        return known.setdefault(place, place)
