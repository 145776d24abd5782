"""A known room whose stand was moved: squared up anew once, said, and undone by one press; otherwise left alone."""

import time

import pytest

from cartouche.core.straighten.chain import Chain, MirrorLink
from cartouche.demo.lesson import DEVICES, first_chain
from cartouche.store import chains
from cartouche.web.look_again import SAYS, LookAgain
from cartouche.web.state import AppState
from tests.helpers import eventually

DESK = "desk-camera"
RIGHT = first_chain(DEVICES[0])
SHIFTED = RIGHT.model_copy(
    update={"square": RIGHT.square.model_copy(update={"corners": tuple((x + 0.05, y + 0.03) for x, y in RIGHT.square.corners)})}
)


def looked(state: AppState, kept: Chain) -> Chain:
    """The chain after the first steady pictures of a start with this one kept."""
    chains.settle(state.database, DESK, kept)
    state.reopen()
    again = LookAgain(state)
    device, feed = state.device(DESK), state.running.feeds.get(DESK)
    assert feed is not None
    feed.want(True, time.monotonic())
    eventually(lambda: feed.latest is not None and feed.state(time.monotonic()) == "live")
    now_s = time.monotonic()
    again.look(device, feed, now_s)
    again.look(device, feed, time.monotonic() + 1.6 if feed.state(time.monotonic() + 1.6) == "live" else now_s + 0.1)
    again._since[DESK] = -10.0
    again.look(device, feed, time.monotonic())
    return state.chain(DESK)


def test_a_moved_stand_is_squared_up_anew_and_said(state: AppState) -> None:
    after = looked(state, SHIFTED)
    off = max(
        abs(a - b) for one, other in zip(after.square.corners, RIGHT.square.corners, strict=True) for a, b in zip(one, other, strict=True)
    )
    assert off < 0.01
    assert state.running.stage.notices[DESK] == SAYS
    chains.undo(state.database, DESK)
    assert chains.current(state.database, DESK).chain == SHIFTED


@pytest.mark.parametrize("kept", [RIGHT, Chain(), RIGHT.model_copy(update={"mirror": MirrorLink(top_bottom=True)})])
def test_what_lies_as_before_or_was_never_squared_is_left(state: AppState, kept: Chain) -> None:
    assert looked(state, kept) == kept
    assert DESK not in state.running.stage.notices
