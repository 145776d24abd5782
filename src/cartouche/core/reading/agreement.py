"""Does the page itself bear out what the count of reflections says? And what to do when it does not."""

from typing import Literal, NamedTuple

from cartouche.core.reading.handedness import LightPath
from cartouche.core.reading.proof import Proof

TURNS = ("", "a quarter turn to the right", "half a turn", "a quarter turn to the left")


class Agreement(NamedTuple):
    """kind: whether count and page agree.  says: for a teacher.  press: what mends it: 'mirror', 'turn', or ''.  quarters: for 'turn'."""

    kind: Literal["agrees", "differs", "turned", "cannot tell"]
    says: str
    press: Literal["mirror", "turn", ""] = ""
    quarters: int = 0


def agreement(path: LightPath, proof: Proof | None) -> Agreement:
    """path: from paper to learners.  proof: of the straightened page as it is; None before the first look."""
    if proof is None or proof.reads_true is None:
        reason = "too little print on it" if proof is None or proof.windows < 1.5 else "its print tells both ways"
        return Agreement("cannot tell", f"The page itself cannot tell: {reason}. The count of reflections holds.")
    sure = min(99, round(100 * proof.confidence))  # of what was seen in a picture nobody is quite sure
    if proof.reads_true != path.reads_true:
        claim = "reads reversed" if path.reads_true else "reads true"
        return Agreement(
            "differs",
            f"The page itself {claim} ({sure} % sure), against the count. A mirror may be missing from the rig, or the device "
            "flips its picture by itself: flip it here, and it is right for the learners.",
            "mirror",
        )
    if proof.quarters:
        return Agreement(
            "turned", f"The page stands on its head or side ({sure} % sure): it wants {TURNS[proof.quarters]}.", "turn", proof.quarters
        )
    word = "reads true" if proof.reads_true else "reads reversed"
    return Agreement("agrees", f"The page itself {word} and stands upright, {sure} % sure.")
