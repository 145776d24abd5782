"""The desk: one loop that makes the outgoing picture from the newest frames, for as long as somebody looks."""

import threading
import time
from collections.abc import Callable
from dataclasses import replace

from cartouche.core.pictures import Frame, Size, yuv_of_hex
from cartouche.core.plates.behind import Net as PersonNet
from cartouche.core.plates.compose import NO_CHAIN, Composer, Layer
from cartouche.core.plates.fade import Shown
from cartouche.core.plates.model import WHOLE, CaptionContent, Place, Plate, RoleContent
from cartouche.core.plates.placing import place_box
from cartouche.core.straighten.tone import Tone
from cartouche.core.watch.rate import Rate
from cartouche.core.watch.signal import USABLE
from cartouche.live.behind import BehindFace
from cartouche.live.caption import caption
from cartouche.live.card import PAPER, card
from cartouche.live.feeds import Feed, Feeds
from cartouche.live.hub import Hub
from cartouche.live.placer import Placer, page_place
from cartouche.live.scene import Scene, Setup, laid_plate

BACKGROUND = yuv_of_hex(PAPER)
PREVIEW, PREVIEW_SIZE = "plate:", Size(960, 540)
CATCH_UP_S = 0.001  # per picture: the desk falls into step with its feed within a second, and keeps to its rate with a faster one
EARLY_S = 0.006  # a frame that comes this much before its turn is taken: waiting would cost a whole frame


