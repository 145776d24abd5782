"""What Ready and every screen's header say of the check before a lesson."""

from typing import Annotated

from pydantic import BaseModel, Field

from cartouche.core.watch.readiness import Press, Verdict
from cartouche.core.watch.walk import SymptomId
from cartouche.web.schemas import Asked, SummaryView
from cartouche.web.sound_view import FindingView


class CheckView(BaseModel):
    """press: what mends it, '' for nothing.  target: the device or microphone that the press is about."""

    id: str
    title: str
    verdict: Verdict
    value: str
    limit: str
    says: str
    press: Press
    target: str


class ReadyView(BaseModel):
    """finding: the first thing that is wrong with the sound, with what ends it."""

    summary: SummaryView
    checks: list[CheckView]
    finding: FindingView | None


class ChoiceView(BaseModel):
    id: str
    says: str


class QuestionView(BaseModel):
    id: str
    asks: str
    choices: list[ChoiceView]


class EndView(BaseModel):
    """cause: 'last' where none of the known ones is it.  report: for the school's help desk."""

    cause: str
    says: str
    press: Press
    target: str
    report: str


class WalkView(BaseModel):
    """Either a question or the end. ruled_out: in sentences."""

    says: str
    question: QuestionView | None
    end: EndView | None
    ruled_out: list[str]


class Walked(Asked):
    """answers: by question, the chosen choice."""

    symptom: SymptomId
    answers: dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=40)]] = {}


class SymptomView(BaseModel):
    id: SymptomId
    says: str


class TriedAudience(BaseModel):
    name: str
    smallest_pt: int | None
    reads: bool | None


class TrialView(BaseModel):
    """A page tried beforehand: what each audience would read of it. at: local date and time, ISO 8601."""

    at: str
    asks_pt: float | None
    says: str
    audiences: list[TriedAudience]
