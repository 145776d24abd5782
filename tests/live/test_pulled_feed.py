"""A feed that is asked for its pictures: what was on its way before a new start is not that start."""

import threading
import time

import pytest

from cartouche.core.pictures import Frame
from cartouche.live.feeds import Feeds, PulledFeed
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
    feed = PulledFeed("p", source, lambda _feed, frame: came.append(frame), Troubles(), lambda: 30.0)
    try:
        feed.want(True, time.monotonic())
        assert source.asked_for.wait(5)
        feed.restart(time.monotonic())
        source.asked_for.clear()
        source.let.set()
        source.let.clear()
        assert source.asked_for.wait(5), "it is asked again"
        assert (feed.state(time.monotonic()), came) == ("starting", [])
        source.let.set()
        eventually(lambda: came)
        assert feed.state(time.monotonic()) == "live"
    finally:
        source.let.set()
        feed.close()


@pytest.mark.parametrize(("most_fps", "each_s"), [(10.0, 0.1), (100.0, 1 / 60)])
def test_it_is_asked_for_no_more_pictures_than_go_out(most_fps: float, each_s: float) -> None:
    source, asked_s = Plain(90), []
    source.picture, plain = lambda now_s: (asked_s.append(now_s), plain(now_s))[1], source.picture  # type: ignore[method-assign]
    feed = PulledFeed("p", source, lambda *_: None, Troubles(), lambda: most_fps)
    try:
        begun_s = time.monotonic()
        feed.want(True, begun_s)
        eventually(lambda: len(asked_s) > 5)
        assert asked_s[5] - begun_s > 4.99 * each_s, "nor two at once as it begins"
    finally:
        feed.close()


def test_a_feed_that_is_opened_while_all_ends_is_let_go_of() -> None:
    feeds = Feeds()
    feeds.close()
    feed = PulledFeed("late", Plain(90), lambda *_: None, Troubles(), lambda: 30.0)
    feeds.add(feed)
    assert feeds.get("late") is None
    assert not [thread for thread in threading.enumerate() if thread.name == "feed-late"]
