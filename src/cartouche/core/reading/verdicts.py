"""One verdict per audience, and the readings of a chain: everything that a screen says about a straightened feed."""

from typing import NamedTuple

import numpy as np

from cartouche.core.call.audience import Audience, layer_named
from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Size
from cartouche.core.plates.model import Place
from cartouche.core.plates.placing import placing, stretch_over
from cartouche.core.reading.handedness import LightPath, light_path
from cartouche.core.reading.legibility import Print, smallest_print
from cartouche.core.straighten.chain import Chain, straighten
from cartouche.core.straighten.geometry import Keystone, keystone, rectangle, smallest_stretch
from cartouche.core.straighten.paper import tilt_deg, true_proportions


class PagePicture(NamedTuple):
    """The page's feed as the verdicts need it. mirrors: reflections in its rig."""

    chain: Chain
    feed: Size
    mirrors: int
    device_flips: int = 0


class Verdict(NamedTuple):
    """What one audience gets. print: None when no page is on the plate or its paper has no name yet."""

    audience: Audience
    path: LightPath | None
    print: Print | None


def verdict(audience: Audience, page: PagePicture | None, place: Place | None, outgoing: Size) -> Verdict:
    """page, place: the page's feed and the place that shows it, None when the plate shows no page."""
    if page is None or place is None:
        return Verdict(audience, None, None)
    path = light_path(page.mirrors, page.device_flips, page.chain, int(audience.mirrored))
    laid = placing(place, page.chain, page.feed, outgoing)
    mm = laid.straightened.mm_per_unit
    if mm is None or laid.box.empty:
        return Verdict(audience, path, None)
    feed_px, outgoing_px = stretch_over(laid)
    return Verdict(audience, path, smallest_print(feed_px / mm, outgoing_px / mm, outgoing, layer_named(audience.layer), audience))


class Readings(NamedTuple):
    """Numbers of a chain on its feed.

    tilt_deg: the camera's slant, None while square is off.  px_per_mm: detail at the page's worst spot and its best, None without a paper.
    canvas: size of the straightened picture.
    """

    keystone: Keystone | None
    tilt_deg: float | None
    px_per_mm: tuple[float, float] | None
    canvas: Size


def readings(chain: Chain, feed: Size) -> Readings:
    """Raises DegenerateCorners for corners that span no page."""
    made = straighten(chain, feed)
    if not chain.square.on:
        return Readings(None, None, None, made.canvas)
    corners = chain.square.corners_px(feed)
    try:
        tilt = tilt_deg(corners, feed, chain.square.aspect, true_proportions(corners, feed).focal_px)
    except DegenerateCorners:
        tilt = None
    detail = None
    if made.mm_per_unit:
        stretch = smallest_stretch(np.linalg.inv(made.matrix), rectangle(made.canvas)) / made.mm_per_unit
        detail = (float(stretch.min()), float(stretch.max()))
    return Readings(keystone(corners), tilt, detail, made.canvas)
