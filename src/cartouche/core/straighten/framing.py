"""Named framings of a straightened page within a place: the whole, a half, a band of lines that walks down."""

from typing import Literal

from cartouche.core.pictures import Size
from cartouche.core.straighten.chain import ZOOM_MAX, FrameLink

Framing = Literal["whole", "upper", "lower", "band", "next", "previous"]
BAND_LINES = 7  # a paragraph, and a line or two before and after it
USUAL_STEP_MM = 6.0  # from line to line where the page itself does not tell: 12 points, one and a half spaced
CLOSE = 3.0  # closer than this a page is given no more room
OVERLAP_LINES = 1.5  # of the band before stay in sight when it walks on, so that nobody loses the place


def framed(name: Framing, frame: FrameLink, canvas: Size, place: Size, line_share: float) -> FrameLink:
    """The frame link of a named framing.

    canvas, place: sizes, each in its own unit.  line_share: from one line to the next, as a share of the canvas height.
    `next` and `previous` walk by what is in sight less an overlap, and stop at the ends of the page.
    """
    if name == "whole":
        return FrameLink()
    if name in ("upper", "lower"):
        return _band(0.5, 0.25 if name == "upper" else 0.75, canvas, place)
    if name == "band":
        high = min(1.0, BAND_LINES * line_share)
        return _band(high, high / 2, canvas, place)
    visible = seen_share(frame, canvas, place).height
    step = max(visible - OVERLAP_LINES * line_share, 0.5 * visible)
    y = within(frame.y, visible) + (step if name == "next" else -step)
    return FrameLink(zoom=frame.zoom, x=frame.x, y=within(y, visible))


CLOSER_BY, PAN_SHARE = 1.3, 0.25  # one press: three of them double it; a quarter of what is in sight


def closer(frame: FrameLink, by: float, about: tuple[float, float] | None, canvas: Size, place: Size) -> FrameLink:
    """So many times as close. about: the spot of the canvas, in shares of it, that stays where it is; None for the middle.

    canvas, place: sizes, each in its own unit.
    """
    before = frame if frame.on else FrameLink()
    zoom = min(max(before.zoom * by, 1.0), ZOOM_MAX)
    x, y = about if about is not None else (before.x, before.y)
    part = before.zoom / zoom
    return _inside(FrameLink(zoom=zoom, x=_share(x + (before.x - x) * part), y=_share(y + (before.y - y) * part)), canvas, place)


def panned(frame: FrameLink, right: float, down: float, canvas: Size, place: Size) -> FrameLink:
    """Moved by shares of what is in sight, to the page's edge at most. canvas, place: sizes, each in its own unit."""
    before = frame if frame.on else FrameLink()
    seen = seen_share(before, canvas, place)
    start = _inside(before, canvas, place)  # what lay beyond the edge is no way to go back
    moved = start.model_copy(update={"x": _share(start.x + right * seen.width), "y": _share(start.y + down * seen.height)})
    return _inside(moved, canvas, place)


def _inside(frame: FrameLink, canvas: Size, place: Size) -> FrameLink:
    seen = seen_share(frame, canvas, place)
    return frame.model_copy(update={"x": within(frame.x, seen.width), "y": within(frame.y, seen.height)})


def _share(value: float) -> float:
    return min(max(value, 0.0), 1.0)


def _band(high: float, middle: float, canvas: Size, place: Size) -> FrameLink:
    """As large as a strip of this share of the height allows, at its full width."""
    whole = min(place.width / canvas.width, place.height / canvas.height)
    scale = min(place.width / canvas.width, place.height / (high * canvas.height))
    link = FrameLink(zoom=min(max(scale / whole, 1.0), ZOOM_MAX), y=middle)
    return link.model_copy(update={"y": within(middle, seen_share(link, canvas, place).height)})


def seen_share(frame: FrameLink, canvas: Size, place: Size) -> Size:
    """How much of the canvas's width and height is in sight at once, each 0-1, where the place shows it by fitting."""
    scale = min(place.width / canvas.width, place.height / canvas.height) * (frame.zoom if frame.on else 1.0)
    return Size(min(1.0, place.width / (canvas.width * scale)), min(1.0, place.height / (canvas.height * scale)))


def within(middle: float, visible: float) -> float:
    """The middle of what is in sight, kept so that nothing beyond the page is. visible: share of the page that is in sight."""
    return min(max(middle, visible / 2), 1 - visible / 2)
