"""Does the page itself bear out what the count of reflections says? And what to do when it does not."""

from typing import Literal, NamedTuple

from cartouche.core.reading.handedness import LightPath
from cartouche.core.reading.proof import Proof

TELLING_PX_PER_MM = 2.0  # with less, 10-point print has under four pixels from line to line of a letter: it is a smear either way
TURNS = ("", "a quarter turn to the right", "half a turn", "a quarter turn to the left")


class Agreement(NamedTuple):
    """kind: whether count and print agree; print that is reversed is so whatever the count says.  says: for a teacher.
    press: what mends it: 'mirror', 'turn', or ''.  quarters: for 'turn'."""

    kind: Literal["agrees", "reversed", "differs", "turned", "cannot tell"]
    says: str
    press: Literal["mirror", "turn", ""] = ""
    quarters: int = 0


def agreement(path: LightPath, proof: Proof | None, px_per_mm: float | None = None) -> Agreement:
    """path: from paper to learners.  proof: of the straightened page as it is; None before the first look.

    px_per_mm: what the picture holds of the page at its worst spot, None where no paper is named.
    """
    if proof is None:
        return Agreement("cannot tell", "The page has not been looked at yet.")
    if proof.reads_true is None:
        return Agreement("cannot tell", f"The print cannot tell: {_reason(proof, px_per_mm)} The count of reflections stands.")
    sure = min(99, round(100 * proof.confidence))  # of what was seen in a picture nobody is quite sure
    if not proof.reads_true:
        return Agreement("reversed", f"The print is reversed, {sure}% sure. Flip it.", "mirror")
    if proof.quarters:
        return Agreement("turned", f"The page is not upright, {sure}% sure. Give it {TURNS[proof.quarters]}.", "turn", proof.quarters)
    if not path.counted_true:
        return Agreement("differs", f"The print reads true, {sure}% sure. Check which rig is set in Kit.")
    return Agreement("agrees", f"The print reads true and stands upright, {sure}% sure.")


def _reason(proof: Proof, px_per_mm: float | None) -> str:
    if px_per_mm is not None and px_per_mm < TELLING_PX_PER_MM:
        return "its print is too small to tell. Zoom the camera in, bring it closer, or choose a larger size for it under Kit."
    if proof.windows >= 1.5:
        return "its print tells both ways."
    return "too little print on it."
