"""Copies of recorded films in WebM, made beside them one at a time, on a thread of their own: they take as long as the film."""

import logging
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import dataclass
from pathlib import Path

from cartouche.live.record.finish import Unreadable
from cartouche.live.record.webm import Wishes, webm_copy

_log = logging.getLogger(__name__)


@dataclass(eq=False)
class _Copy:
    """share: how far it is, 0-1.  given_up: nobody wants it any more.  work: None until it is in the queue."""

    share: float = 0.0
    given_up: bool = False
    work: Future[None] | None = None


class Copies:
    """By the path of the film. `on_change`: one is farther, or there, or gone.  gives_way: a lesson needs the processor."""

    def __init__(self, on_change: Callable[[], None], gives_way: Callable[[], bool]) -> None:
        self._pool, self._on_change, self._gives_way = ThreadPoolExecutor(1, thread_name_prefix="copies"), on_change, gives_way
        self._under_way: dict[Path, _Copy] = {}

    def make(self, path: Path) -> None:
        if self.share(path) is None:
            copy = self._under_way[path] = _Copy()
            copy.work = self._pool.submit(self._work, path, copy)

    def share(self, path: Path) -> float | None:
        """How much of it stands, 0-1; None where none was asked for."""
        if path.with_suffix(".webm").is_file():
            return 1.0
        copy = self._under_way.get(path)
        return None if copy is None else copy.share

    def give_up(self, path: Path) -> None:
        """Nothing of it stays, made or being made: when this returns nobody reads the film any more. Not from the pool's thread."""
        copy = self._under_way.get(path)
        if copy is not None:
            copy.given_up = True
            if copy.work is not None and not copy.work.cancel():
                wait([copy.work])
            self._under_way.pop(path, None)
        path.with_suffix(".webm").unlink(missing_ok=True)

    def close(self) -> None:
        """What is being made is given up. Repeatable."""
        for copy in tuple(self._under_way.values()):
            copy.given_up = True
        self._pool.shutdown(wait=True)

    def _work(self, path: Path, copy: _Copy) -> None:
        def told(share: float) -> None:
            copy.share = share
            self._on_change()

        try:
            if not copy.given_up:
                webm_copy(path, path.with_suffix(".webm"), Wishes(told, lambda: copy.given_up, self._gives_way))
        except (Unreadable, OSError) as exc:
            _log.warning("a copy of a recording was not made: %s", type(exc).__name__)
        self._under_way.pop(path, None)
        self._on_change()
