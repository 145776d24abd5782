"""A feed that is asked for its pictures: what was on its way before a new start is not that start."""

import threading
import time

from cartouche.core.pictures import Frame
from cartouche.live.feeds import PulledFeed
from cartouche.live.troubles import Troubles
from tests.helpers import eventually
from tests.live.conftest import Plain


class Slow(Plain):
    """Hands out each picture only when it is let."""

    def __init__(self) -> None:
        super().__init__(90)
        self.asked_for, self.let = threading.Event(), threading.Event()

    def picture(self, now_s: float) -> Frame | None:
        self.asked_for.set()
        self.let.wait(5)
        return super().picture(now_s)


def test_a_picture_asked_for_before_a_restart_does_not_end_the_new_start() -> None:
    source, came = Slow(), []
    feed = PulledFeed("p", source, lambda _feed, frame: came.append(frame), Troubles())
    try:
        feed.want(True, time.monotonic())
        assert source.asked_for.wait(5)
        feed.restart(time.monotonic())
        source.asked_for.clear()
        source.let.set()
        source.let.clear()
        assert source.asked_for.wait(5), "it is asked anew"
        assert (feed.state(time.monotonic()), came) == ("starting", [])
        source.let.set()
        eventually(lambda: came)
        assert feed.state(time.monotonic()) == "live"
    finally:
        source.let.set()
        feed.close()
