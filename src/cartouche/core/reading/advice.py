"""What would help a page that is too small to read, each with its outcome computed before it is done."""

import math
from collections.abc import Callable, Sequence
from typing import Literal, NamedTuple

from cartouche.core.call.audience import Audience
from cartouche.core.pictures import Size
from cartouche.core.plates.model import Place
from cartouche.core.plates.placing import place_box, placing
from cartouche.core.reading.legibility import Print
from cartouche.core.reading.verdicts import PagePicture, print_for, words_across
from cartouche.core.straighten.chain import ZOOM_MAX, Chain, FrameLink
from cartouche.core.straighten.framing import CLOSE, Framing, framed, seen_share

Way = Literal["closer", "band", "sharp", "window", "beforehand"]
NEARLY = 1.03
WORTH_IT = 0.97  # of the size before: less of a gain is none
AGREE_STEPS = 4  # zoom and room agree after two or three


class Outcome(NamedTuple):
    """points: smallest print that this audience could then read."""

    audience: str
    points: float


class Advice(NamedTuple):
    """way: what to press.  says: what then is so.  chain: what the press puts in force, None where it needs another screen.
    outcomes: per audience; none where nobody can know them before.  reads: whether all of them could then read the page's smallest
    print.  worst: the largest of them, points.  words: of that print, side by side across what is then visible."""

    way: Way
    says: str
    chain: Chain | None
    outcomes: tuple[Outcome, ...]
    reads: bool
    worst: float | None
    words: float | None


class Situation(NamedTuple):
    """A page as it is shown, and to whom. laid: the place that the plate would give it under a chain: a closer look may get more room.
    asks_pt: the page's own smallest print.  step_mm: from line to line.
    staged: the audiences as they would get a shared window; empty where they do.
    """

    page: PagePicture
    laid: Callable[[Chain], Place]
    outgoing: Size
    audiences: Sequence[Audience]
    asks_pt: float
    step_mm: float
    staged: Sequence[Audience] = ()

    def with_frame(self, frame: FrameLink) -> "Situation":
        return self._replace(page=self.page._replace(chain=self.page.chain.model_copy(update={"frame": frame})))

    @property
    def place(self) -> Place:
        return self.laid(self.page.chain)

    def prints(self) -> list[tuple[Audience, Print]]:
        place = self.place
        found = [(audience, print_for(audience, self.page, place, self.outgoing)) for audience in self.audiences]
        return [(audience, print_) for audience, print_ in found if print_ is not None]

    def worst(self) -> float | None:
        return max((print_.points for _, print_ in self.prints()), default=None)

    def canvas_and_room(self, chain: Chain) -> tuple[Size, Size]:
        """The straightened page, and its place on the outgoing picture."""
        place = self.laid(chain)
        box = place_box(place, self.outgoing)
        return placing(place, chain, self.page.feed, self.outgoing).straightened.canvas, Size(box.x1 - box.x0, box.y1 - box.y0)


def advise(now: Situation, larger: Size | None) -> list[Advice]:
    """Only what helps, what helps most first; empty when all can read it as it is.

    larger: an outgoing size above the present one, if there is one."""
    worst = now.worst()
    if worst is None or worst <= now.asks_pt:
        return []
    found = [_closer(now), _band(now)]
    if larger is not None:
        found.append(_advised("sharp", f"Send {larger.width:.0f}x{larger.height:.0f}", now._replace(outgoing=larger)))
    if now.staged:
        found.append(_advised("window", "Share the outgoing window", now._replace(audiences=now.staged)))
    useful = [advice for advice in found if advice is not None and advice.worst is not None and advice.worst < WORTH_IT * worst]
    useful.sort(key=lambda advice: (not advice.reads, advice.worst))
    if any(print_.limit == "camera" for _, print_ in now.prints()):
        useful.append(Advice("beforehand", "Show a scan of it", None, (), False, None, None))
    return useful


def framing_where_laid(name: Framing, chain: Chain, canvas_and_room: Callable[[Chain], tuple[Size, Size]], line_share: float) -> FrameLink:
    """A named framing in the room that the plate will give it: a closer look is given more, which asks for another zoom."""
    link = chain.frame
    tried = chain if name in ("next", "previous") else chain.model_copy(update={"frame": FrameLink(zoom=CLOSE)})
    for _ in range(AGREE_STEPS):
        canvas, room = canvas_and_room(tried)
        before, link = link, framed(name, chain.frame, canvas, room, line_share)
        if link == before:
            break
        tried = chain.model_copy(update={"frame": link})
    return link


def _advised(way: Way, says: str, then: Situation, chain: Chain | None = None) -> Advice | None:
    outcomes = tuple(Outcome(audience.name, print_.points) for audience, print_ in then.prints())
    if not outcomes:
        return None
    worst = max(outcome.points for outcome in outcomes)
    words = words_across(then.page, then.place, then.outgoing, then.asks_pt)
    return Advice(way, says, chain, outcomes, worst <= then.asks_pt, worst, words)


def _framed(way: Way, says: str, now: Situation, link: FrameLink) -> Advice | None:
    then = now.with_frame(link)
    return _advised(way, says, then, then.page.chain)


def _closer(now: Situation) -> Advice | None:
    """The least zoom at which all can read it; the most there is where none is enough."""
    frame = now.page.chain.frame

    def zoomed(zoom: float) -> FrameLink:
        return frame.model_copy(update={"zoom": zoom, "on": True})

    def points(zoom: float) -> float:
        worst = now.with_frame(zoomed(zoom)).worst()
        return worst if worst is not None else math.inf

    low, high = frame.zoom, ZOOM_MAX
    enough = max(now.asks_pt, NEARLY * points(high))  # where the camera sets the limit, closer than that only shows less
    for _ in range(9):
        zoom = (low * high) ** 0.5
        low, high = (low, zoom) if points(zoom) <= enough else (zoom, high)
    link = zoomed(high)
    visible = seen_share(link, *now.canvas_and_room(now.with_frame(link).page.chain))
    share = round(100 * visible.width * visible.height)
    return _framed("closer", f"Zoom to {round(100 * high)}%, showing {share}% of the page", now, link)


def _band(now: Situation) -> Advice | None:
    canvas, _ = now.canvas_and_room(now.page.chain)
    mm = placing(now.place, now.page.chain, now.page.feed, now.outgoing).straightened.mm_per_unit or 1.0
    line_share = now.step_mm / (canvas.height * mm)
    link = framing_where_laid("band", now.page.chain, now.canvas_and_room, line_share)
    visible = seen_share(link, *now.canvas_and_room(now.with_frame(link).page.chain))
    lines = max(1, int(min(visible.height / line_share, 99)))
    return _framed("band", f"A band of {lines} line{'s' if lines > 1 else ''} that walks down the page", now, link)
