"""The running lesson: work only for whoever looks, a change within one picture, nothing black."""

import threading
import time
from typing import Any

import numpy as np
import pytest

from benchmarks.handedness import PRINT
from benchmarks.handedness import page as page_of_print
from cartouche.core.pictures import Frame, Size
from cartouche.core.plates.compose import Composer
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain, FrameLink, MirrorLink
from cartouche.live import watcher
from cartouche.live.running import RunningLesson
from tests.helpers import eventually, settled
from tests.live.conftest import Plain, mean, show, viewer

PAGE, FACE = FIRST_PLATES[1], FIRST_PLATES[2]


def test_a_feed_that_nobody_looks_at_is_not_asked(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    page, face = page_and_face
    time.sleep(0.2)
    assert (page.asked, face.asked) == (0, 0)
    looking = viewer("outgoing")
    lesson.hub.join(looking)
    eventually(lambda: page.asked > 5)
    assert face.asked == 0, "the face is not on this plate"
    lesson.hub.leave(looking)
    time.sleep(0.1)
    asked = page.asked
    time.sleep(0.2)
    assert page.asked <= asked + 1


def test_a_plate_change_goes_out_with_the_next_picture(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    lesson.hub.join(viewer("outgoing"))
    lesson.hub.join(viewer("raw:f"))
    eventually(lambda: abs(mean(lesson.desk.latest) - 200) < 2)
    eventually(lambda: lesson.feeds.get("f") and lesson.feeds.get("f").latest)  # type: ignore[union-attr]
    lesson.stage.put_on(FACE)
    changed = lesson.desk.latest
    eventually(lambda: lesson.desk.latest is not changed)
    following = lesson.desk.latest
    eventually(lambda: lesson.desk.latest is not following)
    assert abs(mean(lesson.desk.latest) - 60) < 2


def test_a_correction_goes_out_live(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: abs(mean(lesson.desk.latest) - 200) < 2)
    before = lesson.stage.versions.total
    lesson.stage.correct("p", Chain(frame=FrameLink(zoom=2)))
    assert lesson.stage.versions.total > before
    assert lesson.setup.chains["p"].frame.zoom == 2


class Taken:
    """A sink that notes how old each picture was as it came."""

    def __init__(self) -> None:
        self.ages_s: list[float] = []

    def ready(self, now_s: float) -> bool:
        return True

    def take(self, frame: Frame, now_s: float) -> None:
        self.ages_s.append(time.monotonic() - frame.captured_s)


def test_after_a_moment_of_other_work_the_newest_goes_out_and_not_the_late_one(
    lesson: RunningLesson, page_and_face: tuple[Plain, Plain], monkeypatch: pytest.MonkeyPatch
) -> None:
    taken, compose, busy_s = Taken(), Composer.compose, [0.0]

    def held_up(*given: Any) -> Frame:
        frame = compose(*given)
        time.sleep(busy_s.pop() if busy_s else 0)
        return frame

    monkeypatch.setattr(Composer, "compose", held_up)
    lesson.hub.join(viewer("outgoing"))  # wanted by somebody
    lesson.desk.sinks = (*lesson.desk.sinks, taken)
    eventually(lambda: len(taken.ages_s) > 40 and np.median(taken.ages_s[-20:]) < 0.1)
    del taken.ages_s[:]
    busy_s.append(0.4)
    eventually(lambda: not busy_s and len(taken.ages_s) > 20)
    assert max(taken.ages_s) < 0.4


@pytest.mark.parametrize(("how", "state"), [("dead", "asleep"), ("gone", "lost")])
def test_a_feed_that_falls_silent_is_held_and_returns_by_itself(
    lesson: RunningLesson, page_and_face: tuple[Plain, Plain], how: str, state: str
) -> None:
    page, _ = page_and_face
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: abs(mean(lesson.desk.latest) - 200) < 2)
    setattr(page, how, True)
    eventually(lambda: lesson.feeds.get("p").state(time.monotonic()) == state)  # type: ignore[union-attr]
    held = lesson.desk.latest
    eventually(lambda: lesson.desk.latest is not held)
    assert abs(mean(lesson.desk.latest) - 200) < 2
    page.y = 150
    setattr(page, how, False)
    eventually(lambda: abs(mean(lesson.desk.latest) - 150) < 2)


def test_a_camera_that_goes_black_is_never_black_for_longer_than_a_fifth_of_a_second(
    lesson: RunningLesson, page_and_face: tuple[Plain, Plain]
) -> None:
    page, _ = page_and_face
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: abs(mean(lesson.desk.latest) - 200) < 2)
    time.sleep(0.3)
    page.y, begun, black = 16, time.monotonic(), []
    while time.monotonic() - begun < 2.5:
        if mean(lesson.desk.latest) < 60:
            black.append(time.monotonic())
        time.sleep(0.004)
    assert not black or black[-1] - black[0] < 0.2
    assert abs(mean(lesson.desk.latest) - 200) < 2
    assert lesson.feeds.get("p").state(time.monotonic()) == "black"  # type: ignore[union-attr]
    page.y = 180
    eventually(lambda: abs(mean(lesson.desk.latest) - 180) < 2)


