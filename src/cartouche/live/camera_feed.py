"""Pictures that a browser sends: H.264 or VP8 (WebCodecs) over a WebSocket, or decoded ones from WebRTC; made to planes on a thread."""

import queue
import struct
import time
from collections.abc import Callable

import av

from cartouche.core.pictures import Frame
from cartouche.live.errors import UndecodablePicture
from cartouche.live.feeds import Feed
from cartouche.live.planes import MAX_PIXELS, PlaneRing
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

QUEUE_LIMIT = 12  # 0.4 s: beyond it wait for the next key frame instead of showing the past
MAX_BYTES = 4_000_000  # one key frame of a 4K camera fits; anything larger is no picture
PACKET_HEADER = struct.Struct("<BH")  # KEY or not, and VP8 or H.264; milliseconds since the picture was taken, by the sender's own clock

KEY, VP8 = 1, 2
CODECS = {0: "h264", VP8: "vp8"}


class CameraFeed(Feed):
    """Packets come in by `push`, decoded pictures by `show`; a full queue drops up to the next key frame."""

    def __init__(self, feed_id: str, on_frame: Callable[[Feed, Frame], None], troubles: Troubles, *, judged: bool = True) -> None:
        super().__init__(feed_id, on_frame, troubles, encoded=True, judged=judged)
        self._items: queue.Queue[tuple[int, bytes, float] | tuple[av.VideoFrame, float] | None] = queue.Queue(QUEUE_LIMIT)
        self._waits_for_key = True
        self.path_s = 0.0  # the way of a picture to this computer, as its sender measured it
        self._planes, self._decoder = PlaneRing(), _new_decoder("h264")
        self._worker = Worker(f"camera-{feed_id}", self._turn, self._failed)
        self._worker.start()

    def push(self, message: bytes) -> None:
        """PACKET_HEADER and one access unit in Annex B, or one frame of VP8 (RFC 6386). Raises UndecodablePicture."""
        if not PACKET_HEADER.size < len(message) <= MAX_BYTES or message[0] > KEY | VP8:
            raise UndecodablePicture(self.id, "not one H.264 picture")
        kind, age_ms = PACKET_HEADER.unpack_from(message)
        if self._waits_for_key and not kind & KEY:
            return
        try:
            self._items.put_nowait((kind, message[PACKET_HEADER.size :], time.monotonic() - age_ms / 1000 - self.path_s))
            self._waits_for_key = False
        except queue.Full:
            self._waits_for_key = True

    def show(self, picture: av.VideoFrame) -> None:
        """A picture decoded elsewhere; dropped while older ones are still being worked on."""
        if self._items.qsize() < 2:
            self._items.put_nowait((picture, time.monotonic() - self.path_s))

    def restart(self, now_s: float) -> None:
        """A new sender: whatever comes next must begin with a key frame."""
        super().restart(now_s)
        self._waits_for_key, self.connected, self.waiting = True, True, False

    def gone(self) -> None:
        """Its sender has hung up."""
        self.connected = False

    def close(self) -> None:
        """Repeatable. None in the queue lets a waiting worker see that it is stopped."""
        while True:
            try:
                self._items.put_nowait(None)
                break
            except queue.Full:
                self._items.get_nowait()
        self._worker.stop()
        super().close()

    def _turn(self) -> None:
        item = self._items.get()
        if item is None or self._worker.stopping:
            return
        if len(item) == 2:
            self.accept(self._planes.frame(*item))
            return
        kind, data, captured_s = item
        if kind & KEY:
            self._ready_for(CODECS[kind & VP8])
        for picture in self._decoder.decode(av.Packet(data)):
            self.accept(self._planes.frame(picture, captured_s))

    def _ready_for(self, codec: str) -> None:
        """Another sender may send otherwise."""
        if self._decoder.name != codec or (self._decoder.width and not self._decoder.is_open):
            self._decoder = _new_decoder(codec)

    def _failed(self, exc: Exception) -> None:
        """Wait for the next key picture; what was decoded before says nothing of it."""
        self._waits_for_key, self._decoder = True, _new_decoder(self._decoder.name)
        if isinstance(exc, av.FFmpegError | ValueError):
            self.fault = str(UndecodablePicture(self.id, type(exc).__name__))
        else:
            self._troubles.report("decode", exc, self.id)


def _new_decoder(codec: str) -> av.VideoCodecContext:
    decoder = av.VideoCodecContext.create(codec, "r")
    assert isinstance(decoder, av.VideoCodecContext)
    decoder.thread_count = 1
    decoder.options = {"flags": "low_delay", "max_pixels": str(MAX_PIXELS)}  # refused before its memory is taken
    return decoder