class Desk:
    """Composes at most fps pictures a second, in step with the feed at the back of the plate."""

    def __init__(
        self,
        feeds: Feeds,
        hub: Hub,
        size: Size,
        needed_besides: Callable[[], bool],
        plates: Callable[[], dict[str, Plate]] = dict,
        tone: Callable[[str], Tone | None] = lambda _: None,
        person_net: PersonNet = lambda picture: picture[:, :1] * 0 + 1,
        fps: float = 30.0,
    ) -> None:
        """needed_besides: whether somebody takes pictures other than by looking.  plates: those that may be looked at before
        they go out, by id.  tone: the light measured on a feed's page.  person_net: where a person is, see `core.plates.behind`."""
        self._feeds, self._hub, self._needed_besides, self._tone, self._plates = feeds, hub, needed_besides, tone, plates
        self._composer = Composer(size, BACKGROUND)
        self._scene = Scene(feeds)
        self.placer = Placer()
        self.behind = BehindFace(person_net)
        self._previews: dict[str, Composer] = {}
        self._preview_places: dict[str, dict[Place, Place]] = {}
        self._period_s = 1 / fps
        self._setup = Setup()
        self._news = threading.Condition()
        self._pending = False
        self._stopped = False
        self._rate = Rate()
        self.latest: Frame | None = None
        self._thread = threading.Thread(target=self._run, name="desk", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        """Repeatable."""
        with self._news:
            self._stopped = True
            self._news.notify_all()
        if self._thread.is_alive():
            self._thread.join(timeout=5)

    @property
    def size(self) -> Size:
        return self._composer.size

    def show(self, setup: Setup) -> None:
        """From the next picture on, this goes out."""
        with self._news:
            self._setup = setup
            self._pending = True
            self._news.notify_all()

    def resize(self, size: Size) -> None:
        with self._news:
            if size != self._composer.size:
                self._composer = Composer(size, BACKGROUND)

    def fps(self, now_s: float) -> float:
        return self._rate.fps(now_s)

    def delay_s(self, now_s: float) -> float | None:
        return self._rate.delay_s(now_s)

    def news(self, feed: Feed) -> None:
        """A feed has a new picture; called from its thread."""
        setup = self._setup
        if setup.plate is None or not self._leads(setup, feed):
            return
        with self._news:
            self._pending = True
            self._news.notify_all()

    def _leads(self, setup: Setup, feed: Feed) -> bool:
        """The first place with a live feed sets the pace; otherwise two feeds out of step would make twice the pictures."""
        now_s = time.monotonic()
        for place in setup.plate.places if setup.plate else ():
            other = self._feeds.get(setup.feed_id(place) or "")
            if other is not None and other.state(now_s) in USABLE:
                return other is feed
        return False

    def _run(self) -> None:
        due_s = 0.0
        while True:
            with self._news:
                if not self._pending and not self._stopped:
                    self._news.wait(self._period_s)
                if self._stopped:
                    return
                early_s = due_s - EARLY_S - time.monotonic()
                if early_s > 0:
                    self._news.wait_for(lambda: self._stopped, early_s)
                self._pending = False
                setup, composer = self._setup, self._composer
            now_s = time.monotonic()
            due_s = max(due_s - CATCH_UP_S, now_s) + self._period_s
            if self._hub.ready("outgoing", now_s) or self._needed_besides() or self.latest is None:
                self._make(setup, composer, now_s)
            self._preview(setup, now_s)

    def _make(self, setup: Setup, composer: Composer, now_s: float) -> None:
        shown = self._scene.at(setup, composer.size, now_s) or [Shown(_WHOLE)]
        layers = [self._layer(setup, one, composer.size, now_s) for one in shown]
        captured_s = max((layer.frame.captured_s for layer in layers if layer.frame and layer.frame.captured_s), default=now_s)
        plate = self._scene.plate
        composer.background = yuv_of_hex(plate.background) if plate is not None else BACKGROUND
        frame = composer.compose(layers, captured_s)
        self.latest = frame
        self._keep_off(setup, composer, shown, layers, now_s)
        if all(one.place.behind.does_nothing for one in shown):
            self.behind.idle()
        self._hub.publish("outgoing", frame, now_s)
        done_s = time.monotonic()
        self._rate.add(done_s, done_s - captured_s)

    def _preview(self, setup: Setup, now_s: float) -> None:
        """Plates that somebody looks at before they go out, small and seldom."""
        looked = {key.partition(":")[2]: key for key in self._hub.looked_surfaces() if key.startswith(PREVIEW)}
        for plate_id in self._previews.keys() - looked.keys():
            del self._previews[plate_id]
        for plate_id, key in looked.items():
            plate = self._plates().get(plate_id)
            if plate is None or not self._hub.ready(key, now_s):
                continue
            composer = self._previews.setdefault(plate_id, Composer(PREVIEW_SIZE, BACKGROUND))
            laid = laid_plate(replace(setup, plate=plate), self._feeds, PREVIEW_SIZE.aspect, lambda feed_id: feed_id is None)
            composer.background = yuv_of_hex(plate.background)
            places = laid.places if laid else ()
            layers = [self._layer(setup, Shown(self._kept_place(plate_id, place)), PREVIEW_SIZE, now_s) for place in places]
            self._hub.publish(key, composer.compose(layers, now_s), now_s)

    def _kept_place(self, plate_id: str, place: Place) -> Place:
        """The same object for the same place: what the composer has worked out for it is kept by it."""
        known = self._preview_places.setdefault(plate_id, {})
        if len(known) > 64:
            known.clear()
        return known.setdefault(place, place)

    def _keep_off(self, setup: Setup, composer: Composer, shown: list[Shown], layers: list[Layer], now_s: float) -> None:
        """Look where the page is written on, and where a face should be."""
        plate = self._scene.laid
        number = page_place(plate, setup.roles) if plate is not None else None
        if plate is None or [one.place.content for one in shown] != [place.content for place in plate.places]:
            return  # on the way from another plate
        page = None
        if number is not None and (frame := layers[number].frame) is not None and (laid := composer.placing_of(number)) is not None:
            page = (number, frame, laid)
        if self.placer.look(plate, page, composer.size, now_s):
            self._scene.floats, self._scene.crowded = self.placer.floats, self.placer.crowded

    @property
    def plate(self) -> Plate | None:
        """The plate as it stands at rest: laid by what it holds, without what is away for long."""
        return self._scene.plate

    def _layer(self, setup: Setup, shown: Shown, outgoing: Size, now_s: float) -> Layer:
        place, opacity = shown
        if isinstance(place.content, CaptionContent) or place.has_picture:
            feed_id = setup.feed_id(place)
            feed = self._feeds.get(feed_id or "")
            frame = feed.showable(now_s) if feed is not None else None
            if frame is not None and feed_id is not None:
                frame = self.behind.frame(feed_id, frame, place.behind, now_s)
                return Layer(place, setup.chain(feed_id, now_s), frame, self._tone(feed_id), opacity)
            return self._drawn(place, opacity, outgoing)
        return Layer(place, opacity=opacity)

    def _drawn(self, place: Place, opacity: float, outgoing: Size) -> Layer:
        """A card or a caption, drawn once for as long as its place stays the same."""
        box = place_box(place, outgoing)
        size = Size(box.x1 - box.x0, box.y1 - box.y0)
        if isinstance(place.content, CaptionContent):
            frame, alpha = caption(size, place.content.name, place.content.line, outgoing.height)
            return Layer(place, NO_CHAIN, frame, opacity=opacity, alpha=alpha)
        role = place.content.role if isinstance(place.content, RoleContent) else "page"
        return Layer(place, NO_CHAIN, card(size, "One moment", _WORDS[role]), opacity=opacity)


_WHOLE = Place.model_validate({"content": {"kind": "role", "role": "page"}, "rect": WHOLE})
_WORDS: dict[str, str] = {"page": "The page comes in a moment", "face": "Your teacher comes in a moment"}
