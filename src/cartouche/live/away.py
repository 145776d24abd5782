"""How long a device that gives no picture keeps its place: its last good picture first, then its room goes to the others."""

from cartouche.core.watch.signal import USABLE
from cartouche.live.feeds import Feeds

HELD_FOR_S = 10.0  # a place whose feed gives no picture for so long is given to the others
TRY_AGAIN_S = 1.0  # a place that shows the card is tried so often


class Away:
    """Since when each feed gives no usable picture."""

    def __init__(self, feeds: Feeds) -> None:
        self._feeds = feeds
        self._since_s: dict[str, float] = {}

    def gone(self, feed_id: str | None, now_s: float) -> bool:
        """Whether it has been without a picture for long; at once where there is no such feed."""
        feed = self._feeds.get(feed_id or "")
        if feed is None:
            return True
        if feed.state(now_s) in USABLE or not feed.wanted:
            self._since_s.pop(feed.id, None)
            return False
        return now_s - self._since_s.setdefault(feed.id, now_s) > HELD_FOR_S


class Undrawn:
    """Feeds whose pictures come but cannot be drawn: their last picture stays, then the card; now and then they are tried again."""

    def __init__(self) -> None:
        self._since_s: dict[str | None, float] = {}
        self._last_s: dict[str | None, float] = {}

    def settle(self, failed: set[str | None], now_s: float) -> None:
        """After each picture: those that failed in it. One that is shown as a card was not tried and stays as it was."""
        tried = [feed_id for feed_id in self._since_s if feed_id not in failed and not self.shows_card(feed_id, now_s)]
        for feed_id in tried:
            del self._since_s[feed_id], self._last_s[feed_id]
        for feed_id in failed:
            self._since_s.setdefault(feed_id, now_s)
            self._last_s[feed_id] = now_s

    def shows_card(self, feed_id: str | None, now_s: float) -> bool:
        since_s = self._since_s.get(feed_id)
        return since_s is not None and now_s - since_s > HELD_FOR_S and now_s - self._last_s[feed_id] < TRY_AGAIN_S
