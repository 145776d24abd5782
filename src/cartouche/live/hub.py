"""Hands pictures to whoever looks: each surface encoded once, at the size of its largest viewer, newest wins.

A surface is named by a key: `raw:ID`, `page:ID`, `outgoing`, `plate:ID`, `audience:ID`.
"""

import struct
import threading
from asyncio import AbstractEventLoop, Event
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import cv2
import simplejpeg

from cartouche.core.pictures import Frame, Plane
from cartouche.core.plates.placing import SHRINK_AT

JPEG_QUALITY = 80
MAX_IN_FLIGHT = 2  # more only waits in the socket and grows the delay
HEADER = struct.Struct("<IdHH")  # number, captured (monotonic s), width, height


@dataclass(eq=False)
class Viewer:
    """One open socket on one surface."""

    key: str
    width: int
    max_fps: float
    loop: AbstractEventLoop
    arrived: Event = field(default_factory=Event)
    picture: bytes | None = None
    in_flight: int = 0
    last_s: float = 0.0
    closed: bool = False

    def ready(self, now_s: float) -> bool:
        """Wants another picture: not too many under way, and not too soon."""
        return not self.closed and self.in_flight < MAX_IN_FLIGHT and now_s - self.last_s >= 0.8 / self.max_fps

    def offer(self, picture: bytes) -> None:
        self.picture = picture
        self.arrived.set()


class Hub:
    """Publishing is called from picture threads, looking from the event loop."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._viewers: dict[str, list[Viewer]] = {}
        self._numbers: dict[str, int] = {}
        self._shrinkers: dict[str, _Shrinker] = {}
        self.on_change: list[Callable[[], None]] = []

    def look(self, viewer: Viewer) -> None:
        with self._lock:
            self._viewers.setdefault(viewer.key, []).append(viewer)
        self._changed()

    def leave(self, viewer: Viewer) -> None:
        """Repeatable."""
        viewer.closed = True
        with self._lock:
            rest = [other for other in self._viewers.get(viewer.key, []) if other is not viewer]
            if rest:
                self._viewers[viewer.key] = rest
            else:
                self._viewers.pop(viewer.key, None)
                self._shrinkers.pop(viewer.key, None)
        self._changed()

    def looked_at(self, key: str) -> bool:
        return key in self._viewers

    def looked_surfaces(self) -> list[str]:
        with self._lock:
            return list(self._viewers)

    def ready(self, key: str, now_s: float) -> bool:
        """Whether a picture of this surface made now would be sent to anybody."""
        return any(viewer.ready(now_s) for viewer in self._viewers.get(key, ()))

    def publish(self, key: str, frame: Frame, now_s: float) -> None:
        """Encode once and offer to every viewer of the surface that is ready for it.

        now_s: when the work on this picture began, as `ready` was asked: its own duration must not make the next one come too soon.
        """
        with self._lock:
            viewers = [viewer for viewer in self._viewers.get(key, ()) if viewer.ready(now_s)]
            if not viewers:
                return
            number = self._numbers[key] = self._numbers.get(key, 0) + 1 & 0xFFFFFFFF
            shrinker = self._shrinkers.setdefault(key, _Shrinker())
        shown = shrinker.shrink(frame, max(viewer.width for viewer in viewers))
        message = encode(shown, number)
        for viewer in viewers:
            viewer.last_s = now_s
            viewer.in_flight += 1
            try:
                viewer.loop.call_soon_threadsafe(viewer.offer, message)
            except RuntimeError:  # its loop has closed: the process is stopping
                viewer.closed = True

    def _changed(self) -> None:
        for tell in self.on_change:
            tell()


def encode(frame: Frame, number: int) -> bytes:
    """One message: header and JPEG, straight from the planes."""
    jpeg = simplejpeg.encode_jpeg_yuv_planes(*(_contiguous(plane) for plane in frame.planes), JPEG_QUALITY)
    return HEADER.pack(number, frame.captured_s, int(frame.size.width), int(frame.size.height)) + bytes(jpeg)


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
            self._kept = tuple(cv2.resize(p, (width // k, height // k)) for p, k in zip(frame.planes, (1, 2, 2), strict=True))  # type: ignore[assignment]
        # by little, linear shows the same and area costs five times as much
        way: Any = cv2.INTER_AREA if frame.size.width > SHRINK_AT * width else cv2.INTER_LINEAR
        for plane, kept in zip(frame.planes, self._kept, strict=True):
            cv2.resize(plane, (kept.shape[1], kept.shape[0]), dst=kept, interpolation=way)
        return Frame(*self._kept, frame.captured_s)
