"""What only the check measures: measured while somebody asks, at rest otherwise, and of the devices that serve now."""

import time
from collections.abc import Iterator

import numpy as np
import pytest

from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.live import computer, ready_watch
from cartouche.live.computer import Computer
from cartouche.live.demand import Demand, Surface
from cartouche.live.feeds import Feed, Feeds
from cartouche.live.ready_watch import ReadyWatch
from cartouche.live.setup import Setup
from cartouche.live.troubles import Troubles
from tests.helpers import eventually


def half(picture: np.ndarray) -> np.ndarray:
    """A network for which the left half of every picture is a person."""
    mask = np.zeros((1, 1, 144, 256), np.float32)
    mask[..., :128] = 1
    return mask


class Watched:
    def __init__(self) -> None:
        self.feeds, self.demand, self.troubles = Feeds(), Demand(), Troubles()
        self.setup = Setup(roles={"page": "desk", "face": "webcam"})
        for name, luma in (("desk", 90), ("webcam", 160)):
            feed = Feed(name, lambda *_: None, self.troubles, judged=False)
            self.feeds.add(feed)
            feed.want(True, time.monotonic())
            feed.accept(self.picture(luma))
        self.watch = ReadyWatch(self.feeds, self.demand, lambda: self.setup, half, self.troubles)
        self.watch.start()

    @staticmethod
    def picture(luma: int) -> Frame:
        return blank_frame(Size(320, 180), YuvColour(luma, 128, 128))


@pytest.fixture
def watched(monkeypatch: pytest.MonkeyPatch) -> Iterator[Watched]:
    monkeypatch.setattr(ready_watch, "LEASE_S", 0.4)
    monkeypatch.setattr(ready_watch, "LOOK_EVERY_S", 0.05)
    made = Watched()
    yield made
    made.watch.stop()


def test_it_measures_while_somebody_asks_and_lets_go_then(watched: Watched) -> None:
    assert watched.watch.look_of("face") is None
    assert not watched.demand.surfaces
    watched.watch.ask()
    face = eventually(lambda: watched.watch.look_of("face"))
    assert 0.4 < face.share < 0.6
    assert eventually(lambda: watched.watch.look_of("page")).luma == pytest.approx(90, abs=2)
    assert watched.demand.surfaces >= {Surface("page", "desk"), Surface("raw", "webcam")}
    eventually(lambda: not watched.demand.surfaces)
    assert watched.watch.look_of("face") is not None  # counts for a while


def test_what_was_measured_of_another_device_does_not_count(watched: Watched) -> None:
    watched.watch.ask()
    eventually(lambda: watched.watch.look_of("face"))
    watched.setup = Setup(roles={"page": "webcam", "face": "desk"})
    assert watched.watch.look_of("face") is None
    watched.watch.ask()
    assert eventually(lambda: watched.watch.look_of("face")).luma == pytest.approx(90, abs=2)


def test_a_device_without_a_picture_and_one_that_fails_end_nothing(watched: Watched, monkeypatch: pytest.MonkeyPatch) -> None:
    watched.setup = Setup(roles={"page": "nobody", "face": "webcam"})
    monkeypatch.setattr(ready_watch, "face_look", lambda *_: 1 / 0)
    watched.watch.ask()
    eventually(lambda: watched.troubles.count("watch") > 0)
    monkeypatch.undo()
    watched.watch.ask()
    assert eventually(lambda: watched.watch.look_of("face"))


def test_how_busy_is_a_share_and_heat_is_told_where_the_system_tells(monkeypatch: pytest.MonkeyPatch, tmp_path) -> None:  # type: ignore[no-untyped-def]
    count = tmp_path / "count"
    monkeypatch.setattr(computer, "_COUNT", count)
    looked = Computer()
    looked.look()
    assert looked.busy is not None
    assert 0 <= looked.busy <= 1
    assert looked.throttled is None
    count.write_text("3\n")
    looked.look()
    assert looked.throttled is False
    count.write_text("4\n")
    looked.look()
    assert looked.throttled is True
