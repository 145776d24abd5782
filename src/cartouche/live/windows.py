"""The outgoing windows that are open, and what each tells of itself."""

import threading
from collections.abc import Callable

from cartouche.core.pictures import Size
from cartouche.core.watch.window import WindowFacts, window_says


class Windows:
    """May be told and asked from any thread. on_change: a window came, went, or told something new."""

    def __init__(self, on_change: Callable[[], None]) -> None:
        self._on_change = on_change
        self._lock = threading.Lock()
        self._open: dict[object, WindowFacts | None] = {}

    @property
    def count(self) -> int:
        return len(self._open)

    def opened(self, window: object) -> None:
        self._put(lambda known: {**known, window: None})

    def closed(self, window: object) -> None:
        self._put(lambda known: {one: facts for one, facts in known.items() if one is not window})

    def tell(self, window: object, facts: WindowFacts) -> None:
        if self._open.get(window) != facts:
            self._put(lambda known: {**known, window: facts} if window in known else known)

    def _put(self, change: Callable[[dict[object, WindowFacts | None]], dict[object, WindowFacts | None]]) -> None:
        with self._lock:
            self._open = change(self._open)
        self._on_change()

    def says(self, outgoing: Size) -> str | None:
        """What is wrong, where every window that told anything has something wrong: one that is well may be the shared one."""
        told = [window_says(facts, outgoing) for facts in tuple(self._open.values()) if facts is not None]
        return told[0] if told and all(told) else None
