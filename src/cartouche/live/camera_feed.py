"""Pictures that a browser sends: H.264 (WebCodecs) over a WebSocket, or decoded ones from WebRTC; made to planes on a thread of its own."""

import queue
import struct
import threading
import time
from collections.abc import Callable

import av

from cartouche.core.pictures import Frame
from cartouche.live.errors import UndecodablePicture
from cartouche.live.feeds import Feed
from cartouche.live.planes import PlaneRing

QUEUE_LIMIT = 12  # 0.4 s: beyond it wait for the next key frame instead of showing the past
MAX_BYTES = 4_000_000  # one key frame of a 4K camera fits; anything larger is no picture
HEADER = struct.Struct("<BH")  # key or delta; milliseconds since the picture was taken, by the sender's own clock

KEY, DELTA = 1, 0


class CameraFeed(Feed):
    """Packets come in by `push`, decoded pictures by `show`; a full queue drops up to the next key frame."""

    def __init__(self, feed_id: str, on_frame: Callable[[Feed, Frame], None], *, judged: bool = True) -> None:
        super().__init__(feed_id, on_frame, encoded=True, judged=judged)
        self._items: queue.Queue[tuple[bool, bytes, float] | tuple[av.VideoFrame, float] | None] = queue.Queue(QUEUE_LIMIT)
        self._waits_for_key = True
        self.path_s = 0.0  # the way of a picture to this computer, as its sender measured it
        self._planes = PlaneRing()
        self._thread = threading.Thread(target=self._run, name=f"camera-{feed_id}", daemon=True)
        self._thread.start()

    def push(self, message: bytes) -> None:
        """HEADER and one access unit in Annex B. Raises UndecodablePicture."""
        if not HEADER.size < len(message) <= MAX_BYTES or message[0] not in (KEY, DELTA):
            raise UndecodablePicture(self.id, "not one H.264 picture")
        kind, age_ms = HEADER.unpack_from(message)
        if self._waits_for_key and kind != KEY:
            return
        try:
            self._items.put_nowait((kind == KEY, message[HEADER.size :], time.monotonic() - age_ms / 1000 - self.path_s))
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
        while True:
            try:
                self._items.put_nowait(None)
                break
            except queue.Full:
                self._items.get_nowait()
        if self._thread is not threading.current_thread():
            self._thread.join(timeout=5)
        super().close()

    def _run(self) -> None:
        decoder = _new_decoder()
        while (item := self._items.get()) is not None:
            try:
                if len(item) == 2:
                    self.accept(self._planes.frame(*item))
                    continue
                is_key, data, captured_s = item
                if is_key and decoder.width and not decoder.is_open:
                    decoder = _new_decoder()
                for picture in decoder.decode(av.Packet(data)):
                    self.accept(self._planes.frame(picture, captured_s))
            except (av.FFmpegError, ValueError) as exc:
                self.fault = str(UndecodablePicture(self.id, type(exc).__name__))
                self._waits_for_key, decoder = True, _new_decoder()


def _new_decoder() -> av.CodecContext:
    decoder = av.CodecContext.create("h264", "r")
    decoder.thread_count = 1
    decoder.options = {"flags": "low_delay"}
    return decoder
