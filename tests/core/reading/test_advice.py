"""Advice is computed before it is given: what it promises holds once it is done."""

import pytest

from cartouche.bench.devices import DEVICES
from cartouche.core.call.audience import AUDIENCES, STAGED, Audience
from cartouche.core.pictures import Size
from cartouche.core.plates.model import Place
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.reading.advice import Advice, Situation, advise
from cartouche.core.reading.verdicts import PagePicture, print_for, verdict, visible_part, words_across
from cartouche.core.straighten.chain import Chain, FrameLink, TurnLink
from cartouche.core.straighten.square_up import square_of

LEARNERS = [one for one in AUDIENCES if not one.is_teacher]
STAGED_LEARNERS = [one for one in STAGED if not one.is_teacher]
PLACE = FIRST_PLATES[0].places[0]
HD, FULL = Size(1280, 720), Size(1920, 1080)


@pytest.fixture(scope="module")
def page() -> PagePicture:
    device = DEVICES["document-camera"]()
    corners = device.corners()
    assert corners is not None
    return PagePicture(Chain(square=square_of(corners[[2, 3, 0, 1]], device.size), turn=TurnLink(quarters=2)), device.size, 0, asks_pt=10.0)


def advised(page: PagePicture, asks_pt: float, audiences: list[Audience] = LEARNERS, larger: Size | None = FULL) -> list[Advice]:
    return advise(Situation(page, lambda chain: PLACE, HD, audiences, asks_pt, 5.0, STAGED_LEARNERS), larger)


def test_a_page_that_reads_needs_no_advice(page: PagePicture) -> None:
    assert advised(page, 60.0) == []


def test_what_a_press_promises_is_what_then_holds(page: PagePicture) -> None:
    given = {one.way: one for one in advised(page, 10.0)}
    assert given.keys() >= {"closer", "band", "window"}
    for way, one in given.items():
        then = page._replace(chain=one.chain) if one.chain is not None else page
        audiences = STAGED_LEARNERS if way == "window" else LEARNERS
        size = FULL if way == "sharp" else HD
        points = [made.points for who in audiences if (made := print_for(who, then, PLACE, size))]
        if one.worst is not None:
            assert max(points) == pytest.approx(one.worst)
            assert one.reads == (max(points) <= 10.0)
            assert one.words == pytest.approx(words_across(then, PLACE, size, 10.0))


def test_a_closer_look_that_is_given_more_room_is_promised_in_that_room(page: PagePicture) -> None:
    half = PLACE.model_copy(update={"rect": PLACE.rect.model_copy(update={"x": 0.0, "y": 0.0, "width": 0.4, "height": 1.0})})
    whole = PLACE.model_copy(update={"rect": PLACE.rect.model_copy(update={"x": 0.0, "y": 0.0, "width": 1.0, "height": 1.0})})

    def laid(chain: Chain) -> Place:
        return whole if chain.frame.zoom > 1.3 else half

    given = {one.way: one for one in advise(Situation(page, laid, HD, LEARNERS, 10.0, 5.0, STAGED_LEARNERS), None)}
    for way in ("closer", "band"):
        one = given[way]
        assert one.chain is not None
        assert one.chain.frame.zoom > 1.3
        points = [made.points for who in LEARNERS if (made := print_for(who, page._replace(chain=one.chain), whole, HD))]
        assert max(points) == pytest.approx(one.worst)


def test_nothing_is_promised_of_a_file_that_nobody_has_seen(page: PagePicture) -> None:
    near = page._replace(chain=page.chain.model_copy(update={"frame": FrameLink(zoom=8, y=0.2)}))
    last = advised(near, 0.5)[-1]
    assert (last.way, last.outcomes, last.worst, last.reads) == ("beforehand", (), None, False)


def test_the_most_helpful_comes_first_and_nothing_useless_is_advised(page: PagePicture) -> None:
    given = [one for one in advised(page, 10.0) if one.worst is not None]
    now = max(made.points for who in LEARNERS if (made := print_for(who, page, PLACE, HD)))
    assert all(one.worst < now for one in given if one.worst is not None)
    assert [one.reads for one in given] == sorted((one.reads for one in given), reverse=True)


def test_closer_is_no_closer_than_it_must_be(page: PagePicture) -> None:
    given = next(one for one in advised(page, 9.0, LEARNERS[:1], None) if one.way == "closer")
    assert given.chain is not None
    assert given.reads
    little_less = page._replace(
        chain=given.chain.model_copy(update={"frame": given.chain.frame.model_copy(update={"zoom": given.chain.frame.zoom * 0.9})})
    )
    before = print_for(LEARNERS[0], little_less, PLACE, HD)
    assert before is not None
    assert before.points > 9.0


def test_the_verdict_says_by_how_much(page: PagePicture) -> None:
    told = verdict(LEARNERS[1], page, PLACE, HD)
    assert told.print is not None
    assert told.too_small_by == pytest.approx(told.print.points / 10.0)
    assert told.words is not None
    unread = verdict(LEARNERS[1], page._replace(asks_pt=None), PLACE, HD)
    assert unread.too_small_by is None


def test_closer_framing_shows_fewer_words_and_less_of_the_page(page: PagePicture) -> None:
    near = page._replace(chain=page.chain.model_copy(update={"frame": FrameLink(zoom=4, y=0.2)}))
    whole, part = (words_across(one, PLACE, HD, 10.0) for one in (page, near))
    assert whole is not None
    assert part is not None
    assert part < whole
    assert visible_part(page, PLACE, HD) == pytest.approx((0, 0, 1, 1), abs=0.01)
    left, top, right, bottom = visible_part(near, PLACE, HD)
    assert 0 <= left < right <= 1
    assert (top + bottom) / 2 == pytest.approx(0.2, abs=0.05)
