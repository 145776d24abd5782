"""Feeds: one live picture each. A feed that nobody wants does no work."""

import logging
import threading
import time
from collections.abc import Callable
from contextlib import ExitStack

import numpy as np

from cartouche.core.pictures import Frame, Plane
from cartouche.core.watch.rate import Rate
from cartouche.core.watch.signal import USABLE, Arrivals, Signal, State
from cartouche.live.source import PictureSource

GOOD_RING = 3  # a good picture stays untouched for two more looks: longer than the desk needs for one picture


class Feed:
    """The newest picture of one device, and since when somebody wants it."""

    def __init__(self, feed_id: str, on_frame: Callable[["Feed", Frame], None], *, encoded: bool = False) -> None:
        """encoded: its pictures come through a codec."""
        self.id = feed_id
        self.connected = True
        self._signal = Signal(encoded=encoded)
        self._good: Frame | None = None
        self._kept: list[tuple[Plane, ...]] = []
        self.latest: Frame | None = None
        self.fault: str | None = None  # a sentence from whoever brings the pictures
        self._on_frame = on_frame
        self._wanted_since_s: float | None = None
        self._last_frame_s: float | None = None
        self._rate = Rate()

    def want(self, wanted: bool, now_s: float) -> None:
        if wanted and self._wanted_since_s is None:
            self._wanted_since_s = now_s
            self._signal.forget()
        elif not wanted:
            self._wanted_since_s = None

    def restart(self, now_s: float) -> None:
        """It was switched on anew."""
        self._signal.forget()
        if self._wanted_since_s is not None:
            self._wanted_since_s = now_s

    @property
    def wanted(self) -> bool:
        return self._wanted_since_s is not None

    def state(self, now_s: float) -> State:
        return self._signal.state(Arrivals(self._wanted_since_s, self._last_frame_s, self.connected), now_s)

    def showable(self, now_s: float) -> Frame | None:
        """What plates show: the newest picture, or the last good one while the newest shows nothing or none comes."""
        if self._signal.dark or self.state(now_s) not in USABLE:
            return self._good
        return self.latest

    def frames_s(self, now_s: float) -> float:
        return self._rate.frames_s(now_s)

    def delay_s(self, now_s: float) -> float | None:
        return self._rate.delay_s(now_s)

    def accept(self, frame: Frame) -> None:
        """Take a new picture; called by the thread that made it."""
        now_s = time.monotonic()
        self.latest, self._last_frame_s, self.fault, self.connected = frame, now_s, None, True
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

    def __init__(self, feed_id: str, source: PictureSource, on_frame: Callable[[Feed, Frame], None]) -> None:
        super().__init__(feed_id, on_frame)
        self._source = source
        self._change = threading.Condition()
        self._stopped = False
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
            now_s = time.monotonic()
            try:
                frame = self._source.picture(now_s)
            except ConnectionError:
                frame, self.connected = None, False
            except Exception:  # one bad picture must not end the feed for good
                logging.getLogger(__name__).exception("the source of %s failed", self.id)
                frame, self.connected = None, False
            else:
                self.connected = True
            if frame is not None:
                self.accept(frame)
            due_s = max(due_s + 1 / self._source.frames_s, now_s)

    def _wait_until(self, due_s: float) -> bool:
        with self._change:
            while not self._stopped:
                if not self.wanted:
                    self._change.wait()
                    continue
                left_s = due_s - time.monotonic()
                if left_s <= 0:
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
