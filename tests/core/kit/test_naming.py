import pytest

from cartouche.core.kit.naming import numbered, plain, unturned


@pytest.mark.parametrize(
    ("name", "taken", "wanted"),
    [
        ("Face", set(), "Face"),
        ("Face", {"Face"}, "Face 2"),
        ("Face", {"Face", "Face 2", "Face 3"}, "Face 4"),
        ("Face 2", {"Face", "Face 2"}, "Face 3"),
        ("sheet", {"Sheet"}, "sheet"),
        ("x" * 60, {"x" * 60}, "x" * 58 + " 2"),
    ],
)
def test_a_name_that_is_taken_gets_the_next_number(name: str, taken: set[str], wanted: str) -> None:
    assert numbered(name, taken) == wanted
    assert numbered(name, taken) not in taken


def test_a_name_turns_nothing_around_it_and_hebrew_stays_hebrew() -> None:
    assert unturned("photo\u202egpj.exe") == "photogpj.exe"
    assert unturned("\u2067מצלמה\u2069 2") == "מצלמה 2"
    assert unturned("\u200fמצלמה") == "\u200fמצלמה", "a mark of direction turns nothing else"
    assert plain("Rear\x00 cam\x9bera\n") == "Rear camera"
