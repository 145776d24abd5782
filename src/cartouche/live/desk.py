"""The desk: one loop that makes the outgoing picture from the newest frames, for as long as a sink takes it."""

import time
from collections.abc import Callable

from cartouche.core.pictures import Frame, Size, yuv_of_hex
from cartouche.core.plates.behind import Net as PersonNet
from cartouche.core.plates.compose import NO_CHAIN, Composer, Layer
from cartouche.core.plates.fade import Shown
from cartouche.core.plates.model import WHOLE_RECT, CaptionContent, Place, Plate, RoleContent
from cartouche.core.plates.placing import place_box
from cartouche.core.straighten.tone import Tone
from cartouche.core.watch.rate import Rate
from cartouche.core.watch.signal import USABLE
from cartouche.live.away import Undrawn
from cartouche.live.behind import BehindFace
from cartouche.live.caption import caption
from cartouche.live.card import PAPER, card
from cartouche.live.demand import Demand
from cartouche.live.feeds import Feed, Feeds
from cartouche.live.hub import Hub
from cartouche.live.placer import Placer, page_place
from cartouche.live.previews import Previews
from cartouche.live.scene import Scene
from cartouche.live.setup import Setup
from cartouche.live.sinks import Sink
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

BACKGROUND = yuv_of_hex(PAPER)
CATCH_UP_S = 0.001  # per picture: the desk falls into step with its feed within a second, and keeps to its rate with a faster one
EARLY_S = 0.006  # a frame that comes this much before its turn is taken: waiting would cost a whole frame


