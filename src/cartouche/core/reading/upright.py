"""Setting a page upright and true by its own print."""

from typing import NamedTuple

from cartouche.core.reading.agreement import TURNS
from cartouche.core.reading.proof import Proof
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.way_up import seen


class SetUpright(NamedTuple):
    """chain: as the print says it should be.  says: what was done, for a teacher; '' where nothing was.  told: whether the print tells."""

    chain: Chain
    says: str
    told: bool


def set_upright(chain: Chain, proof: Proof) -> SetUpright:
    """proof: of the straightened page as this chain leaves it. Where it cannot tell, the chain stays as it is."""
    if proof.reads_true is None:
        return SetUpright(chain, "", False)
    flip, quarters = not proof.reads_true, proof.quarters
    if not flip and not quarters:
        return SetUpright(chain, "", True)
    done = " and ".join([*(["flipped"] if flip else []), *([f"given {TURNS[quarters]}"] if quarters else [])])
    sure = min(99, round(100 * proof.confidence))  # of what was seen in a picture nobody is quite sure
    return SetUpright(seen(chain, quarters, flip), f"By its own print, {sure}% sure, the page was {done}.", True)
