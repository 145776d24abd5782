"""The call stand-in's sound: the outgoing sound through its codec to the learners, who hear it and say what they hear."""

import threading
import time
from collections import deque
from collections.abc import Callable
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from cartouche.core.call.ears import Ears, apart_s, ears
from cartouche.core.sound import howl
from cartouche.core.sound.loudness import RATE
from cartouche.live.sound.incoming import Incoming, SpeechNet
from cartouche.live.sound.mixer import Mixer, SoundClaim
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

EAR = "learners"
MAX_WAITING = 250  # blocks: five seconds of a machine that is held up
SAME_S = 0.01
SAME_TIMES = 7  # windows: the first and the last have no sound in common
OFFSETS = 20  # pictures come unevenly; the middle one of so many is told
LOOKED_FOR_S = 3.0  # nobody has asked for so long: the call need not make sound


class Voice(Protocol):
    """A call's codec for sound."""

    def through(self, block: NDArray[np.int16]) -> NDArray[np.int16]: ...


class CallSound:
    """Holds a claim on the mixer while the practice call runs and somebody asks what learners hear."""

    def __init__(
        self,
        mixer: Mixer,
        make_voice: Callable[[], Voice],
        speech: Callable[[], SpeechNet],
        picture_s: Callable[[], float | None],
        troubles: Troubles,
    ) -> None:
        """picture_s: how long a picture takes from capture to the learners, None where none does."""
        self._mixer, self._make_voice, self._speech, self._picture_s = mixer, make_voice, speech, picture_s
        self._change = threading.Lock()
        self._claim: SoundClaim | None = None
        self._asked_s = float("-inf")
        self._voice: Voice | None = None
        self._ear: Incoming | None = None
        self._howl, self._for_howl = howl.Howl(), deque[NDArray[np.int16]]()
        self._taken = 0
        self._sound_s = 0.0
        self._judged_s, self._apart = float("-inf"), deque[float | None](maxlen=SAME_TIMES)
        self._offsets: deque[float] = deque(maxlen=OFFSETS)
        self._running = False
        self._waiting: deque[tuple[NDArray[np.int16], float]] = deque(maxlen=MAX_WAITING)
        self._worker = Worker("ears", self._turn, lambda exc: troubles.report("call", exc))
        self._worker.start()

    def close(self) -> None:
        """Repeatable."""
        self.stop()
        self._worker.stop()

    def start(self) -> None:
        self._running = True

    def stop(self) -> None:
        """Repeatable."""
        self._running = False
        self._let_go()

    def _let_go(self) -> None:
        with self._change:
            claim, self._claim, self._ear = self._claim, None, None
        if claim is not None:
            claim.release()

    def heard(self, now_s: float) -> Ears | None:
        """What learners hear just now; None while no call runs or too little has come. Whoever asks keeps it going."""
        self._asked_s = now_s
        if not self._running:
            return None
        with self._change:
            if self._claim is None:
                self._voice, self._howl = self._make_voice(), howl.Howl()
                self._ear, self._taken = Incoming(EAR, EAR, self._speech()), 0
                self._claim = self._mixer.claim(self._take)
            ear = self._ear
        if ear is None:
            return None
        ear.judge_if_due(now_s)
        picture_s = self._picture_s()
        samples = ear.newest(5 * RATE)
        if ear.judged_s != self._judged_s:
            self._judged_s = ear.judged_s
            self._apart.append(apart_s(samples))
        if picture_s is not None:
            self._offsets.append(self._sound_s - picture_s)
        offset_s = float(np.median(self._offsets)) if picture_s is not None else None
        return ears(ear.heard, self._steady_apart(), self._howl.hz is not None, offset_s) if ear.heard is not None else None

    def _steady_apart(self) -> float | None:
        """A voice that comes twice does so by the same time in every second; what chance finds does not."""
        found = [apart for apart in self._apart if apart is not None]
        if len(found) < SAME_TIMES or max(found) - min(found) > SAME_S:
            return None
        return found[-1]

    def _take(self, block: NDArray[np.int16], captured_s: float) -> None:
        """On the mixer's thread, which has more to do: what a call makes of it is worked out on our own."""
        now_s = time.monotonic()
        if now_s - self._asked_s > LOOKED_FOR_S:
            self._let_go()
            return
        self._sound_s = now_s - captured_s  # the way through the call is the same for both: calls keep sound and picture together
        self._waiting.append((block.copy(), now_s))
        self._worker.wake()

    def _turn(self) -> None:
        if not self._worker.wait(None, lambda: bool(self._waiting)):
            return
        block, now_s = self._waiting.popleft()
        voice, ear = self._voice, self._ear
        if voice is None or ear is None:
            return
        arrived = voice.through(block)
        if not arrived.size:
            return
        ear.take(self._taken, arrived, now_s, tracked=False)
        self._taken += arrived.size
        self._for_howl.append(arrived)
        whole = np.concatenate(self._for_howl)
        used = whole.size // howl.BLOCK * howl.BLOCK
        for piece in whole[:used].reshape(-1, howl.BLOCK):
            self._howl.take(piece)
        self._for_howl = deque([whole[used:]])
