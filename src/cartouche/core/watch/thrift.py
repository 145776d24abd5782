"""What is done with less where a computer cannot keep up, and in which order: what learners lose least goes first and comes back last."""

from typing import Literal, NamedTuple

Step = Literal["previews", "audiences", "face", "pace", "size"]
ORDER: tuple[Step, ...] = ("previews", "audiences", "face", "pace", "size")
SAYS: dict[Step, str] = {  # what a teacher hears of is the last, which learners notice most
    "previews": "small pictures here are slower",
    "audiences": "learners' views here are slower",
    "face": "your face moves less smoothly",
    "pace": "fewer pictures a second go out",
    "size": "it goes out at 1280x720",
}
BUSY, SHORT = 0.9, 0.85  # of all cores; of the pictures that should go out
MAX_MAKING_S, SLOW = 0.06, 0.1  # of 0.2 s from the camera to whoever looks; share of pictures that take longer
EASY = 0.75
DOWN_S, UP_S = 6.0, 20.0  # how long it must go on
MAX_PATIENCE = 16.0  # what had to be lowered again soon after is given back later each time, to five minutes at most
SOON_S = 30.0


class Look(NamedTuple):
    """busy: share of all cores, 0-1, None where it is not known.  fps, wanted_fps: of the outgoing picture, 0 where nobody takes it.

    slow: share of the newest pictures that took longer than MAX_MAKING_S to make, 0-1: they come, but late.  large: it can go out smaller.
    """

    busy: float | None
    fps: float
    wanted_fps: float
    slow: float = 0.0
    large: bool = True


class Thrift:
    """Looked at about once a second; `level` says how many steps of ORDER are taken."""

    def __init__(self) -> None:
        self.level = 0
        self._since_s: float | None = None
        self._kind = ""
        self._patience, self._given_s = 1.0, float("-inf")

    @property
    def taken(self) -> tuple[Step, ...]:
        return ORDER[: self.level]

    @property
    def says(self) -> str | None:
        """One sentence for the teacher, None while all is done in full."""
        return f"This computer is too slow: {SAYS[self.taken[-1]]}." if self.level else None

    def look(self, look: Look, now_s: float) -> bool:
        """Whether the level has changed."""
        kind = _kind(look)
        if kind != self._kind:
            self._kind, self._since_s = kind, now_s
        lasts_s = now_s - (self._since_s if self._since_s is not None else now_s)
        if kind == "short" and lasts_s >= DOWN_S and self.level < len(ORDER) - (not look.large):
            if now_s - self._given_s < SOON_S:
                self._patience = min(2 * self._patience, MAX_PATIENCE)
            self.level += 1
        elif kind == "easy" and lasts_s >= UP_S * self._patience and self.level:
            self.level -= 1
            self._given_s = now_s
        else:
            return False
        self._since_s = now_s
        return True


def _kind(look: Look) -> str:
    if look.busy is None:
        return ""
    if look.wanted_fps and look.busy > BUSY and (look.fps < SHORT * look.wanted_fps or look.slow > SLOW):
        return "short"
    return "easy" if look.busy < EASY or not look.wanted_fps else ""