def test_two_hundred_deaths_leave_nothing_behind(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    page, _ = page_and_face
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: abs(mean(lesson.desk.latest) - 200) < 2)
    feed, threads = lesson.feeds.get("p"), threading.active_count()
    assert feed is not None
    for number in range(200):
        page.gone = True
        eventually(lambda: not feed.connected)
        page.gone = False
        lesson.restart_feed("p")
        asked = page.asked
        eventually(lambda asked=asked: page.asked > asked and feed.connected)  # type: ignore[misc]
        if number % 50 == 0:
            assert mean(lesson.desk.latest) > 150
    assert threading.active_count() == threads
    assert len(feed._good._ring) <= 3
    eventually(lambda: feed.state(time.monotonic()) == "live")


def test_without_any_feed_the_card_goes_out(lesson: RunningLesson) -> None:
    lesson.hub.join(viewer("outgoing"))
    frame = eventually(lambda: lesson.desk.latest)
    assert frame.y.mean() > 150


def test_the_outgoing_size_can_change_while_it_goes_out(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    looking = viewer("outgoing", 1920)
    lesson.hub.join(looking)
    eventually(lambda: lesson.desk.latest)
    lesson.resize(Size(1920, 1080))
    eventually(lambda: lesson.desk.latest and lesson.desk.latest.size == (1920, 1080))
    eventually(lambda: (newest := looking.newest) is not None and newest[12:16] == np.array([1920, 1080], "<u2").tobytes())


def test_the_desk_keeps_to_thirty_frames_a_second(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    """The page comes sixty times a second here; what goes out does not."""
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: lesson.desk.fps(time.monotonic()) > 15)
    time.sleep(2.0)
    assert lesson.desk.fps(time.monotonic()) < 33


def test_a_removed_device_lets_go_of_its_thread_and_its_pictures(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    lesson.hub.join(viewer("raw:p"))
    eventually(lambda: lesson.feeds.get("p").latest)  # type: ignore[union-attr]
    lesson.close_feed("p")
    assert lesson.feeds.get("p") is None
    lesson.close_feed("p")


def test_the_call_gives_each_audience_its_own_size_and_mirrors_only_the_self_view(
    lesson: RunningLesson, page_and_face: tuple[Plain, Plain]
) -> None:
    viewers = {name: viewer(f"audience:{name}", 1920) for name in ("pinned", "grid", "phone", "self")}
    for looking in viewers.values():
        lesson.hub.join(looking)
    lesson.start_call()
    lesson.start_call()
    eventually(lambda: all(looking.newest is not None for looking in viewers.values()))
    sizes = {name: tuple(np.frombuffer(looking.newest, "<u2", 2, 12)) for name, looking in viewers.items()}
    assert sizes == {"pinned": (1200, 674), "grid": (426, 240), "phone": (740, 416), "self": (300, 168)}
    lesson.stop_call()
    assert not lesson.call.running


def test_verdicts_are_worked_out_once_for_one_setup(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: lesson.verdicts.page_picture(lesson.setup))
    first = lesson.verdicts.of(lesson.setup)
    assert lesson.verdicts.of(lesson.setup) is first
    lesson.stage.put_on(FACE)
    assert lesson.verdicts.of(lesson.setup)[0].path is None


def test_a_source_that_fails_unexpectedly_comes_back(lesson: RunningLesson, caplog: pytest.LogCaptureFixture) -> None:
    class Odd(Plain):
        def picture(self, now_s: float):  # type: ignore[no-untyped-def]
            if 5 < self.asked < 60:
                self.asked += 1
                raise ValueError("a driver's whim")
            return super().picture(now_s)

    odd = Odd(180)
    lesson.open_source("p", odd)
    lesson.hub.join(viewer("raw:p"))
    eventually(lambda: lesson.feeds.get("p").connected and odd.asked > 70)  # type: ignore[union-attr]
    assert "a driver's whim" in caplog.text


class Printed:
    """A camera over a printed page that lies still: each picture has noise of its own."""

    fps = 10.0

    def __init__(self) -> None:
        self._random = np.random.default_rng(7)
        self._page = page_of_print(self._random, PRINT[0], "full")

    def picture(self, now_s: float) -> Frame:
        luma = np.clip(self._page[:1122] + self._random.normal(0, 2, (1122, 794)), 0, 255).astype(np.uint8)
        chroma = np.full((561, 397), 128, np.uint8)
        return Frame.of((luma, chroma, chroma), now_s)


def test_of_a_page_that_lies_still_screens_are_told_once(lesson: RunningLesson) -> None:
    """Each look measures it a little otherwise; what would be said of it stays."""
    lesson.open_source("p", Printed())
    show(lesson, PAGE, {"page": "p"}, {"p": Chain()}, {"p": 0})
    lesson.hub.join(viewer("outgoing"))
    seen = eventually(lambda: lesson.watcher.seen.get("p"))
    eventually(lambda: seen.reading is not None and seen.tone is not None)
    first, told, watched = seen.reading, lesson.stage.versions.by_topic()["page:p"], lesson.watcher._watched["p"]
    for _ in range(2):
        looked_s = watched.sharp_s
        eventually(lambda: watched.sharp_s > looked_s)  # noqa: B023
    assert lesson.stage.versions.by_topic()["page:p"] <= told + 1
    assert seen.reading is first, "and it is not read again and again"
    before = lesson.stage.versions.by_topic()["page:p"]
    lesson.stage.correct("p", Chain(mirror=MirrorLink(left_right=True)))
    eventually(lambda: lesson.stage.versions.by_topic()["page:p"] > before)


def test_another_page_is_read_at_once_however_still_it_lies(lesson: RunningLesson, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(watcher, "SELDOM_READ_S", 1e9)
    monkeypatch.setattr(watcher.Watcher, "_another", lambda *_, **__: None)
    lesson.watcher.read_every_s = 0.1
    lesson.open_source("p", Printed())
    show(lesson, PAGE, {"page": "p"}, {"p": Chain()}, {"p": 0})
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: "p" in lesson.watcher.seen and lesson.watcher.seen["p"].reading)
    watched = lesson.watcher._watched["p"]
    settled(lambda: watched.read_s, still_s=2.5)
    read_s, follow = watched.read_s, watcher.Watcher._follow
    laid = iter([1])

    def another(self: watcher.Watcher, feed_id: str, chain: Chain, frame: Frame, of: Any, page: Any, now_s: float) -> None:
        follow(self, feed_id, chain, frame, of, page, now_s)
        page.new_pages += next(laid, 0)

    monkeypatch.setattr(watcher.Watcher, "_follow", another)
    eventually(lambda: watched.read_s > read_s)
