"""What a teacher needs to hear of a squared-up page: one sentence, and the one press that helps most."""

from collections.abc import Sequence
from typing import Literal, NamedTuple

from cartouche.core.reading.advice import Advice
from cartouche.core.reading.agreement import Agreement
from cartouche.core.reading.verdicts import Verdict
from cartouche.core.straighten.follower import FollowState

Press = Literal["", "square", "mirror", "turn", "refocus", "closer", "band", "sharp", "window", "beforehand"]


class Page(NamedTuple):
    """squared: the chain makes the page straight.  found_sure: whether found corners need no look, None where they were not just found.

    focus: None without edges to judge by.  asks_pt: the page's own smallest print, None where it was not measured.
    """

    squared: bool
    found_sure: bool | None
    follow: FollowState
    focus: bool | None
    way: Agreement | None
    asks_pt: float | None
    verdicts: Sequence[Verdict]
    advice: Sequence[Advice]


class FirstLook(NamedTuple):
    """kind: as verdicts are shown.  says: for a teacher.  press: what helps most, '' for nothing."""

    kind: Literal["holds", "look", "wrong"]
    says: str
    press: Press = ""


def first_look(page: Page) -> FirstLook:
    """The worst first: what makes the page useless, then what makes it hard to read."""
    if not page.squared:
        return FirstLook("look", "The picture goes out as the camera sees it. Lay the whole page in view, then square it up.", "square")
    if page.follow == "lost":
        return FirstLook("look", "The page is out of view: its last position is kept. Lay it back, or square up what lies there.", "square")
    if page.found_sure is False:
        return FirstLook(
            "look", "These corners are a guess. Drag them onto the page, or take your hand away and square it up again.", "square"
        )
    if page.focus is False:
        return FirstLook("wrong", "The picture is out of focus: nothing on the page is sharp.", "refocus")
    if page.way is not None and page.way.press:
        return FirstLook("wrong" if page.way.kind == "reversed" else "look", page.way.says, page.way.press)
    reads_wrong = [verdict for verdict in _learners(page) if verdict.path is not None and not verdict.path.reads_true]
    if reads_wrong:
        return FirstLook("wrong", f"It reads reversed for {_names(reads_wrong)}.", "mirror")
    told = page.way is not None and page.way.kind in ("agrees", "differs")
    start = "Straight, the right way round" if told else "Straight; see for yourself whether it is the right way round"
    return _print(page, start)


def _print(page: Page, start: str) -> FirstLook:
    learners = [verdict for verdict in _learners(page) if verdict.print is not None]
    if not learners:
        return FirstLook("look", f"{start}. Name the paper, under More, to hear how small print may be.")
    if page.asks_pt is None:
        worst = max(verdict.print.whole_points for verdict in learners if verdict.print)
        return FirstLook("holds", f"{start}; print from {worst} pt up reads for all.")
    fail = [verdict for verdict in learners if not verdict.reads]
    if not fail:
        return FirstLook("holds", f"{start}; its smallest print, {_points(page.asks_pt)} pt, reads for all.")
    best = page.advice[0] if page.advice else None
    who = "anybody" if len(fail) == len(learners) else _names(fail)
    says = f"{start}; its smallest print, {_points(page.asks_pt)} pt, does not read for {who}."
    return FirstLook("look", f"{says} What helps: {best.says[0].lower()}{best.says[1:]}." if best else says, best.way if best else "")


def _learners(page: Page) -> list[Verdict]:
    return [verdict for verdict in page.verdicts if not verdict.audience.is_teacher]


def _names(verdicts: Sequence[Verdict]) -> str:
    names = [f"“{verdict.audience.name}”" for verdict in verdicts]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def _points(value: float) -> str:
    return f"{value:.1f}".removesuffix(".0")
