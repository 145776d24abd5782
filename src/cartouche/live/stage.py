"""The stage: the only writer of what is shown. Each change replaces the setup whole, under one lock, and says what it was about."""

import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

import numpy as np

from cartouche.core.pictures import Corners, Size
from cartouche.core.plates.model import Plate, Role
from cartouche.core.straighten.chain import Chain, SquareLink
from cartouche.core.straighten.gate import drawable, require_drawable
from cartouche.core.straighten.glide import FOLLOW_S, Glide
from cartouche.core.teach.timer import Timer
from cartouche.live.setup import Held, Released, Setup

LINK_OFF = {
    "unbend": "Its kept lens correction cannot be drawn any more and is off. Measure the lens again under Square up.",
    "square": "Its kept corners cannot be drawn any more; it is shown as it comes. Press Square it up.",
}


@dataclass(frozen=True)
class Opened:
    """What is kept of the open lesson: its plates, the one that is on, and of each device its chain, role and mirrors."""

    plate: Plate | None
    plates: tuple[Plate, ...]
    roles: dict[Role, str]
    chains: dict[str, Chain]
    mirrors: dict[str, int]


NOTHING_OPEN = Opened(None, (), {}, {}, {})


class Versions:
    """How often what belongs to a topic has changed: `lesson`, `kit`, `plates`, `call`, `chain:ID`, `page:ID`."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._by_topic: dict[str, int] = {}
        self.on_change: list[Callable[[], None]] = []

    def touch(self, *topics: str) -> None:
        with self._lock:
            self._by_topic |= {topic: self._by_topic.get(topic, 0) + 1 for topic in topics}
        for tell in self.on_change:
            tell()

    def by_topic(self) -> dict[str, int]:
        with self._lock:
            return dict(self._by_topic)

    @property
    def total(self) -> int:
        with self._lock:
            return sum(self._by_topic.values())


class Stage:
    """May be changed from any thread; `setup` may be read from any without the lock."""

    def __init__(self, feed_size: Callable[[str], Size | None]) -> None:
        """feed_size: of a device's newest picture, px; None while none has come."""
        self._lock = threading.RLock()
        self._feed_size = feed_size
        self.setup = Setup()
        self.versions = Versions()
        self.notices: dict[str, str] = {}  # by device: what was switched off on opening, until its chain is changed
        self.on_change: list[Callable[[Setup], None]] = []

    def change(self, work: Callable[[Setup], Setup], *topics: str) -> None:
        """work makes the new setup of the one in force; nobody else changes it meanwhile."""
        with self._lock:
            before, after = self.setup, work(self.setup)
            if after is not before:
                self.setup = after
                for tell in self.on_change:
                    tell(after)
        self.versions.touch(*topics)

    def reopen(self, opened: Opened) -> None:
        """Take up what is kept. Only what differs from what was taken up before is applied: a followed page stays followed."""
        with self._lock:
            self.notices = {device_id: said for device_id, said in self.notices.items() if device_id in opened.chains}
            self.change(lambda setup: self._taken_up(setup, opened), "lesson", "kit", "plates")

    def _taken_up(self, setup: Setup, opened: Opened) -> Setup:
        chains: dict[str, Chain] = {}
        for device_id, stored in opened.chains.items():
            in_force = setup.chains.get(device_id)
            if in_force is not None and setup.stored.get(device_id) == stored:
                chains[device_id] = in_force
                continue
            judged = drawable(stored, self._feed_size(device_id))
            chains[device_id] = judged.chain
            self._note(device_id, judged.off)
        glides = {id_: glide for id_, glide in setup.glides.items() if chains.get(id_) is setup.chains.get(id_)}
        plates = {plate.id: plate for plate in opened.plates}
        return replace(
            setup, plate=opened.plate, plates=plates, roles=opened.roles, chains=chains, stored=dict(opened.chains),
            glides=glides, mirrors=opened.mirrors,
        )  # fmt: skip

    def _note(self, device_id: str, link: str | None) -> None:
        if link is None:
            self.notices.pop(device_id, None)
        else:
            self.notices[device_id] = LINK_OFF[link]

    # plates

    def put_on(self, plate: Plate) -> None:
        self.change(lambda setup: replace(setup, plate=plate), "plates")

    def change_plates(self, plates: Iterable[Plate]) -> None:
        """The lesson's plates are these now; the outgoing one is taken anew where it was changed."""
        by_id = {plate.id: plate for plate in plates}

        def changed(setup: Setup) -> Setup:
            on = setup.plate
            return replace(setup, plates=by_id, plate=by_id.get(on.id, on) if on is not None else None)

        self.change(changed, "plates")

    def adorn(self, on: bool) -> None:
        """Caption, frame and background on, or all off."""
        self.change(lambda setup: replace(setup, adorned=on), "plates")

    def show_naturally(self, on: bool) -> None:
        """Faces as their cameras give them, or made the best of."""
        self.change(lambda setup: replace(setup, natural=on), "plates", "teach")

    # hold, timer

    def hold(self, device_id: str, held: Held) -> None:
        """This picture stands in the place of the device's own until it is released."""
        self.change(lambda setup: replace(setup, holds={**setup.holds, device_id: held}), "teach")

    def release(self, device_id: str) -> None:
        """Its own pictures are shown again, by a short fade."""

        def changed(setup: Setup) -> Setup:
            held = setup.holds.get(device_id)
            if held is None:
                return setup
            released = {**setup.released, device_id: Released(held, time.monotonic())}
            return replace(setup, holds={key: one for key, one in setup.holds.items() if key != device_id}, released=released)

        self.change(changed, "teach")

    def hold_by_itself(self, on: bool) -> None:
        self.change(lambda setup: replace(setup, auto_hold=on), "teach")

    def follow_pen(self, on: bool) -> None:
        self.change(lambda setup: replace(setup, follow_pen=on), "teach")

    def take_tools(self, timer: Timer, auto_hold: bool, follow_pen: bool, holds: dict[str, Held]) -> None:
        """As a lesson left them."""
        tools = {"timer": timer, "auto_hold": auto_hold, "follow_pen": follow_pen, "holds": holds, "released": {}}
        self.change(lambda setup: replace(setup, **tools), "teach")  # type: ignore[arg-type]

    def set_timer(self, timer: Timer) -> None:
        self.change(lambda setup: replace(setup, timer=timer), "teach")

    # chains

    def correct(self, device_id: str, chain: Chain, glide_s: float = 0.0, *, instead_of: Chain | None = None) -> bool:
        """Put a chain in force, at once or by a smooth way that lasts glide_s. Raises DegenerateCorners and changes nothing.

        instead_of: only while this one is in force.  Returns whether it is in force now.
        """
        size = self._feed_size(device_id)
        require_drawable(chain, size)
        with self._lock:
            if instead_of is not None and self.setup.chains.get(device_id) is not instead_of:
                return False  # a hand was quicker
            self._note(device_id, None)
            self.change(lambda setup: _with_chain(setup, device_id, chain, glide_s, size), f"chain:{device_id}")
        return True

    def mark_stored(self, device_id: str, chain: Chain) -> None:
        """This is what the store holds for it now."""
        self.change(lambda setup: replace(setup, stored={**setup.stored, device_id: chain}))

    def take_kept(self, device_id: str, stored: Chain) -> None:
        """What is kept of a device is this now; it is in force as far as it can be drawn."""
        size = self._feed_size(device_id)
        judged = drawable(stored, size)
        with self._lock:
            self.change(lambda setup: _with_chain(setup, device_id, judged.chain, 0.0, size), f"chain:{device_id}")
            self.mark_stored(device_id, stored)
            self._note(device_id, judged.off)

    def page_moved(self, device_id: str, chain: Chain, corners: Corners, feed: Size) -> None:
        """A followed page lies elsewhere: its corners alone change, the teacher's turn, mirror and paper stay.

        corners: (4, 2) px in the feed, clockwise as seen, in the order of those in force.
        """
        square = SquareLink.model_validate({**chain.square.model_dump(), "corners": (corners / np.array(feed)).tolist()})
        self.correct(device_id, chain.model_copy(update={"square": square}), FOLLOW_S, instead_of=chain)

    def size_changed(self, device_id: str, feed: Size) -> None:
        """Its pictures have another size: a chain that cannot be drawn there loses the link at fault, and that is said."""
        with self._lock:
            chain = self.setup.chains.get(device_id)
            judged = drawable(chain, feed) if chain is not None else None
            if judged is not None and judged.off is not None:
                self._note(device_id, judged.off)
                self.change(lambda setup: _with_chain(setup, device_id, judged.chain, 0.0, feed), f"chain:{device_id}")

    def forget(self, device_id: str) -> None:
        """The device is gone."""
        with self._lock:
            self.notices.pop(device_id, None)
            self.change(lambda setup: _unheld(setup, device_id), "teach")
            self.change(lambda setup: _without(setup, device_id))


def _with_chain(setup: Setup, device_id: str, chain: Chain, glide_s: float, feed: Size | None) -> Setup:
    if chain == setup.chains.get(device_id) and device_id not in setup.glides:
        return setup  # the same: what was read of the page by the one in force stays good
    now_s = time.monotonic()
    glides = {key: glide for key, glide in setup.glides.items() if key != device_id}
    if glide_s > 0:
        glides[device_id] = Glide(setup.chain(device_id, now_s), chain, now_s, glide_s, feed)
    return replace(setup, chains={**setup.chains, device_id: chain}, glides=glides)


def _without(setup: Setup, device_id: str) -> Setup:
    if device_id not in setup.chains and device_id not in setup.stored:
        return setup
    chains, stored, glides = (
        {key: value for key, value in held.items() if key != device_id} for held in (setup.chains, setup.stored, setup.glides)
    )
    return replace(setup, chains=chains, stored=stored, glides=glides)  # type: ignore[arg-type]


def _unheld(setup: Setup, device_id: str) -> Setup:
    if device_id not in setup.holds and device_id not in setup.released:
        return setup
    return replace(
        setup,
        holds={key: held for key, held in setup.holds.items() if key != device_id},
        released={key: held for key, held in setup.released.items() if key != device_id},
    )
