"""What is measured of running devices: kept once it is steady, and not told to every page each second."""

import threading
import time
from dataclasses import replace
from typing import Any

import pytest
from fastapi.testclient import TestClient

from cartouche.core.pictures import Size
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.feeds import Feed
from cartouche.live.stream_feed import StreamFeed
from cartouche.store import tried
from cartouche.web.app import create_app
from cartouche.web.caretaker import MEASURED_AGAIN_S, STEADY_FOR_S, Caretaker
from cartouche.web.state import AppState
from tests.helpers import SLOWEST_S
from tests.web.conftest import HERE
from tests.web.taught import PAGE


@pytest.fixture
def measured(state: AppState, monkeypatch: pytest.MonkeyPatch) -> Any:
    """Looks at the page's camera as if it gave so many pictures a second of that size, for so many seconds; the times it was news."""
    feed, caretaker, begun = state.running.feeds.get(PAGE), Caretaker(state, None), [1000.0]  # type: ignore[arg-type]
    assert feed is not None
    state.running.desk.full_fps = 30.0
    facts = feed.facts(0.0)

    def look(fps: float, size: Size, seconds: float, feed: Feed = feed) -> int:
        seen = replace(facts, state="live", size=size, fps=fps, delay_s=0.05)
        monkeypatch.setattr(Feed, "facts", lambda self, now_s: seen)
        before = state.running.stage.versions.by_topic().get("kit", 0)
        for _ in range(round(seconds)):
            caretaker._keep_measured(state.device(PAGE), feed, begun[0])
            begun[0] += 1
        return state.running.stage.versions.by_topic().get("kit", 0) - before

    return look


def kept(state: AppState) -> list[tuple[int, float]]:
    return [(one.width, one.fps) for one in tried.tried(state.database, PAGE)]


def test_a_size_is_kept_once_it_is_steady(state: AppState, measured: Any) -> None:
    assert measured(30.0, Size(640, 360), STEADY_FOR_S) == 0
    assert (640, 30.0) not in kept(state)
    assert measured(30.0, Size(640, 360), 2) == 1
    assert (640, 30.0) in kept(state)
    assert measured(25.0, Size(800, 450), STEADY_FOR_S + 2) == 1, "another size is news at once"


def test_a_camera_that_is_asked_for_few_pictures_says_nothing_of_its_size(state: AppState, measured: Any) -> None:
    camera, desk = CameraFeed(PAGE, lambda *_: None, state.running.troubles), state.running.desk
    desk.full_fps = 5.0
    for feed in (camera, state.running.feeds.get(PAGE)):
        assert measured(5.0, Size(640, 360), STEADY_FOR_S + 2, feed) == 0
        assert (640, 5.0) not in kept(state)
    desk.full_fps = 30.0
    assert measured(30.0, Size(640, 360), STEADY_FOR_S + 2, camera) == 1
    camera.close()


def test_a_stream_sends_what_it_sends_however_few_go_out(state: AppState, measured: Any) -> None:
    stream = StreamFeed(PAGE, "rtsp://127.0.0.1:9/desk", lambda *_: None, state.running.troubles)
    state.running.desk.full_fps = 5.0
    assert measured(25.0, Size(640, 360), STEADY_FOR_S + 2, stream) == 1
    stream.close()


def test_a_machine_with_moods_is_not_told_every_second(state: AppState, measured: Any) -> None:
    measured(30.0, Size(640, 360), STEADY_FOR_S + 2)
    told = sum(measured(fps, Size(640, 360), 1) for _ in range(30) for fps in (30.0, 12.0))
    assert 1 <= told <= 60 / MEASURED_AGAIN_S
    measured(10.0, Size(640, 360), 2 * (MEASURED_AGAIN_S + STEADY_FOR_S))
    assert (640, 10.0) in kept(state), "what has become of it is known in the end"


def test_a_look_that_is_under_way_ends_before_the_store_closes(state: AppState, monkeypatch: pytest.MonkeyPatch) -> None:
    begun, ends = threading.Event(), list[str]()

    def slow(self: Caretaker, now_s: float) -> None:
        begun.set()
        time.sleep(1.5)
        ends.append("look")

    close = AppState.close
    monkeypatch.setattr(Caretaker, "look_after", slow)
    monkeypatch.setattr(AppState, "close", lambda self: (ends.append("store"), close(self)))
    with TestClient(create_app(state), base_url=HERE):
        assert begun.wait(SLOWEST_S)
    assert ends[:2] == ["look", "store"]
