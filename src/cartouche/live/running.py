"""The running lesson: its feeds, stage, desk, watcher and call, wired together."""

import time
from collections.abc import Callable
from contextlib import ExitStack

from cartouche.core.call.audience import Viewers
from cartouche.core.call.kinds import CallKind
from cartouche.core.pictures import Frame, Size
from cartouche.core.sound.clap import Claps
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.tone import Tone
from cartouche.live.call import CallRunner
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.demand import OUTGOING, Demand, Surface, Wants
from cartouche.live.desk import Desk
from cartouche.live.feeds import Feed, Feeds, PulledFeed
from cartouche.live.head_watch import HeadWatch
from cartouche.live.holder import Holder
from cartouche.live.hub import Hub, HubSink
from cartouche.live.ink_room import InkRoom
from cartouche.live.out.encoder import Encodings
from cartouche.live.out.loopback import LoopbackCamera, LoopbackDevice
from cartouche.live.out.takers import Takers
from cartouche.live.page_surfaces import PageSurfaces
from cartouche.live.pen_watch import PenWatch
from cartouche.live.ready_watch import ReadyWatch
from cartouche.live.record.page_film import PageFilm
from cartouche.live.record.recorder import Pictures, Recorder
from cartouche.live.setup import NO_CHAIN, Setup
from cartouche.live.sound.call_sound import Voice
from cartouche.live.sound.room import SoundRoom
from cartouche.live.sound.timer_sound import TimerSound
from cartouche.live.source import CodecMaker, PictureSource
from cartouche.live.stage import Stage
from cartouche.live.stream_feed import StreamFeed
from cartouche.live.thrift_watch import ThriftWatch
from cartouche.live.troubles import Troubles
from cartouche.live.verdicts import Verdicts
from cartouche.live.watcher import Watcher
from cartouche.live.windows import Windows
from cartouche.models import SpeechNet, page_nets, person_net, way_net

SIZES: dict[str, Size] = {"720p": Size(1280, 720), "1080p": Size(1920, 1080)}


