"""What the Way in screen says: the ways with their outcomes, who takes the picture, who watches."""

import time
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, Field

from cartouche.core.call.audience import MAX_VIEWERS, SCREENS, Viewers
from cartouche.core.call.kinds import KINDS, CallKind
from cartouche.core.call.ways import Facts, Gets, Measured, Outcome, advice, outcomes, seen_done, sentence
from cartouche.core.plates.model import Place, Plate, RoleContent
from cartouche.core.watch.signal import AWAY
from cartouche.live.out.loopback import loopback_devices
from cartouche.live.out.takers import TakerFacts
from cartouche.store.watchers import May, watchers
from cartouche.store.ways import Tried, tried
from cartouche.web.extension_key import ExtensionKey
from cartouche.web.guests.book import Guests
from cartouche.web.qr import qr_svg
from cartouche.web.schemas import Asked
from cartouche.web.server_outlet import ServerOutlet, ServerView
from cartouche.web.state import AppState


class GetsView(BaseModel):
    """must: what they or the teacher have to do for it, '' for nothing."""

    id: str
    name: str
    count: int
    is_teacher: bool
    smallest_print_pt: int | None
    reads: bool | None
    face: str
    must: str
    sentence: str


class StepView(BaseModel):
    """done: whether it has been done, None where Cartouche cannot see it."""

    says: str
    done: bool | None


class WayView(BaseModel):
    """ready: nothing has to be put in first.  impossible: why it cannot be taken here.  running: it is in use just now."""

    id: str
    name: str
    says: str
    width: int
    height: int
    fps: float
    delay_ms: int
    sound: str
    risk: str
    needs: list[str]
    steps: list[StepView]
    presses: int
    ready: bool
    impossible: str | None
    running: bool
    worst_pt: int | None
    reading: int
    learners: int
    gets: list[GetsView]
    tried: Tried | None


class TakerView(BaseModel):
    """Who takes the picture just now, and what arrives there."""

    kind: str
    name: str
    width: int | None
    height: int | None
    fps: float | None
    delay_ms: float | None
    lips_ms: float | None
    sound: bool
    says: str | None


class ScreenView(BaseModel):
    name: str
    inches: float
    distance_mm: int


class WatchInvitationView(BaseModel):
    """left_s: how long the code holds.  watcher_id: who has come by it."""

    code: str
    link: str
    address: str
    qr: str
    left_s: float
    watcher_id: str | None


class WatcherView(BaseModel):
    id: str
    name: str


class DeviceView(BaseModel):
    path: str
    name: str


class WaysView(BaseModel):
    """code: what an extension which asks to be paired shows, None while none asks.

    extension_folder: where it lies on this computer.  network_camera: its address, None while it is off.
    devices: loopback camera devices that take pictures.  device: the one in use.
    """

    advice: str
    ways: list[WayView]
    takers: list[TakerView]
    call: CallKind
    kinds: list[CallKind]
    viewers: list[Viewers]
    screens: list[ScreenView]
    max_viewers: int
    class_name: str
    paired: bool
    code: str | None
    extension_folder: str
    invitation: WatchInvitationView | None
    watchers: list[WatcherView]
    network_camera: str | None
    server: ServerView
    devices: list[DeviceView]
    device: str | None


class ViewersChange(Asked):
    viewers: Annotated[tuple[Viewers, ...], Field(min_length=1, max_length=MAX_VIEWERS)]


EXTENSION = Path(__file__).with_name("static") / "extension"
TAKEN_BY: dict[str, str] = {"extension": "extension", "server": "server", "network camera": "network-camera", "camera device": "device"}


def ways_view(state: AppState, key: ExtensionKey, book: Guests, outlet: ServerOutlet) -> WaysView:
    running, devices = state.running, loopback_devices()
    camera_key = book.watching.camera_key()
    viewers, call, known = running.verdicts.viewers, running.verdicts.call, tried(state.database)
    takers = running.takers.all()
    measured = _measured(takers, known)
    found = outcomes(facts(state, extension=key.is_paired, loopback=bool(devices)), call, viewers, measured)
    used = {TAKEN_BY.get(taker.kind, "") for taker in takers} | ({"window", "tab"} if running.windows.count else set())
    asked, lesson = key.asked(), state.lesson()
    return WaysView(
        advice=advice(found),
        ways=[_way(outcome, known.get(outcome.way.id), outcome.way.id in used) for outcome in found],
        takers=[_taker(taker) for taker in takers],
        call=call,
        kinds=list(KINDS),
        viewers=list(viewers),
        screens=[ScreenView(name=name, inches=screen.inches, distance_mm=screen.distance_mm) for name, screen in SCREENS.items()],
        max_viewers=MAX_VIEWERS,
        class_name=lesson.class_name if lesson else "",
        paired=key.is_paired,
        code=asked.code if asked else None,
        extension_folder=str(EXTENSION),
        invitation=invitation_view(book, "watch"),
        watchers=[WatcherView(id=one.id, name=one.name) for one in watchers(state.database, time.time()) if one.may == "watch"],
        network_camera=f"{book.keeper.doors.link(book.watching.camera_address())}/camera/{camera_key}.mjpeg" if camera_key else None,
        server=outlet.view(),
        devices=[DeviceView(path=one.path, name=one.name) for one in devices],
        device=running.camera.device.path if running.camera else None,
    )


