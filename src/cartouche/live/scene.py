"""Where each place of the plate stands at a moment: laid by what it holds, without what is away, on its way from the last plate."""

from collections.abc import Callable
from dataclasses import replace

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Size
from cartouche.core.plates.fade import Laid, Shown, between
from cartouche.core.plates.layouts import arranged, without
from cartouche.core.plates.model import Content, Place, Plate, Rect
from cartouche.core.straighten.chain import straighten
from cartouche.live.away import Away
from cartouche.live.feeds import Feed, Feeds
from cartouche.live.setup import NO_CHAIN, Setup

RELAID_S = 0.5  # how long they take to grow into it
IDLE_S = 0.5  # after so long without a picture nothing has to move smoothly
FLOAT_S = 1.2  # how long a floating face is on its way: slow enough not to draw the eye
WIDEST_CLOSE_UP = 1.42
USUAL_SIZE = Size(1280, 720)  # until a picture has come


def laid_plate(setup: Setup, feeds: Feeds, wide: float, gone: Callable[[str | None], bool]) -> Plate | None:
    """The plate as it stands at rest. wide: the outgoing picture's proportions.  gone: whether a feed is away for long."""
    plate = setup.plate
    if plate is None:
        return None
    away = {number for number, place in enumerate(plate.places) if place.has_picture and gone(setup.feed_id(place))}
    if len(away) == sum(place.has_picture for place in plate.places):
        away = set()  # nothing else to show: the last good pictures stay
    off = {number for number, place in enumerate(plate.places) if place.adorns and not setup.adorned}
    left = without(plate, frozenset(away))
    if off:
        left = left.model_copy(update={"places": tuple(place for place in left.places if not place.adorns)})
    return arranged(left, [aspect_of(setup, feeds, place) or 1.0 for place in left.places], wide)


def aspect_of(setup: Setup, feeds: Feeds, place: Place) -> float | None:
    """Width / height of what a place shows, straightened; None for what has no proportions of its own."""
    if not place.has_picture:
        return None
    feed: Feed | None = feeds.get(setup.feed_id(place) or "")
    size = feed.latest.size if feed is not None and feed.latest is not None else USUAL_SIZE
    chain = setup.chains.get(feed.id, NO_CHAIN) if feed is not None else NO_CHAIN
    held = setup.holds.get(feed.id) if feed is not None else None
    if held is not None:
        size, chain = held.frame.size, held.under(chain.frame)
    try:
        aspect = straighten(chain, size).canvas.aspect
    except DegenerateCorners:
        return size.aspect
    closer = chain.frame.zoom if chain.frame.on and place.fit == "fit" else 1.0
    return max(aspect, min(aspect * closer, WIDEST_CLOSE_UP))  # a closer look wants the page's whole width


def _pinned(plate: Plate) -> Plate:
    """The same with nothing floating: its layout then gives each place room of its own."""
    return plate.model_copy(update={"places": tuple(place.model_copy(update={"off_writing": False}) for place in plate.places)})


class Scene:
    """Follows the setup: what is shown at each moment, and by which way it got there. Used by the desk's thread alone."""

    def __init__(self, feeds: Feeds) -> None:
        self._feeds, self.away = feeds, Away(feeds)
        self.plate: Plate | None = None  # as it stands at rest
        self.floats: dict[Content, Rect] = {}  # where places that keep off the writing are
        self.crowded = False  # the page makes room for them
        self.laid: Plate | None = None  # the same before anything floats
        self._before: list[Laid] = []
        self._begun_s, self._lasts_s = 0.0, 0.0
        self._there = False  # what is shown has been worked out for the end of the way
        self._shown: list[Shown] = []
        self._known: tuple[object, ...] = ()
        self._seen_s = -1e9
        self._rest: tuple[Setup | None, Size, Plate | None] = (None, USUAL_SIZE, None)

    def at_rest(self, setup: Setup, size: Size) -> Plate | None:
        """The plate as it is laid, floating faces where they are: what everybody measures by. May be asked from any thread."""
        known, laid_for, plate = self._rest
        if known is setup and laid_for == size:
            return plate
        return laid_plate(setup, self._feeds, size.aspect, lambda feed_id: feed_id is None)

    def at(self, setup: Setup, size: Size, now_s: float) -> list[Shown]:
        """What is shown now, back to front."""
        idle_s, self._seen_s = now_s - self._seen_s, now_s
        signs = self._signs(setup, size, now_s)
        if signs != self._known:
            self._known = signs
            self._settle(setup, size, now_s, cut=idle_s > IDLE_S)
        elif self._shown and self._there:
            return self._shown  # the same objects: what is worked out for them is kept by them
        if self.plate is None:
            self._shown = []
            return self._shown
        share = 1.0 if self._lasts_s <= 0 else (now_s - self._begun_s) / self._lasts_s
        self._there = share >= 1
        self._shown = between(self._before, [self._laid(setup, place, size) for place in self.plate.places], share)
        return self._shown

    def _signs(self, setup: Setup, size: Size, now_s: float) -> tuple[object, ...]:
        """Everything that where the places stand is worked out from: as long as it stays, so do they."""
        held = []
        for place in setup.plate.places if setup.plate is not None else ():
            if place.has_picture:
                feed_id = setup.feed_id(place)
                feed = self._feeds.get(feed_id or "")
                latest = feed.latest if feed is not None else None
                held.append((feed_id, latest.size if latest is not None else None, self.away.gone(feed_id, now_s)))
        return setup, size, self.crowded, tuple(self.floats.items()), tuple(held)

    def _settle(self, setup: Setup, size: Size, now_s: float, cut: bool) -> None:
        """Lay the plate anew, and set off to there. cut: nobody has looked meanwhile, so nothing needs to move."""
        wanted_by = setup
        if self.crowded and setup.plate is not None:
            setup = replace(setup, plate=_pinned(setup.plate))
        self.laid = laid_plate(setup, self._feeds, size.aspect, lambda feed_id: self.away.gone(feed_id, now_s))
        wanted = self._floating(self.laid)
        self._rest = (wanted_by, size, wanted)
        if wanted == self.plate:
            return
        same = self.plate is not None and wanted is not None and wanted.id == self.plate.id
        self._before = [self._laid(setup, shown.place, size) for shown in self._shown]
        self._begun_s = now_s
        self._lasts_s = 0.0 if cut or wanted is None or not self._before else self._way_s(wanted, same)
        self.plate, self._shown, self._there = wanted, [], False

    def _way_s(self, wanted: Plate, same: bool) -> float:
        """A change of plate takes as long as the plate says; the same plate laid anew moves only when its places come or go."""
        if not same:
            return wanted.fade_s
        if self.plate is None or len(wanted.places) != len(self.plate.places):
            return RELAID_S
        return FLOAT_S if any(place.off_writing for place in (*wanted.places, *self.plate.places)) else 0.0

    def _floating(self, plate: Plate | None) -> Plate | None:
        if plate is None or not self.floats:
            return plate
        places = [
            place.model_copy(update={"rect": self.floats.get(place.content, place.rect)}) if place.off_writing else place
            for place in plate.places
        ]
        return plate.model_copy(update={"places": tuple(places)})

    def _laid(self, setup: Setup, place: Place, size: Size) -> Laid:
        aspect = aspect_of(setup, self._feeds, place)
        return Laid(place, None if aspect is None else aspect / size.aspect)
