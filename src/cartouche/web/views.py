"""From the core's and the running lesson's values to what the interface says."""

import time
from dataclasses import replace

from cartouche.core.kit.health import advice
from cartouche.core.plates.model import Plate
from cartouche.core.reading.handedness import LightPath
from cartouche.core.reading.verdicts import Readings, Verdict
from cartouche.core.watch.starting import share_started
from cartouche.live.feeds import Feed
from cartouche.live.files.clip import ClipSource
from cartouche.live.scene import laid_plate
from cartouche.web.guests.book import Guests
from cartouche.web.schemas import AudienceView, ClipView, CoveredView, FeedView, LightPathView, LiveView, OutgoingView, ReadingsView, Stage
from cartouche.web.state import AppState


def path_view(path: LightPath) -> LightPathView:
    stages = [Stage(where=stage.where, count=stage.count, words=stage.words) for stage in path.stages]
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
        words=found.words,
    )


def feed_view(feed: Feed, now_s: float, serves: str | None, sound_db: float | None, clip: ClipSource | None) -> FeedView:
    size, delay_s = feed.latest.size if feed.latest else None, feed.delay_s(now_s)
    starting_s = feed.starting_for_s(now_s)
    advised = advice(feed.battery, feed.facing, serves)
    return FeedView(
        id=feed.id,
        state=feed.state(now_s),
        sentence=feed.fault,
        width=int(size.width) if size else None,
        height=int(size.height) if size else None,
        fps=feed.fps(now_s),
        delay_ms=None if delay_s is None else 1000 * delay_s,
        started=None if starting_s is None else share_started(starting_s, feed.usual_start_s),
        usual_start_s=feed.usual_start_s,
        battery=feed.battery.level if feed.battery else None,
        charging=feed.battery is not None and feed.battery.charging,
        advice=advised.sentence if advised else None,
        press=advised.press if advised else "",
        sound_db=sound_db,
        clip=clip_view(clip) if clip else None,
    )


def clip_view(clip: ClipSource) -> ClipView:
    return ClipView(playing=clip.playing, loops=clip.loops, position_s=clip.position_s, duration_s=clip.facts.duration_s)


def laid(state: AppState, plate: Plate) -> Plate:
    """The plate as its layout lays it, with all that it holds."""
    running = state.running
    setup = replace(running.setup, plate=plate, adorned=True)
    return laid_plate(setup, running.feeds, running.desk.size.aspect, lambda _: False) or plate


def live_view(state: AppState, guests: Guests, version: int) -> LiveView:
    now_s = time.monotonic()
    running = state.running
    desk, plate = running.desk, running.setup.plate
    delay_s = desk.delay_s(now_s)
    serves = {device_id: role for role, device_id in running.setup.roles.items()}
    sounds, clips = {id_: one.sound_db for id_, one in guests.visitors().items()}, state.sources.clips()
    return LiveView(
        version=version,
        lesson_id=state.lesson_id,
        feeds=[feed_view(feed, now_s, serves.get(feed.id), sounds.get(feed.id), clips.get(feed.id)) for feed in running.feeds.all()],
        outgoing=OutgoingView(
            width=int(desk.size.width),
            height=int(desk.size.height),
            fps=desk.fps(now_s),
            delay_ms=None if delay_s is None else 1000 * delay_s,
            windows=state.windows,
            plate_id=plate.id if plate else None,
            covered=[CoveredView(place=one.place, share=one.share) for one in desk.placer.covered],
            behind_ms=desk.behind.cost_ms,
            behind_too_slow=desk.behind.too_slow,
        ),
        call_running=running.call.running,
        going_out=running.call.running or state.windows > 0,
        audiences=[audience_view(verdict) for verdict in running.verdicts()],
    )
