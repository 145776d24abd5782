"""Who wants which surface. A surface that nobody claims is not made; a feed that no claimed surface shows does no work."""

import threading
import time
from collections.abc import Callable
from typing import Literal, NamedTuple

from cartouche.live.feeds import Feeds
from cartouche.live.setup import Setup

Kind = Literal["raw", "page", "outgoing", "plate", "glance", "audience"]
KINDS: tuple[Kind, ...] = ("raw", "page", "outgoing", "plate", "glance", "audience")


class Surface(NamedTuple):
    """A picture that can be looked at. id: of the device, plate or audience; '' for the outgoing picture.

    A glance is a plate seen small, of what runs anyway: it turns no camera on."""

    kind: Kind
    id: str = ""

    @classmethod
    def parse(cls, key: str) -> "Surface | None":
        """From `outgoing` or `raw:ID`, as addresses spell it; None for anything else."""
        name, colon, id_ = key.partition(":")
        kind = next((known for known in KINDS if known == name), None)
        if kind is None or (kind == "outgoing") == bool(colon):
            return None
        return cls(kind, id_)


OUTGOING = Surface("outgoing")


class Claim:
    """Held by whoever takes a surface: a viewer, a recorder, a check. `release` is repeatable."""

    def __init__(self, surface: Surface, let_go: Callable[["Claim"], None]) -> None:
        self.surface, self._let_go = surface, let_go

    def release(self) -> None:
        self._let_go(self)


class Demand:
    """All claims that are held."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._claims: frozenset[Claim] = frozenset()
        self.surfaces: frozenset[Surface] = frozenset()  # those that are claimed
        self.on_change: list[Callable[[], None]] = []

    def claim(self, surface: Surface) -> Claim:
        claim = Claim(surface, self._release)
        self._hold(lambda: self._claims | {claim})
        return claim

    def _release(self, claim: Claim) -> None:
        if claim in self._claims:
            self._hold(lambda: self._claims - {claim})

    def _hold(self, claims: Callable[[], frozenset[Claim]]) -> None:
        with self._lock:
            self._claims = claims()
            self.surfaces = frozenset(claim.surface for claim in self._claims)
        for tell in self.on_change:
            tell()

    def ids(self, kind: Kind) -> set[str]:
        """Of the claimed surfaces of one kind."""
        return {surface.id for surface in self.surfaces if surface.kind == kind}


class Wants:
    """Tells each feed whether it is wanted: by its own surfaces, or by a claimed plate that shows it. One settles at a time."""

    def __init__(self, demand: Demand, feeds: Feeds, setup: Callable[[], Setup], call_running: Callable[[], bool]) -> None:
        self._demand, self._feeds, self._setup, self._call_running = demand, feeds, setup, call_running
        self._lock = threading.Lock()

    def settle(self) -> None:
        with self._lock:  # whoever comes last sees the newest of everything
            wanted, now_s = self._wanted(self._setup()), time.monotonic()
            for feed in self._feeds.all():
                feed.want(feed.id in wanted, now_s)

    def _wanted(self, setup: Setup) -> set[str]:
        wanted = self._demand.ids("raw") | self._demand.ids("page")
        plates = [setup.plates[plate_id] for plate_id in self._demand.ids("plate") if plate_id in setup.plates]
        if setup.plate is not None and self.outgoing_is_wanted():
            plates.append(setup.plate)
        return wanted | {feed_id for plate in plates for place in plate.places for feed_id in setup.feed_ids(place)}

    def outgoing_is_wanted(self) -> bool:
        """By a viewer of it, or of what the practice call makes of it."""
        return OUTGOING in self._demand.surfaces or (self._call_running() and bool(self._demand.ids("audience")))
