"""The microphones that are looked at or open: their newest seconds, and which one is open. Sound stays apart from pictures."""

import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
import soxr  # type: ignore[import-untyped]
from numpy.typing import NDArray

from cartouche.core.sound.hearing import WINDOW_S, Hearing, hearing
from cartouche.core.sound.loudness import RATE, SILENCE_LUFS, peak_db

BLOCK = RATE // 50  # 20 ms
MAX_BLOCK = RATE // 5  # more at once is no sound that a browser sends
MAX_MICROPHONES = 16
GONE_AFTER_S = 1.0  # without a block it does not come in any more
WINDOW, METER = int(WINDOW_S * RATE), int(0.3 * RATE)  # samples
JUDGE_EVERY_S = 0.9
VOICE_RATE, VOICE_CHUNK = 16_000, 512

SpeechNet = Callable[[NDArray[np.int16]], NDArray[np.float64]]


class MicrophoneFacts(NamedTuple):
    """here: sound comes in.  open: it is the one that is open.  level_db: largest sample of the newest moment, dBFS."""

    id: str
    label: str
    here: bool
    open: bool
    level_db: float
    heard: Hearing | None


@dataclass(eq=False)
class _Microphone:
    id: str
    label: str
    speech: SpeechNet
    blocks: deque[NDArray[np.int16]] = field(default_factory=deque)  # as they came: put together only when somebody looks
    kept: int = 0  # samples in all blocks
    unread: int = 0  # of them, from the end: not yet looked through for a voice
    voice: NDArray[np.float64] = field(default_factory=lambda: np.zeros(0))
    last_s: float = -np.inf
    judged_s: float = -np.inf
    heard: Hearing | None = None


class Microphones:
    """`take` is called by whoever brings the sound, `facts` by whoever looks: what nobody looks at is not worked out."""

    def __init__(self, speech: Callable[[], SpeechNet]) -> None:
        self._speech, self._lock, self._judging = speech, threading.RLock(), threading.Lock()
        self._by_id: dict[str, _Microphone] = {}
        self.open_id: str | None = None
        self.on_change: list[Callable[[], None]] = []

    @property
    def opened(self) -> tuple[str, str] | None:
        """Id and label of the open one; None while all are closed."""
        one = self._by_id.get(self.open_id or "")
        return (one.id, one.label) if one is not None else None

    def join(self, microphone_id: str, label: str) -> bool:
        """It may send. False where there are too many."""
        with self._lock:
            known = self._by_id.get(microphone_id)
            if known is None and len(self._by_id) >= MAX_MICROPHONES:
                return False
            if known is None:
                self._by_id[microphone_id] = _Microphone(microphone_id, label, self._speech())
        self._tell()
        return True

    def leave(self, microphone_id: str) -> None:
        with self._lock:
            self._by_id.pop(microphone_id, None)
            if self.open_id == microphone_id:
                self.open_id = None
        self._tell()

    def open(self, microphone_id: str | None) -> None:
        """This one and no other; None closes all. Raises KeyError for one that is not here."""
        with self._lock:
            if microphone_id is not None and microphone_id not in self._by_id:
                raise KeyError(microphone_id)
            self.open_id = microphone_id
        self._tell()

    def take(self, microphone_id: str, block: NDArray[np.int16], now_s: float) -> None:
        """block: (n,) mono at RATE."""
        with self._lock:
            one = self._by_id.get(microphone_id)
            if one is None:
                return
            if now_s - one.last_s > GONE_AFTER_S:  # a new beginning: what was heard before says nothing of it
                one.blocks.clear()
                one.kept, one.unread, one.voice, one.heard = 0, 0, np.zeros(0), None
            one.blocks.append(block)
            one.kept += block.size
            while one.kept - one.blocks[0].size >= WINDOW:
                one.kept -= one.blocks.popleft().size
            one.unread = min(one.unread + block.size, one.kept)
            one.last_s = now_s

    def facts(self, now_s: float | None = None) -> list[MicrophoneFacts]:
        now_s = time.monotonic() if now_s is None else now_s
        with self._judging:
            for one in tuple(self._by_id.values()):
                if now_s - one.judged_s >= JUDGE_EVERY_S:
                    self._judge(one, now_s)
        return [self._facts(one, now_s) for one in tuple(self._by_id.values())]

    def _facts(self, one: _Microphone, now_s: float) -> MicrophoneFacts:
        here = now_s - one.last_s < GONE_AFTER_S
        level = peak_db(self._newest(one, METER)) if here else SILENCE_LUFS
        return MicrophoneFacts(one.id, one.label, here, one.id == self.open_id, level, one.heard if here else None)

    def _judge(self, one: _Microphone, now_s: float) -> None:
        one.judged_s = now_s
        with self._lock:
            samples = self._newest(one, WINDOW)
            chunk = RATE // VOICE_RATE * VOICE_CHUNK
            fresh = min(one.unread, samples.size)
            used = fresh // chunk * chunk
            one.unread = fresh - used
        if used:
            unread = samples[samples.size - fresh :][:used]
            slow = np.asarray(soxr.resample(unread, RATE, VOICE_RATE), np.int16)
            kept = int(WINDOW_S * VOICE_RATE / VOICE_CHUNK)
            one.voice = np.concatenate((one.voice, one.speech(slow)))[-kept:]
        one.heard = hearing(samples, one.voice)

    def _newest(self, one: _Microphone, count: int) -> NDArray[np.int16]:
        with self._lock:
            blocks, size = [], 0
            for block in reversed(one.blocks):
                if size >= count:
                    break
                blocks.append(block)
                size += block.size
        return np.concatenate(blocks[::-1])[-count:] if blocks else np.zeros(0, np.int16)

    def _tell(self) -> None:
        for tell in self.on_change:
            tell()
