"""What Square up says of a chain: everything measured and computed of the running picture, in the interface's words."""

from functools import partial
from typing import Literal, NamedTuple

from cartouche.core.pictures import Frame, Size
from cartouche.core.reading.advice import Advice, Situation, advise, framing_where_laid
from cartouche.core.reading.agreement import Agreement, agreement
from cartouche.core.reading.first_look import FirstLook, Page, first_look
from cartouche.core.reading.handedness import LightPath, light_path
from cartouche.core.reading.verdicts import PagePicture, readings, visible_part
from cartouche.core.straighten.card import CardReading
from cartouche.core.straighten.chain import Chain, FrameLink, straighten
from cartouche.core.straighten.follower import FollowState
from cartouche.core.straighten.framing import USUAL_STEP_MM, Framing
from cartouche.core.straighten.lens import edge_share
from cartouche.core.straighten.rigs import rig_named
from cartouche.core.watch.signal import in_focus
from cartouche.live.running import SIZES
from cartouche.live.watcher import Seen
from cartouche.store import chains, settings
from cartouche.store.kits import Device
from cartouche.web.square_up_schemas import (
    AdviceView,
    AgreementView,
    CardView,
    FirstLookView,
    LightView,
    OutcomeView,
    PathLine,
    PrintView,
    SquareUpView,
)
from cartouche.web.state import AppState
from cartouche.web.views import path_view, readings_view

BOARD = "board_fed_by"
SURE_ENOUGH = 0.6  # below it the teacher should look at the corners


def square_up_view(state: AppState, device_id: str) -> SquareUpView:
    device = state.device(device_id)
    kept, told = chains.current(state.database, device_id), told_of(state, device)
    chain, frame, page = told.chain, told.frame, told.seen
    found = readings(chain, frame.size) if frame else None
    return SquareUpView(
        device=device,
        chain=chain,
        first=FirstLookView.model_validate(_first_look(state, told)._asdict()),
        can_undo=kept.can_undo,
        can_redo=kept.can_redo,
        last_time=chains.last_time(state.database, device_id, device.rig) is not None,
        feed_width=int(frame.size.width) if frame else None,
        feed_height=int(frame.size.height) if frame else None,
        readings=readings_view(found) if found else None,
        learners=path_view(told.learners),
        confidence=told.confidence,
        sure=told.sure,
        follow=told.follow,
        new_pages=page.new_pages,
        visible=_visible(state, device_id, chain, frame),
        sharpness=page.sharpness,
        in_focus=told.focus,
        board_fed_by=_board(state),
        distortion_percent=round(100 * edge_share(chain.unbend.distortion, frame.size), 2) if frame else 0.0,
        light=_light(page),
        printed=_printed(page),
        agreement=AgreementView.model_validate(told.way._asdict()) if told.way else None,
        paths=_paths(state, rig_named(device.rig).mirrors, chain, told.page_true),
        advice=[_advice_view(advised) for advised in told.advice],
    )


class Told(NamedTuple):
    """What is known of one device's page, worked out once for all that is said of it. confidence, sure: of corners that were just found."""

    device: Device
    chain: Chain
    frame: Frame | None
    seen: Seen
    page_true: bool | None
    learners: LightPath
    confidence: float | None
    follow: FollowState
    focus: bool | None
    way: Agreement | None
    advice: list[Advice]

    @property
    def sure(self) -> bool | None:
        return None if self.confidence is None else self.confidence >= SURE_ENOUGH


def told_of(state: AppState, device: Device) -> Told:
    chain, frame = state.chain(device.id), newest(state, device.id)
    page = state.running.watcher.seen.get(device.id, Seen())
    page_true = page.page_true(chain) if chain.square.on else None
    learners = light_path(rig_named(device.rig).mirrors, 0, chain, 0, page_true)
    proof = page.reading.proof if page.reading is not None and page.reading_of is chain else None
    found = readings(chain, frame.size) if frame else None
    detail = found.px_per_mm[0] if found and found.px_per_mm else None
    return Told(
        device=device,
        chain=chain,
        frame=frame,
        seen=page,
        page_true=page_true,
        learners=learners,
        confidence=state.found_confidence(device.id, chain),
        follow=page.follow if chain.square.on and chain.square.follow else "fixed",
        focus=None if page.sharpness is None else in_focus(page.sharpness),
        way=agreement(learners, proof, detail) if chain.square.on else None,
        advice=advices(state, device.id),
    )


def first_look_of(state: AppState, device: Device) -> FirstLook:
    return _first_look(state, told_of(state, device))


def _first_look(state: AppState, told: Told) -> FirstLook:
    """Audiences count while this device is the page."""
    setup = state.running.setup
    shown = state.running.verdicts.page_picture(setup) if setup.roles.get("page") == told.device.id else None
    verdicts = state.running.verdicts.of(setup) if shown else []
    asks_pt = shown[0].asks_pt if shown else None
    return first_look(Page(told.chain.square.on, told.sure, told.follow, told.focus, told.way, asks_pt, verdicts, told.advice))


def newest(state: AppState, device_id: str) -> Frame | None:
    feed = state.running.feeds.get(device_id)
    return feed.latest if feed else None


def page_room(state: AppState, device_id: str, chain: Chain) -> tuple[Size, Size]:
    """The straightened page's canvas and the room it has on the outgoing picture under this chain."""
    return state.running.desk.room_of(state.running.setup, device_id, chain)


