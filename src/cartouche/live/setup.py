"""Everything that decides what is shown, as one value."""

from dataclasses import dataclass, field

from cartouche.core.plates.model import Place, Plate, Role, RoleContent
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.glide import Glide

NO_CHAIN = Chain()


@dataclass(frozen=True, eq=False)
class Setup:
    """Replaced as a whole by the stage, never changed.

    plate: the outgoing one.  plates: all of the lesson, by id.  roles: which device serves as what.  chains: in force, by device.
    stored: the chains as they are kept, by device; one that is followed is in force elsewhere.  glides: chains on their way.
    mirrors: reflections in each device's rig.  adorned: caption and frame are on.
    """

    plate: Plate | None = None
    plates: dict[str, Plate] = field(default_factory=dict)
    roles: dict[Role, str] = field(default_factory=dict)
    chains: dict[str, Chain] = field(default_factory=dict)
    stored: dict[str, Chain] = field(default_factory=dict)
    glides: dict[str, Glide] = field(default_factory=dict)
    mirrors: dict[str, int] = field(default_factory=dict)
    adorned: bool = True

    def chain(self, feed_id: str, now_s: float) -> Chain:
        """The chain as it stands at this moment."""
        glide = self.glides.get(feed_id)
        return glide.at(now_s) if glide is not None else self.chains.get(feed_id, NO_CHAIN)

    def feed_id(self, place: Place) -> str | None:
        content = place.content
        return self.roles.get(content.role) if isinstance(content, RoleContent) else getattr(content, "feed_id", None)
