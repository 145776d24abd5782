"""Pages known again: each that lay under a camera has a name and a small picture; the one that comes is one of them, or a new one."""

from dataclasses import dataclass, field

from cartouche.core.straighten.identity import SAME, Thumb, likeness

MOST = 40  # pages of one camera: older ones are forgotten


@dataclass(eq=False)
class KnownPages:
    """Of one camera. now: the name of the page that lies there."""

    device_id: str
    thumbs: dict[str, Thumb | None] = field(default_factory=dict)
    now: str = ""

    def __post_init__(self) -> None:
        self.now = self.now or f"{self.device_id}:1"
        self.thumbs.setdefault(self.now, None)

    def changed(self, before: Thumb | None, now: Thumb) -> str:
        """Another page lies there. before: the last look at the one that went.  The name of the one that came, known or new."""
        if before is not None:
            self.thumbs[self.now] = before
        self.now = self._known(now, but=self.now) or self._new()
        self.thumbs[self.now] = now
        while len(self.thumbs) > MOST:
            self.thumbs.pop(next(name for name in self.thumbs if name != self.now))
        return self.now

    def begun(self, now: Thumb) -> bool:
        """The first look after a start: whether another page lies there than the one that was left."""
        left = self.thumbs.get(self.now)
        if left is None or likeness(left, now) >= SAME:
            self.thumbs[self.now] = now
            return False
        known = self._known(now, but=self.now)
        self.now = known or self._new()
        self.thumbs[self.now] = now
        return True

    def _known(self, thumb: Thumb, but: str) -> str | None:
        likes = {name: likeness(other, thumb) for name, other in self.thumbs.items() if other is not None and name != but}
        best = max(likes, key=likes.__getitem__, default=None)
        return best if best is not None and likes[best] >= SAME else None

    def _new(self) -> str:
        number = 1
        while f"{self.device_id}:{number}" in self.thumbs:
            number += 1
        return f"{self.device_id}:{number}"
