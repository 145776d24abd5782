"""What Ready says: the facts of the running lesson brought together, judged by the core."""

import time
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime

from cartouche.core.lessons.timetable import minutes_until
from cartouche.core.watch.facts import (
    AudienceFacts,
    ComputerFacts,
    Connection,
    DeviceFacts,
    Facts,
    LessonFacts,
    MicrophoneFacts,
    PageFacts,
    Role,
    SoundFacts,
    WayFacts,
)
from cartouche.core.watch.readiness import readiness, summary
from cartouche.disk import free_bytes
from cartouche.store import lessons
from cartouche.store.kits import Device
from cartouche.web.errors import NoPageToTry
from cartouche.web.guests.book import Guests
from cartouche.web.ready_schemas import CheckView, ReadyView, TrialView, TriedAudience
from cartouche.web.routers.square_up_views import first_look_of, newest
from cartouche.web.schemas import LiveView, SummaryView
from cartouche.web.sound_view import SoundView, sound_view
from cartouche.web.state import AppState
from cartouche.web.timetable import plan_of
from cartouche.web.views import live_view, taken_by

EARLIEST_YEAR = 2026  # a clock before this program was made is wrong
SUMMED_EVERY_S = 1.0


def ready_view(state: AppState, book: Guests) -> ReadyView:
    sound = sound_view(state, book)
    checks = readiness(facts(state, book, sound))
    return ReadyView(
        summary=SummaryView.model_validate(summary(checks)._asdict()),
        checks=[CheckView.model_validate(check._asdict()) for check in checks],
        finding=sound.findings[0] if sound.findings else None,
    )


class ReadyNow:
    """The summary for every screen's header: worked out again at most once a second, from what is measured anyway.

    Nobody who asks how things stand waits for it: they get the newest there is, and the next one is worked out beside.
    """

    def __init__(self, state: AppState, book: Guests) -> None:
        self._state, self._book = state, book
        self._known: tuple[float, str, SummaryView] | None = None  # since when, of which lesson
        self._beside = ThreadPoolExecutor(1, thread_name_prefix="ready")
        self._at_work = self._closed = False

    def live_view(self) -> LiveView:
        return live_view(self._state, self._book, self._summary(time.monotonic()))

    def _summary(self, now_s: float) -> SummaryView | None:
        lesson_id, known = self._state.lesson_id, self._known
        if lesson_id is None:
            return None
        if known is None or known[1] != lesson_id:
            return self._work(lesson_id)
        if now_s - known[0] > SUMMED_EVERY_S and not self._at_work and not self._closed:
            self._at_work = True
            self._beside.submit(self._refresh, lesson_id)
        return known[2]

    def _refresh(self, lesson_id: str) -> None:
        try:
            with self._state.running.troubles.guard("care"):
                self._work(lesson_id)
        finally:
            self._at_work = False

    def _work(self, lesson_id: str) -> SummaryView:
        checks = readiness(facts(self._state, self._book, sound_view(self._state, self._book, closed_too=False)))
        made = SummaryView.model_validate(summary(checks)._asdict())
        self._known = (time.monotonic(), lesson_id, made)
        return made

    def close(self) -> None:
        """Repeatable. Whoever asks while everything ends gets what is known."""
        self._closed = True
        self._beside.shutdown(wait=True)


def facts(state: AppState, book: Guests, sound: SoundView) -> Facts:
    running, devices = state.running, {device.serves: device for device in state.devices() if device.serves}
    page, watch = devices.get("page"), running.ready
    return Facts(
        devices=tuple(_device(state, book, role, device) for role, device in devices.items() if role is not None),
        page=_page(state, page) if page is not None else None,
        face=watch.look_of("face") if "face" in devices else None,
        sound=_sound(state, sound),
        way=_way(state),
        computer=_computer(state),
        lesson=_lesson(state),
    )


