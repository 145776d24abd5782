"""On the way from plate to plate."""

import pytest

from cartouche.core.plates.fade import Laid, between
from cartouche.core.plates.model import Place

WHOLE, SMALL = {"x": 0, "y": 0, "width": 1, "height": 1}, {"x": 0.7, "y": 0.1, "width": 0.2, "height": 0.3}


def laid(role: str, rect: dict[str, float], aspect: float = 1.0, fit: str = "fill") -> Laid:
    return Laid(Place.model_validate({"content": {"kind": "role", "role": role}, "rect": rect, "fit": fit}), aspect)


def test_what_both_hold_moves_and_the_rest_fades() -> None:
    before, after = [laid("page", WHOLE)], [laid("page", SMALL), laid("face", WHOLE)]
    page, face = between(before, after, 0.5)
    assert (page.opacity, page.place.rect.x, page.place.rect.width) == (1.0, pytest.approx(0.35), pytest.approx(0.6))
    assert face.opacity == pytest.approx(0.5)
    back = between(after, before, 0.5)
    assert [one.place.content.role for one in back] == ["face", "page"], "what leaves lies below"  # type: ignore[union-attr]


def test_it_begins_at_the_first_and_ends_as_the_second() -> None:
    before, after = [laid("page", WHOLE)], [laid("page", SMALL, fit="fit")]
    assert between(before, after, 0.0)[0].place.rect == before[0].place.rect
    assert between(before, after, 1.0)[0].place is after[0].place


def test_a_fitted_picture_grows_from_where_it_is_seen() -> None:
    """With margins it is seen smaller than its place: it must not jump to the place's own edges."""
    start = between([laid("page", WHOLE, 0.5, "fit")], [laid("page", WHOLE)], 0.0)[0].place
    assert (start.rect.x, start.rect.width) == (0.25, 0.5)
    near = between([laid("page", WHOLE, 0.5, "fit")], [laid("page", WHOLE)], 0.02)[0].place
    assert abs(near.rect.width - 0.5) < 0.01, "eased: it sets off slowly"
