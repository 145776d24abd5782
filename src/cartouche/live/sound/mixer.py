"""The outgoing sound: one clock, 48 kHz mono, blocks of 20 ms, for whoever holds a claim; nobody, no work."""

import threading
import time
from collections.abc import Callable, Sequence
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.lips import MAX_DELAY_S, MIN_DELAY_S, SENSOR_S, LipDelay, crossfaded
from cartouche.core.sound.loudness import RATE
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

BLOCK = RATE // 50
BLOCK_S = BLOCK / RATE
BEHIND_S = 2.0  # a machine that was held up catches up; after longer it goes on from now: nobody hears the past
Block = NDArray[np.int16]


class SoundSource(Protocol):
    """What can be heard at a moment of capture, (count,) int16; silence where there is nothing."""

    def read(self, from_s: float, count: int) -> Block: ...


class SoundTaker(Protocol):
    """block: (BLOCK,) int16, valid during the call alone.  captured_s: monotonic, of its first sample."""

    def __call__(self, block: Block, captured_s: float) -> None: ...


class SoundClaim:
    """Held by whoever takes the outgoing sound. `release` is repeatable."""

    def __init__(self, taker: SoundTaker, let_go: Callable[["SoundClaim"], None]) -> None:
        self.taker, self._let_go = taker, let_go

    def release(self) -> None:
        self._let_go(self)


class Mixer:
    """`delay` is asked for the picture's own delay: the sound waits for it."""

    def __init__(self, sources: Callable[[], Sequence[SoundSource]], delay: Callable[[float], float | None], troubles: Troubles) -> None:
        self._sources, self._delay, self._troubles = sources, delay, troubles
        self.lips = LipDelay()
        self.trim_s = 0.0  # what a clapper found besides
        self.skipped = 0  # blocks that were never made: the machine was held up
        self.made = 0
        self._lock = threading.Lock()
        self._claims: tuple[SoundClaim, ...] = ()
        self._sum, self._out = np.zeros(BLOCK, np.int32), np.zeros(BLOCK, np.int16)
        self._next_s: float | None = None
        self._used_delay_s = self.lips.delay_s
        self._worker = Worker("mixer", self._turn, lambda exc: troubles.report("mix", exc))

    def start(self) -> None:
        self._worker.start()

    def stop(self) -> None:
        self._worker.stop()

    @property
    def delay_s(self) -> float:
        return self._used_delay_s

    def claim(self, taker: SoundTaker) -> SoundClaim:
        claim = SoundClaim(taker, self._release)
        with self._lock:
            self._claims = (*self._claims, claim)
        self._worker.wake()
        return claim

    def _release(self, claim: SoundClaim) -> None:
        with self._lock:
            self._claims = tuple(held for held in self._claims if held is not claim)

    @property
    def claimed(self) -> bool:
        return bool(self._claims)

    def _turn(self) -> None:
        if not self._claims:
            self._next_s = None
            self._worker.wait(None, lambda: bool(self._claims))
            return
        now_s = time.monotonic()
        if self._next_s is None or now_s - self._next_s > BEHIND_S:
            if self._next_s is not None:
                self.skipped += int((now_s - self._next_s) / BLOCK_S)
            self._next_s = now_s
        if self._next_s > now_s:
            self._worker.wait(self._next_s - now_s)
            return
        due_s, self._next_s = self._next_s, self._next_s + BLOCK_S  # first: a block that fails is not tried for ever
        self.step(due_s)

    def step(self, now_s: float) -> None:
        """Makes the block that is due at this moment and hands it to all."""
        picture_s = self._delay(now_s)
        if picture_s is not None:
            self.lips.picture(picture_s + SENSOR_S, now_s)
        sources = self._sources()
        from_s = now_s - self._used_delay_s  # what is handed over now is heard from now on
        block = self._mixed(sources, from_s)
        wanted_s = min(max(self.lips.delay_s + self.trim_s, MIN_DELAY_S), MAX_DELAY_S)
        if self._used_delay_s != wanted_s:
            self._used_delay_s = wanted_s
            from_s = now_s - self._used_delay_s
            block = crossfaded(block.copy(), self._mixed(sources, from_s))
        self.made += 1
        for claim in self._claims:
            with self._troubles.guard("mix"):
                claim.taker(block, from_s)

    def _mixed(self, sources: Sequence[SoundSource], from_s: float) -> Block:
        self._sum[:] = 0
        for source in sources:
            with self._troubles.guard("mix"):  # a file that cannot be read takes nobody's voice
                self._sum += source.read(from_s, BLOCK)
        np.clip(self._sum, -32768, 32767, out=self._sum)
        self._out[:] = self._sum
        return self._out