def _device(state: AppState, book: Guests, role: Role, device: Device) -> DeviceFacts:
    feed = state.running.feeds.get(device.id)
    known = feed.facts(time.monotonic()) if feed is not None else None
    is_phone = device.kind == "guest"
    report = book.visitors.of_device(device.id).report if is_phone else None
    awake = {"held": True, "refused": False}.get(report.awake) if report else None
    return DeviceFacts(
        id=device.id,
        name=device.name,
        serves=role,
        state=known.state if known else "lost",
        sentence=known.fault if known else None,
        fps=known.fps if known else 0.0,
        out_fps=state.running.desk.full_fps,
        delay_ms=1000 * known.delay_s if known and known.delay_s is not None else None,
        paced=device.kind not in ("pages", "slides", "clip", "window"),
        is_phone=is_phone,
        battery=known.battery if known else None,
        facing=known.facing if known else None,
        awake=awake,
        connection=report.connection() if report else Connection(),
    )


def _page(state: AppState, device: Device) -> PageFacts:
    running = state.running
    chain = state.chain(device.id)
    shown = running.verdicts.page_picture(running.setup)
    audiences = tuple(
        AudienceFacts(
            one.audience.name,
            one.path.reads_true if one.path else None,
            one.reads,
            one.print.whole_points if one.print else None,
        )
        for one in running.verdicts.of(running.setup)
        if not one.audience.is_teacher
    )
    person, seen = running.ready.look_of("page"), running.watcher.seen.get(device.id)
    return PageFacts(
        first=first_look_of(state, device),
        following=chain.square.on and chain.square.follow,
        covered=max((covered.share for covered in running.desk.placer.covered), default=0.0),
        asks_pt=shown[0].asks_pt if shown else None,
        audiences=audiences,
        shows_person=person.share if person is not None else None,
        looked_at=seen is not None and seen.reading is not None,
    )


def trial_now(state: AppState) -> TrialView:
    """What each audience would read of the page that lies there. Raises NoPageToTry."""
    device = next((device for device in state.devices() if device.serves == "page"), None)
    if device is None or newest(state, device.id) is None:
        raise NoPageToTry
    page = _page(state, device)
    tried = [TriedAudience(name=one.name, smallest_pt=one.smallest_pt, reads=one.reads) for one in page.audiences]
    return TrialView(at=datetime.now().isoformat(timespec="minutes"), asks_pt=page.asks_pt, says=page.first.says, audiences=tried)


def _sound(state: AppState, view: SoundView) -> SoundFacts:
    opened = tuple(
        MicrophoneFacts(
            one.id,
            one.label,
            one.heard.kind if one.heard else "",
            one.heard.says if one.heard else "",
            one.heard is not None and one.heard.kind == "well",
            one.level_db,
        )
        for one in view.microphones
        if one.open
    )
    learners = view.learners
    last = state.running.sound.microphones.last_open
    there = {one.id for one in view.microphones if one.here}
    return SoundFacts(
        open=opened,
        known=len(view.microphones),
        last_open=last if last in there else None,
        findings=tuple((one.says, one.ends) for one in view.findings),
        lips_ms=round(learners.offset_ms) if learners is not None and learners.offset_ms is not None else None,
    )


def _way(state: AppState) -> WayFacts:
    running, now_s = state.running, time.monotonic()
    takers = running.takers.all()
    says = running.windows.says(running.desk.size) or next((taker.says for taker in takers if taker.says), None)
    return WayFacts(
        windows=running.windows.count,
        taken_by=taken_by(takers),
        says=says,
        fps=running.desk.fps(now_s),
        out_fps=running.desk.full_fps,
    )


def _computer(state: AppState) -> ComputerFacts:
    computer = state.running.ready.computer
    try:
        free: int | None = free_bytes(state.database.path.parent)
    except OSError:
        free = None
    return ComputerFacts(computer.busy, computer.throttled, free, datetime.now().year >= EARLIEST_YEAR)


def _lesson(state: AppState) -> LessonFacts | None:
    lesson = state.lesson()
    if lesson is None:
        return None
    now = datetime.now()
    plan = plan_of(lesson, lessons.times_of(state.database).get(lesson.id, ()))
    today = [minutes_until(time.starts, now) for time in plan.on(now.date())] if plan.is_dated else []
    return LessonFacts(f"{lesson.title} · {lesson.class_name}", lesson.minutes, min(today, key=abs, default=None))