def framing_of(state: AppState, device_id: str, chain: Chain, framing: Framing) -> FrameLink:
    """A named framing in the room that the plate will give it: a closer look is given more, which asks for another zoom."""
    return framing_where_laid(framing, chain, partial(page_room, state, device_id), line_share(state, device_id, chain))


def line_share(state: AppState, device_id: str, chain: Chain) -> float:
    """From one line of print to the next, as a share of the page's height."""
    frame = newest(state, device_id)
    straightened = straighten(chain, frame.size) if frame else None
    if straightened is None or straightened.mm_per_unit is None:
        return 1 / 30
    return _step_mm(state, device_id) / (straightened.canvas.height * straightened.mm_per_unit)


def _step_mm(state: AppState, device_id: str) -> float:
    reading = state.running.watcher.seen.get(device_id, Seen()).reading
    return (reading.step_mm if reading is not None else None) or USUAL_STEP_MM


def advices(state: AppState, device_id: str) -> list[Advice]:
    """What would help, while this device is the page and its print was measured; worked out again only when what decides it has changed."""
    found = state.running.verdicts.page_picture(state.running.setup)
    if found is None or state.running.setup.roles.get("page") != device_id or found[0].asks_pt is None:
        return []
    size = state.running.desk.size
    larger = SIZES["1080p"] if size.width < SIZES["1080p"].width else None
    verdicts = state.running.verdicts
    learners = [audience for audience in verdicts.audiences() if not audience.is_teacher]
    staged = [audience for audience in verdicts.staged() if not audience.is_teacher]
    staged = [] if staged == learners else staged
    asks_pt, step_mm = (round(4 * value) / 4 for value in (found[0].asks_pt, _step_mm(state, device_id)))  # each look differs a little
    setup, page = state.running.setup, found[0]._replace(asks_pt=asks_pt)
    basis = (setup, page, found[1], size, tuple(learners), tuple(staged), step_mm)
    known = state.advised
    if known[0] != basis:
        place_of = partial(state.running.desk.place_of, setup, device_id)
        known = state.advised = (basis, advise(Situation(page, place_of, size, learners, asks_pt, step_mm, staged), larger))
    return known[1]


def _advice_view(advice: Advice) -> AdviceView:
    outcomes = [OutcomeView(audience=outcome.audience, points=outcome.points) for outcome in advice.outcomes]
    return AdviceView(way=advice.way, says=advice.says, reads=advice.reads, worst_pt=advice.worst, words=advice.words, outcomes=outcomes)


def _visible(state: AppState, device_id: str, chain: Chain, frame: Frame | None) -> tuple[float, float, float, float] | None:
    if frame is None:
        return None
    return visible_part(
        PagePicture(chain, frame.size, 0), state.running.desk.place_of(state.running.setup, device_id), state.running.desk.size
    )


def _light(page: Seen) -> LightView | None:
    tone = page.tone
    if tone is None:
        return None
    return LightView(verdict=tone.verdict, evenness=tone.evenness, shadow=tone.shadow, clipped=tone.clipped, clipped_at=tone.clipped_at)


def _printed(page: Seen) -> PrintView | None:
    print_ = page.reading
    return (
        None
        if print_ is None
        else PrintView(smallest_pt=print_.smallest_pt, usual_pt=print_.usual_pt, step_mm=print_.step_mm, lines=print_.lines)
    )


def _board(state: AppState) -> Literal["nothing", "call", "window"]:
    kept = settings.setting(state.database, BOARD)
    return kept if kept in ("call", "window") else "nothing"  # type: ignore[return-value]


def _paths(state: AppState, mirrors: int, chain: Chain, page_true: bool | None) -> list[PathLine]:
    """One line for each audience: how it is fed decides what the call flips. No board, no line."""
    learners, own = (light_path(mirrors, 0, chain, call, page_true) for call in (0, 1))
    flip = "Flip it: all learners then get it the right way round."
    lines = [_line("Learners", learners, flip, "chain")]
    fed_by = _board(state)
    if fed_by == "call":
        mend = "Put the outgoing window on the board. Learners see no change."
        lines.append(_line("Board in the room, from your screen", own, mend, "board"))
    elif fed_by == "window":
        lines.append(_line("Board in the room, by the outgoing window", learners, flip, "chain"))
    return [*lines, _line("You, in the call", own, "Only you see it like this. Leave it.", "")]


def _line(who: str, path: LightPath, mend: str, press: Literal["chain", "board", ""]) -> PathLine:
    return PathLine(who=who, path=path_view(path), mend="" if path.reads_true else mend, press="" if path.reads_true else press)


def card_view(reading: CardReading, chain: Chain, picture: Size, took_s: float) -> CardView:
    lowest, highest = reading.px_per_mm
    return CardView(
        paper=reading.paper,
        mirrored=reading.mirrored,
        quarters=chain.turn.quarters,
        tilt_deg=reading.tilt_deg,
        focal=reading.focal,
        distortion_percent=100 * edge_share(reading.distortion, picture),
        px_per_mm_min=lowest,
        px_per_mm_max=highest,
        off_px=reading.off_px,
        rise_px=reading.rise_px,
        in_focus=reading.in_focus,
        exposure=reading.exposure,
        white=reading.white,
        covered=list(reading.covered),
        took_ms=1000 * took_s,
    )
