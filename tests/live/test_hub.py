import time
from dataclasses import replace

import cv2
import numpy as np
import pytest

from cartouche.core.pictures import Size, YuvColour, blank_frame
from cartouche.live import hub as hub_module
from cartouche.live.demand import OUTGOING, Demand
from cartouche.live.hub import MAX_IN_FLIGHT, PICTURE_HEADER, Hub, Viewer
from cartouche.live.troubles import Troubles
from tests.live.conftest import Loop, surface, viewer

FRAME = blank_frame(Size(640, 360), YuvColour(120, 90, 200), captured_s=12.5)


@pytest.fixture
def demand() -> Demand:
    return Demand()


@pytest.fixture
def troubles() -> Troubles:
    return Troubles()


@pytest.fixture
def hub(demand: Demand, troubles: Troubles) -> Hub:
    return Hub(demand, troubles)


def waiting(width: int = 1280) -> Viewer:
    return Viewer(OUTGOING, width, 30, Loop())  # type: ignore[arg-type]


def test_nothing_is_encoded_for_nobody(hub: Hub, demand: Demand) -> None:
    assert not hub.ready(OUTGOING, 1.0)
    hub.publish(OUTGOING, FRAME, 1.0)
    assert not demand.surfaces


def test_a_message_carries_number_moment_size_and_picture(hub: Hub) -> None:
    looking = waiting()
    hub.join(looking)
    hub.publish(OUTGOING, FRAME, 1.0)
    message = looking.take(1.0)
    assert message is not None
    assert PICTURE_HEADER.unpack_from(message) == (1, 12.5, 640, 360)
    picture = cv2.imdecode(np.frombuffer(message, np.uint8, offset=PICTURE_HEADER.size), cv2.IMREAD_COLOR)
    assert picture.shape == (360, 640, 3)


def test_a_slow_viewer_gets_no_more_than_it_has_drawn(hub: Hub) -> None:
    looking = waiting()
    hub.join(looking)
    for number in range(10):
        hub.publish(OUTGOING, FRAME, float(number))
        looking.take(1.0)
    assert looking.in_flight == looking.sent == MAX_IN_FLIGHT
    looking.acknowledge()
    assert hub.ready(OUTGOING, 20.0)


def test_a_picture_that_was_overwritten_before_it_was_sent_gives_its_credit_back(hub: Hub) -> None:
    """The event loop stalls: what is offered meanwhile overwrites what waits, and must not count as under way for ever."""
    looking = waiting()
    hub.join(looking)
    for number in range(20):
        hub.publish(OUTGOING, FRAME, float(number))
    assert looking.in_flight == 1, "the one that waits to be sent"
    assert looking.take(1.0) is not None
    looking.acknowledge()
    assert looking.in_flight == 0
    for number in range(20, 20 + MAX_IN_FLIGHT):
        assert hub.ready(OUTGOING, float(number)), "as many under way as before the stall"
        hub.publish(OUTGOING, FRAME, float(number))
        looking.take(1.0)


def test_a_picture_that_became_old_while_it_waited_is_not_sent_and_gives_its_credit_back(hub: Hub) -> None:
    looking = waiting()
    hub.join(looking)
    for at_s, waited_s, sent in ((10.0, 0.1, True), (10.1, 0.25, False), (10.4, 0.1, True)):
        hub.publish(OUTGOING, replace(FRAME, captured_s=at_s), at_s)
        assert (looking.take(at_s + waited_s) is not None) == sent
    assert looking.in_flight == 2, "those that were sent"


def test_where_all_are_old_they_are_sent(hub: Hub) -> None:
    looking = waiting()
    hub.join(looking)
    for at_s in (10 + number / 10 for number in range(10)):
        hub.publish(OUTGOING, replace(FRAME, captured_s=at_s), at_s)
        assert looking.take(at_s + 0.3) is not None, "a held page, or a slow computer"
        looking.acknowledge()


def test_more_acknowledgements_than_pictures_give_no_credit(hub: Hub) -> None:
    looking = waiting()
    hub.join(looking)
    for _ in range(50):
        looking.acknowledge()
    for number in range(10):
        hub.publish(OUTGOING, FRAME, float(number))
        looking.take(1.0)
    assert looking.in_flight == MAX_IN_FLIGHT


def test_thirty_a_second_means_every_picture_of_thirty_even_when_work_takes_its_time(hub: Hub) -> None:
    looking = viewer("outgoing", max_fps=30)
    hub.join(looking)
    for number in range(60):
        begun = 10 + number / 30
        if hub.ready(OUTGOING, begun):
            hub.publish(OUTGOING, FRAME, begun)
    assert looking.seen == 60  # type: ignore[attr-defined]


def test_fewer_a_second_for_small_viewers(hub: Hub) -> None:
    looking = viewer("outgoing", max_fps=8)
    hub.join(looking)
    for number in range(60):
        hub.publish(OUTGOING, FRAME, number / 30)
    assert 14 <= looking.seen <= 20  # type: ignore[attr-defined]


def test_the_largest_viewer_decides_the_size_and_none_gets_more_than_there_is(hub: Hub) -> None:
    small, large = viewer("outgoing", 200), viewer("outgoing", 320)
    hub.join(small)
    hub.join(large)
    hub.publish(OUTGOING, FRAME, 1.0)
    assert small.newest is large.newest  # type: ignore[attr-defined]
    assert PICTURE_HEADER.unpack_from(small.newest)[2:] == (320, 180)  # type: ignore[attr-defined]
    hub.leave(large)
    hub.publish(OUTGOING, FRAME, 2.0)
    assert PICTURE_HEADER.unpack_from(small.newest)[2:] == (200, 112)  # type: ignore[attr-defined]


def test_leaving_is_repeatable_and_ends_the_claim(hub: Hub, demand: Demand) -> None:
    looking, changes = waiting(), []
    demand.on_change.append(lambda: changes.append(OUTGOING in demand.surfaces))
    hub.join(looking)
    hub.leave(looking)
    hub.leave(looking)
    assert changes == [True, False]


def test_a_viewer_whose_loop_has_closed_is_passed_over(hub: Hub) -> None:
    class Closed:
        def call_soon_threadsafe(self, *_: object) -> None:
            raise RuntimeError("Event loop is closed")

    gone, there = Viewer(OUTGOING, 640, 30, Closed()), viewer("outgoing")  # type: ignore[arg-type]
    hub.join(gone)
    hub.join(there)
    hub.publish(OUTGOING, FRAME, 1.0)
    assert there.newest is not None  # type: ignore[attr-defined]
    assert gone.closed


def test_a_picture_that_cannot_be_encoded_is_told_and_the_next_one_comes(
    hub: Hub, troubles: Troubles, monkeypatch: pytest.MonkeyPatch
) -> None:
    looking = viewer("raw:desk")
    hub.join(looking)

    def broken(*_: object) -> bytes:
        raise MemoryError

    with monkeypatch.context() as patch:
        patch.setattr(hub_module, "encode", broken)
        hub.publish(surface("raw:desk"), FRAME, 1.0)
    assert [(trouble.stage, trouble.device_id) for trouble in troubles.now(time.monotonic())] == [("encode", "desk")]
    hub.publish(surface("raw:desk"), FRAME, 2.0)
    assert looking.newest is not None  # type: ignore[attr-defined]
