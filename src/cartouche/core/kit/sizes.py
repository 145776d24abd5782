"""Sharp or quick: which of a device's sizes serves what lies under it."""

from collections.abc import Sequence
from typing import Literal, NamedTuple

from cartouche.core.reading.legibility import FLUENT_PER_X_HEIGHT, MM_PER_POINT, X_HEIGHT_PER_EM

Wish = Literal["auto", "quick", "sharp"]
QUICK_DELAY_S = 0.15  # beyond it a hand on the screen visibly lags behind the hand on the desk
QUICK_FRAMES_S = 20.0  # below it writing jerks
CLEARLY = 1.3  # times: smaller differences are the machine's mood
MIN_QUICK_WIDTH = 640  # smaller serves nobody
QUICK_WIDTH = 1280  # larger costs a computer without a graphics card every second frame


class Offered(NamedTuple):
    """A size that the device offers, with what was measured when it was last tried (None: never)."""

    width: int
    height: int
    fps: float | None = None
    delay_s: float | None = None

    @property
    def is_slow(self) -> bool:
        """Untried sizes get the benefit of the doubt: trying is how they are measured."""
        return (self.fps or QUICK_FRAMES_S) < QUICK_FRAMES_S or (self.delay_s or 0.0) > QUICK_DELAY_S


def lags(size: Offered, offered: Sequence[Offered]) -> bool:
    """Whether this size is slow and a smaller one was measured to be clearly quicker: else the computer is at fault, not the size."""
    smaller = [other for other in offered if other.width * other.height < size.width * size.height]
    return size.is_slow and any(
        (other.fps or 0.0) >= CLEARLY * (size.fps or QUICK_FRAMES_S)
        or (other.delay_s is not None and size.delay_s is not None and CLEARLY * other.delay_s <= size.delay_s)
        for other in smaller
    )


class Choice(NamedTuple):
    """The size to take, and the reason for a teacher."""

    size: Offered
    why: str


def choose(offered: Sequence[Offered], wish: Wish, page_share_px_per_mm: float | None, print_pt: float) -> Choice | None:
    """The size for a wish; None when nothing is offered.

    page_share_px_per_mm: pixels per millimetre on the page for each pixel of the picture's width (so that px/mm at a
    size is this times its width), at the page's worst spot; None when no page is known.  print_pt: smallest print that
    must be read.  'auto' takes the quickest size whose x-height has enough pixels (see `legibility`), else the sharpest.
    """
    if not offered:
        return None
    by_size = sorted(offered, key=lambda size: size.width * size.height)
    usable = [size for size in by_size if size.width >= MIN_QUICK_WIDTH] or by_size
    sharpest = by_size[-1]
    if wish == "sharp":
        return Choice(sharpest, "the largest it offers")
    quickest = next((size for size in reversed(usable) if size.width <= QUICK_WIDTH and not lags(size, by_size)), usable[0])
    if wish == "quick":
        return Choice(quickest, "the largest that keeps up with a writing hand")
    if page_share_px_per_mm is None:
        return Choice(quickest, "no page is known yet, so the quick one")
    need = width_for(print_pt, page_share_px_per_mm)
    enough = [size for size in usable if size.width >= need]
    if not enough:
        return Choice(sharpest, f"{print_pt:g}-point print needs {need:.0f} px across: the largest comes nearest")
    # what reads and is quick; of what reads but lags, the smallest
    best = next((size for size in enough if not lags(size, by_size)), enough[0])
    return Choice(best, f"{print_pt:g}-point print needs {need:.0f} px across")


def width_for(print_pt: float, page_share_px_per_mm: float) -> float:
    """Width in px at which this print's x-height has enough pixels. page_share_px_per_mm: see `choose`."""
    x_height_mm = print_pt * MM_PER_POINT * X_HEIGHT_PER_EM
    return FLUENT_PER_X_HEIGHT / x_height_mm / page_share_px_per_mm


def usual_sizes(largest: tuple[int, int]) -> list[tuple[int, int]]:
    """The sizes that cameras usually offer, up to the largest one (width, height)."""
    widths = [(640, 480), (1280, 720), (1920, 1080), (2560, 1440), (3840, 2160)]
    inside = [size for size in widths if size[0] <= largest[0] and size[1] <= largest[1]]
    return inside or [largest]
