"""The desk: one loop that makes the outgoing picture from the newest frames, for as long as a sink takes it."""

import time
from collections import deque
from collections.abc import Callable
from dataclasses import replace

from cartouche.core.pictures import Frame, Size, yuv_of_hex
from cartouche.core.plates.behind import Net as PersonNet
from cartouche.core.plates.compose import NO_CHAIN, Composer, Layer
from cartouche.core.plates.fade import Shown
from cartouche.core.plates.model import WHOLE_RECT, CaptionContent, Place, Plate, RoleContent, TimerContent
from cartouche.core.plates.placing import place_box
from cartouche.core.straighten.chain import Chain, straighten
from cartouche.core.straighten.tone import Tone
from cartouche.core.watch.late import Lateness
from cartouche.core.watch.rate import Rate
from cartouche.core.watch.signal import USABLE
from cartouche.core.watch.thrift import MAX_MAKING_S
from cartouche.live.away import Undrawn
from cartouche.live.behind import BehindFace
from cartouche.live.caption import caption
from cartouche.live.card import PAPER, card
from cartouche.live.clock import steady_s
from cartouche.live.demand import Demand
from cartouche.live.feeds import Feed, Feeds
from cartouche.live.hub import Hub
from cartouche.live.ink_room import InkRoom
from cartouche.live.placer import Placer, page_place
from cartouche.live.previews import Previews
from cartouche.live.scene import IDLE_S, Scene, laid_plate
from cartouche.live.setup import Held, Setup
from cartouche.live.sinks import Sink
from cartouche.live.timer_picture import TimerPicture, clock_face
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

