"""One encode per size, shared by all who take it; nothing is encoded that nobody takes.

H.264 constrained baseline in byte streams (ITU-T H.264 Annex B), parameter sets before each key picture, limited range BT.601:
what call servers, recorders and all but a few browsers read; VP8 (RFC 6386) for who has no H.264.
"""

import threading
import time
from dataclasses import dataclass
from fractions import Fraction
from typing import Any, Literal, Protocol

import av
import cv2
import numpy as np

from cartouche.core.pictures import Frame, Plane, Size
from cartouche.core.record.replenish import Replenished
from cartouche.core.watch.rate import Rate
from cartouche.live.demand import OUTGOING, Claim, Demand
from cartouche.live.planes import CHROMA_TO_LIMITED, LUMA_TO_LIMITED
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

Codec = Literal["h264", "vp8"]
CLOCK_HZ = 90_000  # of RTP video (RFC 6184, RFC 7741)
MAX_FPS = 30
EARLY_SHARE = 0.2  # of a period: taken a little before its turn, else a whole outgoing picture later
KEY_EVERY_S = 10  # without being asked: whoever lost one and cannot ask sees right again
KEY_GAP_S = 0.5  # many who ask at once get the same one
QUALITY = 22  # x264's constant rate factor: small print stays whole
VP8_QUALITY = 16  # its own scale, of the same print
VP8 = {
    "deadline": "realtime",
    "cpu-used": "8",
    "lag-in-frames": "0",
    "auto-alt-ref": "0",
    "error-resilient": "default",
    "crf": str(VP8_QUALITY),
    "qmax": "50",
    "undershoot-pct": "95",
    "static-thresh": "100",  # paper's own noise is not sent again and again
}
KBIT_S_PER_PIXEL = 4500 / (1280 * 720)  # at most


@dataclass(frozen=True)
class Packet:
    """One encoded picture. captured_s: monotonic.  pts: in CLOCK_HZ."""

    data: bytes
    key: bool
    captured_s: float
    pts: int


class PacketTaker(Protocol):
    """Called on the encoder's thread; it must not wait for anything."""

    def __call__(self, packet: Packet) -> None: ...


