"""From the core's and the running lesson's values to what the interface says."""

import time
from dataclasses import replace
from urllib.parse import urlsplit

from cartouche.core.kit.health import advice
from cartouche.core.plates.model import Plate, Rect
from cartouche.core.reading.handedness import LightPath
from cartouche.core.reading.verdicts import Readings, Verdict
from cartouche.core.watch.signal import AWAY
from cartouche.core.watch.starting import share_started
from cartouche.live.feeds import FeedFacts
from cartouche.live.files.clip import ClipSource
from cartouche.live.out.takers import TakerFacts
from cartouche.live.scene import laid_plate
from cartouche.live.troubles import Trouble
from cartouche.web.ears_view import learners_view
from cartouche.web.guests.book import Guests
from cartouche.web.microphones import open_now
from cartouche.web.schemas import (
    AudienceView,
    ClipView,
    CoveredView,
    FeedView,
    LightPathView,
    LightStage,
    LiveView,
    OutgoingView,
    SummaryView,
)
from cartouche.web.square_up_schemas import ReadingsView
from cartouche.web.state import AppState


def path_view(path: LightPath) -> LightPathView:
    stages = [LightStage(where=stage.where, count=stage.count, words=stage.words) for stage in path.stages]
    return LightPathView(stages=stages, count=path.count, reads_true=path.reads_true)


def readings_view(found: Readings) -> ReadingsView:
    vertical, horizontal = found.keystone or (None, None)
    lowest, highest = found.px_per_mm or (None, None)
    return ReadingsView(
        keystone_vertical=vertical,
        keystone_horizontal=horizontal,
        tilt_deg=found.tilt_deg,
        px_per_mm_min=lowest,
        px_per_mm_max=highest,
        canvas_width=found.canvas.width,
        canvas_height=found.canvas.height,
    )


def audience_view(found: Verdict) -> AudienceView:
    audience = found.audience
    return AudienceView(
        id=audience.id,
        name=audience.name,
        is_teacher=audience.is_teacher,
        mirrored=audience.mirrored,
        tile_width_px=audience.tile_width_px,
        tile_height_px=audience.tile_height_px,
        distance_mm=audience.distance_mm,
        path=path_view(found.path) if found.path else None,
        smallest_print_pt=found.print.whole_points if found.print else None,
        holds_usual_print=found.print.holds_usual_print if found.print else None,
        limit=found.print.limit if found.print else None,
        too_small_by=found.too_small_by,
        reads=found.reads,
        words=found.words,
    )


def feed_view(facts: FeedFacts, serves: str | None, sound_db: float | None, clip: ClipSource | None, trouble: str | None) -> FeedView:
    """trouble: what goes wrong with its pictures on our side, in words."""
    advised = advice(facts.battery, facts.facing, serves)
    return FeedView(
        id=facts.id,
        state=facts.state,
        away=facts.state in AWAY,
        sentence=facts.fault or trouble,
        width=int(facts.size.width) if facts.size else None,
        height=int(facts.size.height) if facts.size else None,
        fps=facts.fps,
        delay_ms=None if facts.delay_s is None else 1000 * facts.delay_s,
        started=None if facts.starting_s is None else share_started(facts.starting_s, facts.usual_start_s),
        usual_start_s=facts.usual_start_s,
        battery=facts.battery.level if facts.battery else None,
        charging=facts.battery is not None and facts.battery.charging,
        advice=advised.sentence if advised else None,
        press=advised.press if advised else "",
        sound_db=sound_db,
        clip=clip_view(clip) if clip else None,
    )


def clip_view(clip: ClipSource) -> ClipView:
    return ClipView(playing=clip.playing, loops=clip.loops, position_s=clip.position_s, duration_s=clip.facts.duration_s)


def place_rects(state: AppState, plate: Plate) -> list[Rect]:
    """Where the plate's layout lays each of its places, with all that it holds."""
    running = state.running
    setup = replace(running.setup, plate=plate, adorned=True)
    rest = laid_plate(setup, running.feeds, running.desk.size.aspect, lambda _: False) or plate
    return [place.rect for place in rest.places]


def live_view(state: AppState, guests: Guests, ready: SummaryView | None) -> LiveView:
    now_s, running, setup = time.monotonic(), state.running, state.running.setup
    versions = running.stage.versions.by_topic()
    serves = {device_id: role for role, device_id in setup.roles.items()}
    sounds, clips = guests.visitors.sounds(), state.sources.clips()
    troubles = running.troubles.now(now_s)
    by_device = {trouble.device_id: trouble.sentence for trouble in reversed(troubles) if trouble.device_id}
    opened = open_now(state, guests)
    said = {**by_device, **running.stage.notices}
    return LiveView(
        version=sum(versions.values()),
        versions=versions,
        lesson_id=state.lesson_id,
        kept_says=state.database.says,
        feeds=[
            feed_view(feed.facts(now_s), serves.get(feed.id), sounds.get(feed.id), clips.get(feed.id), said.get(feed.id))
            for feed in running.feeds.all()
        ],
        outgoing=outgoing_view(state, now_s, troubles),
        call_running=running.call.running,
        call_trouble=next((trouble.sentence for trouble in troubles if trouble.stage == "call"), None),
        going_out=running.going_out,
        microphone=opened,
        learners_hear=learners_view(running.sound.learners.heard(now_s)) if running.call.running and opened else None,
        ready=ready,
        audiences=[audience_view(verdict) for verdict in running.verdicts.of(setup)],
    )


def taken_by(takers: list[TakerFacts]) -> str | None:
    names = list(dict.fromkeys(urlsplit(taker.name).netloc or taker.name for taker in takers))
    return f"Taken by {', '.join(names[:3])}{' and more' if len(names) > 3 else ''}" if names else None


def outgoing_view(state: AppState, now_s: float, troubles: list[Trouble]) -> OutgoingView:
    desk, plate = state.running.desk, state.running.setup.plate
    delay_s = desk.delay_s(now_s)
    return OutgoingView(
        width=int(desk.size.width),
        height=int(desk.size.height),
        fps=desk.fps(now_s),
        delay_ms=None if delay_s is None else 1000 * delay_s,
        windows=state.running.windows.count,
        window_says=state.running.windows.says(desk.size),
        taken_by=taken_by(state.running.takers.all()),
        taker_says=next((taker.says for taker in state.running.takers.all() if taker.says), None),
        plate_id=plate.id if plate else None,
        covered=[CoveredView(place=covered.place, share=covered.share) for covered in desk.placer.covered],
        behind_ms=desk.behind.cost_ms,
        behind_lowered=desk.behind.lowered,
        behind_too_slow=desk.behind.too_slow,
        lowered=state.running.thrift.says,
        trouble=next((trouble.sentence for trouble in troubles if trouble.device_id is None and trouble.stage != "call"), None),
    )
