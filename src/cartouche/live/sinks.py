"""Where the outgoing picture goes: our screens, the practice call, and whoever else takes it."""

from typing import Protocol

from cartouche.core.pictures import Frame


class Sink(Protocol):
    """The desk makes a picture while any sink is ready, and hands the same one to all of them, one after the other.

    The frame is valid during `take` alone: its planes are drawn over a quarter of a second later. Who needs it longer copies it.
    """

    def ready(self, now_s: float) -> bool: ...

    def take(self, frame: Frame, now_s: float) -> None: ...
