"""The call stand-in at work: sends the outgoing picture per layer, and shrinks it to each audience's tile, for whoever looks."""

import threading
import time
from collections.abc import Callable, Sequence
from typing import Any

import cv2
import numpy as np

from cartouche.core.call.audience import Audience, SimulcastLayer
from cartouche.core.pictures import Frame, Plane
from cartouche.live.demand import Surface
from cartouche.live.hub import Hub
from cartouche.live.source import Codec, CodecMaker
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

EARLY_SHARE = 0.2  # of a layer's period: taken a little before its turn, else a whole outgoing picture later


class CallRunner:
    """A sink of the outgoing picture, with one thread per layer in use. `start` and `stop` are repeatable."""

    def __init__(self, hub: Hub, troubles: Troubles, make_codec: CodecMaker, audiences: Callable[[], Sequence[Audience]]) -> None:
        """audiences: as the call serves them now; `refresh` when they have changed."""
        self._hub, self._troubles, self._make_codec, self._audiences = hub, troubles, make_codec, audiences
        self._change = threading.Lock()
        self._senders: tuple[LayerSender, ...] = ()

    @property
    def running(self) -> bool:
        return bool(self._senders)

    @property
    def picture_s(self) -> float | None:
        """How long a picture takes from capture to the learners, seconds; None while nobody looks."""
        return next((sender.picture_s for sender in self._senders if sender.picture_s is not None), None)

    def start(self) -> None:
        with self._change:
            if not self._senders:
                self._senders = self._made()

    def _made(self) -> "tuple[LayerSender, ...]":
        """One for each quality that somebody gets."""
        groups: dict[SimulcastLayer, list[Audience]] = {}
        for audience in self._audiences():
            groups.setdefault(audience.layer, []).append(audience)
        return tuple(LayerSender(layer, group, self._hub, self._troubles, self._make_codec) for layer, group in groups.items())

    def refresh(self) -> None:
        """Other audiences or another call from now on; nothing while none runs."""
        with self._change:
            ending, self._senders = self._senders, self._made() if self._senders else ()
        for sender in ending:
            sender.stop()

    def stop(self) -> None:
        with self._change:
            ending, self._senders = self._senders, ()
        for sender in ending:
            sender.stop()

    def ready(self, now_s: float) -> bool:
        return any(sender.ready(now_s) for sender in self._senders)

    def take(self, frame: Frame, now_s: float) -> None:
        for sender in self._senders:
            if sender.ready(now_s):
                sender.take(frame, now_s)


class LayerSender:
    """One quality that the call sends, on a thread of its own; it works on a copy at its own size."""

    def __init__(self, layer: SimulcastLayer, audiences: list[Audience], hub: Hub, troubles: Troubles, make_codec: CodecMaker) -> None:
        self._layer, self._hub, self._make_codec = layer, hub, make_codec
        self._surfaces = {Surface("audience", audience.id): audience for audience in audiences}
        self._codec: Codec | None = None
        self._spare, self._busy = Fitter(), Fitter()  # the one is filled while the other is being sent
        self._fitters = {audience.id: Fitter() for audience in audiences}
        self._lock = threading.Lock()
        self._waiting: Frame | None = None
        self._taken_s = float("-inf")
        self.picture_s: float | None = None  # from capture to what learners see, the newest
        self._worker = Worker(f"call-{layer.name}", self._turn, lambda exc: troubles.report("call", exc))
        self._worker.start()

    def stop(self) -> None:
        self._worker.stop()

    def ready(self, now_s: float) -> bool:
        due = now_s - self._taken_s >= (1 - EARLY_SHARE) / self._layer.fps
        return due and self._waiting is None and any(self._hub.ready(surface, now_s) for surface in self._surfaces)

    def take(self, frame: Frame, now_s: float) -> None:
        """On the desk's thread: shrunk to what the call sends, and left for this layer's own thread."""
        with self._lock:
            self._waiting, self._taken_s = self._spare.fit(frame, self._layer.width, self._layer.height), now_s
        self._worker.wake()

    def _turn(self) -> None:
        if not self._worker.wait(None, lambda: self._waiting is not None):
            return
        with self._lock:
            sent, self._waiting = self._waiting, None
            self._spare, self._busy = self._busy, self._spare
        if sent is not None:
            self._send(sent, time.monotonic())

    def _send(self, sent: Frame, now_s: float) -> None:
        looked = [(surface, audience) for surface, audience in self._surfaces.items() if self._hub.ready(surface, now_s)]
        through: Frame | None = sent
        if any(not audience.is_teacher for _, audience in looked):
            self._codec = self._codec or self._make_codec(self._layer)
            through = self._codec.transcode(sent)
            self.picture_s = time.monotonic() - sent.captured_s
        for surface, audience in looked:
            frame = sent if audience.is_teacher else through
            if frame is not None:
                self._hub.publish(surface, self._fitters[audience.id].shown(frame, audience), now_s)


class Fitter:
    """Resizes into planes that it keeps."""

    def __init__(self) -> None:
        self._kept: tuple[Plane, ...] = ()

    def fit(self, frame: Frame, width: int, height: int) -> Frame:
        if not self._kept:
            self._kept = tuple(np.empty((height // k, width // k), np.uint8) for k in (1, 2, 2))
        way: Any = cv2.INTER_LINEAR if width > frame.size.width else cv2.INTER_AREA
        for plane, kept in zip(frame.planes, self._kept, strict=True):
            cv2.resize(plane, (kept.shape[1], kept.shape[0]), dst=kept, interpolation=way)
        return Frame.of(self._kept, frame.captured_s)

    def shown(self, frame: Frame, audience: Audience) -> Frame:
        """As it stands on the audience's screen: tile size, mirrored if the call does that."""
        tile = self.fit(frame, audience.tile_width_px // 2 * 2, audience.tile_height_px // 2 * 2)
        if not audience.mirrored:
            return tile
        return Frame.of([np.asarray(cv2.flip(plane, 1), np.uint8) for plane in tile.planes], tile.captured_s)
