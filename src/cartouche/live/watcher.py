"""The watcher: one thread that looks at straightened pages a few times a second and reports what it sees.

It follows pages, measures their light and reads them, only for feeds that somebody wants and only what their chain or a
viewer asks for. What it finds returns to the running lesson as a proposal; it changes nothing itself.
"""

import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from cartouche.core.pictures import Corners, Frame, Plane, Size
from cartouche.core.plates.compose import Composer
from cartouche.core.reading.handedness import page_true_under
from cartouche.core.reading.page_reading import PageReading, read_page
from cartouche.core.reading.proof import Net as WayNet
from cartouche.core.reading.proof import Proof, read_way
from cartouche.core.straighten.chain import Chain, straighten
from cartouche.core.straighten.finder import Found, Nets, NotFound, find_page, find_steady
from cartouche.core.straighten.follower import LOOK_EVERY_S, Follow, Follower, FollowState
from cartouche.core.straighten.identity import Identity, Thumb
from cartouche.core.straighten.lens import Distortion, estimate_distortion
from cartouche.core.straighten.tone import Tone, page_tone
from cartouche.core.watch.signal import blur, in_focus
from cartouche.live.feeds import Feed
from cartouche.live.page_keeper import Clean, PageKeeper
from cartouche.live.straight import canvas_of, straight
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

TONE_EVERY_S, READ_EVERY_S = 0.7, 2.0  # light changes slowly, what is printed more slowly
SELDOM_READ_S = 6.0  # of a page that lies still, and where the computer cannot keep up: reading takes half of all that is watched
STIRS = 0.002  # share of the page that moves: writing is more, the camera's noise nothing
TONE_PX, READ_PX = 512.0, 1120.0  # longer side of the straightened page they look at
CLOSER_PX, CLOSER_BY = 2400.0, 1.6  # the most for one that is read once more, and how far above what the camera has of it
SAME_SHARPNESS = 0.02  # shares: from one look to the next
TONE_KEPT = 0.5  # of what was measured before: a hand over a lamp's light does not pump


# (feed, small picture of the page that went, of the one that lies there now, what is known of the one that went)
OnPage = Callable[[str, Thumb | None, Thumb, Clean | None], None]


class Told(NamedTuple):
    """What was known of a page when screens were last told of it."""

    tone: Tone | None
    reading: PageReading | None
    reading_of: Chain | None
    sharpness: float | None

    def as_before(self, before: "Told | None") -> bool:
        """Whether a screen would say the same: each look at a page that lies still differs a little."""
        if before is None or self.reading_of is not before.reading_of:
            return False
        if (self.tone is None) != (before.tone is None) or (self.reading is None) != (before.reading is None):
            return False
        if self.tone is not None and before.tone is not None and not self.tone.says_as(before.tone):
            return False
        if self.reading is not None and before.reading is not None and not self.reading.says_as(before.reading):
            return False
        return _as_sharp(self.sharpness, before.sharpness)


@dataclass(eq=False)
class Seen:
    """What is known of one feed's page; each part replaced as a whole."""

    follow: FollowState = "fixed"
    new_pages: int = 0
    tone: Tone | None = None
    reading: PageReading | None = None
    sharpness: float | None = None
    reading_of: Chain | None = None
    told: Told | None = None

    def page_true(self, chain: Chain) -> bool | None:
        """What its print says of the page as this chain leaves it."""
        return page_true_under(chain, self.reading_of, self.reading.proof.reads_true if self.reading is not None else None)


@dataclass(eq=False)
class _Watched:
    follower: Follower = field(default_factory=Follower)
    chain: Chain | None = None
    last: Frame | None = None
    tone_s: float = -np.inf
    read_s: float = -np.inf
    sharp_s: float = -np.inf
    stirred: bool = False  # since it was read
    small: Composer | None = None
    large: Composer | None = None
    lines: list[tuple[np.ndarray, ...]] = field(default_factory=list)


