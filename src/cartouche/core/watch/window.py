"""What an outgoing window that is shared in a call gives those who get it."""

from typing import Literal, NamedTuple

from cartouche.core.pictures import Size

State = Literal["visible", "hidden", "frozen"]
SMALL = 0.7  # of the outgoing picture's width: below it learners get visibly less than is sent


class WindowFacts(NamedTuple):
    """state: as the browser tells it; hidden is minimised, covered whole or behind another tab.  size: of its picture, device pixels."""

    state: State
    size: Size


def window_says(facts: WindowFacts, outgoing: Size) -> str | None:
    """None where all is well. outgoing: what is sent to it."""
    if facts.state == "frozen":
        return "Learners see a still picture: the browser has put the outgoing window to sleep. Bring it to the front."
    if facts.state == "hidden":
        return "Learners see a still picture: the outgoing window is minimised or covered. Bring it to the front."
    if facts.size.width < SMALL * outgoing.width:
        got, sent = (f"{size.width:.0f}x{size.height:.0f}" for size in (facts.size, outgoing))
        return f"The outgoing window is small: learners get {got} of {sent}. Make it larger."
    return None