class Encoder:
    """One size on a thread of its own. Works on a copy: the desk's frame is valid during `take` alone."""

    def __init__(self, size: Size, troubles: Troubles, codec: Codec = "h264") -> None:
        self.size, self.codec = size, codec
        self.takers: tuple[PacketTaker, ...] = ()
        self.rate = Rate()
        self._troubles = troubles
        self._context = _context(size, codec)
        self._lock = threading.Lock()
        self._spare, self._busy, self._sent = _picture(size), _picture(size), _picture(size)
        self._replenished = Replenished(_planes(self._sent))
        self._waiting_s: float | None = None  # moment of capture of the picture that waits
        self._taken_s = float("-inf")
        self._wants_key, self._key_s = True, float("-inf")
        self._shrunk: tuple[Plane, ...] = ()
        self._start_s = time.monotonic()
        self._worker = Worker(f"encode-{codec}-{size.height}", self._turn, self._failed)
        self._worker.start()

    def stop(self) -> None:
        """Repeatable."""
        self._worker.stop()

    def request_key(self) -> None:
        self._wants_key = True

    def ready(self, now_s: float) -> bool:
        return bool(self.takers) and self._waiting_s is None and now_s - self._taken_s >= (1 - EARLY_SHARE) / MAX_FPS

    def take(self, frame: Frame, now_s: float) -> None:
        """On the desk's thread."""
        with self._lock:
            self._fill(self._spare, frame)
            self._waiting_s, self._taken_s = frame.captured_s, now_s
        self._worker.wake()

    def _fill(self, picture: av.VideoFrame, frame: Frame) -> None:
        planes: tuple[Plane, ...] = frame.planes
        if frame.size != self.size:
            planes = self._resized(planes)
        for plane, target, table in zip(planes, _planes(picture), (LUMA_TO_LIMITED, CHROMA_TO_LIMITED, CHROMA_TO_LIMITED), strict=True):
            cv2.LUT(plane, table, dst=target)

    def _resized(self, planes: tuple[Plane, ...]) -> tuple[Plane, ...]:
        width, height = int(self.size.width), int(self.size.height)
        if not self._shrunk:
            self._shrunk = tuple(np.empty((height // k, width // k), np.uint8) for k in (1, 2, 2))
        way: Any = cv2.INTER_LINEAR if width > planes[0].shape[1] else cv2.INTER_AREA
        for plane, kept in zip(planes, self._shrunk, strict=True):
            cv2.resize(plane, (kept.shape[1], kept.shape[0]), dst=kept, interpolation=way)
        return self._shrunk

    def _turn(self) -> None:
        if not self._worker.wait(None, lambda: self._waiting_s is not None):
            return
        with self._lock:
            captured_s = self._waiting_s
            self._spare, self._busy = self._busy, self._spare
            self._waiting_s = None
        if captured_s is not None:
            self._encode(self._busy, captured_s, time.monotonic())

    def _failed(self, exc: Exception) -> None:
        """What the codec was at is not to be trusted: another one begins with a key picture."""
        self._troubles.report("encode", exc)
        self._context, self._wants_key = _context(self.size, self.codec), True

    def _encode(self, taken: av.VideoFrame, captured_s: float, now_s: float) -> None:
        picture = self._sent
        self._replenished.follow(_planes(taken))
        wants_key = now_s - self._key_s >= (KEY_GAP_S if self._wants_key else KEY_EVERY_S)
        if wants_key:
            self._wants_key, self._key_s = False, now_s
        picture.pict_type = av.video.frame.PictureType.I if wants_key else av.video.frame.PictureType.NONE
        picture.pts = round((now_s - self._start_s) * CLOCK_HZ)
        picture.time_base = Fraction(1, CLOCK_HZ)
        for encoded in self._context.encode(picture):
            packet = Packet(bytes(encoded), bool(encoded.is_keyframe), captured_s, int(encoded.pts or 0))
            for taker in self.takers:
                with self._troubles.guard("send"):
                    taker(packet)
        done_s = time.monotonic()
        self.rate.add(done_s, done_s - captured_s)


class Subscription:
    """Held by who takes packets of one size. `release` is repeatable."""

    def __init__(self, encoder: Encoder, taker: PacketTaker, let_go: "Encodings", claim: Claim) -> None:
        self.encoder, self.taker, self._let_go, self._claim = encoder, taker, let_go, claim

    def request_key(self) -> None:
        self.encoder.request_key()

    def release(self) -> None:
        self._let_go.leave(self)
        self._claim.release()


class Encodings:
    """A sink of the outgoing picture: encodes each size that somebody takes, once for each codec."""

    def __init__(self, demand: Demand, troubles: Troubles) -> None:
        self._demand, self._troubles = demand, troubles
        self._lock = threading.Lock()
        self._encoders: tuple[Encoder, ...] = ()

    def join(self, size: Size, taker: PacketTaker, codec: Codec = "h264") -> Subscription:
        """Its first packet is a key picture."""
        with self._lock:
            encoder = next((one for one in self._encoders if (one.size, one.codec) == (size, codec)), None)
            if encoder is None:
                encoder = Encoder(size, self._troubles, codec)
                self._encoders = (*self._encoders, encoder)
            encoder.takers = (*encoder.takers, _from_key(taker))
            subscription = Subscription(encoder, encoder.takers[-1], self, self._demand.claim(OUTGOING))
        encoder.request_key()
        return subscription

    def leave(self, subscription: Subscription) -> None:
        encoder = subscription.encoder
        with self._lock:
            encoder.takers = tuple(one for one in encoder.takers if one is not subscription.taker)
            ended = not encoder.takers
            if ended:
                self._encoders = tuple(one for one in self._encoders if one is not encoder)
        if ended:
            encoder.stop()

    @property
    def encoders(self) -> tuple[Encoder, ...]:
        """One for each size and codec that is being encoded."""
        return self._encoders

    def ready(self, now_s: float) -> bool:
        return any(encoder.ready(now_s) for encoder in self._encoders)

    def take(self, frame: Frame, now_s: float) -> None:
        for encoder in self._encoders:
            if encoder.ready(now_s):
                encoder.take(frame, now_s)

    def close(self) -> None:
        """Repeatable."""
        with self._lock:
            ending, self._encoders = self._encoders, ()
        for encoder in ending:
            encoder.stop()


def _from_key(taker: PacketTaker) -> PacketTaker:
    """A decoder can begin with a key picture alone."""
    begun = False

    def take(packet: Packet) -> None:
        nonlocal begun
        begun = begun or packet.key
        if begun:
            taker(packet)

    return take


def _picture(size: Size) -> av.VideoFrame:
    return av.VideoFrame(int(size.width), int(size.height), "yuv420p")


def _planes(picture: av.VideoFrame) -> list[Plane]:
    return [
        np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)[: plane.height, : plane.width] for plane in picture.planes
    ]


def _context(size: Size, kind: Codec) -> av.VideoCodecContext:
    codec = av.CodecContext.create("libx264" if kind == "h264" else "libvpx", "w")
    assert isinstance(codec, av.VideoCodecContext)
    codec.width, codec.height, codec.pix_fmt = int(size.width), int(size.height), "yuv420p"
    codec.time_base = Fraction(1, CLOCK_HZ)
    codec.framerate = Fraction(MAX_FPS, 1)
    codec.thread_count = 1
    codec.gop_size = 100 * MAX_FPS * KEY_EVERY_S  # key pictures come when `_encode` says so
    rate = round(KBIT_S_PER_PIXEL * size.width * size.height)
    if kind == "h264":
        codec.options = _h264(rate)
    else:
        codec.bit_rate, codec.options = 1000 * rate, dict(VP8)
    return codec


def _h264(rate: int) -> dict[str, str]:
    return {
        "preset": "superfast",
        "tune": "zerolatency",
        "profile": "baseline",
        "crf": str(QUALITY),
        "maxrate": f"{rate}k",
        "bufsize": f"{rate // 2}k",
        "forced-idr": "1",
        "x264-params": "repeat-headers=1:colormatrix=smpte170m:range=tv",
    }
