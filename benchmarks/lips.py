"""Picture to sound at the end of the whole way: the bench's clapper (a flash and a click at one true moment) by four ways in.

Each device gives its picture and its sound late by delays of its own; Cartouche knows capture times only as it does in the product:
blocks' sample numbers and arrivals for sound, arrival or capture stamps for pictures. Told: sound after picture, milliseconds.
"""

import json
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from cartouche.core.sound.lips import BROWSER_WAY_S, EARLY_S, LATE_S, PHONE_WAY_S, SENSOR_S
from cartouche.core.sound.loudness import RATE
from cartouche.live.sound.mixer import BLOCK, BLOCK_S, Mixer
from cartouche.live.sound.track import Track
from cartouche.live.troubles import Troubles

SECONDS = 90
RUNS = 8
START_S = 100.0


class Way(NamedTuple):
    """seen_s: from the picture's stamp to the outgoing picture.  hidden_s: before any stamp, by exposure and read-out, from and to.
    heard_s: of the sound from the air to Cartouche, from and to.  jitters: deviation of each arrival."""

    seen_s: float
    hidden_s: tuple[float, float]
    seen_jitter_s: float
    heard_s: tuple[float, float]
    heard_jitter_s: float
    drift_ppm: float
    known_way_s: float


WAYS = {
    "usb": Way(0.085, (0.012, 0.04), 0.006, (0.026, 0.032), 0.004, 60.0, BROWSER_WAY_S),
    "phone": Way(0.18, (0.015, 0.045), 0.015, (0.083, 0.097), 0.012, -80.0, PHONE_WAY_S),
    "clip": Way(0.045, (0.0, 0.0), 0.004, (0.0, 0.0), 0.0, 0.0, 0.0),
    "bluetooth": Way(0.085, (0.012, 0.04), 0.006, (0.15, 0.19), 0.006, 60.0, BROWSER_WAY_S),
    "stream": Way(0.35, (0.012, 0.05), 0.02, (0.026, 0.032), 0.004, 100.0, BROWSER_WAY_S),
}


def blocks(way: Way, heard_s: float, random: np.random.Generator) -> Iterator[tuple[int, np.ndarray, float]]:
    """Number of the first sample, samples, arrival: a click at each whole second of true time."""
    rate = RATE * (1 + 1e-6 * way.drift_ppm)
    for number in range(int(SECONDS * RATE / BLOCK)):
        begins, ends = number * BLOCK / rate, (number + 1) * BLOCK / rate
        block = np.zeros(BLOCK, np.int16)
        if int(ends) > int(begins):
            block[min(BLOCK - 1, round((int(ends) - begins) * rate))] = 20000
        yield number * BLOCK, block, START_S + ends - BLOCK_S / 2 + heard_s + abs(random.normal(0, way.heard_jitter_s))


class Clicks:
    """A file's sound: known to the sample, and read where its picture stands."""

    def read(self, from_s: float, count: int) -> np.ndarray:
        second = (from_s + SENSOR_S - START_S + np.arange(count) / RATE) % 1
        return np.where(second < 1 / RATE, 20000, 0).astype(np.int16)


def offsets(name: str, way: Way, seed: int, trim_s: float = 0.0) -> list[float]:
    """Sound after picture at each clap of the second half, seconds. trim_s: what a clapper corrected."""
    random = np.random.default_rng(seed)
    hidden_s, heard_s = random.uniform(*way.hidden_s), random.uniform(*way.heard_s)
    track = Track(way.known_way_s)
    source = Clicks() if name == "clip" else track
    mixer = Mixer(lambda: [source], lambda now_s: max(0.0, way.seen_s + random.normal(0, way.seen_jitter_s)), Troubles())
    mixer.trim_s = trim_s
    coming = blocks(way, heard_s, random)
    waiting: tuple[int, np.ndarray, float] | None = next(coming)
    out: list[np.ndarray] = []
    mixer.claim(lambda block, captured_s: out.append(block.copy()))
    for number in range(int((SECONDS - 2) / BLOCK_S)):
        now_s = START_S + number * BLOCK_S
        while waiting is not None and waiting[2] <= now_s:
            track.take(*waiting)
            waiting = next(coming, None)
        mixer.step(now_s)
    sound = np.abs(np.concatenate(out).astype(int))
    found = []
    for second in range(SECONDS // 2, SECONDS - 3):
        heard = int(np.argmax(sound[second * RATE : (second + 1) * RATE])) / RATE
        found.append(heard - way.seen_s - hidden_s - random.normal(0, way.seen_jitter_s))
    return found


def main() -> dict[str, float]:
    told: dict[str, float] = {}
    everything: list[float] = []
    for name, way in WAYS.items():
        found = np.array([one for seed in range(RUNS) for one in offsets(name, way, seed)])
        everything += list(found)
        if name == "bluetooth":  # nobody can know of it but a clapper, which measures it; the rest is what the picture would have to wait
            told["bluetooth_before_ms"] = round(1000 * float(np.median(found)), 1)
            found = np.array([one for seed in range(RUNS) for one in offsets(name, way, seed, -float(np.median(found)))])
        told[f"{name}_median_ms"] = round(1000 * float(np.median(found)), 1)
        told[f"{name}_within_share"] = round(float(((found > -EARLY_S) & (found < LATE_S)).mean()), 4)
    return told


if __name__ == "__main__":
    print(json.dumps(main()))
