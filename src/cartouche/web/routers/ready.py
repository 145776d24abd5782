"""Ready: the check before a lesson."""

from typing import Annotated

from fastapi import Depends

from cartouche.core.watch.symptoms import SYMPTOMS, symptom_named
from cartouche.core.watch.walk import Symptom, report, walk
from cartouche.store import kits, trials
from cartouche.web.guests.book import Guests
from cartouche.web.ready_schemas import EndView, QuestionView, ReadyView, SymptomView, TrialView, Walked, WalkView
from cartouche.web.ready_view import facts, ready_view, trial_now
from cartouche.web.routers.guests import guest_book
from cartouche.web.routing import screen_router
from cartouche.web.sound_view import sound_view
from cartouche.web.state import AppState, app_state

router = screen_router("ready", "/api/ready")
State = Annotated[AppState, Depends(app_state)]
Book = Annotated[Guests, Depends(guest_book)]


@router.get("")
def ready(state: State, book: Book) -> ReadyView:
    """What is only measured for it is measured for some seconds after each time it is asked for."""
    state.running.ready.ask()
    return ready_view(state, book)


@router.post("/exchange")
def exchange(state: State, book: Book) -> ReadyView:
    """The device for the page serves as face and the other way round; their corrections stay their own."""
    with state.lock:
        by_role = {device.serves: device.id for device in state.devices() if device.serves}
        for role, device_id in (("face", by_role.get("page")), ("page", by_role.get("face"))):
            if device_id is not None:
                kits.update_device(state.database, device_id, serves=role)
        state.reopen()
    return ready_view(state, book)


@router.get("/symptoms")
def symptoms() -> list[SymptomView]:
    return [SymptomView(id=symptom.id, says=symptom.says) for symptom in SYMPTOMS]


@router.post("/walk")
def next_step(walked: Walked, state: State, book: Book) -> WalkView:
    """The next question from a symptom to its cause, or the end; what is measured is not asked."""
    state.running.ready.ask()
    symptom = symptom_named(walked.symptom)
    step = walk(symptom, facts(state, book, sound_view(state, book)), walked.answers)
    question = step.question
    return WalkView(
        says=symptom.says,
        question=None if question is None else QuestionView.model_validate(question, from_attributes=True),
        end=None if step.end is None else EndView(**step.end._asdict(), report=report(symptom, step, _answered(symptom, walked))),
        ruled_out=list(step.ruled_out),
    )


def _answered(symptom: Symptom, walked: Walked) -> list[tuple[str, str]]:
    """Questions and answers, in words."""
    questions = {cause.asked[0].id: cause.asked[0] for cause in symptom.causes if cause.asked is not None}
    return [
        (question.asks, choice.says)
        for id_, given in walked.answers.items()
        if (question := questions.get(id_)) is not None
        for choice in question.choices
        if choice.id == given
    ]


@router.get("/trial")
def trial(state: State) -> TrialView | None:
    """The page that was tried for the open lesson, if one was."""
    kept = trials.trial(state.database, state.open_lesson().id)
    return TrialView.model_validate_json(kept) if kept is not None else None


@router.post("/trial")
def try_page(state: State) -> TrialView:
    """What each audience would read of the page that lies there now, kept with the lesson."""
    tried = trial_now(state)
    trials.keep(state.database, state.open_lesson().id, tried.model_dump_json())
    return tried
