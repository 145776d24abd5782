"""Steps: one after the other, skipped ones left out, and what a step lacks."""

import pytest
from pydantic import ValidationError

from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.teach.steps import Step, after, lacks

STEPS = tuple(Step(id=name, name=name, skipped=name == "b") for name in "abcd")


def test_forth_and_back_without_the_skipped() -> None:
    def at(now: str | None, by: int) -> str | None:
        found = after(STEPS, now, by)
        return found.id if found else None

    assert [at(None, 1), at("a", 1), at("c", 1), at("d", 1)] == ["a", "c", "d", None]
    assert [at("c", -1), at("a", -1), at(None, -1)] == ["a", None, None]
    assert [at("b", 1), at("b", -1)] == ["c", "a"]  # one that was shown all the same
    assert at("deleted", 1) == "a"
    assert after((), None, 1) is None


@pytest.mark.parametrize(
    ("step", "says"),
    [
        (Step(id="s", name="s", plate_id="gone"), "plate was deleted"),
        (Step(id="s", name="s", sheet_id="gone"), "sheet was deleted"),
        (Step(id="s", name="s", serves={"page": "gone"}), "no longer in the kit"),
        (Step(id="s", name="s", serves={"page": "tablet"}), "Tablet gives no picture now"),
        (Step(id="s", name="s", clip_id="tablet"), "Tablet gives no picture now"),
        (Step(id="s", name="s", plate_id=FIRST_PLATES[0].id, sheet_id="kept", pages={"camera": 2}), None),
    ],
)
def test_what_it_lacks_is_said(step: Step, says: str | None) -> None:
    found = lacks(step, FIRST_PLATES, {"camera": "Camera", "tablet": "Tablet"}, {"tablet"}, {"kept"})
    assert (found is None) == (says is None)
    assert says is None or (found is not None and says in found)


@pytest.mark.parametrize("values", [{"name": ""}, {"note": "x" * 500}, {"pages": {"a": 0}}, {"serves": {"nobody": "a"}}, {"more": 1}])
def test_what_is_no_step_is_refused(values: dict[str, object]) -> None:
    with pytest.raises(ValidationError):
        Step.model_validate({"id": "s", "name": "s", **values})
