"""From the core's and the running lesson's values to what the interface says."""

import time

from cartouche.core.reading.handedness import LightPath
from cartouche.core.reading.verdicts import Readings, Verdict
from cartouche.live.feeds import Feed
from cartouche.live.running import RunningLesson
from cartouche.web.schemas import AudienceView, FeedView, LightPathView, LiveView, OutgoingView, ReadingsView, Stage


def path_view(path: LightPath) -> LightPathView:
    stages = [Stage(where=stage.where, count=stage.count, words=stage.words) for stage in path.stages]
    return LightPathView(stages=stages, count=path.count, reads_true=path.reads_true)


def readings_view(found: Readings) -> ReadingsView:
    vertical, horizontal = found.keystone or (None, None)
    least, most = found.px_per_mm or (None, None)
    return ReadingsView(
        keystone_vertical=vertical,
        keystone_horizontal=horizontal,
        tilt_deg=found.tilt_deg,
        px_per_mm_least=least,
        px_per_mm_most=most,
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
    )


def feed_view(feed: Feed, now_s: float) -> FeedView:
    size = feed.latest.size if feed.latest else None
    delay_s = feed.delay_s(now_s)
    return FeedView(
        id=feed.id,
        state=feed.state(now_s),
        sentence=feed.fault,
        width=int(size.width) if size else None,
        height=int(size.height) if size else None,
        frames_s=feed.frames_s(now_s),
        delay_ms=None if delay_s is None else 1000 * delay_s,
    )


def live_view(running: RunningLesson, version: int, lesson_id: str | None, windows: int) -> LiveView:
    now_s = time.monotonic()
    desk, plate = running.desk, running.setup.plate
    delay_s = desk.delay_s(now_s)
    return LiveView(
        version=version,
        lesson_id=lesson_id,
        feeds=[feed_view(feed, now_s) for feed in running.feeds.all()],
        outgoing=OutgoingView(
            width=int(desk.size.width),
            height=int(desk.size.height),
            frames_s=desk.frames_s(now_s),
            delay_ms=None if delay_s is None else 1000 * delay_s,
            windows=windows,
            plate_id=plate.id if plate else None,
        ),
        call_running=running.call.running,
        going_out=running.call.running or windows > 0,
        audiences=[audience_view(verdict) for verdict in running.verdicts()],
    )
