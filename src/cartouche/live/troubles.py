"""What goes wrong while a lesson runs: counted, logged once, and said for as long as it goes on."""

import logging
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Literal

from cartouche.core.errors import CartoucheError

Stage = Literal[
    "source", "decode", "judge", "hold", "draw", "watch", "place", "compose", "encode", "send", "call", "care", "mix", "record", "read"
]
SAID_FOR_S = 3.0  # after the last time: long enough to be read, gone soon after it has mended itself

_SENTENCES: dict[Stage, str] = {
    "source": "This device failed to give a picture. Its last good one stays; Cartouche tries again.",
    "decode": "A picture of this device could not be read. Its last good one stays.",
    "judge": "Cartouche could not judge this picture. It is shown all the same.",
    "hold": "Whether this page lies where it should could not be seen. Its last good picture stays.",
    "draw": "This picture could not be drawn. Its last good one stays on the plate.",
    "watch": "Cartouche could not look at this page. Following and reading go on with the next picture.",
    "place": "Cartouche could not look where the page is written on. The face stays where it is.",
    "compose": "An outgoing picture failed. The last good one stays.",
    "encode": "A picture could not be sent to a screen. The next one is tried.",
    "send": "A picture did not reach a screen. The next one is tried.",
    "call": "The practice call missed a picture. It goes on with the next.",
    "mix": "A piece of the outgoing sound failed. The next one is tried.",
    "record": "Recording failed and has stopped; what was written is kept. The lesson goes on.",
    "read": "What stands on a sheet could not be read. It has no title of its own.",
    "care": "Cartouche could not keep what it measured. It tries again.",
}


@dataclass(frozen=True)
class Trouble:
    """device_id: whose it is, None for the outgoing picture's own.  count: since the start.  last_s: monotonic."""

    stage: Stage
    device_id: str | None
    sentence: str
    count: int
    last_s: float


class Troubles:
    """May be reported to and asked from any thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._known: dict[tuple[Stage, str | None], Trouble] = {}
        self._logged: set[tuple[Stage, str | None, type[Exception]]] = set()

    def report(self, stage: Stage, exc: Exception, device_id: str | None = None) -> None:
        sentence = str(exc) if isinstance(exc, CartoucheError) else _SENTENCES[stage]
        with self._lock:
            before = self._known.get((stage, device_id))
            count = before.count + 1 if before else 1
            self._known[stage, device_id] = Trouble(stage, device_id, sentence, count, time.monotonic())
            kind = (stage, device_id, type(exc))
            is_new = kind not in self._logged
            self._logged.add(kind)
        if is_new and not isinstance(exc, CartoucheError):
            logging.getLogger(__name__).error("%s failed (%s); said once", stage, device_id or "outgoing", exc_info=exc)

    @contextmanager
    def guard(self, stage: Stage, device_id: str | None = None) -> Iterator[None]:
        """What fails inside is reported and goes no further."""
        try:
            yield
        except Exception as exc:
            self.report(stage, exc, device_id)

    def now(self, now_s: float) -> list[Trouble]:
        """Those that go on, the newest first."""
        with self._lock:
            going_on = [trouble for trouble in self._known.values() if now_s - trouble.last_s < SAID_FOR_S]
        return sorted(going_on, key=lambda trouble: -trouble.last_s)

    def count(self, stage: Stage) -> int:
        with self._lock:
            return sum(trouble.count for (where, _), trouble in self._known.items() if where == stage)

    def forget(self, device_id: str) -> None:
        with self._lock:
            self._known = {key: trouble for key, trouble in self._known.items() if key[1] != device_id}
