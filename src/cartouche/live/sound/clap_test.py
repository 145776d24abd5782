"""Watches the outgoing picture for flashes and the outgoing sound for clicks while a clapper is shown."""

import threading
import time

import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame
from cartouche.core.sound.clap import Claps, claps, clicks, flashes
from cartouche.live.errors import StillTesting
from cartouche.live.sound.mixer import Mixer

EVERY = 8  # of the picture's rows and columns one is enough to see a flash
LASTS_S = 8.0


class ClapTest:
    """A sink of the outgoing picture that takes nothing until it runs; one run at a time."""

    def __init__(self, mixer: Mixer) -> None:
        self._mixer = mixer
        self._running = False
        self._one_at_a_time = threading.Lock()
        self._moments: list[float] = []
        self._means: list[float] = []
        self._blocks: list[NDArray[np.int16]] = []
        self._from_s: float | None = None

    def ready(self, now_s: float) -> bool:
        return self._running

    def take(self, frame: Frame, now_s: float) -> None:
        self._moments.append(time.monotonic())
        self._means.append(float(frame.y[::EVERY, ::EVERY].mean()))

    def _heard(self, block: NDArray[np.int16], captured_s: float) -> None:
        if self._from_s is None:
            self._from_s = captured_s + self._mixer.delay_s
        self._blocks.append(block.copy())

    def run(self) -> Claps:
        """Blocks for LASTS_S. Raises StillTesting while another run goes on."""
        if not self._one_at_a_time.acquire(blocking=False):
            raise StillTesting
        try:
            return self._run()
        finally:
            self._one_at_a_time.release()

    def _run(self) -> Claps:
        self._moments, self._means, self._blocks, self._from_s = [], [], [], None
        claim = self._mixer.claim(self._heard)
        self._running = True
        try:
            time.sleep(LASTS_S)
        finally:
            self._running = False
            claim.release()
        samples = np.concatenate(self._blocks) if self._blocks else np.zeros(0, np.int16)
        return claps(flashes(self._moments, self._means), clicks(samples, self._from_s or 0.0))