BACKGROUND = yuv_of_hex(PAPER)
CATCH_UP_S = 0.001  # per picture: the desk falls into step with its feed within a second, and keeps to its rate with a faster one
RELEASED_FADE_S = 0.3
LOOKED_AT = 50  # of the newest pictures: how many took long to make
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
        calm: Callable[[Setup, str], Frame | None] = lambda setup, feed_id: None,
        ink: InkRoom | None = None,
    ) -> None:
        """tone: the light measured on a feed's page.  person_net: where a person is, see `core.plates.behind`.

        calm: the newest picture of a feed that may be shown, None where any may.  ink: what is drawn over pages.
        """
        self._feeds, self._troubles, self._tone = feeds, troubles, tone
        self._pending = False
        self._calm, self.ink = calm, ink or InkRoom(lambda: None)
        self._composer = Composer(size, BACKGROUND)
        self._timer = TimerPicture()
        self._scene, self._undrawn = Scene(feeds), Undrawn()
        self._previews = Previews(feeds, demand, hub, self._layer, BACKGROUND)
        self.placer = Placer()
        self.behind = BehindFace(person_net)
        self.sinks: tuple[Sink, ...] = ()
        self.face_fps: float | None = None  # the face moves on so often just now, None with every picture
        self._face: tuple[str, float, Frame] | None = None  # of which feed, since when
        self.full_fps, self._due_s = fps, 0.0
        self.pace = 1.0  # so much of it just now
        self._slow: deque[bool] = deque(maxlen=LOOKED_AT)  # which of the newest took long to make
        self._setup = self._out = Setup()  # what is to go out, and what did last
        self._out_s = -1e9  # when that was
        self._rate, self._late = Rate(), Lateness()
        self.latest: Frame | None = None  # its planes are drawn over after a quarter of a second
        self._worker = Worker("desk", self._turn, lambda exc: troubles.report("compose", exc))
        self.ink.on_change.append(self._wake)

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

    @property
    def max_fps(self) -> float:
        return self.pace * self.full_fps

    @property
    def slow_share(self) -> float:
        """How many of the newest pictures took longer to make than they should, 0-1."""
        return sum(tuple(self._slow)) / max(len(self._slow), 1)

    def fps(self, now_s: float) -> float:
        return self._rate.fps(now_s)

    def delay_s(self, now_s: float) -> float | None:
        return self._rate.delay_s(now_s)

    def plate_at_rest(self, setup: Setup) -> Plate | None:
        """The plate as it is laid: by what it holds, without what is away for long, floating faces where they are."""
        return self._scene.at_rest(setup, self.size)

    def place_of(self, setup: Setup, device_id: str, chain: Chain | None = None) -> Place:
        """The place that shows this device on the outgoing plate as it is laid, or the whole outgoing picture.

        chain: as it would be laid under this one; a closer look may be given more room.
        """
        if chain is None or chain is setup.chains.get(device_id):
            plate = self.plate_at_rest(setup)
        else:
            supposed = replace(setup, chains={**setup.chains, device_id: chain})
            plate = laid_plate(supposed, self._feeds, self.size.aspect, lambda feed_id: feed_id is None)
        places = plate.places if plate is not None else ()
        return next((place for place in places if setup.feed_id(place) == device_id), WHOLE_PLACE)

    def room_of(self, setup: Setup, device_id: str, chain: Chain) -> tuple[Size, Size]:
        """The straightened page's canvas and the room it has on the outgoing picture under this chain."""
        box, feed = place_box(self.place_of(setup, device_id, chain), self.size), self._feeds.get(device_id)
        frame = feed.latest if feed is not None else None
        return straighten(chain, frame.size if frame else Size(16, 9)).canvas, Size(box.x1 - box.x0, box.y1 - box.y0)

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
        if not self._worker.wait(1 / self.max_fps, lambda: self._pending):
            return
        early_s = self._due_s - EARLY_S - time.monotonic()
        if early_s > 0:
            self._worker.wait(early_s)
        self._pending = False
        setup, composer, now_s = self._setup, self._composer, time.monotonic()
        self._due_s = max(self._due_s - CATCH_UP_S, now_s) + 1 / self.max_fps
        ready = [sink for sink in self.sinks if sink.ready(now_s)]
        out = self._awake(setup, now_s)
        if (ready or self.latest is None) and out is not None:
            self._out, self._out_s = out, now_s
            self._make(out, composer, ready, now_s)
        with self._troubles.guard("compose"):
            self._previews.draw(setup, now_s, lambda _, exc: self._troubles.report("draw", exc))

    def _awake(self, setup: Setup, now_s: float) -> Setup | None:
        """The setup, once the feeds that it shows are awake; what goes out until then, None where nothing does.

        A face that rested while its plate was off would else be seen for a moment as it was then."""
        places = setup.plate.places if setup.plate is not None else ()
        shown = [feed for place in places if place.has_picture and (feed := self._feeds.get(setup.feed_id(place) or "")) is not None]
        if not any(feed.waking(now_s) for feed in shown if feed.id not in setup.holds):
            return setup
        return self._out if now_s - self._out_s < IDLE_S else None

    def _make(self, setup: Setup, composer: Composer, sinks: list[Sink], now_s: float) -> None:
        shown = self._scene.at(setup, composer.size, now_s) or [Shown(WHOLE_PLACE)]
        parts = self._parts(setup, shown, now_s)
        shown, layers = [part for part, _ in parts], [self._part(setup, part, composer.size, now_s, held) for part, held in parts]
        self._ink(setup, parts, layers, composer.size, now_s)
        layers += self._timer.layers(setup, self._scene.plate, self.placer.written, composer.size, steady_s())
        captured_s = max((layer.frame.captured_s for layer in layers if layer.frame and layer.frame.captured_s), default=now_s)
        plate = self._scene.plate
        composer.background = yuv_of_hex(plate.background) if plate is not None else BACKGROUND
        frame = self._composed(setup, composer, layers, captured_s, now_s)
        self.latest = frame
        if not self._late.drops(time.monotonic(), captured_s):
            self._hand_over(frame, sinks, now_s)
        self._slow.append(time.monotonic() - now_s > MAX_MAKING_S)
        with self._troubles.guard("place"):
            self._keep_off(setup, composer, shown, layers, now_s)
        if setup.natural or all(part.place.behind.does_nothing and part.place.grade.does_nothing for part in shown):
            self.behind.idle()

    def _hand_over(self, frame: Frame, sinks: list[Sink], now_s: float) -> None:
        for sink in sinks:
            with self._troubles.guard("send"):
                sink.take(frame, now_s)
        done_s = time.monotonic()
        self._rate.add(done_s, done_s - frame.captured_s)

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
        if self.placer.look(plate, page, composer.size, now_s, corner=setup.timer.shown == "corner"):
            self._scene.floats, self._scene.crowded = self.placer.floats, self.placer.crowded

    def _ink(self, setup: Setup, parts: list[tuple[Shown, Held | None]], layers: list[Layer], outgoing: Size, now_s: float) -> None:
        """Ink lies over the page, under the face."""
        for number, (layer, (_, held)) in enumerate(zip(layers, parts, strict=True)):
            feed_id = setup.feed_id(layer.place)
            if feed_id is not None and feed_id == setup.page_id and layer.frame is not None and layer.alpha is None:
                ground = self.ink.ground_of(feed_id, held.sheet_id if held is not None else "")
                with self._troubles.guard("draw", feed_id):
                    over = self.ink.over(ground, layer.place, layer.chain, layer.frame.size, outgoing, now_s)
                    layers[number] = replace(layer, over=over) if over else layer
                return
        self.ink.nobody()

    def _parts(self, setup: Setup, shown: list[Shown], now_s: float) -> list[tuple[Shown, Held | None]]:
        """What is shown, each with the picture that stands in its place. What was held until just now lies over it, and fades."""
        parts: list[tuple[Shown, Held | None]] = []
        for part in shown:
            feed_id = setup.feed_id(part.place) or ""
            parts.append((part, setup.holds.get(feed_id)))
            released = setup.released.get(feed_id)
            left = 1 - (now_s - released.at_s) / RELEASED_FADE_S if released is not None else 0.0
            if left > 0 and released is not None and feed_id not in setup.holds:
                parts.append((Shown(part.place, part.opacity * left), released.held))
        return parts

    def _layer(self, setup: Setup, shown: Shown, outgoing: Size, now_s: float) -> Layer:
        return self._part(setup, shown, outgoing, now_s, setup.holds.get(setup.feed_id(shown.place) or ""))

    def _part(self, setup: Setup, shown: Shown, outgoing: Size, now_s: float, held: Held | None) -> Layer:
        place, opacity = shown
        if not place.has_picture:
            return self._drawn(setup, place, opacity, outgoing)
        feed_id = setup.feed_id(place)
        if held is not None and feed_id is not None:
            return Layer(place, held.under(setup.chain(feed_id, now_s).frame), held.frame, held.tone, opacity)
        frame = self._newest(setup, self._feeds.get(feed_id or ""), now_s)
        if frame is None or feed_id is None:
            return self._drawn(setup, place, opacity, outgoing)
        with self._troubles.guard("draw", feed_id):
            if not setup.natural:
                ground = self._feeds.get(place.behind.feed_id) if place.behind.way == "picture" else None
                frame = self.behind.frame(feed_id, frame, place, now_s, ground.latest if ground is not None else None)
        return Layer(place, setup.chain(feed_id, now_s), frame, self._tone(feed_id), opacity)

    def _newest(self, setup: Setup, feed: Feed | None, now_s: float) -> Frame | None:
        if feed is None or self._undrawn.shows_card(feed.id, now_s):
            return None
        newest = None if feed.stale else self._calm(setup, feed.id) or feed.showable(now_s)
        if self.face_fps is None or newest is None or feed.id != setup.roles.get("face"):
            return newest
        if self._face is None or self._face[0] != feed.id or now_s - self._face[1] >= 1 / self.face_fps:
            kept = tuple(plane.copy() for plane in newest.planes)  # its own are drawn over before this one is due again
            self._face = (feed.id, now_s, Frame.of(kept, newest.captured_s))
        return self._face[2]

    def _drawn(self, setup: Setup, place: Place, opacity: float, outgoing: Size) -> Layer:
        """A colour, or a card, caption or clock, drawn once for as long as it stays the same."""
        box = place_box(place, outgoing)
        size = Size(box.x1 - box.x0, box.y1 - box.y0)
        if isinstance(place.content, TimerContent):
            frame, alpha = clock_face(size, *self._timer.reading(setup.timer, steady_s()))
            return Layer(place, NO_CHAIN, frame, opacity=opacity, alpha=alpha)
        if isinstance(place.content, CaptionContent):
            frame, alpha = caption(size, place.content.name, place.content.line, outgoing.height)
            return Layer(place, NO_CHAIN, frame, opacity=opacity, alpha=alpha)
        if not place.has_picture:
            return Layer(place, opacity=opacity)
        awaited = _WORDS[place.content.role] if isinstance(place.content, RoleContent) else "for the picture"
        return Layer(place, NO_CHAIN, card(size, "One moment", awaited), opacity=opacity)


WHOLE_PLACE = Place.model_validate({"content": {"kind": "role", "role": "page"}, "rect": WHOLE_RECT})
_WORDS: dict[str, str] = {"page": "for the page", "face": "for your teacher"}
