"""The running lesson: its feeds, its desk and its call, and which of them somebody wants."""

import time
from collections.abc import Callable, Iterable
from contextlib import ExitStack
from dataclasses import replace

import numpy as np

from cartouche.core.call.audience import AUDIENCES, LAYERS
from cartouche.core.pictures import Corners, Frame, Size
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.plates.model import Place, Plate, Role
from cartouche.core.reading.verdicts import PagePicture, Verdict, verdict
from cartouche.core.straighten.chain import Chain, FrameLink, SquareLink, straighten
from cartouche.core.straighten.glide import FOLLOW_S, Glide
from cartouche.core.straighten.tone import Tone
from cartouche.live.call import CallRunner
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.desk import BACKGROUND, PREVIEW, Desk
from cartouche.live.feeds import Feed, Feeds, PulledFeed
from cartouche.live.hub import Hub
from cartouche.live.scene import NO_CHAIN, Setup, laid_plate
from cartouche.live.source import CodecMaker, PictureSource
from cartouche.live.stream_feed import StreamFeed
from cartouche.live.watcher import WHOLE, Seen, Watcher
from cartouche.models import page_nets, person_net, way_net

WHOLE_FRAME = FrameLink()
SIZES: dict[str, Size] = {"720p": Size(1280, 720), "1080p": Size(1920, 1080)}
PAGE_SURFACE = Size(1120, 1120)  # the straightened page alone is drawn inside this


