import pytest
from pydantic import ValidationError

from cartouche.core.call.audience import FIRST_VIEWERS, LAYERS, SCREENS, STAGED, WINDOW, Viewers, audience_of, layer_for, tile_px
from cartouche.core.call.kinds import KINDS, CallKind, kind_named


def viewers(**more: object) -> Viewers:
    return Viewers.model_validate({"id": "a", "name": "A", **more})


@pytest.mark.parametrize(("shown", "tiles", "wide"), [("pinned", 9, 1200), ("grid", 9, 427), ("grid", 25, 256), ("full", 9, 1365)])
def test_a_tile_is_what_the_call_leaves_of_the_screen(shown: str, tiles: int, wide: int) -> None:
    assert tile_px(viewers(shown=shown, tiles=tiles))[0] == wide


def test_whatever_is_shared_gets_the_stage_even_in_a_grid() -> None:
    assert tile_px(viewers(shown="grid"), staged=True) == tile_px(viewers(shown="pinned"))


@pytest.mark.parametrize(("wide", "name"), [(1200, "large"), (740, "middle"), (427, "middle"), (300, "small"), (1920, "large")])
def test_a_call_sends_the_smallest_quality_that_is_enough(wide: int, name: str) -> None:
    assert layer_for(wide, LAYERS).name == name


def test_a_screen_may_be_of_ones_own() -> None:
    far = audience_of(viewers(screen="board", inches=50, distance_mm=9000, shown="full"), LAYERS)
    usual = audience_of(viewers(screen="board", shown="full"), LAYERS)
    assert far.distance_mm == 9000
    assert far.screen_px_per_mm == pytest.approx(usual.screen_px_per_mm * 75 / 50)
    assert SCREENS["board"].px_per_mm == pytest.approx(1.156, abs=0.01)


def test_only_the_teachers_own_view_of_a_webcam_is_mirrored() -> None:
    assert [audience_of(one, LAYERS).mirrored for one in FIRST_VIEWERS] == [False, False, False, True]
    assert not any(audience.mirrored for audience in STAGED)
    assert {audience.layer for audience in STAGED} == {WINDOW}


@pytest.mark.parametrize(
    "wrong", [{"count": 0}, {"inches": 0.5}, {"distance_mm": 10}, {"shown": "upside down"}, {"id": "A B"}, {"name": ""}]
)
def test_what_nobody_has_is_refused(wrong: dict[str, object]) -> None:
    with pytest.raises(ValidationError):
        viewers(**wrong)


def test_kinds_of_call_say_no_more_than_they_send() -> None:
    assert len({kind.id for kind in KINDS}) == len(KINDS)
    for kind in KINDS:
        assert kind_named(kind.id) is kind
        assert [layer.width for layer in kind.webcam] == sorted({layer.width for layer in kind.webcam}, reverse=True)
    with pytest.raises(KeyError):
        kind_named("none")
    with pytest.raises(ValidationError):
        CallKind(id="x", name="X", webcam=())
