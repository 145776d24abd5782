"""Plates that somebody looks at before they go out: drawn small and seldom, each by a composer of its own."""

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

PREVIEW_SIZE = Size(960, 540)
MAX_KNOWN_PLACES = 64
MakeLayer = Callable[[Setup, Shown, Size, float], Layer]


class Previews:
    """Used by the desk's thread."""

    def __init__(self, feeds: Feeds, demand: Demand, hub: Hub, make_layer: MakeLayer, background: YuvColour) -> None:
        self._feeds, self._demand, self._hub, self._make_layer, self._background = feeds, demand, hub, make_layer, background
        self._composers: dict[str, Composer] = {}
        self._places: dict[str, dict[Place, Place]] = {}

    def draw(self, setup: Setup, now_s: float, on_failure: OnFailure) -> None:
        """A picture of each plate that is looked at and whose viewers are ready for one."""
        wanted = self._demand.ids("plate")
        for plate_id in self._composers.keys() - wanted:
            del self._composers[plate_id]
            self._places.pop(plate_id, None)
        for plate_id in wanted:
            surface = Surface("plate", plate_id)
            if plate_id in setup.plates and self._hub.ready(surface, now_s):
                self._draw_one(setup, surface, now_s, on_failure)

    def _draw_one(self, setup: Setup, surface: Surface, now_s: float, on_failure: OnFailure) -> None:
        plate = setup.plates[surface.id]
        composer = self._composers.setdefault(plate.id, Composer(PREVIEW_SIZE, self._background))
        composer.background = yuv_of_hex(plate.background)
        rest = laid_plate(replace(setup, plate=plate), self._feeds, PREVIEW_SIZE.aspect, lambda feed_id: feed_id is None)
        places = rest.places if rest is not None else ()
        layers = [self._make_layer(setup, Shown(self._same(plate.id, place)), PREVIEW_SIZE, now_s) for place in places]
        self._hub.publish(surface, composer.compose(layers, now_s, on_failure), now_s)

    def _same(self, plate_id: str, place: Place) -> Place:
        """The same object for the same place: what the composer has worked out for it is kept by it."""
        known = self._places.setdefault(plate_id, {})
        if len(known) > MAX_KNOWN_PLACES:
            known.clear()
        return known.setdefault(place, place)
