"""Lets no picture of a page out that is half carried off, where the teacher has switched that on. Works on the page's own thread."""

from dataclasses import dataclass, field

from cartouche.core.pictures import Frame
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.tone import Tone
from cartouche.core.teach.hold import AutoHold, lies
from cartouche.live.clock import steady_s
from cartouche.live.feeds import GoodPictures
from cartouche.live.setup import Held, Setup
from cartouche.live.stage import Stage


@dataclass(eq=False)
class _Watched:
    auto: AutoHold = field(default_factory=AutoHold)
    calm: GoodPictures = field(default_factory=GoodPictures)
    chain: Chain | None = None


class Holder:
    """`see` is called with each new picture of a feed before anybody is told of it; `calm` is what may be shown of it."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage
        self._pages: dict[str, _Watched] = {}

    def see(self, feed_id: str, frame: Frame, tone: Tone | None, now_s: float) -> None:
        setup = self._stage.setup
        chain = setup.chains.get(feed_id)
        if not watches(setup, feed_id) or chain is None:
            self._forget(setup, feed_id)
            return
        held = setup.holds.get(feed_id)
        if held is not None and held.by != "page":
            return  # the teacher's own hold is ended by the teacher
        page = self._pages.setdefault(feed_id, _Watched())
        if page.auto.see(lies(frame.y, chain.square.corners_px(frame.size)), now_s):
            page.calm.keep(frame)
            page.chain = chain
            if held is not None:
                self._stage.release(feed_id)
        elif held is None and page.calm.newest is not None and page.chain is not None:
            self._stage.hold(feed_id, Held(page.calm.newest.copy(), page.chain, steady_s(), "page", tone=tone))

    def calm(self, setup: Setup, feed_id: str) -> Frame | None:
        """The newest picture in which the page lay where it should; None where any may be shown."""
        page = self._pages.get(feed_id)
        return page.calm.newest if page is not None and watches(setup, feed_id) else None

    def forget(self, feed_id: str) -> None:
        """What it shows is let out as it comes, until its page has lain still again: the teacher has let it go, or the device is gone."""
        self._pages.pop(feed_id, None)

    def _forget(self, setup: Setup, feed_id: str) -> None:
        """Switched off, or its page is not straightened any more: what was held by itself is let go."""
        if self._pages.pop(feed_id, None) is None:
            return
        held = setup.holds.get(feed_id)
        if held is not None and held.by == "page":
            self._stage.release(feed_id)


def watches(setup: Setup, feed_id: str) -> bool:
    """Whether a page is held by itself: it must be squared up, or nobody knows where it should lie."""
    chain = setup.chains.get(feed_id)
    return setup.auto_hold and setup.page_id == feed_id and chain is not None and chain.square.on
