"""What each audience gets of the page, as the plate is laid now; worked out again only when something that decides it has changed."""

import threading
from collections.abc import Callable

from cartouche.core.call.audience import FIRST_VIEWERS, Audience, Viewers, audience_of
from cartouche.core.call.kinds import KINDS, CallKind
from cartouche.core.plates.model import Place
from cartouche.core.reading.verdicts import PagePicture, Verdict, verdict
from cartouche.live.desk import Desk
from cartouche.live.feeds import Feeds
from cartouche.live.setup import NO_CHAIN, Setup
from cartouche.live.watcher import Seen, Watcher


class Verdicts:
    """May be asked from any thread."""

    def __init__(self, feeds: Feeds, desk: Desk, watcher: Watcher, window_alone: Callable[[], bool]) -> None:
        """window_alone: the picture goes out by the outgoing window and by nothing else."""
        self._feeds, self._desk, self._watcher, self._window_alone = feeds, desk, watcher, window_alone
        self.viewers: tuple[Viewers, ...] = FIRST_VIEWERS
        self.call: CallKind = KINDS[0]
        self._lock = threading.Lock()
        self._known: tuple[tuple[object, ...], list[Verdict]] = ((), [])

    def page_picture(self, setup: Setup) -> tuple[PagePicture, Place] | None:
        """The page's feed and the place that shows it on the outgoing plate, if there is a picture of it."""
        plate = self._desk.plate_at_rest(setup)
        for place in plate.places if plate else ():
            feed_id = setup.feed_id(place)
            if feed_id is None or feed_id != setup.roles.get("page"):
                continue
            feed = self._feeds.get(feed_id)
            if feed is not None and (latest := feed.latest) is not None:
                chain = setup.chains.get(feed_id, NO_CHAIN)
                seen = self._watcher.seen.get(feed_id, Seen())
                asks_pt = seen.reading.smallest_pt if seen.reading is not None else None
                mirrors = setup.mirrors.get(feed_id, 0)
                return PagePicture(chain, latest.size, mirrors, asks_pt=asks_pt, page_true=seen.page_true(chain)), place
        return None

    def audiences(self) -> list[Audience]:
        """Each as it gets the picture now."""
        return self.staged() if self._window_alone() else self.by_webcam()

    def by_webcam(self) -> list[Audience]:
        return [audience_of(viewers, self.call.webcam) for viewers in self.viewers]

    def staged(self) -> list[Audience]:
        """Each as it would get a shared tab or window; the teacher's own view stays that of the call."""
        return [
            audience_of(viewers, self.call.webcam) if viewers.is_teacher else audience_of(viewers, (self.call.share,), staged=True)
            for viewers in self.viewers
        ]

    def of(self, setup: Setup) -> list[Verdict]:
        """One per audience."""
        page, place = self.page_picture(setup) or (None, None)
        audiences = self.audiences()
        basis = (
            setup,
            tuple(audiences),
            self._desk.size,
            place,
            page.feed if page else None,
            (page.asks_pt, page.page_true) if page else None,
        )
        with self._lock:
            if self._known[0] != basis:
                self._known = (basis, [verdict(audience, page, place, self._desk.size) for audience in audiences])
            return self._known[1]
