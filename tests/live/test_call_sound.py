"""What learners hear in the practice call: a voice that comes twice is said, what chance finds once is not."""

from collections.abc import Callable, Iterator
from types import SimpleNamespace
from typing import Any, NamedTuple

import numpy as np
import pytest
from numpy.typing import NDArray

from cartouche.core.sound.loudness import RATE
from cartouche.live.sound.call_sound import CallSound
from cartouche.live.troubles import Troubles
from tests.core.call.test_ears import voices
from tests.helpers import eventually

BLOCK = RATE // 50
Take = Callable[[NDArray[np.int16], float], None]


class Straight:
    """A call that changes nothing."""

    def through(self, block: NDArray[np.int16]) -> NDArray[np.int16]:
        return block


class Listened(NamedTuple):
    """A call under way, whose clock the test moves."""

    call: CallSound
    takers: list[Take]
    clock: SimpleNamespace

    def told(self, seconds: list[NDArray[np.int16]]) -> list[str]:
        """What is said after each second of sound."""
        said = []
        self.call.heard(self.clock.now_s)
        for second in seconds:
            for block in second.reshape(-1, BLOCK):
                self.clock.now_s += 0.02
                self.takers[0](block, 0.0)
            eventually(lambda: not self.call._waiting)
            ears = self.call.heard(self.clock.now_s)
            said.append("" if ears is None else ears.kind)
        return said


@pytest.fixture
def listened(monkeypatch: pytest.MonkeyPatch) -> Iterator[Listened]:
    clock = SimpleNamespace(now_s=100.0)
    monkeypatch.setattr("cartouche.live.sound.call_sound.time", SimpleNamespace(monotonic=lambda: clock.now_s))
    takers: list[Take] = []
    mixer: Any = SimpleNamespace(claim=lambda take: takers.append(take) or SimpleNamespace(release=lambda: None))
    speech: Any = lambda samples: np.ones(samples.size // 512)  # noqa: E731
    call = CallSound(mixer, Straight, lambda: speech, lambda: None, Troubles())
    call.start()
    yield Listened(call, takers, clock)
    call.close()


def seconds_of(samples: NDArray[np.int16]) -> list[NDArray[np.int16]]:
    return list(samples[: samples.size // RATE * RATE].reshape(-1, RATE))


def test_a_voice_that_comes_twice_is_said(listened: Listened) -> None:
    assert listened.told(4 * seconds_of(voices(0, 0.18)))[-1] == "twice"


def test_what_is_found_for_a_moment_is_not_said(listened: Listened) -> None:
    """Each second of it stands in five windows one after the other."""
    once = 3 * seconds_of(voices(0, None))
    once[6:8] = seconds_of(voices(0, 0.18))[1:3]
    assert "twice" not in listened.told(once)
