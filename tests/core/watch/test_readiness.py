"""The check before the lesson: every fault is told in its line, none where all is well, and what was not measured is never good."""

from dataclasses import replace

import pytest

from cartouche.core.kit.health import Battery
from cartouche.core.reading.first_look import FirstLook
from cartouche.core.watch.facing import FaceLook
from cartouche.core.watch.facts import AudienceFacts, ComputerFacts, Connection, Facts, LessonFacts, SoundFacts
from cartouche.core.watch.readiness import Check, readiness, summary
from tests.core.watch.ready_facts import DESK, FACE, LAPEL, PAGE, PHONE, WELL, with_device, with_part

NOBODY = FaceLook(0.0, 0.0, 120.0, 0.0)


def by_id(facts: Facts) -> dict[str, Check]:
    found = readiness(facts)
    assert len({check.id for check in found}) == len(found)
    return {check.id: check for check in found}


def test_where_all_is_well_all_holds() -> None:
    assert {check.verdict for check in readiness(WELL)} == {"holds"}
    assert {check.verdict for check in readiness(replace(WELL, devices=(PHONE, FACE)))} == {"holds"}
    assert summary(readiness(WELL)).says == "Ready."
    assert all(check.value and check.limit for check in readiness(WELL))


FAULTS = [
    (replace(WELL, devices=(FACE,), page=None), "page-live", "wrong", "first"),
    (replace(WELL, devices=(DESK,), face=None), "face-live", "wrong", "first"),
    *((with_device(state=state), "page-live", "wrong", "restart") for state in ("black", "stuck", "asleep", "lost")),
    (with_device(state="starting"), "page-live", "look", ""),
    (with_device(facing="front"), "page-live", "wrong", "lens"),
    (with_device(fps=6.0), "page-live", "look", "kit"),
    (with_device(delay_ms=2000.0), "page-live", "look", "kit"),
    (with_device(battery=Battery(0.08, False)), "page-battery", "wrong", ""),
    (with_device(awake=False), "page-awake", "look", ""),
    (with_device(connection=Connection(path_ms=600.0)), "page-network", "look", ""),
    (with_device(connection=Connection(40.0, lost=0.08)), "page-network", "look", ""),
    (with_device(connection=Connection(40.0, 0.0, 300.0, starved=True)), "page-network", "look", ""),
    (replace(with_part("page", shows_person=0.4), face=NOBODY), "meant", "wrong", "swap"),
    (replace(WELL, face=NOBODY), "face", "look", ""),
    (replace(WELL, face=FaceLook(0.2, 60.0, 200.0, 0.0, 0.5)), "face", "look", ""),
    (replace(WELL, face=FaceLook(0.2, 50.0, 60.0, 0.0)), "face", "look", ""),
    (replace(WELL, face=FaceLook(0.2, 250.0, 60.0, 0.4)), "face", "look", ""),
    (with_part("page", first=FirstLook("look", "Not squared.", "square")), "page", "look", "square"),
    (with_part("page", first=FirstLook("wrong", "Out of focus.", "refocus")), "page", "wrong", "refocus"),
    (with_part("page", audiences=(AudienceFacts("Laptop", False, None, 8),)), "reads-0", "wrong", "mirror"),
    (with_part("page", audiences=(AudienceFacts("Grid", True, False, 20),)), "reads-0", "look", "square"),
    (with_part("page", covered=0.1), "covered", "look", "plates"),
    (with_part("sound", open=()), "microphone", "look", "open-microphone"),
    (with_part("sound", open=(LAPEL, LAPEL)), "microphone", "look", "sound"),
    (with_part("sound", open=(replace(LAPEL, verdict="nothing", good=False),)), "microphone", "wrong", "sound"),
    (with_part("sound", findings=(("Learners hear you twice.", "Close the room microphone."),)), "loop", "wrong", "end-finding"),
    (with_part("sound", lips_ms=300), "lips", "look", "sound"),
    (with_part("way", windows=0), "way", "look", "way-in"),
    (with_part("way", says="The window is minimised."), "way", "wrong", "front-window"),
    (with_part("way", fps=9.0), "way", "look", "way-in"),
    (with_part("computer", busy=0.97), "computer", "look", ""),
    (with_part("computer", throttled=True), "computer", "look", ""),
    (with_part("computer", free_bytes=100_000_000), "disk", "look", ""),
    (with_part("lesson", starts_in=-200.0), "lesson", "look", "open-lesson"),
    (with_part("computer", clock_ok=False), "lesson", "look", ""),
    (replace(WELL, lesson=None), "lesson", "look", "open-lesson"),
]


