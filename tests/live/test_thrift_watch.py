"""The levers of a computer that cannot keep up: what they do to previews, face and size, and that they let go again."""

import asyncio
import time
from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.core.pictures import Frame, Size
from cartouche.core.watch.thrift import DOWN_S, MAX_MAKING_S, ORDER, UP_S
from cartouche.live.demand import OUTGOING, Surface
from cartouche.live.hub import Viewer
from cartouche.live.running import SIZES, RunningLesson
from cartouche.live.thrift_watch import AUDIENCES_FPS, FACE_FPS, PACE, SMALLER
from cartouche.live.watcher import READ_EVERY_S, SELDOM_READ_S
from tests.helpers import eventually


@pytest.fixture
def running() -> Iterator[RunningLesson]:
    made = RunningLesson(CallCodec, CallVoice)
    made.thrift.stop()  # looked at by hand
    yield made
    made.close()


def looks(running: RunningLesson, busy: float, seconds: float, at_s: float) -> float:
    for second in range(int(seconds)):
        running.thrift.look(busy, at_s + second)
    return at_s + seconds


def test_all_is_lowered_said_and_given_back(running: RunningLesson) -> None:
    claim = running.demand.claim(OUTGOING)
    running.resize(SIZES["1080p"])
    before = running.stage.versions.by_topic().get("teach", 0)
    now_s = looks(running, 0.99, len(ORDER) * DOWN_S + 1, 1000.0)
    assert running.desk.size == SMALLER
    assert running.thrift.size == SIZES["1080p"]  # what is meant stays
    assert running.desk.face_fps == FACE_FPS
    assert running.desk.max_fps == pytest.approx(30 * PACE)
    assert running.desk.full_fps == 30, "what is meant stays: Ready says that fewer go out"
    assert running.hub.seldom["audience"] == AUDIENCES_FPS
    assert running.watcher.read_every_s == SELDOM_READ_S
    assert running.thrift.says is not None
    assert running.stage.versions.by_topic()["teach"] > before
    claim.release()
    looks(running, 0.2, len(ORDER) * (UP_S + 2), now_s)
    assert running.desk.size == SIZES["1080p"]
    assert running.desk.face_fps is None
    assert running.desk.max_fps == 30
    assert running.hub.seldom == {}
    assert running.watcher.read_every_s == READ_EVERY_S
    assert running.thrift.says is None


def test_cameras_are_told_that_fewer_go_out(running: RunningLesson) -> None:
    camera, told = running.open_camera("mine"), []
    camera.on_want = lambda: told.append(running.desk.max_fps)
    claim = running.demand.claim(OUTGOING)
    now_s = looks(running, 0.99, len(ORDER) * DOWN_S + 1, 1000.0)
    assert told[-1] == pytest.approx(30 * PACE)
    claim.release()
    looks(running, 0.2, len(ORDER) * (UP_S + 2), now_s)
    assert told[-1] == 30


def test_who_chooses_the_smaller_size_meanwhile_keeps_it(running: RunningLesson) -> None:
    claim = running.demand.claim(OUTGOING)
    running.resize(SIZES["1080p"])
    now_s = looks(running, 0.99, len(ORDER) * DOWN_S + 1, 1000.0)
    running.resize(SIZES["720p"])
    claim.release()
    looks(running, 0.2, len(ORDER) * (UP_S + 2), now_s)
    assert running.desk.size == SIZES["720p"]


def test_fewer_pictures_go_out_while_it_is_paced(running: RunningLesson) -> None:
    class Sink:
        def __init__(self) -> None:
            self.at_s: list[float] = []

        def ready(self, now_s: float) -> bool:
            return True

        def take(self, frame: Frame, now_s: float) -> None:
            self.at_s.append(now_s)

    full, paced = Sink(), Sink()
    running.desk.sinks = (full,)
    eventually(lambda: any(later - before < 0.1 for before, later in pairwise(full.at_s)))
    running.desk.pace = 0.1
    running.desk.sinks = (paced,)
    eventually(lambda: len(paced.at_s) > 4)
    assert min(later - before for before, later in pairwise(paced.at_s[1:])) > 0.9 / running.desk.max_fps  # however busy a machine is


def test_pictures_that_take_long_to_make_are_known(running: RunningLesson, monkeypatch: pytest.MonkeyPatch) -> None:
    desk = running.desk
    desk.stop()  # made by hand
    desk._slow.clear()
    assert desk.slow_share == 0
    composed = desk._composed

    def slowly(*args: Any) -> Frame:
        time.sleep(MAX_MAKING_S)
        return composed(*args)

    for _ in range(3):
        desk._make(running.setup, desk._composer, [], time.monotonic())
    assert desk.slow_share < 1
    monkeypatch.setattr(desk, "_composed", slowly)
    for _ in range(50):
        desk._make(running.setup, desk._composer, [], time.monotonic())
    assert desk.slow_share == 1


def test_a_lowered_surface_is_drawn_seldom_and_the_outgoing_picture_is_not(running: RunningLesson) -> None:
    loop = asyncio.new_event_loop()
    running.hub.seldom = {"audience": 3.0}
    sees, goes = Viewer(Surface("audience", "grid"), 320, 30.0, loop), Viewer(OUTGOING, 320, 30.0, loop)
    for viewer in (sees, goes):
        running.hub.join(viewer)
        viewer.last_s = 10.0
    assert not running.hub.ready(sees.surface, 10.2)
    assert running.hub.ready(sees.surface, 10.3)
    assert running.hub.ready(OUTGOING, 10.04)
    for viewer in (sees, goes):
        running.hub.leave(viewer)
    loop.close()


def test_a_face_that_moves_seldom_keeps_its_picture_whole(running: RunningLesson) -> None:
    class Feed:
        id = "face-camera"
        stale = False

        def __init__(self) -> None:
            self.frame = Frame.of(tuple(np.full((8 // k, 16 // k), 10, np.uint8) for k in (1, 2, 2)), 1.0)

        def showable(self, now_s: float) -> Frame:
            return self.frame

    desk, feed = running.desk, Feed()
    running.stage.change(lambda setup: replace(setup, roles={"face": "face-camera"}), "kit")
    desk.face_fps = 10.0
    first = desk._newest(running.setup, feed, 5.0)  # type: ignore[arg-type]
    feed.frame.y[:] = 200  # the feed draws its next picture into the same planes
    again = desk._newest(running.setup, feed, 5.05)  # type: ignore[arg-type]
    assert first is again
    assert first is not None
    assert first.size == Size(16, 8)
    assert int(first.y[0, 0]) == 10
    later = desk._newest(running.setup, feed, 5.11)  # type: ignore[arg-type]
    assert later is not None
    assert int(later.y[0, 0]) == 200