class Watcher:
    """`ask` gives (feed, chain, whether somebody reads its page) for every feed worth a look; `moved` is told where a page went."""

    def __init__(
        self,
        ask: Callable[[], list[tuple[Feed, Chain, bool]]],
        moved: Callable[[str, Chain, Corners, Size], None],
        changed: Callable[[str], None],
        page_nets: Nets,
        way_net: WayNet,
        troubles: Troubles,
    ) -> None:
        self._ask, self._moved, self._changed = ask, moved, changed
        self._page_nets, self._way_net = page_nets, way_net
        self._watched: dict[str, _Watched] = {}
        self.seen: dict[str, Seen] = {}
        self.keeper = PageKeeper()
        self.on_page: list[OnPage] = []
        self.read_every_s = READ_EVERY_S
        self._troubles = troubles
        self._worker = Worker("watcher", self._turn, lambda exc: troubles.report("watch", exc))

    def start(self) -> None:
        self._worker.start()

    def stop(self) -> None:
        """Repeatable."""
        self._worker.stop()

    def forget(self, feed_id: str) -> None:
        self._watched.pop(feed_id, None)
        self.keeper.forget(feed_id)
        self.seen.pop(feed_id, None)

    @property
    def page_nets(self) -> Nets:
        return self._page_nets

    def find(self, frame: Frame) -> Found | NotFound:
        return find_page(frame, self._page_nets)

    def find_steady(self, frames: Iterable[Frame]) -> Found | NotFound:
        """In pictures taken moments apart, of which no more are asked for than are needed."""
        return find_steady(frames, self._page_nets)

    def way_of(self, chain: Chain, frame: Frame) -> Proof:
        """Which way round the page stands under this chain; small print is read once more from all that the camera has of it."""
        has_px = CLOSER_BY * max(canvas_of(chain, frame.size))
        proof = self._proof(chain, frame, READ_PX)
        if proof.reads_true is None and has_px > READ_PX:
            proof = self._proof(chain, frame, min(has_px, CLOSER_PX))
        return proof

    def _proof(self, chain: Chain, frame: Frame, longest: float) -> Proof:
        _, page = straight(None, chain, frame, longest)
        return read_way(page.y, self._way_net, max(canvas_of(chain, frame.size)) / longest)

    def _turn(self) -> None:
        if not self._worker.wait(LOOK_EVERY_S):
            return
        for feed, chain, is_read in self._ask():
            with self._troubles.guard("watch", feed.id):
                self._look(feed, chain, is_read)

    def _look(self, feed: Feed, chain: Chain, is_read: bool) -> None:
        frame, now_s = feed.showable(time.monotonic()), time.monotonic()
        watched = self._watched.setdefault(feed.id, _Watched())
        page = self.seen.setdefault(feed.id, Seen())
        if frame is None or frame is watched.last:
            return
        watched.last = frame
        before, identity = page.new_pages, watched.follower.identity
        first = identity.thumb is None
        self._follow(feed.id, chain, frame, watched, page, now_s)
        if page.new_pages != before or (first and identity.thumb is not None):
            watched.stirred = True
            self._another(feed.id, chain, identity, first=first)
        if is_read and page.follow in ("following", "fixed") and not identity.doubts:
            seen = self.keeper.look(feed.id, chain, frame, now_s)
            watched.stirred |= seen is not None and seen.moving > STIRS
        else:
            watched.stirred = True
        if (chain.light.on or chain.colour.on or is_read) and now_s - watched.tone_s >= TONE_EVERY_S:
            watched.tone_s = now_s
            self._measure_light(feed.id, chain, frame, watched, page)
        if is_read and now_s - watched.sharp_s >= self.read_every_s:
            watched.sharp_s = now_s
            self._measure_focus(feed.id, chain, frame, watched, page)
        read_every_s = self.read_every_s if watched.stirred else SELDOM_READ_S
        if is_read and (now_s - watched.read_s >= read_every_s or page.reading_of is not chain):
            watched.read_s, watched.stirred = now_s, False
            self._read(feed.id, chain, frame, watched, page)

    def _follow(self, feed_id: str, chain: Chain, frame: Frame, watched: _Watched, page: Seen, now_s: float) -> None:
        if not (chain.square.on and chain.square.follow):
            watched.follower, state = Follower(), "fixed"
            result = Follow("fixed")
        else:
            result = watched.follower.look(frame, chain.square.corners_px(frame.size), self.find, now_s)
            state = result.state
        if state != page.follow or result.new_page:
            page.follow, page.new_pages = state, page.new_pages + int(result.new_page)  # type: ignore[assignment]
            self._changed(feed_id)
        if result.moved_to is not None:
            self._moved(feed_id, chain, result.moved_to, frame.size)

    def _another(self, feed_id: str, chain: Chain, identity: Identity, *, first: bool) -> None:
        """Another page lies there, or the first is seen: whoever waits for that hears of it, with what is known of the one that went."""
        assert identity.thumb is not None
        went = None if first else self.keeper.known(feed_id, chain)
        if not first:
            self.keeper.begin(feed_id)
        for tell in self.on_page:
            with self._troubles.guard("watch", feed_id):
                tell(feed_id, None if first else identity.before, identity.thumb, went)

    def _measure_light(self, feed_id: str, chain: Chain, frame: Frame, watched: _Watched, known: Seen) -> None:
        watched.small, page = straight(watched.small, chain, frame, TONE_PX)
        tone, before = page_tone(page), known.tone
        if tone is not None and before is not None and before.light.shape == tone.light.shape:
            light = TONE_KEPT * before.light + (1 - TONE_KEPT) * tone.light
            if float(np.abs(light - before.light).max()) < 1.5:
                return  # the same: the tables made from it stay good
            tone = tone._replace(light=light)
        if tone is not None:
            known.tone = tone
            self._tell(feed_id, known)

    def _measure_focus(self, feed_id: str, chain: Chain, frame: Frame, watched: _Watched, known: Seen) -> None:
        soft, before = blur(_page_part(frame, chain)), known.sharpness
        known.sharpness = None if soft is None else 1 - soft
        watched.stirred |= not _as_sharp(known.sharpness, before)
        self._tell(feed_id, known)

    def _read(self, feed_id: str, chain: Chain, frame: Frame, watched: _Watched, known: Seen) -> None:
        watched.large, page = straight(watched.large, chain, frame, READ_PX)
        straightened = straighten(chain, frame.size)
        mm = straightened.mm_per_unit * straightened.canvas.width / page.size.width if straightened.mm_per_unit else None
        reading = read_page(page.y, mm, self._way_net, max(canvas_of(chain, frame.size)) / READ_PX)
        if known.reading is None or known.reading_of is not chain or not reading.says_as(known.reading):
            known.reading, known.reading_of = reading, chain  # else what was worked out from it stays good
        self._tell(feed_id, known)

    def _tell(self, feed_id: str, known: Seen) -> None:
        now = Told(known.tone, known.reading, known.reading_of, known.sharpness)
        if not now.as_before(known.told):
            known.told = now
            self._changed(feed_id)

    def distortion_of(self, frames: list[Frame]) -> Distortion:
        """The lens's distortion, from the page's edges in several frames; falsy where they tell too little."""
        lines = [edge for frame in frames if (found := self.find(frame)) for edge in found.edges]  # type: ignore[union-attr]
        return estimate_distortion(lines, frames[0].size) if frames else Distortion(0.0, np.inf, 0)


def _as_sharp(a: float | None, b: float | None) -> bool:
    return a is b if a is None or b is None else in_focus(a) == in_focus(b) and abs(a - b) < SAME_SHARPNESS


def _page_part(frame: Frame, chain: Chain) -> Plane:
    """The raw luma round the page: what lies beside it may be sharper or softer."""
    if not chain.square.on:
        return frame.y
    corners = chain.square.corners_px(frame.size)
    x0, y0 = (max(0, int(value)) for value in corners.min(axis=0))
    x1, y1 = (int(value) for value in corners.max(axis=0))
    part = frame.y[y0:y1, x0:x1]
    return part if min(part.shape) > 64 else frame.y
