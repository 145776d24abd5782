"""One microphone as it comes in: its newest seconds for whoever judges them, and its track for the mixer while it is open."""

import threading
from collections import deque
from collections.abc import Callable, Iterator
from typing import Literal

import numpy as np
import soxr  # type: ignore[import-untyped]
from numpy.typing import NDArray

from cartouche.core.sound import howl
from cartouche.core.sound.hearing import WINDOW_S, Hearing, hearing
from cartouche.core.sound.lips import BROWSER_WAY_S, PHONE_WAY_S
from cartouche.core.sound.loudness import RATE, peak_db
from cartouche.live.sound.track import Track

GONE_AFTER_S = 1.0  # without a block it does not come in any more
WINDOW, METER = int(WINDOW_S * RATE), int(0.3 * RATE)  # samples
JUDGE_EVERY_S = 0.5
SPEAKS_DB = -28.0  # peak of a voice at a usual level; a room and its fan lie below
VOICE_RATE, VOICE_CHUNK = 16_000, 512

Kind = Literal["here", "phone", "window", "bench"]  # of this computer, of a phone, what a shared window plays, simulated
SpeechNet = Callable[[NDArray[np.int16]], NDArray[np.float64]]


class Incoming:
    """`take` by whoever brings the sound; the rest by whoever looks."""

    def __init__(self, microphone_id: str, label: str, speech: SpeechNet, kind: Kind = "here") -> None:
        self.id, self.label, self.kind = microphone_id, label, kind
        self.track = Track(PHONE_WAY_S if kind == "phone" else BROWSER_WAY_S)
        self.senders: list[object] = []  # of the same microphone; the newest counts
        self.heard: Hearing | None = None
        self._speech = speech
        self._lock = threading.RLock()
        self._blocks: deque[NDArray[np.int16]] = deque()  # as they came: put together only when somebody looks
        self._kept = 0  # samples in all blocks
        self._unread = 0  # of them, from the end: not yet looked through for a voice
        self._for_howl: list[NDArray[np.int16]] = []
        self._voice: NDArray[np.float64] = np.zeros(0)
        self._last_s = self.judged_s = float("-inf")

    def is_here(self, now_s: float) -> bool:
        return now_s - self._last_s < GONE_AFTER_S

    def take(self, first: int, block: NDArray[np.int16], now_s: float, *, tracked: bool) -> None:
        """tracked: the mixer may read it."""
        with self._lock:
            if not self.is_here(now_s):  # a new beginning: what was heard before says nothing of it
                self._blocks.clear()
                self._kept, self._unread, self._voice, self.heard = 0, 0, np.zeros(0), None
            self._blocks.append(block)
            self._kept += block.size
            while self._kept - self._blocks[0].size >= WINDOW:
                self._kept -= self._blocks.popleft().size
            self._unread = min(self._unread + block.size, self._kept)
            self._last_s = now_s
        if tracked:
            self.track.take(first, block, now_s)
            self._for_howl.append(block)

    def read(self, from_s: float, count: int) -> NDArray[np.int16]:
        return self.track.read(from_s, count)

    def pieces_for_howl(self) -> Iterator[NDArray[np.int16]]:
        """What has come since, in whole blocks of the listener's. By the thread that brings the sound."""
        whole = np.concatenate(self._for_howl) if self._for_howl else np.zeros(0, np.int16)
        used = whole.size // howl.BLOCK * howl.BLOCK
        if used:
            self._for_howl = [whole[used:]]
        yield from whole[:used].reshape(-1, howl.BLOCK)

    def speaks(self, now_s: float) -> bool:
        """Louder just now than its own quiet by far: quick, for a clip that steps back; not a verdict."""
        if not self.is_here(now_s):
            return False
        return peak_db(self.newest(METER)) > SPEAKS_DB

    def judge_if_due(self, now_s: float) -> None:
        if now_s - self.judged_s < JUDGE_EVERY_S:
            return
        self.judged_s = now_s
        with self._lock:
            samples = self.newest(WINDOW)
            chunk = RATE // VOICE_RATE * VOICE_CHUNK
            fresh = min(self._unread, samples.size)
            used = fresh // chunk * chunk
            self._unread -= used
        if used:
            slow = np.asarray(soxr.resample(samples[samples.size - fresh :][:used], RATE, VOICE_RATE), np.int16)
            kept = int(WINDOW_S * VOICE_RATE / VOICE_CHUNK)
            self._voice = np.concatenate((self._voice, self._speech(slow)))[-kept:]
        self.heard = hearing(samples, self._voice)

    def newest(self, count: int) -> NDArray[np.int16]:
        """At most count samples, the newest last. A new array."""
        with self._lock:
            blocks, size = [], 0
            for block in reversed(self._blocks):
                if size >= count:
                    break
                blocks.append(block)
                size += block.size
        return np.concatenate(blocks[::-1])[-count:] if blocks else np.zeros(0, np.int16)
