"""Simulated microphones at work: they send in blocks as a browser does, while somebody looks at them or one of them is open."""

import time
from collections.abc import Sequence
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from cartouche.live.sound.microphones import Microphones
from cartouche.live.sound.mixer import BLOCK, BLOCK_S
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

REST_S = 0.1  # from one look to the next whether they are wanted


class SoundDevice(Protocol):
    """case: what is the matter with it, one of `cases`."""

    id: str
    label: str
    case: str
    cases: tuple[str, ...]

    def block(self, first: int, count: int) -> NDArray[np.int16]: ...


class Simulated:
    """`close` is repeatable."""

    def __init__(self, microphones: Microphones, devices: Sequence[SoundDevice], troubles: Troubles) -> None:
        self._microphones = microphones
        self.devices = {device.id: device for device in devices}
        self._begun_s: float | None = None
        self._number = 0
        for device in devices:
            microphones.join(device.id, device.label, kind="bench")
        self._worker = Worker("microphones", self._turn, lambda exc: troubles.report("mix", exc))
        if devices:
            self._worker.start()

    def _turn(self) -> None:
        now_s = time.monotonic()
        if not self._microphones.wanted(now_s, self.devices):
            self._begun_s = None
            self._worker.wait(REST_S)
            return
        if self._begun_s is None:
            self._begun_s, self._number = now_s, 0
        due_s = self._begun_s + (self._number + 1) * BLOCK_S
        if due_s > now_s:
            self._worker.wait(due_s - now_s)
            return
        first = round(self._begun_s / BLOCK_S) * BLOCK + self._number * BLOCK  # all of them by one clock
        self._number += 1
        for device in self.devices.values():
            self._microphones.take(device.id, first, device.block(first, BLOCK), max(now_s, due_s))

    def close(self) -> None:
        self._worker.stop()
