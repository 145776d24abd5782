"""Feeds: one live picture each. A feed that nobody wants does no work."""

import threading
import time
from collections.abc import Callable
from contextlib import AbstractContextManager, ExitStack
from dataclasses import dataclass

import numpy as np

from cartouche.core.kit.health import Battery, Facing
from cartouche.core.pictures import Frame, Plane, Size
from cartouche.core.watch.rate import Rate
from cartouche.core.watch.signal import USABLE, Arrivals, Signal, State
from cartouche.core.watch.starting import patience_s
from cartouche.live.source import PictureSource, Reports
from cartouche.live.troubles import Stage, Troubles
from cartouche.live.worker import Worker

FRESH_S = 0.2  # a picture from before a longer rest is not what is there now
STALE_S = 2.0  # and one from before this long a rest is shown to nobody
WAKES_S = 0.5  # what shows a feed waits so long for its first picture after a rest
GOOD_RING = 3  # a good picture stays untouched for two more looks: longer than the desk needs for one picture


@dataclass(frozen=True)
class FeedFacts:
    """What is known of a feed at one moment.

    fault: a sentence from whoever brings the pictures.  starting_s: how long it has been starting, None unless it is.
    usual_start_s: how long that took before.
    """

    id: str
    state: State
    fault: str | None
    size: Size | None
    fps: float
    delay_s: float | None
    starting_s: float | None
    usual_start_s: float | None
    battery: Battery | None
    facing: Facing | None


class GoodPictures:
    """Copies of the newest good pictures: a device's own planes are overwritten while it goes on sending black ones."""

    def __init__(self) -> None:
        self._ring: list[tuple[Plane, ...]] = []
        self.newest: Frame | None = None

    def keep(self, frame: Frame) -> None:
        if not self._ring or self._ring[0][0].shape != frame.y.shape:
            self._ring = [tuple(np.empty_like(plane) for plane in frame.planes) for _ in range(GOOD_RING)]
        self._ring.append(self._ring.pop(0))
        for target, source in zip(self._ring[0], frame.planes, strict=True):
            np.copyto(target, source)
        self.newest = Frame.of(self._ring[0], frame.captured_s)

    def forget(self) -> None:
        self.newest, self._ring = None, []


class Feed:
    """The newest picture of one device, and since when somebody wants it."""

    heeds = True  # its source sends no more pictures than go out

    def __init__(
        self, feed_id: str, on_frame: Callable[["Feed", Frame], None], troubles: Troubles, *, encoded: bool = False, judged: bool = True
    ) -> None:
        """encoded: its pictures come through a codec.  judged: False for pages, clips and windows, see `Signal`."""
        self.id = feed_id
        self.connected = True
        self.waiting = False  # for somebody to allow it
        self.battery: Battery | None = None
        self.facing: Facing | None = None
        self.usual_start_s: float | None = None  # how long it took to start before
        self.took_s: float | None = None  # how long it took this time; taken up by whoever keeps it
        self.on_want: Callable[[], None] | None = None  # told when somebody begins or ceases to want it, or so many pictures of it
        self.on_wake: Callable[[], None] | None = None  # told of its first picture after a long rest, before anybody sees it
        self.latest: Frame | None = None
        self.fault: str | None = None  # a sentence from whoever brings the pictures
        self._on_frame, self._troubles = on_frame, troubles
        self._signal = Signal(encoded=encoded, judged=judged)
        self._good = GoodPictures()
        self._wanted_since_s: float | None = None
        self._last_frame_s: float | None = None
        self._rested_s = 0.0  # before it was wanted; until its first picture since then
        self._rate = Rate()

    def want(self, wanted: bool, now_s: float) -> None:
        if wanted == self.wanted:
            return
        if wanted:
            self._rested_s = now_s - self._last_frame_s if self._last_frame_s is not None else np.inf
            self._signal.forget()
        self._wanted_since_s = now_s if wanted else None
        self.tell()

    def tell(self) -> None:
        """Whoever sends its pictures: what is wanted of it has changed."""
        if self.on_want is not None:
            self.on_want()

    def guard(self, stage: Stage) -> AbstractContextManager[None]:
        """What fails inside is reported as this device's and goes no further."""
        return self._troubles.guard(stage, self.id)

    def restart(self, now_s: float) -> None:
        """It was switched on again."""
        self._signal.forget()
        if self._wanted_since_s is not None:
            self._wanted_since_s = now_s

    @property
    def wanted(self) -> bool:
        return self._wanted_since_s is not None

    @property
    def stale(self) -> bool:
        """It has rested for long, and no picture has come since: its last one is of another time."""
        return self._rested_s > STALE_S

    def waking(self, now_s: float) -> bool:
        """Its first picture after a rest should come in a moment."""
        since_s = self._wanted_since_s
        due = since_s is not None and now_s - since_s < WAKES_S and self._rested_s > FRESH_S
        return due and self.connected and not self.waiting

    def state(self, now_s: float) -> State:
        patience = patience_s(self.usual_start_s)
        return self._signal.state(Arrivals(self._wanted_since_s, self._last_frame_s, self.connected, self.waiting, patience), now_s)

    def facts(self, now_s: float) -> FeedFacts:
        state, latest, since_s = self.state(now_s), self.latest, self._wanted_since_s
        starting_s = now_s - since_s if since_s is not None and state == "starting" else None
        return FeedFacts(
            self.id, state, self.fault, latest.size if latest is not None else None, self._rate.fps(now_s), self._rate.delay_s(now_s),
            starting_s, self.usual_start_s, self.battery, self.facing,
        )  # fmt: skip

    def showable(self, now_s: float) -> Frame | None:
        """What plates show: the newest picture, or the last good one while the newest shows nothing or none comes."""
        if self.stale:
            return None
        if self._signal.dark or self.state(now_s) not in (*USABLE, "off"):
            return self._good.newest
        return self.latest

    def accept(self, frame: Frame) -> None:
        """Take a new picture; called by the thread that made it."""
        now_s = time.monotonic()
        since_s, before_s = self._wanted_since_s, self._last_frame_s
        if since_s is not None and self.connected and (before_s is None or before_s < since_s):
            self.took_s = now_s - since_s
        self.latest, self._last_frame_s, self.fault, self.connected, self.waiting = frame, now_s, None, True, False
        with self._troubles.guard("judge", self.id):
            if self._signal.see(frame.y, now_s) and not self._signal.dark:
                self._good.keep(frame)
        self._rate.add(now_s, now_s - frame.captured_s)
        if self.stale and self.on_wake is not None:
            self.on_wake()
        self._rested_s = 0.0
        with self._troubles.guard("draw", self.id):
            self._on_frame(self, frame)

    def close(self) -> None:
        """Let go of everything. Repeatable."""
        self.latest = None
        self._good.forget()


