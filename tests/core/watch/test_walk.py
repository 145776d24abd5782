"""From symptom to cause: every path ends, nothing is asked that is known, and each fault is reached by what it looks like."""

from dataclasses import replace

import pytest

from cartouche.core.kit.health import Battery
from cartouche.core.reading.first_look import FirstLook
from cartouche.core.watch.facts import AudienceFacts, Connection, Facts, SoundFacts
from cartouche.core.watch.symptoms import SYMPTOMS, symptom_named
from cartouche.core.watch.walk import Step, Symptom, report, walk
from tests.core.watch.ready_facts import LAPEL, WELL, with_device, with_part
from tests.core.watch.test_readiness import FAULTS, NOBODY, UNKNOWN

ALL_FACTS = [WELL, *(fault[0] for fault in FAULTS), *(unknown[0] for unknown in UNKNOWN)]


def paths(symptom: Symptom, facts: Facts, answers: dict[str, str], asked: tuple[str, ...] = ()) -> list[tuple[tuple[str, ...], Step]]:
    """All ways through, each with the questions that it asks."""
    step = walk(symptom, facts, answers)
    if step.question is None:
        return [(asked, step)]
    assert step.question.id not in asked, "asked twice"
    return [
        path
        for choice in step.question.choices
        for path in paths(symptom, facts, {**answers, step.question.id: choice.id}, (*asked, step.question.id))
    ]


@pytest.mark.parametrize("symptom", SYMPTOMS, ids=lambda symptom: symptom.id)
def test_every_path_ends_soon_in_one_thing_to_do(symptom: Symptom) -> None:
    for facts in ALL_FACTS:
        for asked, step in paths(symptom, facts, {}):
            assert step.end is not None
            assert step.end.says.strip()
            assert len(asked) <= 6


def test_nothing_is_asked_whose_answer_is_measured() -> None:
    for symptom in SYMPTOMS:
        for facts in ALL_FACTS:
            for cause in symptom.causes:
                if cause.asked is None or cause.measured(facts) is None:
                    continue
                question = cause.asked[0]
                needed = any(
                    other.asked is not None and other.asked[0].id == question.id and other.measured(facts) is None
                    for other in symptom.causes
                )
                if not needed:
                    assert all(question.id not in asked for asked, _ in paths(symptom, facts, {}))


REACHED = [
    ("not-seen", with_device(state="black"), "away"),
    ("not-seen", with_device(state="asleep"), "away"),
    ("not-seen", with_device(state="stuck"), "away"),
    ("not-seen", with_device(state="lost"), "away"),
    ("not-seen", with_device(facing="front"), "wrong-lens"),
    ("not-seen", with_device(battery=Battery(0.08, False)), "weak"),
    ("not-seen", with_part("way", windows=0), "nowhere"),
    ("not-seen", with_part("way", says="The window is minimised."), "window"),
    ("not-seen", replace(with_part("page", shows_person=0.4), face=NOBODY), "exchanged"),
    ("not-seen", replace(WELL, devices=(), page=None, face=None), "no-camera"),
    ("not-heard", with_part("sound", open=()), "closed"),
    *(
        ("not-heard", with_part("sound", open=(replace(LAPEL, verdict=kind, good=False, says="It is so."),)), cause)
        for kind, cause in (
            ("nothing", "switched-off"),
            ("too quiet", "quiet"),
            ("too loud", "quiet"),
            ("noise", "quiet"),
            ("noisy", "quiet"),
            ("hum", "quiet"),
        )
    ),
    ("not-heard", with_part("sound", findings=(("Twice.", "Close one."),)), "loop"),
    ("mirrored", with_part("page", audiences=(AudienceFacts("Laptop", False, None, 8),)), "reversed"),
    ("mirrored", with_part("page", first=FirstLook("wrong", "Reversed.", "mirror")), "print"),
    ("mirrored", with_part("page", first=FirstLook("look", "Not upright.", "turn")), "turned"),
    ("too-small", with_part("page", first=FirstLook("wrong", "Out of focus.", "refocus")), "blurred"),
    ("too-small", with_part("page", first=FirstLook("look", "Not squared.", "square")), "not-square"),
    ("too-small", with_part("page", audiences=(AudienceFacts("Grid", True, False, 20),)), "print"),
    ("too-small", with_part("way", says="The outgoing window is small."), "window"),
    ("lags", with_device(delay_ms=2000.0), "late"),
    ("lags", with_device(fps=6.0), "slow"),
    ("lags", with_device(connection=Connection(path_ms=600.0)), "far"),
    ("lags", with_device(connection=Connection(40.0, lost=0.08)), "far"),
    ("lags", with_part("computer", busy=0.97), "busy"),
    ("lags", with_part("computer", throttled=True), "hot"),
    ("lags", with_part("way", fps=9.0), "few"),
    ("lags", with_part("sound", lips_ms=300), "lips"),
]


@pytest.mark.parametrize(("symptom", "facts", "cause"), REACHED)
def test_each_measured_fault_is_found_without_a_question(symptom: str, facts: Facts, cause: str) -> None:
    step = walk(symptom_named(symptom), facts, {})
    assert step.end is not None
    assert step.end.cause == cause


def test_answers_lead_on_and_back() -> None:
    seen = symptom_named("not-seen")
    taken = replace(WELL, way=replace(WELL.way, windows=0, taken_by="Taken by the extension"))
    first = walk(seen, taken, {})
    assert first.question is not None
    assert first.question.id == "call-camera"
    blocked = walk(seen, taken, {"call-camera": "blocked"})
    assert blocked.end is not None
    assert blocked.end.cause == "blocked"
    assert walk(seen, taken, {}) == first
    shared = walk(seen, WELL, {})
    assert shared.question is not None
    assert shared.question.id == "sharing"  # by a window alone: the call's camera list says nothing


def test_answers_that_are_no_choice_are_asked_again() -> None:
    step = walk(symptom_named("cannot-hear"), replace(WELL, sound=SoundFacts((), 0, None)), {"one-learner": "perhaps", "nothing": "yes"})
    assert step.question is not None
    assert step.question.id == "one-learner"


def test_the_report_names_no_learner_and_says_what_was_done() -> None:
    lags = symptom_named("lags")
    step = walk(lags, WELL, {"one-learner": "no", "voices": "yes"})
    text = report(lags, step, [("Is it only one learner?", "No")])
    assert text.startswith("What is wrong: It lags\nChecked: No camera comes late.")
    assert "Asked: Is it only one learner? No." in text
    assert text.endswith("Found: The line is short: use a cable instead of Wi-Fi, and stop other downloads.")