@pytest.mark.parametrize(("facts", "id_", "verdict", "press"), FAULTS)
def test_each_fault_is_told_in_its_line_with_its_mend(facts: Facts, id_: str, verdict: str, press: str) -> None:
    check = by_id(facts)[id_]
    assert (check.verdict, check.press) == (verdict, press)
    assert check.says.endswith((".", "!"))
    others = {other.id for other in readiness(facts) if other.verdict in ("wrong", "look")} - {id_}
    follows = {"meant": {"face"}, "page-live": {"meant"}}.get(id_, set())  # what one fault brings with it
    assert others <= follows


@pytest.mark.parametrize("first", range(len(FAULTS)))
def test_the_failing_lines_come_first_and_the_summary_says_the_worst(first: int) -> None:
    facts, _, verdict, _ = FAULTS[first]
    found = readiness(facts)
    order = [("wrong", "look", "unknown", "holds").index(check.verdict) for check in found]
    assert order == sorted(order)
    said = summary(found)
    assert said.verdict == ("wrong" if any(check.verdict == "wrong" for check in found) else verdict)
    assert found[0].title in said.says


UNKNOWN = [
    (replace(WELL, face=None), "face"),
    (replace(WELL, face=None), "meant"),
    (replace(WELL, devices=(replace(PHONE, battery=None), FACE)), "page-battery"),
    (replace(WELL, devices=(replace(PHONE, awake=None), FACE)), "page-awake"),
    (replace(WELL, devices=(replace(PHONE, connection=Connection(kbit_s=900.0)), FACE)), "page-network"),
    (with_part("page", audiences=(AudienceFacts("Laptop", True, None, None),), asks_pt=None), "reads-0"),
    (replace(WELL, sound=SoundFacts((), 0, None)), "microphone"),
    (replace(WELL, sound=SoundFacts((), 0, None)), "loop"),
    (with_part("sound", open=(replace(LAPEL, verdict="", good=False),)), "microphone"),
    (with_part("sound", lips_ms=None), "lips"),
    (replace(WELL, computer=ComputerFacts(None, None, None)), "computer"),
    (replace(WELL, computer=ComputerFacts(None, None, None)), "disk"),
]


@pytest.mark.parametrize(("facts", "id_"), UNKNOWN)
def test_what_was_not_measured_says_so_and_is_never_good(facts: Facts, id_: str) -> None:
    check = by_id(facts)[id_]
    assert check.verdict == "unknown"
    assert check.says


@pytest.mark.parametrize(("looked_at", "says"), [(True, "No print was found on this page."), (False, "The page is being looked at.")])
def test_a_page_that_was_not_looked_at_yet_is_not_said_to_have_no_print(looked_at: bool, says: str) -> None:
    not_read = (AudienceFacts("Laptop", True, None, 8),)
    assert by_id(with_part("page", audiences=not_read, asks_pt=None, looked_at=looked_at))["reads-0"].says == says


def test_nothing_at_all_is_said_too() -> None:
    nothing = Facts((), None, None, SoundFacts((), 0, None), WELL.way, WELL.computer, LessonFacts("A lesson", 45, None))
    assert [by_id(nothing)[id_].verdict for id_ in ("page-live", "face-live", "microphone", "lesson")] == [
        "wrong",
        "wrong",
        "unknown",
        "holds",
    ]


def test_a_page_from_a_file_is_not_blamed_for_standing_still() -> None:
    assert by_id(with_device(paced=False, fps=0.3, delay_ms=None))["page-live"].verdict == "holds"
    assert by_id(replace(WELL, page=replace(PAGE, following=False)))["page"].value == "fixed"


def test_a_camera_is_asked_for_as_much_as_goes_out() -> None:
    for out_fps, expected in ((30.0, "look"), (12.0, "holds")):
        check = next(one for one in readiness(with_device(fps=9.0, out_fps=out_fps)) if one.id == "page-live")
        assert check.verdict == expected
        way = next(one for one in readiness(with_part("way", fps=11.0, out_fps=out_fps)) if one.id == "way")
        assert way.verdict == expected
