"""One verdict per audience, and the readings of a chain: everything that a screen says about a straightened feed."""

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.call.audience import Audience
from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Size
from cartouche.core.plates.model import Place
from cartouche.core.plates.placing import placing, stretch_over
from cartouche.core.reading.handedness import LightPath, light_path
from cartouche.core.reading.legibility import MM_PER_POINT, Print, smallest_print
from cartouche.core.straighten.chain import Chain, straighten
from cartouche.core.straighten.geometry import Keystone, keystone, rectangle, smallest_stretch, transform
from cartouche.core.straighten.lens import undistort
from cartouche.core.straighten.paper import tilt_deg, true_proportions


class PagePicture(NamedTuple):
    """The page's feed as the verdicts need it. mirrors: reflections in its rig.

    asks_pt: the smallest print measured on the page itself.  page_true: see `LightPath`.
    """

    chain: Chain
    feed: Size
    mirrors: int
    device_flips: int = 0
    asks_pt: float | None = None
    page_true: bool | None = None


class Verdict(NamedTuple):
    """What one audience gets. print: None when no page is on the plate or its paper has no name yet.

    too_small_by: how much larger this page's smallest print would have to be, 1 or less when it reads, None when not measured.
    words: how many words of that print stand across the visible part.
    """

    audience: Audience
    path: LightPath | None
    print: Print | None
    too_small_by: float | None = None
    words: float | None = None

    @property
    def reads(self) -> bool | None:
        """Whether this page's smallest print can be read; None where it was not measured."""
        return None if self.too_small_by is None else self.too_small_by <= READS_WITHIN


READS_WITHIN = 1.05  # measuring print on a moving picture is off by as much


def verdict(audience: Audience, page: PagePicture | None, place: Place | None, outgoing: Size) -> Verdict:
    """page, place: the page's feed and the place that shows it, None when the plate shows no page."""
    if page is None or place is None:
        return Verdict(audience, None, None)
    path = light_path(page.mirrors, page.device_flips, page.chain, int(audience.mirrored), page.page_true)
    print_ = print_for(audience, page, place, outgoing)
    if print_ is None or page.asks_pt is None:
        return Verdict(audience, path, print_)
    return Verdict(audience, path, print_, print_.points / page.asks_pt, words_across(page, place, outgoing, page.asks_pt))


class Detail(NamedTuple):
    """Of a page's visible part, whoever looks. feed_px_per_mm, outgoing_px_per_mm: (n,), see `smallest_print`, read-only.
    across_mm: its width."""

    feed_px_per_mm: NDArray[np.float64]
    outgoing_px_per_mm: NDArray[np.float64]
    across_mm: float


@lru_cache(maxsize=256)  # one for all audiences and all ways into the call
def detail(chain: Chain, feed: Size, place: Place, outgoing: Size) -> Detail | None:
    """None without millimetres or when nothing shows. Raises DegenerateCorners."""
    placed = placing(place, chain, feed, outgoing)
    mm = placed.straightened.mm_per_unit
    if mm is None or placed.box.empty:
        return None
    feed_px, outgoing_px = stretch_over(placed)
    across_mm = (placed.box.x1 - placed.box.x0) / float(placed.canvas_matrix[0, 0]) * mm
    found = Detail(feed_px / mm, outgoing_px / mm, across_mm)
    found.feed_px_per_mm.flags.writeable = found.outgoing_px_per_mm.flags.writeable = False
    return found


def print_for(audience: Audience, page: PagePicture, place: Place, outgoing: Size) -> Print | None:
    """The smallest print that this audience can read of the page in this place; None without millimetres or when nothing shows."""
    shown = detail(page.chain, page.feed, place, outgoing)
    return None if shown is None else smallest_print(shown.feed_px_per_mm, shown.outgoing_px_per_mm, outgoing, audience)


WORD_EM = 3.0  # a word and its space: six characters of half an em, as reading research counts them (Carver 1990)


def words_across(page: PagePicture, place: Place, outgoing: Size, points: float) -> float | None:
    """How many words of this size stand side by side across the visible part of the page."""
    shown = detail(page.chain, page.feed, place, outgoing)
    return None if shown is None else shown.across_mm / (WORD_EM * points * MM_PER_POINT)


def visible_part(page: PagePicture, place: Place, outgoing: Size) -> tuple[float, float, float, float]:
    """Left, top, right, bottom of what the place shows, as shares of the straightened page."""
    placed = placing(place, page.chain, page.feed, outgoing)
    canvas = placed.straightened.canvas
    ends = transform(
        np.linalg.inv(placed.canvas_matrix), np.array([[placed.box.x0, placed.box.y0], [placed.box.x1, placed.box.y1]], np.float64)
    )
    (left, top), (right, bottom) = (ends / np.array(canvas)).clip(0, 1).tolist()
    return left, top, right, bottom


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
    straightened = straighten(chain, feed)
    if not chain.square.on:
        return Readings(None, None, None, straightened.canvas)
    corners = chain.square.corners_px(feed)
    if chain.distortion:
        corners = undistort(corners, chain.distortion, feed)
    try:
        tilt = tilt_deg(corners, feed, chain.square.aspect, true_proportions(corners, feed).focal_px)
    except DegenerateCorners:
        tilt = None
    detail = None
    if straightened.mm_per_unit:
        stretch = smallest_stretch(np.linalg.inv(straightened.matrix), rectangle(straightened.canvas)) / straightened.mm_per_unit
        detail = (float(stretch.min()), float(stretch.max()))
    return Readings(keystone(corners), tilt, detail, straightened.canvas)
