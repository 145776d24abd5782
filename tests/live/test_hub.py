import cv2
import numpy as np

from cartouche.core.pictures import Size, YuvColour, blank_frame
from cartouche.live.hub import HEADER, MAX_IN_FLIGHT, Hub, Viewer
from tests.live.conftest import Loop, viewer

FRAME = blank_frame(Size(640, 360), YuvColour(120, 90, 200), captured_s=12.5)


def waiting(key: str = "outgoing", width: int = 1280) -> Viewer:
    return Viewer(key, width, 30, Loop())  # type: ignore[arg-type]


def test_nothing_is_encoded_for_nobody() -> None:
    hub = Hub()
    assert not hub.ready("outgoing", 1.0)
    hub.publish("outgoing", FRAME, 1.0)
    assert not hub.looked_surfaces()


def test_a_message_carries_number_moment_size_and_picture() -> None:
    hub, looking = Hub(), viewer("outgoing")
    hub.look(looking)
    hub.publish("outgoing", FRAME, 1.0)
    assert looking.picture is not None
    assert HEADER.unpack_from(looking.picture) == (1, 12.5, 640, 360)
    picture = cv2.imdecode(np.frombuffer(looking.picture, np.uint8, offset=HEADER.size), cv2.IMREAD_COLOR)
    assert picture.shape == (360, 640, 3)


def test_a_slow_looker_gets_no_more_than_it_has_drawn() -> None:
    hub, looking = Hub(), waiting()
    hub.look(looking)
    for number in range(10):
        hub.publish("outgoing", FRAME, float(number))
    assert looking.in_flight == MAX_IN_FLIGHT
    assert looking.picture is not None
    assert HEADER.unpack_from(looking.picture)[0] == MAX_IN_FLIGHT
    looking.in_flight -= 1
    assert hub.ready("outgoing", 20.0)


def test_thirty_a_second_means_every_picture_of_thirty_even_when_work_takes_its_time() -> None:
    hub, looking = Hub(), viewer("outgoing", max_fps=30)
    hub.look(looking)
    for number in range(60):
        begun = 10 + number / 30
        if hub.ready("outgoing", begun):
            hub.publish("outgoing", FRAME, begun)
    assert looking.seen == 60  # type: ignore[attr-defined]


def test_fewer_a_second_for_small_lookers() -> None:
    hub, looking = Hub(), viewer("outgoing", max_fps=8)
    hub.look(looking)
    for number in range(60):
        hub.publish("outgoing", FRAME, number / 30)
    assert 14 <= looking.seen <= 20  # type: ignore[attr-defined]


def test_the_largest_looker_decides_the_size_and_none_gets_more_than_there_is() -> None:
    hub, small, large = Hub(), viewer("outgoing", 200), viewer("outgoing", 320)
    hub.look(small)
    hub.look(large)
    hub.publish("outgoing", FRAME, 1.0)
    assert small.picture is large.picture
    assert small.picture is not None
    assert HEADER.unpack_from(small.picture)[2:] == (320, 180)
    hub.leave(large)
    hub.publish("outgoing", FRAME, 2.0)
    assert HEADER.unpack_from(small.picture)[2:] == (200, 112)


def test_leaving_is_repeatable_and_told() -> None:
    hub, looking, told = Hub(), waiting(), []
    hub.on_change.append(lambda: told.append(hub.looked_at("outgoing")))
    hub.look(looking)
    hub.leave(looking)
    hub.leave(looking)
    assert told == [True, False, False]


def test_a_looker_whose_loop_has_closed_is_passed_over() -> None:
    class Closed:
        def call_soon_threadsafe(self, *_: object) -> None:
            raise RuntimeError("Event loop is closed")

    hub, gone, there = Hub(), Viewer("outgoing", 640, 30, Closed()), viewer("outgoing")  # type: ignore[arg-type]
    hub.look(gone)
    hub.look(there)
    hub.publish("outgoing", FRAME, 1.0)
    assert there.picture is not None
    assert gone.closed
