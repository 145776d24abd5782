"""Rigs: how a device is held, and what that says of turn and reflections before anything is measured."""

from typing import NamedTuple

from cartouche.core.straighten.chain import Chain, MirrorLink, TurnLink


class Rig(NamedTuple):
    """quarters: quarter turns that set the page upright after squaring.  mirrors: reflections in its light path."""

    id: str
    name: str
    quarters: int
    mirrors: int
    holds: str | None  # 'page' or 'face'; None for whatever it is
    price: str


RIGS: tuple[Rig, ...] = (
    Rig("arm-own-side", "Overhead arm, from your side", 0, 0, "page", "Both hands stay free."),
    Rig("arm-far-side", "Overhead arm, from the far side", 2, 0, "page", "Both hands stay free; the picture arrives upside down."),
    Rig(
        "shelf",
        "Shelf with a hole",
        0,
        0,
        "page",
        "Both hands stay free; the device lies flat and cannot be tilted. Its own shadow falls on the page.",
    ),
    Rig(
        "tripod",
        "Tripod in front of the desk",
        2,
        0,
        "page",
        "Both hands stay free; it stands in your way and sees the page slanted, and it arrives upside down.",
    ),
    Rig(
        "gooseneck",
        "Gooseneck from the side",
        1,
        0,
        "page",
        "Both hands stay free; it nods when the desk is knocked, and the picture arrives sideways.",
    ),
    Rig("in-hand", "In the hand", 0, 0, "page", "Costs you one hand, and the picture shakes."),
    Rig(
        "clip-mirror",
        "Clip-on mirror on a laptop",
        2,
        1,
        "page",
        "One mirror: the picture comes reversed. The face needs another camera.",
    ),
    Rig(
        "tablet-mirror",
        "Mirror piece on a tablet in a stand",
        2,
        1,
        "page",
        "One mirror: the picture comes reversed. The tablet’s screen stays in your sight.",
    ),
    Rig("at-face", "Pointing at your face", 0, 0, "face", "Shows you, not the paper."),
    Rig("as-it-is", "Nothing holds it: a file, window or stream", 0, 0, None, "Arrives upright; there is nothing to square up."),
)


def rig_named(rig_id: str) -> Rig:
    """Raises KeyError for a rig that does not exist."""
    return {rig.id: rig for rig in RIGS}[rig_id]


def first_guess(rig: Rig, chain: Chain) -> Chain:
    """The chain with the rig's turn, and with flips that undo its mirrors. Half a turn and one flip left-right are one flip top-bottom."""
    return chain.model_copy(
        update={
            "turn": TurnLink(quarters=rig.quarters),
            "mirror": MirrorLink(left_right=bool(rig.mirrors % 2)),
        }
    )
