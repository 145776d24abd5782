"""Turning and flipping the straightened page as it is seen, whatever the chain does already."""

from cartouche.core.straighten.chain import Chain


def turned(chain: Chain, quarters: int) -> Chain:
    """The chain whose page is seen turned by so many more quarters, clockwise.

    The chain flips after it turns, and behind one reflection a turn is seen the other way round.
    """
    turn = chain.turn if chain.turn.on else type(chain.turn)()
    clockwise = -quarters if chain.flips % 2 else quarters
    return chain.model_copy(update={"turn": turn.model_copy(update={"on": True, "quarters": (turn.quarters + clockwise) % 4})})


def flipped(chain: Chain) -> Chain:
    """The chain whose page is seen flipped left-right."""
    mirror = chain.mirror if chain.mirror.on else type(chain.mirror)()
    return chain.model_copy(update={"mirror": mirror.model_copy(update={"on": True, "left_right": not mirror.left_right})})


def seen(chain: Chain, quarters: int, flip: bool) -> Chain:
    """Flipped left-right first, where so wished, then turned by so many quarters clockwise."""
    return turned(flipped(chain) if flip else chain, quarters)
