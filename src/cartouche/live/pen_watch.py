"""Follows the pen where the teacher has switched that on: looks at the page some times a second, and moves the frame."""

import time
from collections.abc import Callable

from cartouche.core.pictures import Size, bgr_from_frame
from cartouche.core.plates.compose import Composer
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.glide import FRAME_S
from cartouche.core.teach.pen import LOOK_EVERY_S, PAGE_PX, PenFollower
from cartouche.live.feeds import Feeds
from cartouche.live.setup import Setup
from cartouche.live.stage import Stage
from cartouche.live.straight import straight
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

Room = Callable[[Setup, str, Chain], tuple[Size, Size]]
GLIDE_S = 2 * FRAME_S  # calmer than a press: nobody has asked for it


class PenWatch:
    """A thread that sleeps while nobody follows. room: the page's canvas, and where it is shown."""

    def __init__(self, stage: Stage, feeds: Feeds, room: Room, troubles: Troubles) -> None:
        self._stage, self._feeds, self._room = stage, feeds, room
        self._pen, self._of = PenFollower(), tuple[object, ...]()
        self._composer: Composer | None = None
        self.looked = False
        self._worker = Worker("pen", self._turn, lambda exc: troubles.report("watch", exc))
        stage.on_change.append(self._changed)

    def start(self) -> None:
        self._worker.start()

    def stop(self) -> None:
        """Repeatable."""
        self._worker.stop()

    def _changed(self, setup: Setup) -> None:
        if setup.follow_pen:
            self._worker.wake()

    def _turn(self) -> None:
        if not self._stage.setup.follow_pen:
            self._worker.wait(None, lambda: self._stage.setup.follow_pen)
            return
        if self._worker.wait(LOOK_EVERY_S):
            self._look(self._stage.setup, time.monotonic())

    def _look(self, setup: Setup, now_s: float) -> None:
        feed_id = setup.page_id or ""
        feed, chain, glide = self._feeds.get(feed_id), setup.chains.get(feed_id), setup.glides.get(feed_id)
        on_its_way = glide is not None and now_s < glide.begun_s + glide.lasts_s
        frame = feed.showable(now_s) if feed is not None else None
        if frame is None or chain is None or on_its_way or feed_id in setup.holds:
            return
        self._composer, page = straight(self._composer, chain, frame, PAGE_PX)
        of = (feed_id, frame.size, chain.square.on, chain.square.paper, chain.turn, chain.mirror)
        if of != self._of:  # what is known of a page that stood otherwise counts for nothing
            self._of, self._pen = of, PenFollower()
        self.looked = True
        moved = self._pen.see(bgr_from_frame(page), chain.frame, *self._room(setup, feed_id, chain), now_s)
        if moved is not None:
            self._stage.correct(feed_id, chain.model_copy(update={"frame": moved}), GLIDE_S, instead_of=chain)
