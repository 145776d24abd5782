"""Hands pictures to whoever looks: each surface encoded once, at the size of its largest viewer, newest wins."""

import math
import struct
import threading
from asyncio import AbstractEventLoop, Event
from dataclasses import dataclass, field
from typing import Any

import cv2
import numpy as np
import simplejpeg

from cartouche.core.pictures import Frame, Plane
from cartouche.core.plates.placing import SHRINK_AT
from cartouche.core.watch.late import MAX_SENT_AGE_S, Lateness
from cartouche.live.demand import Claim, Demand, Surface
from cartouche.live.troubles import Troubles

JPEG_QUALITY = 80
MAX_IN_FLIGHT = 2  # more only waits in the socket and grows the delay
PICTURE_HEADER = struct.Struct("<IdHH")  # number, captured (monotonic s), width, height


@dataclass(eq=False)
class Viewer:
    """One open socket on one surface. Each count is written by one thread alone, so none is ever lost."""

    surface: Surface
    width: int
    max_fps: float
    loop: AbstractEventLoop
    arrived: Event = field(default_factory=Event)
    picture: bytes | None = None  # given, not yet sent
    given: int = 0  # by the thread that makes this surface
    overwritten: int = 0  # or left out, before they were sent; by the loop, as what follows
    sent: int = 0
    drawn: int = 0
    last_s: float = 0.0
    closed: bool = False
    claim: Claim | None = None
    captured_s: float = math.inf  # of the one that is given
    late: Lateness = field(default_factory=lambda: Lateness(MAX_SENT_AGE_S))

    @property
    def in_flight(self) -> int:
        return self.given - self.overwritten - self.drawn

    def ready(self, now_s: float, seldom_fps: float | None = None) -> bool:
        """Wants another picture: not too many under way, and not too soon. seldom_fps: no more than so many just now."""
        fps = self.max_fps if seldom_fps is None else min(self.max_fps, seldom_fps)
        return not self.closed and self.in_flight < MAX_IN_FLIGHT and now_s - self.last_s >= 0.8 / fps

    def offer(self, picture: bytes, captured_s: float = math.inf) -> None:
        """On its loop: the newest wins, and one that was never sent is not waited for."""
        if self.picture is not None:
            self.overwritten += 1
        self.picture, self.captured_s = picture, captured_s
        self.arrived.set()

    def take(self, now_s: float) -> bytes | None:
        """On its loop: what is to be sent now; nothing, where it has waited so long that the next one is better."""
        picture, self.picture = self.picture, None
        if picture is None:
            return None
        if self.late.drops(now_s, self.captured_s):
            self.overwritten += 1
            return None
        self.sent += 1
        return picture

    def acknowledge(self) -> None:
        """On its loop: the page has drawn one that was sent."""
        self.drawn = min(self.drawn + 1, self.sent)


class Hub:
    """Publishing is called from picture threads, joining and leaving from the event loop."""

    def __init__(self, demand: Demand, troubles: Troubles) -> None:
        self._demand, self._troubles = demand, troubles
        self.seldom: dict[str, float] = {}  # most pictures a second just now, by kind of surface
        self._lock = threading.Lock()
        self._viewers: dict[Surface, tuple[Viewer, ...]] = {}
        self._numbers: dict[Surface, int] = {}
        self._shrinkers: dict[Surface, _Shrinker] = {}

    def join(self, viewer: Viewer) -> None:
        with self._lock:
            self._viewers[viewer.surface] = (*self._viewers.get(viewer.surface, ()), viewer)
        viewer.claim = self._demand.claim(viewer.surface)

    def leave(self, viewer: Viewer) -> None:
        """Repeatable."""
        viewer.closed = True
        with self._lock:
            rest = tuple(other for other in self._viewers.get(viewer.surface, ()) if other is not viewer)
            if rest:
                self._viewers[viewer.surface] = rest
            else:
                self._viewers.pop(viewer.surface, None)
                self._shrinkers.pop(viewer.surface, None)
        if viewer.claim is not None:
            viewer.claim.release()

    def ready(self, surface: Surface, now_s: float) -> bool:
        """Whether a picture of this surface made now would be sent to anybody."""
        return any(viewer.ready(now_s, self.seldom.get(surface.kind)) for viewer in self._viewers.get(surface, ()))

    def publish(self, surface: Surface, frame: Frame, now_s: float) -> None:
        """Encode once and offer to every viewer of the surface that is ready for it.

        now_s: when the work on this picture began, as `ready` was asked: its own duration must not make the next one come too soon.
        """
        with self._troubles.guard("encode", surface.id or None):
            self._publish(surface, frame, now_s)

    def _publish(self, surface: Surface, frame: Frame, now_s: float) -> None:
        with self._lock:
            viewers = [viewer for viewer in self._viewers.get(surface, ()) if viewer.ready(now_s, self.seldom.get(surface.kind))]
            if not viewers:
                return
            number = self._numbers[surface] = self._numbers.get(surface, 0) + 1 & 0xFFFFFFFF
            shrinker = self._shrinkers.setdefault(surface, _Shrinker())
        message = encode(shrinker.shrink(frame, max(viewer.width for viewer in viewers)), number)
        for viewer in viewers:
            viewer.last_s = now_s
            viewer.given += 1
            try:
                viewer.loop.call_soon_threadsafe(viewer.offer, message, frame.captured_s)
            except RuntimeError:  # its loop has closed: the process is stopping
                viewer.closed = True


class HubSink:
    """The outgoing picture, for our own screens."""

    def __init__(self, hub: Hub, surface: Surface) -> None:
        self._hub, self._surface = hub, surface

    def ready(self, now_s: float) -> bool:
        return self._hub.ready(self._surface, now_s)

    def take(self, frame: Frame, now_s: float) -> None:
        self._hub.publish(self._surface, frame, now_s)


def encode(frame: Frame, number: int) -> bytes:
    """One message: header and JPEG, straight from the planes."""
    jpeg = simplejpeg.encode_jpeg_yuv_planes(*(_contiguous(plane) for plane in frame.planes), JPEG_QUALITY)
    return PICTURE_HEADER.pack(number, frame.captured_s, int(frame.size.width), int(frame.size.height)) + bytes(jpeg)


def _contiguous(plane: Plane) -> Plane:
    return plane if plane.flags.c_contiguous else plane.copy()


class _Shrinker:
    """Shrinks frames to a width, by area, into planes that it keeps."""

    def __init__(self) -> None:
        self._kept: tuple[Plane, ...] = ()

    def shrink(self, frame: Frame, width: int) -> Frame:
        if width >= frame.size.width:
            return frame
        width = max(16, width // 2 * 2)
        height = max(2, round(width / frame.size.aspect / 2) * 2)
        if not self._kept or self._kept[0].shape != (height, width):
            self._kept = tuple(np.empty((height // k, width // k), np.uint8) for k in (1, 2, 2))
        # by little, linear shows the same and area costs five times as much
        way: Any = cv2.INTER_AREA if frame.size.width > SHRINK_AT * width else cv2.INTER_LINEAR
        for plane, kept in zip(frame.planes, self._kept, strict=True):
            cv2.resize(plane, (kept.shape[1], kept.shape[0]), dst=kept, interpolation=way)
        return Frame.of(self._kept, frame.captured_s)
