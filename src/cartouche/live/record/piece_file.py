"""One file of a recording: MP4 in fragments of a second, so that whatever was written plays when the plug is pulled.

H.264 as it comes from the shared encoder, AAC (LC) at 48 kHz mono. Fragmented as ISO/IEC 14496-12 has it.
"""

import os
import time
from fractions import Fraction
from pathlib import Path
from typing import Any, cast

import av
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Size
from cartouche.core.sound.loudness import RATE
from cartouche.live.out.encoder import CLOCK_HZ

FRAGMENT_US = 1_000_000
FLAGS = "empty_moov+delay_moov+default_base_moof"
SOUND_BIT_S = 96_000
SOUND_OPTIONS = {"aac_coder": "fast"}  # at this rate nearer to what it was given than the usual search, at a quarter of the work
SYNC_EVERY_S = 2.0  # so much of it a pulled plug may take
Samples = NDArray[np.int16]


class PieceFile:
    """Written by one thread. Raises OSError where the disk refuses."""

    def __init__(self, path: Path, size: Size) -> None:
        self.path, self.frames, self.samples = path, 0, 0
        self._file = path.open("wb", buffering=0)
        self._synced_s = time.monotonic()
        options = {"movflags": FLAGS, "frag_duration": str(FRAGMENT_US), "flush_packets": "1"}
        self._container = av.open(cast(Any, self._file), "w", format="mp4", options=options)
        self._video: Any = self._container.add_mux_stream(
            "h264", width=int(size.width), height=int(size.height), time_base=Fraction(1, CLOCK_HZ)
        )
        self._sound = self._container.add_stream("aac", rate=RATE, layout="mono")
        self._sound.codec_context.bit_rate = SOUND_BIT_S
        self._sound.codec_context.options = SOUND_OPTIONS
        self._last_pts = -1

    def size_bytes(self) -> int:
        return self._file.tell() if not self._file.closed else self.path.stat().st_size

    def picture(self, data: bytes, key: bool, at_s: float) -> None:
        """One encoded picture, Annex B. at_s: from the beginning of this file."""
        packet = av.Packet(data)
        packet.stream, packet.time_base = self._video, Fraction(1, CLOCK_HZ)
        packet.pts = packet.dts = self._last_pts = max(round(at_s * CLOCK_HZ), self._last_pts + 1)
        packet.is_keyframe = key
        self._container.mux(packet)
        self.frames += 1
        if time.monotonic() - self._synced_s >= SYNC_EVERY_S:
            self._synced_s = time.monotonic()
            os.fsync(self._file.fileno())

    def sound(self, samples: Samples) -> None:
        """What follows the sound so far. samples: (n,) int16."""
        frame = av.AudioFrame.from_ndarray(samples[None, :], format="s16", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = RATE, self.samples, Fraction(1, RATE)
        self.samples += samples.size
        self._mux_sound(self._sound.encode(frame))

    def _mux_sound(self, packets: list[av.Packet]) -> None:
        for packet in packets:
            if packet.pts is not None and packet.pts >= 0:  # the encoder's run-up has nothing in it, and would make the sound late
                self._container.mux(packet)

    def close(self) -> None:
        """Repeatable."""
        if self._file.closed:
            return
        try:
            self._mux_sound(self._sound.encode(None))
            self._container.close()
            os.fsync(self._file.fileno())
        finally:
            self._file.close()
