import pytest

from cartouche.core.kit.health import Battery, advice


def test_all_well_needs_no_advice() -> None:
    assert advice(None, None, "page") is None
    assert advice(Battery(0.8, charging=False), "rear", "page") is None


def test_a_low_battery_is_told_unless_it_charges() -> None:
    told = advice(Battery(0.08, charging=False), "rear", "page")
    assert told is not None
    assert "8%" in told.sentence
    assert advice(Battery(0.08, charging=True), "rear", "page") is None


@pytest.mark.parametrize(
    ("facing", "serves", "wrong"), [("front", "page", True), ("front", "face", False), ("rear", "page", False), ("front", None, False)]
)
def test_the_front_lens_is_wrong_for_paper_alone(facing: str, serves: str | None, wrong: bool) -> None:
    told = advice(None, facing, serves)  # type: ignore[arg-type]
    assert (told is not None and told.press == "other lens") is wrong


def test_the_wrong_lens_is_told_before_the_battery() -> None:
    told = advice(Battery(0.01, charging=False), "front", "page")
    assert told is not None
    assert told.press == "other lens"
