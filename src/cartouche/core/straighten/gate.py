"""The one gate for correction chains: judged whole, for a feed's size, before one is put in force or kept.

A chain's links are each within their bounds by their own types; what they come to together is judged here.
"""

from typing import Literal, NamedTuple

import numpy as np

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Size
from cartouche.core.straighten.chain import Chain, straighten
from cartouche.core.straighten.geometry import rectangle, transform
from cartouche.core.straighten.lens import fold

USUAL_FEED = Size(1280, 720)  # stands for a feed that has given no picture yet
MAX_FOLD = 0.8  # of 1, where the lens model turns back on itself: nearer to it a pixel moves by more than the picture is wide
MIN_CANVAS_PX = 8.0  # a page smaller than this in the feed shows nothing
MAX_SLANT = 40.0  # far side to near side, in depth: a page seen so flat is one line of pixels high

LinkName = Literal["unbend", "square"]


class Judged(NamedTuple):
    """chain: one that can be drawn.  off: the link that had to be switched off for it, None for none.  why: in words."""

    chain: Chain
    off: LinkName | None = None
    why: str = ""


def require_drawable(chain: Chain, feed: Size | None) -> Chain:
    """The same chain if it can be drawn whole; else raises DegenerateCorners with the reason.

    feed: px of the pictures that it corrects, None while no picture has come.
    """
    size = feed or USUAL_FEED
    if chain.square.on and chain.distortion:
        reach = fold(chain.square.corners_px(size), chain.distortion, size)
        if reach > MAX_FOLD:
            raise DegenerateCorners("with this lens curve they lie where the lens does not see")
    found = straighten(chain, size)
    if min(found.canvas) < MIN_CANVAS_PX:
        raise DegenerateCorners("they lie so close together that nothing can be seen between them")
    if not np.isfinite(found.matrix).all() or abs(float(np.linalg.det(found.matrix))) < 1e-12:
        raise DegenerateCorners("three of them lie on one line")
    ends = np.linalg.inv(found.matrix)[2] @ np.column_stack([rectangle(found.canvas), np.ones(4)]).T
    if ends.min() * ends.max() <= 0 or np.abs(ends).max() > MAX_SLANT * np.abs(ends).min():
        raise DegenerateCorners("the page would be seen from its edge")
    if not np.isfinite(transform(np.linalg.inv(found.matrix), rectangle(found.canvas))).all():
        raise DegenerateCorners("three of them lie on one line")
    return chain


def is_drawable(chain: Chain, feed: Size | None) -> bool:
    try:
        require_drawable(chain, feed)
    except DegenerateCorners:
        return False
    return True


def drawable(chain: Chain, feed: Size | None) -> Judged:
    """The chain itself, or the same with the offending link switched off. feed: as for `require_drawable`."""
    try:
        return Judged(require_drawable(chain, feed))
    except DegenerateCorners as exc:
        why = exc.why
    flat = chain.model_copy(update={"unbend": chain.unbend.model_copy(update={"on": False})})
    if chain.distortion and is_drawable(flat, feed):
        return Judged(flat, "unbend", why)
    return Judged(chain.model_copy(update={"square": chain.square.model_copy(update={"on": False})}), "square", why)
