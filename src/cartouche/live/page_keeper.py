"""Knows each page as it is without the hand, from looks now and then, and makes a sheet of it when asked."""

import threading
import time
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Size, bgr_from_frame, frame_from_bgr
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.sheets.memory import Look, PageMemory
from cartouche.core.straighten.chain import Chain, straighten
from cartouche.core.straighten.tone import page_tone
from cartouche.live.feeds import Feed
from cartouche.live.straight import BACKGROUND, PAGE_FILLS, canvas_of, straight

LOOK_EVERY_S = 0.7
NOTHING_SEEN = Look(0.0, 0.0, 0.0)
MAX_PX = 2000.0  # longer side; finer than any camera of today sees a page
JOINED, BETWEEN_S = 5, 0.04  # pictures, and from one to the next


class Clean(NamedTuple):
    """A page, straight and without the hand. picture: (h, w, 3) BGR.  width_mm: None where no paper is named.  unseen: share of the page
    that has not been seen without a hand yet, 0-1.  written: share that has changed since it was laid there."""

    picture: NDArray[np.uint8]
    width_mm: float | None
    unseen: float
    written: float = 0.0


@dataclass(eq=False)
class _Page:
    memory: PageMemory = field(default_factory=PageMemory)
    composer: Composer | None = None
    of: tuple[object, ...] = ()
    looked_s: float = -np.inf
    look: Look = NOTHING_SEEN
    lock: threading.Lock = field(default_factory=threading.Lock)


class PageKeeper:
    """`look` is the watcher's; `sheet` may be called from any thread."""

    def __init__(self) -> None:
        self._pages: dict[str, _Page] = {}

    def begin(self, feed_id: str) -> None:
        """Another page lies there now."""
        page = self._pages.setdefault(feed_id, _Page())
        with page.lock:  # a sheet may be on its way
            page.memory.forget()

    def look(self, feed_id: str, chain: Chain, frame: Frame, now_s: float) -> Look | None:
        """Now and then, for a page that goes out and lies where it should."""
        page = self._pages.setdefault(feed_id, _Page())
        if now_s - page.looked_s < LOOK_EVERY_S:
            return None
        page.looked_s = now_s
        with page.lock:
            page.look = page.memory.see(self._straight(page, chain, frame), now_s)
            return page.look

    def sheet(self, feed: Feed, chain: Chain) -> Clean | None:
        """Of the page as it lies there now; None where no picture has come."""
        page = self._pages.setdefault(feed.id, _Page())
        with page.lock:
            pages = []
            for number in range(JOINED):
                frame = feed.showable(time.monotonic())
                if frame is not None:
                    pages.append(self._straight(page, chain, frame.copy()))
                if number + 1 < JOINED:
                    time.sleep(BETWEEN_S)
            if not pages:
                return None
            page.memory.see(pages[-1], time.monotonic())
            joined = page.memory.joined(pages)
            return Clean(evened(joined, chain), _width_mm(chain, frame), page.memory.unseen)

    def known(self, feed_id: str, chain: Chain) -> Clean | None:
        """The page as it was known last, though another may lie there by now; None where none was."""
        page = self._pages.get(feed_id)
        if page is None:
            return None
        with page.lock:
            if page.memory.page is None:
                return None
            picture = evened(page.memory.page.copy(), chain)
            return Clean(picture, _width_mm(chain, None), page.memory.unseen, page.look.written)

    def forget(self, feed_id: str) -> None:
        self._pages.pop(feed_id, None)

    def _straight(self, page: _Page, chain: Chain, frame: Frame) -> NDArray[np.uint8]:
        """At all the detail that the camera has of it, to a limit. What is known of a page that stood otherwise counts for nothing."""
        of = (frame.size, chain.square.on, chain.square.paper, chain.turn, chain.mirror)
        if of != page.of:
            page.of, page.composer = of, None
            page.memory.forget()
        if page.composer is None:
            page.composer, made = straight(None, chain, frame, min(MAX_PX, max(canvas_of(chain, frame.size))))
        else:
            page.composer, made = straight(page.composer, chain, frame, max(page.composer.size))
        return bgr_from_frame(made)


def evened(picture: NDArray[np.uint8], chain: Chain) -> NDArray[np.uint8]:
    """Its light as the chain wishes it, measured on the clean page itself."""
    if not (chain.light.on or chain.colour.on):
        return picture
    high, wide = picture.shape[:2]
    frame = frame_from_bgr(picture)
    tone = page_tone(frame)
    even = Chain(light=chain.light, colour=chain.colour)
    made = Composer(Size(wide, high), BACKGROUND).compose([Layer(PAGE_FILLS, even, frame, tone)], 0.0)
    return bgr_from_frame(made)


def _width_mm(chain: Chain, frame: Frame | None) -> float | None:
    straightened = straighten(chain, frame.size if frame is not None else Size(1600, 1200))
    return straightened.mm_per_unit * straightened.canvas.width if straightened.mm_per_unit else None
