"""Simulated microphones send only while somebody looks or one is open, hear one voice in one room, and take faults."""

import time
from collections.abc import Iterator

import pytest

from cartouche.bench.sound_devices import bench_microphones
from cartouche.live.sound.microphones import LOOKED_FOR_S, Microphones
from cartouche.live.sound.simulated import Simulated
from cartouche.live.troubles import Troubles
from cartouche.models import SpeechNet
from tests.helpers import eventually


@pytest.fixture
def room() -> Iterator[tuple[Microphones, Simulated]]:
    microphones = Microphones(SpeechNet)
    simulated = Simulated(microphones, bench_microphones(), Troubles())
    yield microphones, simulated
    simulated.close()
    simulated.close()


def kinds(microphones: Microphones) -> set[str]:
    return {facts.heard.kind if facts.heard else "" for facts in microphones.facts()}


def test_they_come_when_somebody_looks_and_rest_when_nobody_does(room: tuple[Microphones, Simulated]) -> None:
    microphones, _ = room
    eventually(lambda: kinds(microphones) == {"well"})
    time.sleep(LOOKED_FOR_S + 1.2)
    microphones.open("bench-lapel")
    time.sleep(0.5)
    assert microphones.tracks()[0].is_here(time.monotonic()), "an open one goes on though nobody looks"
    microphones.open(None)
    time.sleep(1.5)
    assert not microphones.wanted(time.monotonic(), ["bench-lapel"])


def test_both_are_found_to_hear_one_room(room: tuple[Microphones, Simulated]) -> None:
    microphones, _ = room
    eventually(lambda: kinds(microphones) == {"well"})
    eventually(lambda: bool(microphones.facts()) and any(pair.together for pair in microphones.pairs(time.monotonic()).values()))


def test_a_fault_is_told(room: tuple[Microphones, Simulated]) -> None:
    microphones, simulated = room
    for device in simulated.devices.values():
        device.case = "muted on the device"
    eventually(lambda: kinds(microphones) == {"nothing"})
