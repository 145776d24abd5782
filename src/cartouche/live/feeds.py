"""Feeds: one live picture each. A feed that nobody wants does no work."""

import logging
import threading
import time
from collections.abc import Callable
from contextlib import ExitStack

import numpy as np

from cartouche.core.kit.health import Battery, Facing
from cartouche.core.pictures import Frame, Plane
from cartouche.core.watch.rate import Rate
from cartouche.core.watch.signal import USABLE, Arrivals, Signal, State
from cartouche.core.watch.starting import patience_s
from cartouche.live.source import PictureSource, Reports

GOOD_RING = 3  # a good picture stays untouched for two more looks: longer than the desk needs for one picture


class Feed:
    """The newest picture of one device, and since when somebody wants it."""

    def __init__(self, feed_id: str, on_frame: Callable[["Feed", Frame], None], *, encoded: bool = False, judged: bool = True) -> None:
        """encoded: its pictures come through a codec.  judged: False for pages, clips and windows, see `Signal`."""
        self.id = feed_id
        self.connected = True
        self.waiting = False  # for somebody to allow it
        self.battery: Battery | None = None
        self.facing: Facing | None = None
        self.usual_start_s: float | None = None  # how long it took to start before
        self.took_s: float | None = None  # how long it took this time; taken up by whoever keeps it
        self.on_want: Callable[[], None] | None = None  # told when somebody begins or ceases to want it
        self._signal = Signal(encoded=encoded, judged=judged)
        self._good: Frame | None = None
        self._kept: list[tuple[Plane, ...]] = []
        self.latest: Frame | None = None
        self.fault: str | None = None  # a sentence from whoever brings the pictures
        self._on_frame = on_frame
        self._wanted_since_s: float | None = None
        self._last_frame_s: float | None = None
        self._rate = Rate()

    def want(self, wanted: bool, now_s: float) -> None:
        if wanted == self.wanted:
            return
        self._wanted_since_s = now_s if wanted else None
        if wanted:
            self._signal.forget()
        if self.on_want is not None:
            self.on_want()

    def restart(self, now_s: float) -> None:
        """It was switched on anew."""
        self._signal.forget()
        if self._wanted_since_s is not None:
            self._wanted_since_s = now_s

    @property
    def wanted(self) -> bool:
        return self._wanted_since_s is not None

    def state(self, now_s: float) -> State:
        patience = patience_s(self.usual_start_s)
        return self._signal.state(Arrivals(self._wanted_since_s, self._last_frame_s, self.connected, self.waiting, patience), now_s)

    def starting_for_s(self, now_s: float) -> float | None:
        """How long it has been starting; None unless it is."""
        return None if self._wanted_since_s is None or self.state(now_s) != "starting" else now_s - self._wanted_since_s

    def showable(self, now_s: float) -> Frame | None:
        """What plates show: the newest picture, or the last good one while the newest shows nothing or none comes."""
        if self._signal.dark or self.state(now_s) not in USABLE:
            return self._good
        return self.latest

    def fps(self, now_s: float) -> float:
        return self._rate.fps(now_s)

    def delay_s(self, now_s: float) -> float | None:
        return self._rate.delay_s(now_s)

    def accept(self, frame: Frame) -> None:
        """Take a new picture; called by the thread that made it."""
        now_s = time.monotonic()
        since_s, before_s = self._wanted_since_s, self._last_frame_s
        if since_s is not None and self.connected and (before_s is None or before_s < since_s):
            self.took_s = now_s - since_s
        self.latest, self._last_frame_s, self.fault, self.connected, self.waiting = frame, now_s, None, True, False
        if self._signal.see(frame.y, now_s) and not self._signal.dark:
            self._keep(frame)
        self._rate.add(now_s, now_s - frame.captured_s)
        self._on_frame(self, frame)

    def _keep(self, frame: Frame) -> None:
        """A copy of a good picture: its own planes are overwritten while the device goes on sending black ones."""
        if not self._kept or self._kept[0][0].shape != frame.y.shape:
            self._kept = [tuple(np.empty_like(plane) for plane in frame.planes) for _ in range(GOOD_RING)]
        self._kept.append(self._kept.pop(0))
        for target, source in zip(self._kept[0], frame.planes, strict=True):
            np.copyto(target, source)
        self._good = Frame(*self._kept[0], frame.captured_s)

    def close(self) -> None:
        """Let go of everything. Repeatable."""
        self.latest = self._good = None
        self._kept = []


class PulledFeed(Feed):
    """A feed whose source is asked for pictures at its own pace, on a thread of its own."""

    def __init__(self, feed_id: str, source: PictureSource, on_frame: Callable[[Feed, Frame], None], *, judged: bool = True) -> None:
        super().__init__(feed_id, on_frame, judged=judged)
        self._source = source
        self._reports = source if isinstance(source, Reports) else None
        self._change = threading.Condition()
        self._stopped = self._hurried = False
        self._thread = threading.Thread(target=self._run, name=f"feed-{feed_id}", daemon=True)
        self._thread.start()

    def want(self, wanted: bool, now_s: float) -> None:
        with self._change:
            super().want(wanted, now_s)
            self._change.notify_all()

    def close(self) -> None:
        with self._change:
            self._stopped = True
            self._change.notify_all()
        if self._thread is not threading.current_thread():
            self._thread.join(timeout=5)
        super().close()

    def _run(self) -> None:
        due_s = time.monotonic()
        while self._wait_until(due_s):
            now_s, wanted_since_s = time.monotonic(), self._wanted_since_s
            try:
                frame = self._source.picture(now_s)
            except ConnectionError as exc:
                frame, self.connected, self.fault = None, False, str(exc) or None
            except Exception:  # one bad picture must not end the feed for good
                logging.getLogger(__name__).exception("the source of %s failed", self.id)
                frame, self.connected = None, False
            else:
                self.connected = True
            if frame is not None and self._wanted_since_s == wanted_since_s:  # else it was asked for before a new start
                self.accept(frame)
            if self._reports is not None:
                self.battery, self.facing = self._reports.battery, self._reports.facing
            due_s = max(due_s + 1 / self._source.fps, now_s)

    def hurry(self) -> None:
        """Its source has something new: ask it now."""
        with self._change:
            self._hurried = True
            self._change.notify_all()

    def _wait_until(self, due_s: float) -> bool:
        with self._change:
            while not self._stopped:
                if not self.wanted:
                    self._change.wait()
                    continue
                left_s = due_s - time.monotonic()
                if left_s <= 0 or self._hurried:
                    self._hurried = False
                    return True
                self._change.wait(left_s)
        return False


class Feeds:
    """All feeds by id."""

    def __init__(self) -> None:
        self._by_id: dict[str, Feed] = {}

    def add(self, feed: Feed) -> None:
        old = self._by_id.pop(feed.id, None)
        if old is not None:
            old.close()
        self._by_id[feed.id] = feed

    def get(self, feed_id: str) -> Feed | None:
        return self._by_id.get(feed_id)

    def all(self) -> list[Feed]:
        return list(self._by_id.values())

    def remove(self, feed_id: str) -> None:
        feed = self._by_id.pop(feed_id, None)
        if feed is not None:
            feed.close()

    def close(self) -> None:
        with ExitStack() as stack:
            while self._by_id:
                stack.callback(self._by_id.popitem()[1].close)
