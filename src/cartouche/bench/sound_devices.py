"""The demo's simulated microphones: two in one room, which hear the same voice; each can be given a fault."""

from functools import cache

import numpy as np
from numpy.typing import NDArray

from cartouche.bench.microphones import CASES, Case, microphone, pink
from cartouche.bench.rooms import Room, as_samples, at_level, response, through

LOOP_S = 20.0
SEED = 3
ROOM = Room((7.0, 6.0, 3.0), 0.4, 0.5)
MOUTH, LAPTOP = (2.0, 2.0, 1.4), (2.6, 2.5, 0.9)


@cache
def _heard(case: Case, far: bool) -> NDArray[np.int16]:
    """One round of what it gives. far: across a desk, with the room's walls."""
    near = microphone(case, LOOP_S, SEED)
    if not far or case == "muted on the device":
        return near
    random = np.random.default_rng(SEED)
    walls = through(near.astype(np.float64) / 32768, response(ROOM, MOUTH, LAPTOP, random))
    return as_samples(at_level(walls, -3) + at_level(pink(walls.size, random), -66))


class BenchMicrophone:
    """Gives blocks by the number of their first sample; `case` may be changed at any moment."""

    cases: tuple[str, ...] = CASES

    def __init__(self, id_: str, label: str, far: bool) -> None:
        self.id, self.label, self._far = id_, label, far
        self.case: str = "well"

    def block(self, first: int, count: int) -> NDArray[np.int16]:
        whole = _heard(self.case, self._far)  # type: ignore[arg-type]
        return whole[np.arange(first, first + count) % whole.size]


def bench_microphones() -> list[BenchMicrophone]:
    return [
        BenchMicrophone("bench-lapel", "Simulated lapel microphone", far=False),
        BenchMicrophone("bench-laptop", "Simulated laptop microphone", far=True),
    ]
