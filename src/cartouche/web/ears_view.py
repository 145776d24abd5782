"""What learners of the practice call hear, for whoever shows it."""

from pydantic import BaseModel

from cartouche.core.call.ears import Ears


class LearnersView(BaseModel):
    """offset_ms: sound after picture."""

    kind: str
    says: str
    loudness: float
    offset_ms: float | None


def learners_view(heard: Ears | None) -> LearnersView | None:
    if heard is None:
        return None
    offset_ms = None if heard.offset_s is None else round(1000 * heard.offset_s, 1)
    return LearnersView(kind=heard.kind, says=heard.says, loudness=heard.loudness, offset_ms=offset_ms)
