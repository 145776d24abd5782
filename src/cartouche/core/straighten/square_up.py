"""The act of squaring up: from a found page to a chain."""

import math

import numpy as np

from cartouche.core.pictures import Corners, Size
from cartouche.core.straighten.chain import Chain, SquareLink
from cartouche.core.straighten.finder import Found
from cartouche.core.straighten.geometry import in_order_of
from cartouche.core.straighten.paper import PAPERS_MM, SNAP_WIDEST, snap, true_proportions
from cartouche.core.straighten.rigs import Rig, first_guess

NEAR_ENOUGH = 0.12  # of the picture's width, mean over corners: the same page, moved; its top stays its top


def squared_up(found: Found, chain: Chain, feed: Size, rig: Rig) -> Chain:
    """The chain with its square link set to the found page.

    A page near the one squared before keeps the teacher's turn and flips; any other starts from the rig's first guess.
    """
    before = chain.square.corners_px(feed)
    corners, off = in_order_of(found.corners, before)
    if chain.square.on and off < NEAR_ENOUGH * feed.width:
        return chain.model_copy(update={"square": _still_named(square_of(corners, feed), chain.square)})
    return first_guess(rig, chain.model_copy(update={"square": square_of(found.corners, feed)}))


def off_share(found: Found, chain: Chain, feed: Size) -> float:
    """How far the found page lies from the one squared before, mean over corners, of the picture's width."""
    return in_order_of(found.corners, chain.square.corners_px(feed))[1] / feed.width


def _still_named(square: SquareLink, before: SquareLink) -> SquareLink:
    """The paper that the teacher named stays named for as long as the page looks like it: no view tells A5 from A4."""
    alike = abs(math.log(square.aspect / before.aspect)) < SNAP_WIDEST
    return named(square, before.paper, before.lying) if before.paper and alike else square


def square_of(corners: Corners, feed: Size) -> SquareLink:
    """The square link of a quadrilateral in feed px, with the paper it looks like. Raises DegenerateCorners.

    corners: (4, 2) float64 px, clockwise as seen, the upper left first.  feed: px.
    """
    proportions = true_proportions(corners, feed)
    paper = snap(proportions)
    aspect = paper_aspect(*paper) if paper else proportions.aspect
    shares = (corners / np.array(feed, np.float64)).tolist()
    name, lying = paper or (None, aspect > 1)
    return SquareLink.model_validate({"corners": shares, "aspect": float(np.clip(aspect, 0.1, 10)), "paper": name, "lying": lying})


def paper_aspect(paper: str, lying: bool) -> float:
    short, long = PAPERS_MM[paper]
    return long / short if lying else short / long


def named(link: SquareLink, paper: str | None, lying: bool) -> SquareLink:
    """The link with a paper named by the teacher: its true proportions and millimetres follow."""
    aspect = paper_aspect(paper, lying) if paper else link.aspect
    return link.model_copy(update={"paper": paper, "lying": lying, "aspect": aspect})
