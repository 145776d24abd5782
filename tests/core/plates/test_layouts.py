"""Layouts by what they hold, and plates that have lost a feed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cartouche.core.plates.layouts import arranged, without
from cartouche.core.plates.model import Place, Plate, Rect
from cartouche.core.plates.ready_made import FIRST_PLATES

WIDE = 16 / 9
BY_ID = {plate.id: plate for plate in FIRST_PLATES}
A4, A4_LYING, BOOK = 210 / 297, 297 / 210, 1.5
LAYOUTS = ("page-and-face", "side-by-side", "stacked", "four", "slides-and-face", "band-and-face")


def boxes(plate: Plate, aspects: list[float]) -> list[Rect]:
    return [place.rect for place in arranged(plate, aspects, WIDE).places]


def shared(a: Rect, b: Rect) -> float:
    wide = min(a.x + a.width, b.x + b.width) - max(a.x, b.x)
    high = min(a.y + a.height, b.y + b.height) - max(a.y, b.y)
    return max(wide, 0) * max(high, 0)


def seen_area(rect: Rect, aspect: float) -> float:
    """Of the outgoing picture, what a picture of this aspect covers when it is fitted."""
    wide, high = rect.width * WIDE, rect.height
    return min(wide, high * aspect) * min(high, wide / aspect) / WIDE


def test_an_upright_page_takes_the_whole_height_and_the_face_all_that_is_left() -> None:
    page, face = boxes(BY_ID["page-and-face"], [A4, WIDE])
    assert page.height > 0.94
    assert page.width * WIDE / page.height == pytest.approx(A4, rel=0.01), "no margin within its place"
    assert face.width > 0.5
    assert shared(page, face) == 0


def test_a_lying_page_leaves_a_column_and_a_wide_one_shrinks_for_it() -> None:
    for aspect in (A4_LYING, WIDE, 2.5):
        page, face = boxes(BY_ID["page-and-face"].model_copy(update={"layout": "slides-and-face"}), [aspect, WIDE])
        assert shared(page, face) == 0
        assert min(face.width * WIDE, face.height) > 0.2
        assert seen_area(page, aspect) > 0.4


def test_a_face_that_keeps_off_the_writing_lets_a_wide_page_be_whole() -> None:
    page, face = BY_ID["page-and-face"].places
    pinned = BY_ID["page-and-face"].model_copy(update={"places": (page, face.model_copy(update={"off_writing": False}))})
    assert boxes(BY_ID["page-and-face"], [WIDE, WIDE])[0] == Rect(x=0, y=0, width=1, height=1)
    assert boxes(BY_ID["page-and-face"], [A4, WIDE]) == boxes(pinned, [A4, WIDE]), "beside it there is room enough"


def test_side_by_side_crops_nothing_and_wastes_no_width() -> None:
    page, face = boxes(BY_ID["side-by-side"], [A4, 4 / 3])
    assert page.width * WIDE / page.height == pytest.approx(A4, rel=0.01)
    assert face.width * WIDE / face.height == pytest.approx(4 / 3, rel=0.01)
    assert page.height == pytest.approx(face.height)


@pytest.mark.parametrize("layout", LAYOUTS)
@given(aspects=st.lists(st.floats(0.3, 4), min_size=1, max_size=6), fills=st.lists(st.booleans(), min_size=6, max_size=6))
def test_every_layout_keeps_places_apart_and_in_the_picture(layout: str, aspects: list[float], fills: list[bool]) -> None:
    content = [{"kind": "feed", "feed_id": f"f{number}"} for number in range(len(aspects))]
    places = [
        Place.model_validate({"content": one, "rect": {"x": 0, "y": 0, "width": 1, "height": 1}, "fit": "fill" if fill else "fit"})
        for one, fill in zip(content, fills, strict=False)
    ]
    found = boxes(Plate.model_validate({"id": "p", "name": "P", "layout": layout, "places": places}), aspects)
    assert len(found) == len(aspects)
    for number, rect in enumerate(found):
        assert rect.x >= 0
        assert rect.x + rect.width <= 1.0001
        assert rect.y + rect.height <= 1.0001
        assert all(shared(rect, other) < 1e-6 for other in found[number + 1 :])


def test_what_was_laid_by_hand_stays_where_it_is() -> None:
    assert arranged(BY_ID["page"], [A4], WIDE) is BY_ID["page"]


def test_a_lost_feed_gives_its_room_to_the_others() -> None:
    left = without(BY_ID["page-and-face"], frozenset({0}))
    assert [place.content.role for place in left.places] == ["face"]  # type: ignore[union-attr]
    assert boxes(left, [WIDE]) == [Rect(x=0, y=0, width=1, height=1)]
    by_hand = BY_ID["page-and-face"].model_copy(update={"layout": None})
    assert without(by_hand, frozenset({0})).places[0].rect == by_hand.places[0].rect
    assert without(by_hand, frozenset({1})).places == by_hand.places[:1]
    assert without(by_hand, frozenset({0, 1})) is by_hand, "nothing else is left to show"
