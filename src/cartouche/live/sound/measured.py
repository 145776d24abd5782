"""What was measured of the rooms' sound, kept while this runs: pairs of microphones, loudspeakers that are heard, echo tests."""

import itertools
import threading
from collections import deque
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.echo import Echo
from cartouche.core.sound.pairs import Pair
from cartouche.core.sound.wiring import Air
from cartouche.live.sound.microphones import Microphones

PAIRS_EVERY_S = 2.0
TWICE = 2  # a pair counts once it was found so often in succession
KEPT_ECHOES = 2  # the one before stays, to be compared


class KeptEcho(NamedTuple):
    """samples: what arrived, (n,) mono at RATE."""

    number: int
    label: str
    samples: NDArray[np.int16]
    echo: Echo


class Measured:
    """Asked by whoever looks at the Sound screen; nothing is measured while nobody does."""

    def __init__(self, microphones: Microphones) -> None:
        self._microphones = microphones
        self._lock = threading.Lock()
        self._pairs_s = float("-inf")
        self._found: dict[tuple[str, str], int] = {}
        self._pairs: dict[tuple[str, str], Pair] = {}
        self.air: dict[tuple[str, str], Air] = {}
        self._echoes: deque[KeptEcho] = deque(maxlen=KEPT_ECHOES)
        self._numbers = itertools.count(1)

    def together(self, now_s: float, closed_too: bool = True) -> dict[tuple[str, str], Pair]:
        """Pairs of microphones that hear one room, found while somebody spoke; they stay so until found otherwise.

        closed_too: as in `Microphones.facts`; without it there is nothing to compare until a second is open."""
        with self._lock:
            if now_s - self._pairs_s >= PAIRS_EVERY_S and (closed_too or len(self._microphones.open_ids) > 1):
                self._pairs_s = now_s
                for ids, pair in self._microphones.pairs(now_s).items():
                    self._found[ids] = self._found.get(ids, 0) + 1 if pair.together else 0
                    self._pairs[ids] = pair
            return {ids: self._pairs[ids] for ids, times in self._found.items() if times >= TWICE}

    def probed(self, loudspeaker: str, now_s: float) -> dict[str, Air]:
        """Which microphones hear this loudspeaker, which plays the probe just now."""
        found = {id_: Air(one.gain_db) for id_, one in self._microphones.probed(now_s).items()}
        self.air |= {(loudspeaker, id_): air for id_, air in found.items()}
        return found

    def keep(self, label: str, samples: NDArray[np.int16], echo: Echo) -> KeptEcho:
        kept = KeptEcho(next(self._numbers), label, samples, echo)
        self._echoes.append(kept)
        return kept

    @property
    def echoes(self) -> list[KeptEcho]:
        """The newest last."""
        return list(self._echoes)

    def echo(self, number: int) -> KeptEcho | None:
        return next((kept for kept in tuple(self._echoes) if kept.number == number), None)