class PulledFeed(Feed):
    """A feed whose source is asked for pictures at its own pace, on a thread of its own, for no more than go out."""

    def __init__(
        self,
        feed_id: str,
        source: PictureSource,
        on_frame: Callable[[Feed, Frame], None],
        troubles: Troubles,
        most_fps: Callable[[], float],
        *,
        judged: bool = True,
    ) -> None:
        super().__init__(feed_id, on_frame, troubles, judged=judged)
        self._source, self._most_fps = source, most_fps
        self._reports = source if isinstance(source, Reports) else None
        self._hurried, self._due_s = False, 0.0
        self._worker = Worker(f"feed-{feed_id}", self._turn, self._failed)
        self._worker.start()

    def want(self, wanted: bool, now_s: float) -> None:
        super().want(wanted, now_s)
        self._worker.wake()

    def hurry(self) -> None:
        """Its source has something new: ask it now."""
        self._hurried = True
        self._worker.wake()

    def close(self) -> None:
        self._worker.stop()
        super().close()

    def _turn(self) -> None:
        if not self._worker.wait(None, lambda: self.wanted):
            return
        early_s = self._due_s - time.monotonic()
        if early_s > 0 and not self._hurried:
            self._worker.wait(early_s, lambda: self._hurried or not self.wanted)
            if not self.wanted or self._worker.stopping:
                return
        self._hurried = False
        self._ask(time.monotonic())

    def _ask(self, now_s: float) -> None:
        wanted_since_s = self._wanted_since_s
        every_s = 1 / min(self._source.fps, self._most_fps())
        late = now_s - self._due_s > every_s  # as it begins, or after a stall: what was missed is not asked for twice
        self._due_s = (now_s if late else self._due_s) + every_s
        try:
            frame = self._source.picture(now_s)
        except ConnectionError as exc:
            frame, self.connected, self.fault = None, False, str(exc) or None
        else:
            self.connected = True
        if self._reports is not None:
            self.battery, self.facing = self._reports.battery, self._reports.facing
        if frame is not None and self._wanted_since_s == wanted_since_s:  # else it was asked for before a new start
            self.accept(frame)

    def _failed(self, exc: Exception) -> None:
        self.connected = False
        self._troubles.report("source", exc, self.id)


class Feeds:
    """All feeds by id. Replaced whole when one comes or goes, so that whoever walks through them meets no change."""

    def __init__(self) -> None:
        self._lock, self._closed = threading.Lock(), False
        self._by_id: dict[str, Feed] = {}

    def add(self, feed: Feed) -> None:
        with self._lock:
            old = feed if self._closed else self._by_id.get(feed.id)
            if not self._closed:  # what a request still opens while all ends is let go of at once: its thread would draw on
                self._by_id = {**self._by_id, feed.id: feed}
        if old is not None:
            old.close()

    def get(self, feed_id: str) -> Feed | None:
        return self._by_id.get(feed_id)

    def all(self) -> list[Feed]:
        return list(self._by_id.values())

    def remove(self, feed_id: str) -> None:
        with self._lock:
            feed = self._by_id.get(feed_id)
            self._by_id = {key: other for key, other in self._by_id.items() if key != feed_id}
        if feed is not None:
            feed.close()

    def close(self) -> None:
        with self._lock:
            closing, self._by_id, self._closed = list(self._by_id.values()), {}, True
        with ExitStack() as stack:
            for feed in closing:
                stack.callback(feed.close)
