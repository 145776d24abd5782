"""One sentence of all that is known of a page: the worst first, with the press that helps most."""

from typing import Any

import pytest

from cartouche.core.call.audience import FIRST_VIEWERS, audience_of
from cartouche.core.call.kinds import KINDS
from cartouche.core.reading.advice import Advice
from cartouche.core.reading.agreement import Agreement
from cartouche.core.reading.first_look import Page, first_look
from cartouche.core.reading.handedness import light_path
from cartouche.core.reading.legibility import Print
from cartouche.core.reading.verdicts import Verdict
from cartouche.core.straighten.chain import Chain, MirrorLink

AUDIENCE = next(audience_of(viewers, KINDS[0].webcam) for viewers in FIRST_VIEWERS if not viewers.is_teacher)
AGREES = Agreement("agrees", "The print reads true.")
CLOSER = Advice("closer", "Zoom to 200%, showing 40% of the page", Chain(), (), True, 8.0, 9.0)


def verdict(points: float = 8.0, too_small_by: float | None = 0.8, flips: bool = False) -> Verdict:
    chain = Chain(mirror=MirrorLink(left_right=flips))
    return Verdict(AUDIENCE, light_path(0, 0, chain, 0), Print(points, "camera"), too_small_by, 12.0)


def page(**changes: Any) -> Page:
    well = Page(True, None, "fixed", True, AGREES, 10.0, [verdict()], [])
    return well._replace(**changes)


@pytest.mark.parametrize(
    ("changes", "kind", "says", "press"),
    [
        ({}, "holds", "Straight, the right way round; its smallest print, 10 pt, reads for all.", ""),
        ({"squared": False}, "look", "goes out as the camera sees it", "square"),
        ({"follow": "lost"}, "look", "out of view", "square"),
        ({"found_sure": False}, "look", "a guess", "square"),
        ({"focus": False}, "wrong", "out of focus", "refocus"),
        ({"way": Agreement("reversed", "The print is reversed.", "mirror")}, "wrong", "The print is reversed.", "mirror"),
        ({"way": Agreement("turned", "Not upright.", "turn", 1)}, "look", "Not upright.", "turn"),
        ({"verdicts": [verdict(flips=True)]}, "wrong", "reads reversed for “Laptop, pinned”", "mirror"),
        ({"way": Agreement("cannot tell", "Too little print.")}, "holds", "see for yourself", ""),
        ({"asks_pt": None, "verdicts": [verdict(too_small_by=None)]}, "holds", "print from 8 pt up reads for all", ""),
        ({"verdicts": []}, "look", "Name the paper", ""),
        ({"verdicts": [verdict(12.0, 1.4)], "advice": [CLOSER]}, "look", "does not read for anybody. What helps: zoom to 200%", "closer"),
        ({"verdicts": [verdict(12.0, 1.4), verdict()], "advice": []}, "look", "does not read for “Laptop, pinned”.", ""),
    ],
)
def test_the_worst_is_said_first(changes: dict[str, Any], kind: str, says: str, press: str) -> None:
    found = first_look(page(**changes))
    assert (found.kind, found.press) == (kind, press)
    assert says in found.says
    assert found.says.endswith(".")


def test_what_makes_the_page_useless_comes_before_what_makes_it_small() -> None:
    bad = page(focus=False, way=Agreement("reversed", "Reversed.", "mirror"), verdicts=[verdict(12.0, 1.4)], advice=[CLOSER])
    assert first_look(bad).press == "refocus"
    assert first_look(bad._replace(focus=True)).press == "mirror"
    assert first_look(bad._replace(focus=True, way=AGREES)).press == "closer"