def _measured(takers: list[TakerFacts], known: dict[str, Tried]) -> Measured:
    taken = {TAKEN_BY[taker.kind]: 1000 * taker.delay_s for taker in takers if taker.delay_s is not None and taker.kind in TAKEN_BY}
    return Measured(taken, {way: one.delay_ms for way, one in known.items() if one.delay_ms is not None})


def invitation_view(book: Guests, may: May) -> WatchInvitationView | None:
    shown = book.watching.shown
    if shown is None or shown.may != may:
        return None
    address = book.keeper.doors.link(shown.address)
    page = "watch" if may == "watch" else "remote"
    link = f"{address}/{page}#{shown.invitation.code}"
    left_s = shown.invitation.left_s(time.monotonic())
    return WatchInvitationView(
        code=shown.invitation.code, link=link, address=f"{address}/{page}", qr=qr_svg(link), left_s=left_s, watcher_id=shown.watcher_id
    )


def facts(state: AppState, *, extension: bool, loopback: bool) -> Facts:
    """What is known of this computer and this lesson."""
    running, setup, now_s = state.running, state.running.setup, time.monotonic()
    page, place = running.verdicts.page_picture(setup) or (None, None)
    page_id = setup.roles.get("page")
    phones = {device.id for device in state.devices() if device.kind == "guest"}
    delay_s, page_feed = running.desk.delay_s(now_s), running.feeds.get(page_id or "")
    paced_fps = page_feed.facts(now_s).fps if page_feed is not None else 0.0  # a slow preview alone asks for fewer pictures
    return Facts(
        page=page,
        place=place,
        outgoing=running.desk.size,
        outgoing_fps=max(running.desk.fps(now_s), paced_fps),
        outgoing_ms=1000 * (delay_s or 0.0),
        has_face=_has_face(running.desk.plate_at_rest(setup), state, now_s),
        phone=page_id in phones,
        loopback=loopback,
        extension=extension,
    )


def _has_face(plate: Plate | None, state: AppState, now_s: float) -> bool:
    feed = state.running.feeds.get(state.running.setup.roles.get("face") or "")
    return feed is not None and feed.state(now_s) not in AWAY and any(_is_face(place) for place in (plate.places if plate else ()))


def _is_face(place: Place) -> bool:
    return isinstance(place.content, RoleContent) and place.content.role == "face"


def _way(outcome: Outcome, measured: Tried | None, running: bool) -> WayView:
    way, (reading, learners) = outcome.way, outcome.reading
    prints = [got.print.whole_points for got in outcome.gets if got.print is not None and not got.viewers.is_teacher]
    return WayView(
        id=way.id,
        name=way.name,
        says=way.says,
        width=int(outcome.size.width),
        height=int(outcome.size.height),
        fps=outcome.fps,
        delay_ms=round(outcome.delay_ms),
        sound=outcome.sound,
        risk=way.risk,
        needs=list(way.needs),
        steps=[StepView(says=says, done=done) for says, done in zip(way.steps, seen_done(way, running), strict=True)],
        presses=way.presses,
        ready=outcome.ready,
        impossible=outcome.impossible,
        running=running,
        worst_pt=max(prints, default=None),
        reading=reading,
        learners=learners,
        gets=[_gets(got, outcome) for got in outcome.gets],
        tried=measured,
    )


def _gets(got: Gets, outcome: Outcome) -> GetsView:
    return GetsView(
        id=got.viewers.id,
        name=got.viewers.name,
        count=got.viewers.count,
        is_teacher=got.viewers.is_teacher,
        smallest_print_pt=got.print.whole_points if got.print else None,
        reads=got.reads,
        face=got.face,
        must=got.must,
        sentence=sentence(got, outcome),
    )


def _taker(taker: TakerFacts) -> TakerView:
    return TakerView(
        kind=taker.kind,
        name=taker.name,
        width=int(taker.size.width) if taker.size else None,
        height=int(taker.size.height) if taker.size else None,
        fps=taker.fps,
        delay_ms=None if taker.delay_s is None else 1000 * taker.delay_s,
        lips_ms=None if taker.lips_s is None else 1000 * taker.lips_s,
        sound=taker.sound,
        says=taker.says,
    )
