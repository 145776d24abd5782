"""Everything that decides what is shown, as one value."""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from cartouche.core.pictures import Frame
from cartouche.core.plates.model import Place, Plate, Role, RoleContent
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.core.straighten.glide import Glide
from cartouche.core.straighten.tone import Tone
from cartouche.core.teach.timer import Timer

NO_CHAIN = Chain()
HeldBy = Literal["hand", "page", "sheet"]


@dataclass(frozen=True, eq=False)
class Held:
    """A picture that stands in the place of a feed's own: the page as it lay, or a kept sheet.

    frame: its planes are its own.  chain: it was straightened by.  since_s: of the steady clock.  by: the teacher, the page that left,
    or a sheet that is shown.  sheet_id: which.  tone: its light, where the chain evens it.  before: how close the page was looked at.
    """

    frame: Frame
    chain: Chain
    since_s: float
    by: HeldBy
    sheet_id: str = ""
    tone: Tone | None = None
    before: FrameLink | None = None
    framings: dict[FrameLink, Chain] = field(default_factory=dict)

    def under(self, frame: FrameLink) -> Chain:
        """Its chain, looked at as closely as the page is now; the same object for the same look."""
        known = self.framings.get(frame)
        if known is None:
            if len(self.framings) > 40:
                self.framings.clear()
            known = self.framings[frame] = self.chain.model_copy(update={"frame": frame})
        return known


@dataclass(frozen=True, eq=False)
class Released:
    """What was held until a moment ago (monotonic), to be faded out."""

    held: Held
    at_s: float


@dataclass(frozen=True, eq=False)
class Setup:
    """Replaced as a whole by the stage, never changed.

    plate: the outgoing one.  plates: all of the lesson, by id.  roles: which device serves as what.  chains: in force, by device.
    stored: the chains as they are kept, by device; one that is followed is in force elsewhere.  glides: chains on their way.
    mirrors: reflections in each device's rig.  adorned: caption and frame are on.  holds: pictures that stand still, by device.
    released: those that did until just now.  auto_hold: a page that leaves is held by itself.
    follow_pen: a close look goes with the line being written.  natural: faces
    as their cameras give them, whatever the plate wishes.  timer: what learners see of time.
    """

    plate: Plate | None = None
    plates: dict[str, Plate] = field(default_factory=dict)
    roles: dict[Role, str] = field(default_factory=dict)
    chains: dict[str, Chain] = field(default_factory=dict)
    stored: dict[str, Chain] = field(default_factory=dict)
    glides: dict[str, Glide] = field(default_factory=dict)
    mirrors: dict[str, int] = field(default_factory=dict)
    adorned: bool = True
    holds: dict[str, Held] = field(default_factory=dict)
    released: dict[str, Released] = field(default_factory=dict)
    auto_hold: bool = False
    follow_pen: bool = False
    natural: bool = False
    timer: Timer = field(default_factory=Timer)

    def chain(self, feed_id: str, now_s: float) -> Chain:
        """The chain as it stands at this moment."""
        glide = self.glides.get(feed_id)
        return glide.at(now_s) if glide is not None else self.chains.get(feed_id, NO_CHAIN)

    def shown_chain(self, feed_id: str, now_s: float) -> Chain:
        """The chain of what is shown of a feed: its own, or that of the picture that stands in its place."""
        held = self.holds.get(feed_id)
        return self.chain(feed_id, now_s) if held is None else held.under(self.chain(feed_id, now_s).frame)

    @cached_property
    def page_id(self) -> str | None:
        """The device that serves as page."""
        return self.roles.get("page")

    def feed_ids(self, place: Place) -> tuple[str, ...]:
        """Of all that a place shows: its own feed, and the picture behind its face."""
        behind = place.behind.feed_id if place.behind.way == "picture" and not self.natural else ""
        return tuple(feed_id for feed_id in (self.feed_id(place), behind) if feed_id)

    @cached_property
    def shown_ids(self) -> frozenset[str]:
        """The devices that the outgoing plate shows."""
        places = self.plate.places if self.plate is not None else ()
        return frozenset(feed_id for place in places for feed_id in self.feed_ids(place))

    def feed_id(self, place: Place) -> str | None:
        content = place.content
        return self.roles.get(content.role) if isinstance(content, RoleContent) else getattr(content, "feed_id", None)
