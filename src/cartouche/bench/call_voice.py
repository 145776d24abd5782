"""A simulated call's sound path: real Opus at a call's bit rate, packets that are lost, late or in the wrong order, and a delay."""

from fractions import Fraction

import av
import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.loudness import RATE

KBIT_S = 32
PACKET = RATE // 50  # 20 ms


class CallVoice:
    """Takes blocks of 20 ms and gives back what a learner's computer plays. loss: share of packets.  jitter_s: deviation of their way.

    A packet that comes later than the play-out buffer waits is lost as well; what is lost is played as a fading repeat.
    """

    def __init__(self, loss: float = 0.0, jitter_s: float = 0.0, seed: int = 1) -> None:
        self.loss, self.jitter_s = loss, jitter_s
        self.packets = self.missing = 0
        self.kbit_sent = 0.0
        self._random = np.random.default_rng(seed)
        self._buffer_s = max(0.04, 3 * jitter_s)
        self._out = av.CodecContext.create("libopus", "w")
        self._out.sample_rate, self._out.layout, self._out.format = RATE, "mono", "s16"
        self._out.bit_rate, self._out.time_base = 1000 * KBIT_S, Fraction(1, RATE)
        self._out.options = {"application": "voip", "frame_duration": "20", "vbr": "constrained"}
        self._in = av.CodecContext.create("libopus", "r")
        self._in.sample_rate, self._in.layout = RATE, "mono"
        self._count = 0
        self._last: NDArray[np.int16] = np.zeros(PACKET, np.int16)

    def through(self, block: NDArray[np.int16]) -> NDArray[np.int16]:
        """(PACKET,) int16 in and out; a call delays picture and sound alike."""
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block).reshape(1, -1), format="s16", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = RATE, self._count, Fraction(1, RATE)
        self._count += block.size
        decoded: list[NDArray[np.int16]] = []
        for packet in self._out.encode(frame):
            self.packets += 1
            self.kbit_sent += packet.size * 8 / 1000
            if self._is_missing():
                self.missing += 1
                self._last = (0.5 * self._last).astype(np.int16)
                decoded.append(self._last)
                continue
            for piece in self._in.decode(packet):
                samples = np.asarray(piece.to_ndarray())
                self._last = _as_samples(samples)
                decoded.append(self._last)
        return np.concatenate(decoded) if decoded else np.zeros(0, np.int16)

    def _is_missing(self) -> bool:
        late = self.jitter_s > 0 and abs(self._random.normal(0, self.jitter_s)) > self._buffer_s
        return bool(self._random.random() < self.loss or late)


def _as_samples(samples: NDArray[np.generic]) -> NDArray[np.int16]:
    """Whatever the decoder gives, as mono 16 bit."""
    flat = samples.reshape(-1)
    if np.issubdtype(flat.dtype, np.floating):
        flat = np.round(np.clip(flat, -1, 1) * 32767)
    return np.asarray(flat, np.int16)


def transcoded(samples: NDArray[np.int16], voice: CallVoice) -> NDArray[np.int16]:
    """A whole piece through the call: (n,) in, about as long out."""
    whole = samples[: samples.size // PACKET * PACKET].reshape(-1, PACKET)
    return np.concatenate([voice.through(block) for block in whole]) if whole.size else np.zeros(0, np.int16)
