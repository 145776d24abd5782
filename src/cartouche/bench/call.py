"""A simulated call's video path: a real H.264 codec at a call's size and bit rate, in and out again."""

from fractions import Fraction

import av
import numpy as np

from cartouche.core.call.audience import SimulcastLayer
from cartouche.core.pictures import Frame


class CallCodec:
    """Squeezes frames of one size through libx264 and gives back what a learner's computer decodes."""

    def __init__(self, layer: SimulcastLayer) -> None:
        self.layer = layer
        self.kbit_sent = 0.0
        self._out = av.CodecContext.create("libx264", "w")
        self._out.width, self._out.height, self._out.pix_fmt = layer.width, layer.height, "yuv420p"
        self._out.time_base = Fraction(1, layer.fps)
        self._out.framerate = Fraction(layer.fps, 1)
        self._out.bit_rate = layer.kbit_s * 1000
        self._out.thread_count = 1
        self._out.gop_size = layer.fps * 4
        peak = {"maxrate": f"{layer.kbit_s}k", "bufsize": f"{layer.kbit_s // 2}k"}
        self._out.options = {"preset": "superfast", "tune": "zerolatency", "profile": "baseline", **peak}
        self._in = av.CodecContext.create("h264", "r")
        self._in.thread_count = 1
        self._stacked = np.empty((layer.height * 3 // 2, layer.width), np.uint8)
        self._count = 0

    def transcode(self, frame: Frame) -> Frame | None:
        """frame: exactly the layer's size. None until the decoder has its first picture."""
        height = self.layer.height
        self._stacked[:height] = frame.y
        self._stacked[height : height * 5 // 4] = frame.u.reshape(height // 4, -1)
        self._stacked[height * 5 // 4 :] = frame.v.reshape(height // 4, -1)
        picture = av.VideoFrame.from_ndarray(self._stacked, format="yuv420p")
        picture.pts = self._count
        self._count += 1
        newest = None
        for packet in self._out.encode(picture):
            self.kbit_sent += packet.size * 8 / 1000
            for decoded in self._in.decode(packet):
                newest = decoded
        return None if newest is None else _frame_of(newest, frame.captured_s)


def _frame_of(picture: av.VideoFrame, captured_s: float) -> Frame:
    planes = [
        np.frombuffer(memoryview(plane), np.uint8).reshape(plane.height, plane.line_size)[:, : plane.width] for plane in picture.planes
    ]
    return Frame(planes[0], planes[1], planes[2], captured_s)
