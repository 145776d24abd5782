"""A camera device on Linux: what is written to a loopback device, every program of this computer sees as a camera.

By the kernel's own interface (Video for Linux 2, linux/videodev2.h): capabilities asked, a format agreed on, pictures written.
"""

import contextlib
import ctypes
import errno
import os
import re
import sys
import threading
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.errors import CartoucheError
from cartouche.core.pictures import Frame, Plane, Size
from cartouche.core.watch.rate import Rate
from cartouche.live.demand import OUTGOING, Claim, Demand
from cartouche.live.out.takers import TakerFacts, Takers
from cartouche.live.planes import CHROMA_TO_LIMITED, LUMA_TO_LIMITED
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

QUERYCAP, SET_FORMAT = 0x80685600, 0xC0D05605
CAN_OUTPUT, HAS_DEVICE_CAPS = 0x2, 0x80000000
OUTPUT, FIELD_NONE, COLOURS_SMPTE170M = 2, 1, 1
YU12, YUYV = 0x32315559, 0x56595559
AGAIN_S = 2.0
TELL_EVERY_S = 1.0


class _Capability(ctypes.Structure):
    _fields_ = [
        ("driver", ctypes.c_char * 16), ("card", ctypes.c_char * 32), ("bus", ctypes.c_char * 32), ("version", ctypes.c_uint32),
        ("capabilities", ctypes.c_uint32), ("device_caps", ctypes.c_uint32), ("reserved", ctypes.c_uint32 * 3),
    ]  # fmt: skip


class _Format(ctypes.Structure):
    _fields_ = [
        ("type", ctypes.c_uint32), ("pad", ctypes.c_uint32), ("width", ctypes.c_uint32), ("height", ctypes.c_uint32),
        ("pixels", ctypes.c_uint32), ("field", ctypes.c_uint32), ("bytes_per_line", ctypes.c_uint32), ("size", ctypes.c_uint32),
        ("colours", ctypes.c_uint32), ("rest", ctypes.c_uint8 * (208 - 36)),
    ]  # fmt: skip


class NoSuchCameraDevice(CartoucheError, OSError):
    sentence = "This computer has no loopback camera device of that name any more. Look at the list again."


@dataclass(frozen=True)
class LoopbackDevice:
    """name: as other programs list it."""

    path: str
    name: str


def loopback_devices(folder: Path = Path("/dev")) -> list[LoopbackDevice]:
    """Devices that take pictures from a program; none on other systems."""
    if sys.platform != "linux":
        return []
    found = []
    for path in sorted(path for path in folder.iterdir() if re.fullmatch(r"video\d+", path.name)):
        with contextlib.suppress(OSError):
            handle = os.open(path, os.O_RDWR | os.O_NONBLOCK)
            try:
                capability = _capability(handle)
            finally:
                os.close(handle)
            caps = capability.device_caps if capability.capabilities & HAS_DEVICE_CAPS else capability.capabilities
            if caps & CAN_OUTPUT:
                found.append(LoopbackDevice(str(path), capability.card.decode("utf-8", "replace")))
    return found


def _capability(handle: int) -> _Capability:
    """Raises OSError for what is no video device."""
    if sys.platform == "win32":
        raise OSError(errno.ENOSYS, "this system has no such devices")
    import fcntl

    capability = _Capability()
    fcntl.ioctl(handle, QUERYCAP, capability)
    return capability


def _agree(handle: int, size: Size) -> int:
    """The pixel format that the device takes at this size. Raises OSError."""
    if sys.platform == "win32":
        raise OSError(errno.ENOSYS, "this system has no such devices")
    import fcntl

    for pixels, line, whole in ((YU12, 1.0, 1.5), (YUYV, 2.0, 2.0)):
        wanted = _Format(OUTPUT, 0, int(size.width), int(size.height), pixels, FIELD_NONE)
        wanted.bytes_per_line, wanted.size = int(size.width * line), int(size.width * size.height * whole)
        wanted.colours = COLOURS_SMPTE170M
        try:
            fcntl.ioctl(handle, SET_FORMAT, wanted)
        except OSError as exc:
            if exc.errno == errno.EINVAL:
                continue
            raise
        if (wanted.width, wanted.height, wanted.pixels) == (size.width, size.height, pixels):
            return pixels
    raise OSError(errno.EINVAL, "it takes no format that Cartouche writes")


