"""Who takes the outgoing picture besides our own screens, and what each tells of it."""

import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Literal

from cartouche.core.pictures import Size

TakerKind = Literal["extension", "server", "viewer", "network camera", "camera device"]


@dataclass(frozen=True)
class TakerFacts:
    """name: a site, a server, a room.  size, fps: as they arrive there, None where it cannot tell.

    lips_s: the picture later than the sound.  says: what is wrong, in a sentence."""

    kind: TakerKind
    name: str
    size: Size | None = None
    fps: float | None = None
    delay_s: float | None = None
    lips_s: float | None = None
    sound: bool = False
    says: str | None = None


class Takers:
    """May be told and asked from any thread. on_change: one came, went, or told something new."""

    def __init__(self, on_change: Callable[[], None]) -> None:
        self._on_change = on_change
        self._lock = threading.Lock()
        self._known: dict[object, TakerFacts] = {}

    def put(self, taker: object, facts: TakerFacts) -> None:
        with self._lock:
            self._known = {**self._known, taker: facts}
        self._on_change()

    def tell(self, taker: object, **changes: Any) -> None:
        """Nothing where it has gone."""
        with self._lock:
            facts = self._known.get(taker)
            if facts is None or (changed := replace(facts, **changes)) == facts:
                return
            self._known = {**self._known, taker: changed}
        self._on_change()

    def drop(self, taker: object) -> None:
        """Repeatable."""
        with self._lock:
            self._known = {known: facts for known, facts in self._known.items() if known is not taker}
        self._on_change()

    def all(self) -> list[TakerFacts]:
        return list(self._known.values())

    def __bool__(self) -> bool:
        return bool(self._known)
