"""The straightened page as a film of its own: all of it at the camera's detail, with its ink, whatever the plate shows of it.

Ten pictures a second are enough for a pen, and a still page repeated costs next to nothing.
"""

import time
from collections.abc import Callable

from cartouche.core.errors import DegenerateCorners
from cartouche.core.ink.draw import Over, drawn
from cartouche.core.pictures import Frame, Size
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.core.straighten.tone import Tone
from cartouche.live.demand import Claim, Demand, Surface
from cartouche.live.feeds import Feeds
from cartouche.live.ink_room import InkRoom, ground_on
from cartouche.live.out.encoder import Encoder, PacketTaker
from cartouche.live.setup import Setup
from cartouche.live.straight import BACKGROUND, PAGE_FILLS, canvas_of
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

FPS = 10.0
MAX_SIDE = 2560  # px: a browser plays it, and one core keeps up
BEHIND_S = 0.2  # a picture that stands is said to be so old: what was captured then has come
WHOLE_PAGE = PAGE_FILLS.model_copy(update={"fit": "fit"})  # squared up anew in mid-film, none of it is cut off
ALL_OF_IT = FrameLink(on=False)
Newest = Callable[[Setup, str], Frame | None]


class PageFilm:
    """Gives packets of the page to one taker at a time, as `Encodings` does of the outgoing picture."""

    def __init__(
        self,
        setup: Callable[[], Setup],
        feeds: Feeds,
        demand: Demand,
        ink: InkRoom,
        newest: Newest,
        tone: Callable[[str], Tone | None],
        troubles: Troubles,
    ) -> None:
        """newest: the picture of a feed that may be shown now.  tone: the light measured on its page."""
        self.setup, self._demand, self._ink, self.newest, self.tone, self._troubles = setup, demand, ink, newest, tone, troubles
        self._feeds = feeds

    def size(self) -> Size | None:
        """As large as the page is now, even px; None where no page is seen."""
        setup = self.setup()
        frame = self._frame_of(setup, setup.page_id) if setup.page_id is not None else None
        if frame is None or setup.page_id is None:
            return None
        try:
            canvas = canvas_of(setup.chain(setup.page_id, time.monotonic()), frame.size)
        except DegenerateCorners:
            return None
        scale = min(1.0, MAX_SIDE / max(canvas))
        return Size(*(max(16, round(side * scale / 2) * 2) for side in canvas))

    def _frame_of(self, setup: Setup, feed_id: str) -> Frame | None:
        feed = self._feeds.get(feed_id)
        return None if feed is None or feed.stale else self.newest(setup, feed_id) or feed.latest

    def join(self, size: Size, taker: PacketTaker) -> "PageTaking":
        return PageTaking(self, size, taker, self._demand, self._ink, self._troubles)

    def shown(self, setup: Setup, feed_id: str, now_s: float) -> tuple[Frame, Chain, Tone | None, str] | None:
        """What stands for the page: its own picture or what is held, and the ground of its ink."""
        held = setup.holds.get(feed_id)
        if held is not None:
            return held.frame, held.chain, held.tone, self._ink.ground_of(feed_id, held.sheet_id)
        frame = self._frame_of(setup, feed_id)
        return None if frame is None else (frame, setup.chain(feed_id, now_s), self.tone(feed_id), self._ink.ground_of(feed_id))


class PageTaking:
    """While it is held the page's camera runs. `release` is repeatable."""

    def __init__(self, film: PageFilm, size: Size, taker: PacketTaker, demand: Demand, ink: InkRoom, troubles: Troubles) -> None:
        self._film, self._size, self._demand, self._ink, self._troubles = film, size, demand, ink, troubles
        self._composer = Composer(size, BACKGROUND)
        self._encoder = Encoder(size, troubles)
        self._encoder.takers = (taker,)
        self._claim: Claim | None = None
        self._whole: tuple[Chain | None, Chain | None] = (None, None)  # as it is, and all of it
        self._over: tuple[tuple[object, ...], tuple[Over, ...]] = ((), ())
        self._last_s = 0.0
        self._worker = Worker("page-film", self._turn, lambda exc: troubles.report("record", exc))
        self._worker.start()

    def request_key(self) -> None:
        self._encoder.request_key()

    def release(self) -> None:
        self._worker.stop()
        self._encoder.stop()
        if self._claim is not None:
            self._claim.release()

    def _turn(self) -> None:
        begun_s = time.monotonic()
        setup = self._film.setup()
        feed_id = setup.page_id
        self._look_at(feed_id)
        shown = self._film.shown(setup, feed_id, begun_s) if feed_id is not None else None
        if shown is not None and feed_id is not None and self._encoder.ready(begun_s):
            self._draw(*shown)
        self._worker.wait(max(0.0, 1 / FPS - (time.monotonic() - begun_s)))

    def _look_at(self, feed_id: str | None) -> None:
        before = self._claim
        if feed_id is not None and (before is None or before.surface.id != feed_id):
            self._claim = self._demand.claim(Surface("raw", feed_id))
            if before is not None:
                before.release()

    def _draw(self, frame: Frame, chain: Chain, tone: Tone | None, ground_id: str) -> None:
        if self._whole[0] is not chain:  # one object for one chain: what is worked out for it is kept by it
            self._whole = (chain, chain.model_copy(update={"frame": ALL_OF_IT}))
        whole = self._whole[1]
        assert whole is not None
        self._last_s = max(frame.captured_s, self._last_s + 0.001, time.monotonic() - BEHIND_S)
        layer = Layer(WHOLE_PAGE, whole, frame, tone, over=self._inked(ground_id, whole, frame.size))
        self._encoder.take(self._composer.compose([layer], self._last_s), time.monotonic())

    def _inked(self, ground_id: str, chain: Chain, feed: Size) -> tuple[Over, ...]:
        strokes = () if self._ink.hidden else self._ink.unfinished().get(ground_id, self._ink.ink(ground_id).strokes)
        key = (strokes, chain, feed)
        if self._over[0] != key:
            ground = ground_on(ground_id, WHOLE_PAGE, chain, feed, self._size) if strokes else None
            over = drawn(strokes, ground.to_outgoing, ground.box) if ground is not None else None
            self._over = (key, () if over is None else (over,))
        return self._over[1]