class LoopbackCamera:
    """A sink of the outgoing picture that writes it to a device, and comes back by itself when that was busy or gone."""

    def __init__(self, device: LoopbackDevice, demand: Demand, takers: Takers, troubles: Troubles) -> None:
        self.device, self._takers = device, takers
        self._claim: Claim | None = demand.claim(OUTGOING)
        self._lock = threading.Lock()
        self._waiting: Frame | None = None
        self._kept: tuple[Plane, ...] = ()
        self._handle: int | None = None
        self._agreed: tuple[Size, int] | None = None
        self._packed: NDArray[np.uint8] = np.empty(0, np.uint8)
        self._rate, self._told_s = Rate(), float("-inf")
        takers.put(self, TakerFacts("camera device", device.name))
        self._worker = Worker("camera-device", self._turn, lambda exc: troubles.report("send", exc))
        self._worker.start()

    def stop(self) -> None:
        """Repeatable."""
        self._worker.stop()
        self._close()
        self._takers.drop(self)
        claim, self._claim = self._claim, None
        if claim is not None:
            claim.release()

    def ready(self, now_s: float) -> bool:
        return self._waiting is None

    def take(self, frame: Frame, now_s: float) -> None:
        """On the desk's thread."""
        with self._lock:
            if not self._kept or self._kept[0].shape != frame.y.shape:
                self._kept = tuple(np.empty(plane.shape, np.uint8) for plane in frame.planes)
            for plane, target, table in zip(frame.planes, self._kept, (LUMA_TO_LIMITED, CHROMA_TO_LIMITED, CHROMA_TO_LIMITED), strict=True):
                cv2.LUT(plane, table, dst=target)
            self._waiting = Frame.of(self._kept, frame.captured_s)
        self._worker.wake()

    def _turn(self) -> None:
        if not self._worker.wait(None, lambda: self._waiting is not None):
            return
        failed = False
        with self._lock:
            frame = self._waiting
            if frame is None:
                return
            try:
                self._write(frame)
                self._say(None)
            except OSError as exc:
                self._close()
                self._say(_words(exc))
                failed = True
            finally:
                self._waiting = None  # whatever happened: the next one is tried
        if failed:
            self._worker.wait(AGAIN_S)

    def _write(self, frame: Frame) -> None:
        if self._handle is None or self._agreed is None or self._agreed[0] != frame.size:
            self._open(frame.size)
        assert self._handle is not None
        assert self._agreed is not None
        os.write(self._handle, self._pack(frame, self._agreed[1]))
        now_s = time.monotonic()
        self._rate.add(now_s, now_s - frame.captured_s)

    def _open(self, size: Size) -> None:
        self._close()
        self._handle = os.open(self.device.path, os.O_RDWR)
        self._agreed = (size, _agree(self._handle, size))

    def _close(self) -> None:
        handle, self._handle, self._agreed = self._handle, None, None
        if handle is not None:
            with contextlib.suppress(OSError):
                os.close(handle)

    def _pack(self, frame: Frame, pixels: int) -> memoryview:
        height, width = frame.y.shape
        count = height * width * (3 if pixels == YU12 else 4) // 2
        if self._packed.size != count:
            self._packed = np.empty(count, np.uint8)
        if pixels == YU12:
            at = 0
            for plane in frame.planes:
                self._packed[at : at + plane.size] = plane.ravel()
                at += plane.size
        else:
            both = self._packed.reshape(height, width, 2)
            both[:, :, 0] = frame.y
            for offset, plane in ((0, frame.u), (1, frame.v)):
                both[:, offset::2, 1] = np.repeat(plane, 2, axis=0)
        return self._packed.data

    def _say(self, sentence: str | None) -> None:
        now_s = time.monotonic()
        if sentence is not None or now_s - self._told_s > TELL_EVERY_S:
            self._told_s = now_s
            changes: dict[str, Any] = {"says": sentence}
            if sentence is None and self._agreed is not None:
                changes |= {"size": self._agreed[0], "fps": round(self._rate.fps(now_s), 1)}
            self._takers.tell(self, **changes)


def _words(exc: OSError) -> str:
    if exc.errno == errno.EBUSY:
        return "Another program writes to this camera device. Close it there; Cartouche tries again by itself."
    if exc.errno in (errno.ENODEV, errno.ENOENT, errno.EIO, errno.ENXIO):
        return "This camera device is gone. Cartouche goes on when it is back."
    if exc.errno in (errno.EACCES, errno.EPERM):
        return "This user may not write to the camera device: an administrator adds them to the group “video”."
    return f"The camera device does not take the picture ({(exc.strerror or 'unknown').lower()}). Cartouche tries again by itself."
