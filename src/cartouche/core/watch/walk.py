"""From a symptom to its cause: one question at a time, and none whose answer was measured. The rules are the table in `symptoms`."""

from collections.abc import Callable, Mapping, Sequence
from typing import Literal, NamedTuple

from cartouche.core.watch.facts import Facts
from cartouche.core.watch.readiness import Press

SymptomId = Literal["not-seen", "not-heard", "cannot-hear", "mirrored", "too-small", "lags"]


class Choice(NamedTuple):
    id: str
    says: str


class Question(NamedTuple):
    """Only what Cartouche cannot measure itself."""

    id: str
    asks: str
    choices: tuple[Choice, ...]


class Cause(NamedTuple):
    """measured: True where the facts show it, False where they rule it out, None where they cannot tell.

    asked: the question that tells then, and the choice that means it; None where nobody can tell.  ruled_out: what to say once it is.
    ends: what to do.  target: what the press is about.
    """

    id: str
    ends: str
    press: Press = ""
    measured: Callable[[Facts], bool | None] = lambda _: None
    asked: tuple[Question, str] | None = None
    ruled_out: str = ""
    target: Callable[[Facts], str] = lambda _: ""
    found: Callable[[Facts], str] = lambda _: ""


class Symptom(NamedTuple):
    """causes: the likeliest first.  last: what to do when none of them is it."""

    id: SymptomId
    says: str
    causes: tuple[Cause, ...]
    last: str


class End(NamedTuple):
    """cause: its id, 'last' when none of the known ones is it."""

    cause: str
    says: str
    press: Press
    target: str


class Step(NamedTuple):
    """Either a question or the end. ruled_out: in sentences."""

    question: Question | None
    end: End | None
    ruled_out: tuple[str, ...]


def walk(symptom: Symptom, facts: Facts, answers: Mapping[str, str]) -> Step:
    """answers: by question, the chosen choice. Those to questions that were not asked do nothing."""
    ruled_out: list[str] = []
    for cause in symptom.causes:
        is_it = cause.measured(facts)
        if is_it is None and cause.asked is not None:
            question, meant = cause.asked
            given = answers.get(question.id)
            if given is None or given not in {choice.id for choice in question.choices}:
                return Step(question, None, tuple(ruled_out))
            is_it = given == meant
        if is_it:
            says = " ".join(part for part in (cause.found(facts), cause.ends) if part)
            return Step(None, End(cause.id, says, cause.press, cause.target(facts)), tuple(ruled_out))
        if cause.ruled_out and is_it is False and cause.measured(facts) is False:
            ruled_out.append(cause.ruled_out)
    return Step(None, End("last", symptom.last, "", ""), tuple(ruled_out))


def report(symptom: Symptom, step: Step, answered: Sequence[tuple[str, str]]) -> str:
    """For the school's help desk: no picture, no names of learners."""
    lines = [f"What is wrong: {symptom.says}"]
    lines += [f"Checked: {says}" for says in step.ruled_out]
    lines += [f"Asked: {asks} {choice}." for asks, choice in answered]
    if step.end is not None:
        lines.append(f"Found: {step.end.says}")
    return "\n".join(lines)