class RunningLesson:
    """Owns every thread that makes pictures. `close` lets go of all of them, even when one fails."""

    def __init__(self, make_codec: CodecMaker, make_voice: Callable[[], Voice], size: Size = SIZES["720p"], fps: float = 30.0) -> None:
        self.troubles = Troubles()
        self.demand = Demand()
        self.hub = Hub(self.demand, self.troubles)
        self.feeds = Feeds()
        self.stage = Stage(self._feed_size)
        self.holder = Holder(self.stage)
        self.ink = InkRoom(lambda: self.stage.versions.touch("ink"))
        self.watcher = Watcher(self._worth_a_look, self.stage.page_moved, self._page_seen, page_nets(), way_net(), self.troubles)
        self.desk = Desk(
            self.feeds, self.hub, self.demand, self.troubles, size, self._tone, person_net(), fps, calm=self.holder.calm, ink=self.ink
        )
        self.encodings = Encodings(self.demand, self.troubles)
        self.takers = Takers(lambda: self.stage.versions.touch("ways"))
        self.camera: LoopbackCamera | None = None
        self.windows = Windows(lambda: self.stage.versions.touch("call"))
        self.verdicts = Verdicts(self.feeds, self.desk, self.watcher, self._window_alone)
        self.call = CallRunner(self.hub, self.troubles, make_codec, self.verdicts.by_webcam)
        self.sound = SoundRoom(SpeechNet, make_voice, self.desk.delay_s, self._learners_s, self.troubles)
        self.sound.others.append(TimerSound(lambda: self.setup.timer))
        self.sound.microphones.on_change.append(lambda: self.stage.versions.touch("sound"))
        self.page_film = PageFilm(lambda: self.setup, self.feeds, self.demand, self.ink, self.holder.calm, self._tone, self.troubles)
        self.recorder, self.page_recorder = self._recorder(self.encodings), self._recorder(self.page_film)
        self._pages, self._sizes = PageSurfaces(), dict[str, Size]()
        self.wants = Wants(self.demand, self.feeds, lambda: self.setup, lambda: self.call.running)
        self.desk.sinks = (HubSink(self.hub, OUTGOING), self.call, self.encodings, self.sound.clapper)
        self.demand.on_change.append(self.wants.settle)
        self.stage.on_change.append(self._stage_changed)
        self.ready = ReadyWatch(self.feeds, self.demand, lambda: self.setup, person_net(), self.troubles)
        self.pen = PenWatch(self.stage, self.feeds, self.desk.room_of, self.troubles)
        self.thrift = ThriftWatch(self.desk, self.hub, self.watcher, self.demand, self._thrift_changed, self.troubles)
        self.head = HeadWatch(self.stage, self.feeds, person_net(), self.sound.speaks, self.troubles)
        self.desk.start()
        self.watcher.start()
        self.ready.start()
        self.pen.start()
        self.head.start()

    def _thrift_changed(self) -> None:
        self.stage.versions.touch("teach")
        for feed in self.feeds.all():
            feed.tell()

    def _recorder(self, pictures: Pictures) -> Recorder:
        return Recorder(pictures, self.sound.mixer, self.troubles, lambda: self.stage.versions.touch("record"))

    @property
    def setup(self) -> Setup:
        return self.stage.setup

    # what is there

    def open_source(self, device_id: str, source: PictureSource, *, judged: bool = True) -> None:
        self._add(PulledFeed(device_id, source, self._on_frame, self.troubles, lambda: self.desk.max_fps, judged=judged))

    def open_camera(self, device_id: str, *, judged: bool = True) -> CameraFeed:
        """The feed that a browser's pictures come in by; the same one again after a reload."""
        known = self.feeds.get(device_id)
        if not isinstance(known, CameraFeed):
            known = CameraFeed(device_id, self._on_frame, self.troubles, judged=judged)
            self._add(known)
        return known

    def open_stream(self, device_id: str, address: str) -> None:
        self._add(StreamFeed(device_id, address, self._on_frame, self.troubles))

    def restart_feed(self, device_id: str) -> None:
        """Wait for its pictures from now on: what it did before says nothing of it. Its last good picture stays."""
        feed = self.feeds.get(device_id)
        if feed is not None:
            feed.restart(time.monotonic())

    def close_feed(self, device_id: str) -> None:
        self.sound.sound_clip(device_id, None)
        self.feeds.remove(device_id)
        self._pages.forget(device_id)
        self.holder.forget(device_id)
        self._sizes.pop(device_id, None)
        self.watcher.forget(device_id)
        self.troubles.forget(device_id)
        self.stage.forget(device_id)

    def _add(self, feed: Feed) -> None:
        feed.on_wake = lambda: self.holder.forget(feed.id)  # another page may lie there by now
        self.feeds.add(feed)
        self.wants.settle()

    def _feed_size(self, device_id: str) -> Size | None:
        feed = self.feeds.get(device_id)
        return feed.latest.size if feed is not None and feed.latest is not None else None

    # what goes out

    def resize(self, size: Size) -> None:
        self.thrift.resize(size)
        self.stage.versions.touch("lesson")

    def start_call(self) -> None:
        self.call.start()
        self.sound.learners.start()
        self.stage.versions.touch("call")
        self.wants.settle()

    def stop_call(self) -> None:
        self.call.stop()
        self.sound.learners.stop()
        self.stage.versions.touch("call")
        self.wants.settle()

    def serve(self, viewers: tuple[Viewers, ...], call: CallKind) -> None:
        """These audiences, by this kind of call, from now on."""
        if (viewers, call) != (self.verdicts.viewers, self.verdicts.call):
            self.verdicts.viewers, self.verdicts.call = viewers, call
            self.call.refresh()
            self.stage.versions.touch("ways")

    def give_to_device(self, device: LoopbackDevice | None) -> None:
        """The outgoing picture is written to this camera device from now on; None: to none."""
        before, self.camera = self.camera, None
        if before is not None:
            self.desk.sinks = tuple(sink for sink in self.desk.sinks if sink is not before)
            before.stop()
        if device is not None:
            self.camera = LoopbackCamera(device, self.demand, self.takers, self.troubles)
            self.desk.sinks = (*self.desk.sinks, self.camera)

    @property
    def going_out(self) -> bool:
        """Whether anybody is given the outgoing picture."""
        return self.call.running or self.windows.count > 0 or bool(self.takers)

    def _window_alone(self) -> bool:
        return self.windows.count > 0 and not self.call.running and not self.takers

    def _stage_changed(self, setup: Setup) -> None:
        self.wants.settle()  # first: the desk waits for those who wake
        self.desk.show(setup)

    # what the watcher looks at and reports

    def _worth_a_look(self) -> list[tuple[Feed, Chain, bool]]:
        setup, read = self.setup, self.demand.ids("page")
        page = setup.roles.get("page")
        if page is not None and (OUTGOING in self.demand.surfaces or self.call.running):
            read = read | {page}
        return [(feed, setup.chains.get(feed.id, NO_CHAIN), feed.id in read) for feed in self.feeds.all() if feed.wanted]

    def _page_seen(self, device_id: str) -> None:
        self.stage.versions.touch(f"page:{device_id}")

    def clap_test(self) -> Claps:
        """How far sound and picture come out apart, by a clapper before the camera. Blocks for some seconds."""
        claim = self.demand.claim(OUTGOING)
        try:
            return self.sound.clapper.run()
        finally:
            claim.release()

    def _learners_s(self) -> float | None:
        return self.call.picture_s

    def _tone(self, device_id: str) -> Tone | None:
        page = self.watcher.seen.get(device_id)
        return page.tone if page is not None else None

    # pictures

    def _on_frame(self, feed: Feed, frame: Frame) -> None:
        """On the feed's own thread: the desk hears of it, then whoever looks at this feed alone gets it."""
        if self._sizes.get(feed.id) != frame.size:
            self._sizes[feed.id] = frame.size
            self.stage.size_changed(feed.id, frame.size)
            self.stage.versions.touch(f"chain:{feed.id}")
        now_s = time.monotonic()
        with self.troubles.guard("hold", feed.id):
            self.holder.see(feed.id, frame, self._tone(feed.id), now_s)
        self.desk.news(feed)
        self.hub.publish(Surface("raw", feed.id), frame, now_s)
        page = Surface("page", feed.id)
        if self.hub.ready(page, now_s):
            self.hub.publish(page, self._pages.draw(feed.id, frame, self.setup, self._tone(feed.id)), now_s)

    def close(self) -> None:
        """Repeatable."""
        with ExitStack() as stack:
            parts: list[Callable[[], None]] = [
                self.feeds.close,
                self.watcher.stop,
                self.ready.stop,
                self.pen.stop,
                self.head.stop,
                self.thrift.stop,
                self.desk.stop,
            ]
            parts += [lambda: self.give_to_device(None), self.encodings.close, self.call.stop, self.sound.close]
            parts += [self.recorder.close, self.page_recorder.close]
            for part in parts:
                stack.callback(part)
