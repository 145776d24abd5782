"""A camera of this computer: H.264 from the browser (WebCodecs) over a WebSocket, decoded to planes on a thread of its own."""

import queue
import threading
import time
from collections.abc import Callable

import av
import cv2
import numpy as np

from cartouche.core.pictures import Frame, Plane
from cartouche.live.errors import UndecodablePicture
from cartouche.live.feeds import Feed

QUEUE_LIMIT = 12  # 0.4 s: beyond it wait for the next key frame instead of showing the past
MOST_BYTES = 4_000_000  # one key frame of a 4K camera fits; anything larger is no picture
MOST_PIXELS = 3840 * 2160
RING = 6

KEY, DELTA = 1, 0

_levels = np.arange(256, dtype=np.float32)
_LUMA_TO_FULL = np.clip(np.round((_levels - 16) * 255 / 219), 0, 255).astype(np.uint8)
_CHROMA_TO_FULL = np.clip(np.round((_levels - 128) * 255 / 224 + 128), 0, 255).astype(np.uint8)


class CameraFeed(Feed):
    """Packets come in by `push`; a full queue drops up to the next key frame."""

    def __init__(self, feed_id: str, on_frame: Callable[[Feed, Frame], None]) -> None:
        super().__init__(feed_id, on_frame, encoded=True)
        self._packets: queue.Queue[tuple[bool, bytes, float] | None] = queue.Queue(QUEUE_LIMIT)
        self._waits_for_key = True
        self._ring: list[tuple[Plane, ...]] = []
        self._number = 0
        self._thread = threading.Thread(target=self._run, name=f"camera-{feed_id}", daemon=True)
        self._thread.start()

    def push(self, message: bytes) -> None:
        """One access unit in Annex B, preceded by one byte: KEY or DELTA. Raises UndecodablePicture."""
        if not 2 <= len(message) <= MOST_BYTES or message[0] not in (KEY, DELTA):
            raise UndecodablePicture(self.id, "not one H.264 picture")
        is_key = message[0] == KEY
        if self._waits_for_key and not is_key:
            return
        try:
            self._packets.put_nowait((is_key, message[1:], time.monotonic()))
            self._waits_for_key = False
        except queue.Full:
            self._waits_for_key = True

    def restart(self, now_s: float) -> None:
        """A new sender: whatever comes next must begin with a key frame."""
        super().restart(now_s)
        self._waits_for_key, self.connected = True, True

    def gone(self) -> None:
        """Its sender has hung up."""
        self.connected = False

    def close(self) -> None:
        while True:
            try:
                self._packets.put_nowait(None)
                break
            except queue.Full:
                self._packets.get_nowait()
        if self._thread is not threading.current_thread():
            self._thread.join(timeout=5)
        super().close()

    def _run(self) -> None:
        decoder = _new_decoder()
        while (item := self._packets.get()) is not None:
            is_key, data, received_s = item
            if is_key and decoder.width and not decoder.is_open:
                decoder = _new_decoder()
            try:
                for picture in decoder.decode(av.Packet(data)):
                    self.accept(self._frame(picture, received_s))
            except (av.FFmpegError, ValueError) as exc:
                self.fault = UndecodablePicture(self.id, type(exc).__name__).__str__()
                self._waits_for_key, decoder = True, _new_decoder()

    def _frame(self, picture: av.VideoFrame, received_s: float) -> Frame:
        if picture.format.name not in ("yuv420p", "yuvj420p") or picture.width * picture.height > MOST_PIXELS:
            raise ValueError(picture.format.name)
        width, height = picture.width // 2 * 2, picture.height // 2 * 2
        if not self._ring or self._ring[0][0].shape != (height, width):
            self._ring = [tuple(np.empty((height // k, width // k), np.uint8) for k in (1, 2, 2)) for _ in range(RING)]
        made = self._ring[self._number % RING]
        self._number += 1
        full = picture.format.name == "yuvj420p" or picture.color_range == 2
        for plane, target, table in zip(picture.planes, made, (_LUMA_TO_FULL, _CHROMA_TO_FULL, _CHROMA_TO_FULL), strict=True):
            source = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)[: target.shape[0], : target.shape[1]]
            if full:
                np.copyto(target, source)
            else:
                cv2.LUT(source, table, dst=target)
        return Frame(*made, received_s)


def _new_decoder() -> av.CodecContext:
    decoder = av.CodecContext.create("h264", "r")
    decoder.thread_count = 1
    decoder.options = {"flags": "low_delay"}
    return decoder
