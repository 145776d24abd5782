"""The straightened page alone, for whoever looks at it: drawn on the feed's own thread."""

import time

from cartouche.core.pictures import Frame, Size
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.straighten.chain import Chain, FrameLink, straighten
from cartouche.core.straighten.tone import Tone
from cartouche.live.desk import BACKGROUND
from cartouche.live.setup import Setup
from cartouche.live.straight import PAGE_FILLS

WHOLE_FRAME = FrameLink()
PAGE_SURFACE = Size(1120, 1120)  # it is drawn inside this


class PageSurfaces:
    """Each feed's page is drawn by that feed's thread alone."""

    def __init__(self) -> None:
        self._composers: dict[str, Composer] = {}
        self._wholes: dict[str, tuple[Chain, Chain]] = {}  # the chain as it is, and without its frame

    def draw(self, feed_id: str, frame: Frame, setup: Setup, tone: Tone | None) -> Frame:
        moving = setup.chain(feed_id, time.monotonic())
        known = self._wholes.get(feed_id)
        if known is None or known[0] is not moving:  # one object for one chain: what is worked out for it is kept by it
            known = self._wholes[feed_id] = (moving, moving.model_copy(update={"frame": WHOLE_FRAME}))
        chain = known[1]
        canvas = straighten(chain, frame.size).canvas
        scale = min(PAGE_SURFACE.width / canvas.width, PAGE_SURFACE.height / canvas.height)
        size = Size(max(16, round(canvas.width * scale / 2) * 2), max(16, round(canvas.height * scale / 2) * 2))
        composer = self._composers.get(feed_id)
        if composer is None or composer.size != size:
            composer = self._composers[feed_id] = Composer(size, BACKGROUND)
        return composer.compose([Layer(PAGE_FILLS, chain, frame, tone)], frame.captured_s)

    def forget(self, feed_id: str) -> None:
        self._composers.pop(feed_id, None)
        self._wholes.pop(feed_id, None)
