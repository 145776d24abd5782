import pytest
from pydantic import ValidationError

from cartouche.core.plates.model import Place, Plate, Rect
from cartouche.core.plates.ready_made import FIRST_PLATES

PAGE = {"kind": "role", "role": "page"}
RECT = {"x": 0, "y": 0, "width": 1, "height": 1}


def test_the_first_plates_are_known_by_name() -> None:
    names = ["Page and face", "Page", "Face", "Side by side", "One above the other", "Reading band and face"]
    assert [plate.name for plate in FIRST_PLATES] == names
    for plate in FIRST_PLATES:
        assert Plate.model_validate_json(plate.model_dump_json()) == plate


def test_the_face_lies_in_front_of_the_page() -> None:
    roles = [place.content.role for place in FIRST_PLATES[0].places]  # type: ignore[union-attr]
    assert roles == ["page", "face"]


@pytest.mark.parametrize("rect", [{**RECT, "x": 0.2}, {**RECT, "width": 0}, {**RECT, "y": -0.1}, {**RECT, "height": float("nan")}, {}])
def test_a_place_lies_inside_the_picture(rect: dict) -> None:
    with pytest.raises(ValidationError):
        Rect.model_validate(rect)


@pytest.mark.parametrize(
    "place",
    [
        {"content": {"kind": "role", "role": "hat"}, "rect": RECT},
        {"content": {"kind": "sheet"}, "rect": RECT},
        {"content": PAGE, "rect": RECT, "fit": "stretch"},
        {"content": PAGE, "rect": RECT, "rounding": 0.5},
        {"content": {"kind": "feed", "feed_id": "x" * 65}, "rect": RECT},
    ],
)
def test_what_is_no_place_is_refused(place: dict) -> None:
    with pytest.raises(ValidationError):
        Place.model_validate(place)


def test_a_plate_holds_at_most_nine_places() -> None:
    with pytest.raises(ValidationError):
        Plate.model_validate({"id": "a", "name": "A", "places": [{"content": PAGE, "rect": RECT}] * 10})