class Desk:
    """Composes at most fps pictures a second, in step with the feed at the back of the plate."""

    def __init__(
        self,
        feeds: Feeds,
        hub: Hub,
        demand: Demand,
        troubles: Troubles,
        size: Size,
        tone: Callable[[str], Tone | None] = lambda _: None,
        person_net: PersonNet = lambda picture: picture[:, :1] * 0 + 1,
        fps: float = 30.0,
    ) -> None:
        """tone: the light measured on a feed's page.  person_net: where a person is, see `core.plates.behind`."""
        self._feeds, self._troubles, self._tone = feeds, troubles, tone
        self._composer = Composer(size, BACKGROUND)
        self._scene, self._undrawn = Scene(feeds), Undrawn()
        self._previews = Previews(feeds, demand, hub, self._layer, BACKGROUND)
        self.placer = Placer()
        self.behind = BehindFace(person_net)
        self.sinks: tuple[Sink, ...] = ()
        self._period_s, self._due_s = 1 / fps, 0.0
        self._setup = Setup()
        self._pending = False
        self._rate = Rate()
        self.latest: Frame | None = None  # its planes are drawn over after a quarter of a second
        self._worker = Worker("desk", self._turn, lambda exc: troubles.report("compose", exc))

    def start(self) -> None:
        self._worker.start()

    def stop(self) -> None:
        """Repeatable."""
        self._worker.stop()

    @property
    def size(self) -> Size:
        return self._composer.size

    def show(self, setup: Setup) -> None:
        """From the next picture on, this goes out."""
        self._setup = setup
        self._wake()

    def resize(self, size: Size) -> None:
        if size != self._composer.size:
            self._composer = Composer(size, BACKGROUND)

    def fps(self, now_s: float) -> float:
        return self._rate.fps(now_s)

    def delay_s(self, now_s: float) -> float | None:
        return self._rate.delay_s(now_s)

    def plate_at_rest(self, setup: Setup) -> Plate | None:
        """The plate as it is laid: by what it holds, without what is away for long, floating faces where they are."""
        return self._scene.at_rest(setup, self.size)

    def news(self, feed: Feed) -> None:
        """A feed has a new picture; called from its thread."""
        setup = self._setup
        if setup.plate is not None and self._leads(setup, feed):
            self._wake()

    def _wake(self) -> None:
        self._pending = True
        self._worker.wake()

    def _leads(self, setup: Setup, feed: Feed) -> bool:
        """The first place with a live feed sets the pace; otherwise two feeds out of step would make twice the pictures."""
        now_s = time.monotonic()
        for place in setup.plate.places if setup.plate else ():
            other = self._feeds.get(setup.feed_id(place) or "")
            if other is not None and other.state(now_s) in USABLE:
                return other is feed
        return False

    def _turn(self) -> None:
        if not self._worker.wait(self._period_s, lambda: self._pending):
            return
        early_s = self._due_s - EARLY_S - time.monotonic()
        if early_s > 0:
            self._worker.wait(early_s)
        self._pending = False
        setup, composer, now_s = self._setup, self._composer, time.monotonic()
        self._due_s = max(self._due_s - CATCH_UP_S, now_s) + self._period_s
        ready = [sink for sink in self.sinks if sink.ready(now_s)]
        if ready or self.latest is None:
            self._make(setup, composer, ready, now_s)
        with self._troubles.guard("compose"):
            self._previews.draw(setup, now_s, lambda _, exc: self._troubles.report("draw", exc))

    def _make(self, setup: Setup, composer: Composer, sinks: list[Sink], now_s: float) -> None:
        shown = self._scene.at(setup, composer.size, now_s) or [Shown(WHOLE_PLACE)]
        layers = [self._layer(setup, part, composer.size, now_s) for part in shown]
        captured_s = max((layer.frame.captured_s for layer in layers if layer.frame and layer.frame.captured_s), default=now_s)
        plate = self._scene.plate
        composer.background = yuv_of_hex(plate.background) if plate is not None else BACKGROUND
        frame = self._composed(setup, composer, layers, captured_s, now_s)
        self.latest = frame
        for sink in sinks:
            with self._troubles.guard("send"):
                sink.take(frame, now_s)
        done_s = time.monotonic()
        self._rate.add(done_s, done_s - captured_s)
        with self._troubles.guard("place"):
            self._keep_off(setup, composer, shown, layers, now_s)
        if all(part.place.behind.does_nothing for part in shown):
            self.behind.idle()

    def _composed(self, setup: Setup, composer: Composer, layers: list[Layer], captured_s: float, now_s: float) -> Frame:
        """What cannot be drawn keeps its last picture; whose it is hears of it."""
        failed: set[str | None] = set()

        def on_failure(number: int, exc: Exception) -> None:
            feed_id = setup.feed_id(layers[number].place)
            failed.add(feed_id)
            self._troubles.report("draw", exc, feed_id)

        frame = composer.compose(layers, captured_s, on_failure)
        self._undrawn.settle(failed, now_s)
        return frame

    def _keep_off(self, setup: Setup, composer: Composer, shown: list[Shown], layers: list[Layer], now_s: float) -> None:
        """Look where the page is written on, and where a face should be."""
        plate = self._scene.laid
        number = page_place(plate, setup.roles) if plate is not None else None
        if plate is None or [part.place.content for part in shown] != [place.content for place in plate.places]:
            return  # on the way from another plate
        page = None
        if number is not None and (frame := layers[number].frame) is not None and (placed := composer.placing_of(number)) is not None:
            page = (number, frame, placed)
        if self.placer.look(plate, page, composer.size, now_s):
            self._scene.floats, self._scene.crowded = self.placer.floats, self.placer.crowded

    def _layer(self, setup: Setup, shown: Shown, outgoing: Size, now_s: float) -> Layer:
        place, opacity = shown
        if isinstance(place.content, CaptionContent) or place.has_picture:
            feed_id = setup.feed_id(place)
            feed = self._feeds.get(feed_id or "")
            frame = feed.showable(now_s) if feed is not None and not self._undrawn.shows_card(feed.id, now_s) else None
            if frame is not None and feed_id is not None:
                with self._troubles.guard("draw", feed_id):
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
        awaited = _WORDS[place.content.role] if isinstance(place.content, RoleContent) else "for the picture"
        return Layer(place, NO_CHAIN, card(size, "One moment", awaited), opacity=opacity)


WHOLE_PLACE = Place.model_validate({"content": {"kind": "role", "role": "page"}, "rect": WHOLE_RECT})
_WORDS: dict[str, str] = {"page": "for the page", "face": "for your teacher"}
