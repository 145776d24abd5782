"""Frames the face on the head where its place wishes that: looks now and then, moves rarely."""

import time
from collections.abc import Callable

from cartouche.core.errors import DegenerateCorners
from cartouche.core.plates.behind import Net, PersonMask, works_at
from cartouche.core.plates.head import LOOK_EVERY_S, HeadFollower, head_of, on_canvas
from cartouche.core.straighten.chain import straighten
from cartouche.live.feeds import Feeds
from cartouche.live.setup import NO_CHAIN, Setup
from cartouche.live.stage import Stage
from cartouche.live.straight import bare
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

GLIDE_S = 1.4  # nobody should notice


class HeadWatch:
    """A thread that sleeps while nobody is framed. speaks: whether the teacher is in mid-sentence."""

    def __init__(self, stage: Stage, feeds: Feeds, net: Net, speaks: Callable[[], bool], troubles: Troubles) -> None:
        self._stage, self._feeds, self._net, self._speaks = stage, feeds, net, speaks
        self._masks: dict[str, PersonMask] = {}
        self._followers: dict[str, HeadFollower] = {}
        self._worker = Worker("head", self._turn, lambda exc: troubles.report("watch", exc))
        stage.on_change.append(lambda setup: self._worker.wake())

    def start(self) -> None:
        self._worker.start()

    def stop(self) -> None:
        """Repeatable."""
        self._worker.stop()

    def _turn(self) -> None:
        if not framed_ids(self._stage.setup):
            self._worker.wait(None, lambda: bool(framed_ids(self._stage.setup)))
            return
        if self._worker.wait(LOOK_EVERY_S):
            for feed_id in framed_ids(self._stage.setup):
                self._look(self._stage.setup, feed_id, time.monotonic())

    def _look(self, setup: Setup, feed_id: str, now_s: float) -> None:
        feed, chain = self._feeds.get(feed_id), setup.chains.get(feed_id, NO_CHAIN)
        frame = feed.showable(now_s) if feed is not None and feed.wanted else None
        if frame is None or not works_at(frame.size):
            return
        head = head_of(self._masks.setdefault(feed_id, PersonMask(self._net)).see(frame))
        if head is not None:
            try:
                straightened = straighten(bare(chain), frame.size)
            except DegenerateCorners:
                return
            head = on_canvas(head, straightened.matrix, frame.size, straightened.canvas)
        moved = self._followers.setdefault(feed_id, HeadFollower()).see(head, chain.frame, self._speaks(), now_s)
        if moved is not None:
            instead_of = setup.chains.get(feed_id)
            self._stage.correct(feed_id, chain.model_copy(update={"frame": moved}), GLIDE_S, instead_of=instead_of)


def framed_ids(setup: Setup) -> set[str]:
    """The devices that the outgoing plate wishes framed on the head; the page is never one."""
    places = setup.plate.places if setup.plate is not None and not setup.natural else ()
    ids = {setup.feed_id(place) for place in places if place.has_picture and place.grade.framed}
    return {feed_id for feed_id in ids if feed_id is not None and feed_id != setup.page_id}
