"""A page set upright and true by its own print, whatever the chain did to it before."""

import itertools

import numpy as np
import pytest

from benchmarks.handedness import PRINT, page
from cartouche.core.pictures import Plane, Size
from cartouche.core.reading.proof import Proof, read_way
from cartouche.core.reading.upright import set_upright
from cartouche.core.straighten.chain import Chain, MirrorLink, TurnLink, straighten
from cartouche.core.straighten.way_up import flipped, seen, turned
from cartouche.models import way_net

WIDE = Size(160, 90)
CHAINS = [
    Chain(turn=TurnLink(quarters=quarters), mirror=MirrorLink(left_right=across, top_bottom=down))
    for quarters, across, down in itertools.product(range(4), (False, True), (False, True))
]


def shown(chain: Chain, raw: Plane) -> Plane:
    """The picture under a chain of turns and flips alone, by array moves of its own."""
    turned_ = np.rot90(raw, -chain.turn.quarters) if chain.turn.on else raw
    if chain.mirror.on and chain.mirror.left_right:
        turned_ = turned_[:, ::-1]
    if chain.mirror.on and chain.mirror.top_bottom:
        turned_ = turned_[::-1]
    return np.ascontiguousarray(turned_)


@pytest.mark.parametrize("chain", CHAINS)
def test_a_turn_is_clockwise_as_seen_and_a_flip_is_left_right(chain: Chain) -> None:
    raw = np.arange(12, dtype=np.uint8).reshape(3, 4)
    before = shown(chain, raw)
    for quarters in range(4):
        np.testing.assert_array_equal(shown(turned(chain, quarters), raw), np.rot90(before, -quarters))
        np.testing.assert_array_equal(shown(seen(chain, quarters, True), raw), np.rot90(before[:, ::-1], -quarters))
    np.testing.assert_array_equal(shown(flipped(chain), raw), before[:, ::-1])


def test_the_moves_of_this_test_are_those_of_the_chain() -> None:
    mark = np.array([20.0, 10.0, 1.0])  # the upper left eighth of a wide picture
    for chain in CHAINS:
        raw = np.zeros((9, 16), np.uint8)
        raw[1, 2] = 255
        y, x = np.argwhere(shown(chain, raw))[0]
        straightened = straighten(chain, WIDE)
        at = (straightened.matrix @ mark)[:2]
        assert abs(at[0] / 10 - x) <= 1
        assert abs(at[1] / 10 - y) <= 1


def test_a_link_that_is_off_begins_anew() -> None:
    off = Chain(turn=TurnLink(on=False, quarters=3), mirror=MirrorLink(on=False, left_right=True))
    assert turned(off, 1).turn == TurnLink(quarters=1)
    assert flipped(off).mirror == MirrorLink(left_right=True)


@pytest.mark.parametrize("chain", CHAINS)
def test_what_the_print_says_is_done_at_once(chain: Chain) -> None:
    raw = page(np.random.default_rng(3), PRINT[0], "full")
    upright = set_upright(chain, read_way(shown(chain, raw), way_net()))
    assert upright.told
    after = read_way(shown(upright.chain, raw), way_net())
    assert (after.reads_true, after.quarters) == (True, 0)
    done = shown(chain, raw).shape != raw.shape or not np.array_equal(shown(chain, raw), raw)
    assert bool(upright.says) is done


def test_where_it_cannot_tell_nothing_is_done() -> None:
    upright = set_upright(CHAINS[5], Proof(None, 2, 0.8, 0.3))
    assert upright == (CHAINS[5], "", False)