class RunningLesson:
    """Owns every thread that makes pictures. `close` lets go of all of them, even when one fails."""

    def __init__(self, make_codec: CodecMaker, size: Size = SIZES["720p"]) -> None:
        self.hub = Hub()
        self.feeds = Feeds()
        self.setup = Setup()
        self.plates: dict[str, Plate] = {}  # of the open lesson, by id
        self.version = 0
        self._mirrors: dict[str, int] = {}
        self._verdicts: tuple[tuple[object, ...], list[Verdict]] = ((), [])
        self._pages: dict[str, Composer] = {}
        self._wholes: dict[str, tuple[Chain, Chain]] = {}  # the chain as it is, and without its frame
        self.watcher = Watcher(self._worth_a_look, self._page_moved, self._seen_anew, page_nets(), way_net())
        self.desk = Desk(self.feeds, self.hub, size, self._call_looked_at, lambda: self.plates, self.tone, person_net())
        self.call = CallRunner(self.hub, lambda: self.desk.latest, make_codec, LAYERS, AUDIENCES)
        self.hub.on_change.append(self._settle_wants)
        self.desk.start()
        self.watcher.start()

    # what is there

    def open_source(self, device_id: str, source: PictureSource, *, judged: bool = True) -> None:
        self._add(PulledFeed(device_id, source, self._on_frame, judged=judged))

    def open_camera(self, device_id: str, *, judged: bool = True) -> CameraFeed:
        """The feed that a browser's pictures come in by; the same one again after a reload."""
        known = self.feeds.get(device_id)
        if not isinstance(known, CameraFeed):
            known = CameraFeed(device_id, self._on_frame, judged=judged)
            self._add(known)
        return known

    def open_stream(self, device_id: str, address: str) -> None:
        self._add(StreamFeed(device_id, address, self._on_frame))

    def restart_feed(self, device_id: str) -> None:
        """Wait for its pictures from now on: what it did before says nothing of it. Its last good picture stays."""
        feed = self.feeds.get(device_id)
        if feed is not None:
            feed.restart(time.monotonic())
        self.version += 1

    def close_feed(self, device_id: str) -> None:
        self.feeds.remove(device_id)
        self._pages.pop(device_id, None)
        self._wholes.pop(device_id, None)
        self.watcher.forget(device_id)

    def _add(self, feed: Feed) -> None:
        self.feeds.add(feed)
        self._settle_wants()

    # what is shown

    def show(self, plate: Plate | None, roles: dict[Role, str], chains: dict[str, Chain], mirrors: dict[str, int]) -> None:
        self._mirrors = mirrors
        self._change(Setup(plate, roles, chains, adorned=self.setup.adorned))

    def put_on(self, plate: Plate) -> None:
        self._change(replace(self.setup, plate=plate))

    def correct(self, device_id: str, chain: Chain, glide_s: float = 0.0) -> None:
        """Put a chain in force, at once or by a smooth way that lasts glide_s."""
        now_s = time.monotonic()
        glides = {key: glide for key, glide in self.setup.glides.items() if key != device_id}
        if glide_s > 0:
            glides[device_id] = Glide(self.setup.chain(device_id, now_s), chain, now_s, glide_s)
        self._change(replace(self.setup, chains={**self.setup.chains, device_id: chain}, glides=glides))

    def change_plates(self, plates: Iterable[Plate]) -> None:
        """The lesson's plates are these now; the one that is on is taken anew where it was changed."""
        self.plates = {plate.id: plate for plate in plates}
        on = self.setup.plate
        new = self.plates.get(on.id) if on is not None else None
        if new is not None and new != on:
            self._change(replace(self.setup, plate=new))
        else:
            self.version += 1
            self._settle_wants()

    def adorn(self, on: bool) -> None:
        """Caption, frame and background on, or all off."""
        self._change(replace(self.setup, adorned=on))

    def resize(self, size: Size) -> None:
        self.desk.resize(size)
        self.version += 1

    def _change(self, setup: Setup) -> None:
        self.setup = setup
        self.version += 1
        self.desk.show(setup)
        self._settle_wants()

    # what the watcher looks at and reports

    def _worth_a_look(self) -> list[tuple[Feed, Chain, bool]]:
        read = {key.partition(":")[2] for key in self.hub.looked_surfaces() if key.startswith("page:")}
        page = self.setup.roles.get("page")
        if page is not None and (self.hub.looked_at("outgoing") or self.call.running):
            read.add(page)
        return [(feed, self.setup.chains.get(feed.id, NO_CHAIN), feed.id in read) for feed in self.feeds.all() if feed.wanted]

    def _page_moved(self, device_id: str, chain: Chain, corners: Corners, feed: Size) -> None:
        """A followed page lies elsewhere: its corners alone change, the teacher's turn, mirror and paper stay."""
        if self.setup.chains.get(device_id) is not chain:
            return  # the teacher's hand was quicker
        square = SquareLink.model_validate({**chain.square.model_dump(), "corners": (corners / np.array(feed)).tolist()})
        self.correct(device_id, chain.model_copy(update={"square": square}), FOLLOW_S)

    def _seen_anew(self) -> None:
        self.version += 1

    def tone(self, device_id: str) -> Tone | None:
        seen = self.watcher.seen.get(device_id)
        return seen.tone if seen is not None else None

    # what is wanted

    def _call_looked_at(self) -> bool:
        return self.call.running and any(key.startswith("audience:") for key in self.hub.looked_surfaces())

    def _settle_wants(self) -> None:
        """A feed is wanted while its raw or straightened picture is looked at, or the plate shows it and the plate is looked at."""
        wanted = {key.partition(":")[2] for key in self.hub.looked_surfaces() if key.startswith(("raw:", "page:"))}
        if self.hub.looked_at("outgoing") or self.call.running:
            wanted |= {feed_id for place in self._places() if (feed_id := self.setup.feed_id(place))}
        for plate in (self.plates.get(key.partition(":")[2]) for key in self.hub.looked_surfaces() if key.startswith(PREVIEW)):
            wanted |= {feed_id for place in (plate.places if plate else ()) if (feed_id := self.setup.feed_id(place))}
        now_s = time.monotonic()
        for feed in self.feeds.all():
            feed.want(feed.id in wanted, now_s)

    def start_call(self) -> None:
        self.call.start()
        self.version += 1
        self._settle_wants()

    def stop_call(self) -> None:
        self.call.stop()
        self.version += 1
        self._settle_wants()

    def _places(self) -> Iterable[Place]:
        return self.setup.plate.places if self.setup.plate else ()

    # pictures

    def _on_frame(self, feed: Feed, frame: Frame) -> None:
        """On the feed's own thread: the desk hears of it, then whoever looks at this feed alone gets it."""
        self.desk.news(feed)
        now_s = time.monotonic()
        self.hub.publish(f"raw:{feed.id}", frame, now_s)
        key = f"page:{feed.id}"
        if self.hub.ready(key, now_s):
            self.hub.publish(key, self._straightened(feed.id, frame), now_s)

    def _straightened(self, feed_id: str, frame: Frame) -> Frame:
        moving = self.setup.chain(feed_id, time.monotonic())
        known = self._wholes.get(feed_id)
        if known is None or known[0] is not moving:  # one object for one chain: what is worked out for it is kept by it
            known = self._wholes[feed_id] = (moving, moving.model_copy(update={"frame": WHOLE_FRAME}))
        chain = known[1]
        canvas = straighten(chain, frame.size).canvas
        scale = min(PAGE_SURFACE.width / canvas.width, PAGE_SURFACE.height / canvas.height)
        size = Size(max(16, round(canvas.width * scale / 2) * 2), max(16, round(canvas.height * scale / 2) * 2))
        composer = self._pages.get(feed_id)
        if composer is None or composer.size != size:
            composer = self._pages[feed_id] = Composer(size, BACKGROUND)
        return composer.compose([Layer(WHOLE, chain, frame, self.tone(feed_id))], frame.captured_s)

    # what is said

    def page_picture(self) -> tuple[PagePicture, Place] | None:
        """The page's feed and the place that shows it on the plate that is on, if there is a picture of it."""
        plate = laid_plate(self.setup, self.feeds, self.desk.size.aspect, lambda feed_id: feed_id is None)
        for place in plate.places if plate else ():
            feed_id = self.setup.feed_id(place)
            if feed_id is None or feed_id != self.setup.roles.get("page"):
                continue
            feed = self.feeds.get(feed_id)
            if feed is not None and feed.latest is not None:
                chain = self.setup.chains.get(feed_id, NO_CHAIN)
                reading = self.watcher.seen.get(feed_id, Seen()).reading
                asks_pt = reading.smallest_pt if reading is not None else None
                return PagePicture(chain, feed.latest.size, self._mirrors.get(feed_id, 0), asks_pt=asks_pt), place
        return None

    def verdicts(self) -> list[Verdict]:
        """One per audience; worked out anew only when something that decides them has changed."""
        page, place = self.page_picture() or (None, None)
        basis = (self.setup, self.desk.size, page.feed if page else None, page.asks_pt if page else None)
        if self._verdicts[0] != basis:
            self._verdicts = (basis, [verdict(audience, page, place, self.desk.size) for audience in AUDIENCES])
        return self._verdicts[1]

    def close(self) -> None:
        with ExitStack() as stack:
            parts: list[Callable[[], None]] = [self.feeds.close, self.watcher.stop, self.desk.stop, self.call.stop]
            for part in parts:
                stack.callback(part)
