"""The room of the microphones: one is open, what nobody sends is not here, memory stays bounded."""

import threading

import numpy as np
import pytest

from cartouche.bench.microphones import microphone
from cartouche.core.sound.hearing import WINDOW_S
from cartouche.core.sound.loudness import RATE
from cartouche.live.sound.measured import PAIRS_EVERY_S, TWICE, Measured
from cartouche.live.sound.microphones import MAX_MICROPHONES, Microphones
from cartouche.live.sound.mixer import BLOCK
from cartouche.models import SpeechNet


def room() -> Microphones:
    return Microphones(SpeechNet)


def play(microphones: Microphones, name: str, samples: np.ndarray, begun_s: float) -> float:
    """In blocks of 20 ms, as a browser sends them; the moment after the last."""
    for at in range(0, samples.size - BLOCK + 1, BLOCK):
        microphones.take(name, at, samples[at : at + BLOCK], begun_s + at / RATE)
    return begun_s + samples.size / RATE


def test_one_is_open_and_opening_another_closes_it() -> None:
    microphones, told = room(), []
    microphones.on_change.append(lambda: told.append(microphones.opened))
    for name in ("a", "b"):
        assert microphones.join(name, f"Microphone {name}")
    microphones.open("a")
    microphones.open("b")
    assert [facts.open for facts in microphones.facts(0.0)] == [False, True]
    assert told[-2:] == [("a", "Microphone a"), ("b", "Microphone b")]
    microphones.leave("b")
    assert microphones.opened is None
    with pytest.raises(KeyError):
        microphones.open("b")
    assert microphones.open_ids == ()


def test_a_voice_is_heard_and_gone_when_it_stops_coming() -> None:
    microphones = room()
    microphones.join("a", "Lapel")
    now = play(microphones, "a", microphone("well", 4.0, 3), 100.0)
    facts = microphones.facts(now)[0]
    assert facts.here
    assert facts.heard is not None
    assert facts.heard.kind == "well"
    assert -40 < facts.level_db < 0
    later = microphones.facts(now + 3)[0]
    assert not later.here
    assert later.heard is None


def test_after_a_gap_nothing_of_before_counts() -> None:
    microphones = room()
    microphones.join("a", "Lapel")
    now = play(microphones, "a", microphone("well", 4.0, 3), 100.0)
    microphones.facts(now)
    play(microphones, "a", np.zeros(RATE // 2, np.int16), now + 10)
    assert microphones.facts(now + 10.5)[0].heard is None


def test_it_keeps_no_more_than_the_window_and_no_more_than_so_many() -> None:
    microphones = room()
    for number in range(MAX_MICROPHONES):
        assert microphones.join(str(number), "")
    assert not microphones.join("one more", "")
    assert microphones.join("3", ""), "a known one may come again"
    now = play(microphones, "0", np.ones(20 * RATE, np.int16), 0.0)
    assert WINDOW_S * RATE <= microphones._by_id["0"]._kept < WINDOW_S * RATE + BLOCK
    microphones.facts(now)
    assert microphones._by_id["0"]._voice.size <= WINDOW_S * 16_000 / 512
    microphones.take("nobody", 0, np.ones(BLOCK, np.int16), 0.0)


def test_while_one_judges_another_is_told_what_is_known_at_once() -> None:
    judges, goes_on = threading.Event(), threading.Event()

    def slow(samples: np.ndarray) -> np.ndarray:
        judges.set()
        goes_on.wait(20)
        return np.zeros(samples.size // 512)

    microphones = Microphones(lambda: slow)
    microphones.join("a", "Lapel")
    now = play(microphones, "a", microphone("well", 2.0, 3), 100.0)
    judging = threading.Thread(target=microphones.facts, args=(now,))
    judging.start()
    assert judges.wait(20)
    assert microphones.facts(now)[0].heard is None
    goes_on.set()
    judging.join()
    assert microphones.facts(now)[0].heard is not None


def test_two_are_compared_while_somebody_looks_or_both_are_open() -> None:
    microphones, now = room(), 100.0
    measured, heard_by_both = Measured(microphones), microphone("well", 5.0, 3)
    for name in ("a", "b"):
        assert microphones.join(name, f"Microphone {name}")

    def found(closed_too: bool) -> set[tuple[str, str]]:
        """As often as a pair has to be found, each time in newer sound of both."""
        nonlocal now
        for _ in range(TWICE):
            begun, now = now, max(play(microphones, name, heard_by_both, now) for name in ("a", "b"))
            assert now - begun > PAIRS_EVERY_S
            microphones.facts(now)
            pairs = measured.together(now, closed_too)
        return set(pairs)

    assert found(closed_too=False) == set()
    microphones.open("a")
    assert found(closed_too=False) == set()  # nothing to compare it with
    microphones.open("b", beside=True)
    assert found(closed_too=False) == {("a", "b")}
    measured = Measured(microphones)
    microphones.open(None)
    assert found(closed_too=True) == {("a", "b")}
