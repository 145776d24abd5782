"""What would help a page that is too small to read, each with its outcome computed before it is done."""

import math
from collections.abc import Sequence
from typing import Literal, NamedTuple

from cartouche.core.call.audience import WINDOW, Audience
from cartouche.core.pictures import Size
from cartouche.core.plates.model import Place
from cartouche.core.plates.placing import place_box, placing
from cartouche.core.reading.legibility import Print
from cartouche.core.reading.verdicts import PagePicture, print_for, words_across
from cartouche.core.straighten.chain import ZOOM_MAX, Chain, FrameLink
from cartouche.core.straighten.framing import BAND_LINES, framed, seen_share

Way = Literal["closer", "band", "sharp", "window", "beforehand"]
CAPTURED_PX_PER_MM = 11.8  # 300 dpi: what a kept page or a scanned file holds
NEARLY = 1.03
WORTH_IT = 0.97  # of the size before: less of a gain is none


class Outcome(NamedTuple):
    """points: smallest print that this audience could then read."""

    audience: str
    points: float


class Advice(NamedTuple):
    """way: what to press.  says: what then is so.  chain: what the press puts in force, None where it needs another screen.
    outcomes: per audience.  reads: whether all of them could then read the page's smallest print.  worst: the largest of them, points."""

    way: Way
    says: str
    chain: Chain | None
    outcomes: tuple[Outcome, ...]
    reads: bool
    worst: float


def advise(
    page: PagePicture, place: Place, outgoing: Size, audiences: Sequence[Audience], asks_pt: float, step_mm: float, larger: Size | None
) -> list[Advice]:
    """Only what helps, what helps most first. asks_pt: the page's own smallest print.  step_mm: from line to line.
    larger: an outgoing size above the present one, if there is one.  Empty when all can read it as it is."""
    now = _worst(page, place, outgoing, audiences)
    if now is None or now.points <= asks_pt:
        return []
    box = place_box(place, outgoing)
    room = Size(box.x1 - box.x0, box.y1 - box.y0)
    page_map = placing(place, page.chain, page.feed, outgoing).straightened
    line_share = step_mm / (page_map.canvas.height * (page_map.mm_per_unit or 1.0))
    found = [
        _closer(page, place, outgoing, audiences, asks_pt, room, page_map.canvas),
        _band(page, place, outgoing, audiences, asks_pt, room, page_map.canvas, line_share),
        _told("sharp", "Sharp instead of quick", None, page, place, larger or outgoing, audiences, asks_pt),
        _told(
            "window",
            "As a shared window",
            None,
            page,
            place,
            Size(1920, 1080),
            [_by_window(a) for a in audiences],
            asks_pt,
        ),
        _told("beforehand", "The page taken beforehand", None, _captured(page), place, outgoing, audiences, asks_pt),
    ]
    useful = [advice for advice in found if advice is not None and advice.worst < WORTH_IT * now.points]
    return sorted(useful, key=lambda advice: (not advice.reads, advice.worst))


def _worst(page: PagePicture, place: Place, outgoing: Size, audiences: Sequence[Audience]) -> Print | None:
    prints = [print_ for audience in audiences if (print_ := print_for(audience, page, place, outgoing)) is not None]
    return max(prints, key=lambda print_: print_.points, default=None)


def _told(
    way: Way, says: str, chain: Chain | None, page: PagePicture, place: Place, outgoing: Size, audiences: Sequence[Audience], asks_pt: float
) -> Advice | None:
    outcomes = [
        Outcome(audience.name, print_.points)
        for audience in audiences
        if (print_ := print_for(audience, page, place, outgoing)) is not None
    ]
    if not outcomes:
        return None
    worst = max(outcome.points for outcome in outcomes)
    return Advice(way, says, chain, tuple(outcomes), worst <= asks_pt, worst)


def _framed(page: PagePicture, frame: FrameLink) -> PagePicture:
    return page._replace(chain=page.chain.model_copy(update={"frame": frame}))


def _closer(
    page: PagePicture, place: Place, outgoing: Size, audiences: Sequence[Audience], asks_pt: float, room: Size, canvas: Size
) -> Advice | None:
    """The least zoom at which all can read it; the most there is where none is enough."""
    frame = page.chain.frame

    def points(zoom: float) -> float:
        worst = _worst(_framed(page, frame.model_copy(update={"zoom": zoom, "on": True})), place, outgoing, audiences)
        return worst.points if worst is not None else math.inf

    low, high = frame.zoom, ZOOM_MAX
    enough = max(asks_pt, NEARLY * points(high))  # where the camera sets the limit, closer than that only shows less
    for _ in range(9):
        zoom = (low * high) ** 0.5
        low, high = (low, zoom) if points(zoom) <= enough else (zoom, high)
    link = frame.model_copy(update={"zoom": high, "on": True})
    closer = _framed(page, link)
    visible = seen_share(link, canvas, room)
    words = words_across(closer, place, outgoing, asks_pt)
    across = f", {words:.0f} words wide" if words is not None else ""
    says = f"Closer, {round(100 * high)} %: {round(100 * visible.width * visible.height)} % of the page{across}"
    return _told("closer", says, closer.chain, closer, place, outgoing, audiences, asks_pt)


def _band(
    page: PagePicture,
    place: Place,
    outgoing: Size,
    audiences: Sequence[Audience],
    asks_pt: float,
    room: Size,
    canvas: Size,
    line_share: float,
) -> Advice | None:
    link = framed("band", page.chain.frame, canvas, room, line_share)
    lines = min(seen_share(link, canvas, room).height / line_share, 99)
    banded = _framed(page, link)
    says = f"A band of {max(1, int(lines))} lines that walks down the page" if lines >= 1 else f"A band of {BAND_LINES} lines"
    return _told("band", says, banded.chain, banded, place, outgoing, audiences, asks_pt)


def _by_window(audience: Audience) -> Audience:
    """A shared window is sent larger than a webcam and given the stage: nobody sees it in a small tile."""
    wide, high = (
        (1200, 675) if audience.tile_width_px < 1200 and audience.distance_mm > 400 else (audience.tile_width_px, audience.tile_height_px)
    )
    return audience.model_copy(update={"layer": WINDOW.name, "tile_width_px": wide, "tile_height_px": high})


def _captured(page: PagePicture) -> PagePicture:
    """The same page as a camera would give it that sees 300 dots an inch."""
    return page._replace(px_per_mm_min=CAPTURED_PX_PER_MM)
