"""Rooms of sound: a voice, walls by image sources, loudspeakers, microphones; they know where everything stands."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.bench.microphones import Voice, pink, voice
from cartouche.core.sound.loudness import RATE

SOUND_M_S = 343.0
ORDER = 3  # of reflections; what comes later is a decaying tail of noise
Spot = tuple[float, float, float]


class Room(NamedTuple):
    """size: metres.  absorbs: share of a reflection's power that a wall keeps.  tail_s: time to -60 dB (ISO 3382)."""

    size: Spot
    absorbs: float
    tail_s: float


def random_room(random: np.random.Generator) -> Room:
    size = (random.uniform(3, 9), random.uniform(3, 8), random.uniform(2.4, 3.4))
    return Room(size, random.uniform(0.25, 0.6), random.uniform(0.3, 0.8))


def random_spot(room: Room, random: np.random.Generator) -> Spot:
    x, y, z = (random.uniform(0.4, side - 0.4) for side in room.size)
    return (x, y, z)


def response(room: Room, source: Spot, ear: Spot, random: np.random.Generator) -> NDArray[np.float64]:
    """Impulse response at RATE. Source: image sources of a shoebox (Allen and Berkley, 1979), and a diffuse tail."""
    taps = np.zeros(int(room.tail_s * RATE))
    for image, bounces in _images(room, source):
        metres = float(np.linalg.norm(np.subtract(image, ear)))
        at = metres / SOUND_M_S * RATE
        whole = int(at)
        if whole + 1 < taps.size:
            gain = (1 - room.absorbs) ** (bounces / 2) / max(metres, 0.2)
            taps[whole] += gain * (1 - (at - whole))
            taps[whole + 1] += gain * (at - whole)
    start = int(ORDER * max(room.size) / SOUND_M_S * RATE)
    moment = np.arange(max(taps.size - start, 0)) / RATE
    taps[start:] += random.normal(0, 0.004, moment.size) * 10 ** (-3 * moment / room.tail_s)
    return taps


def _images(room: Room, source: Spot) -> list[tuple[Spot, int]]:
    """Where the source seems to stand, with how many walls it met."""
    sides = []
    for place, side in zip(source, room.size, strict=True):
        line = [(2 * n * side + place, abs(2 * n)) for n in range(-ORDER, ORDER + 1)]
        line += [(2 * n * side - place, abs(2 * n - 1)) for n in range(-ORDER, ORDER + 1)]
        sides.append([(at, bounces) for at, bounces in line if bounces <= ORDER])
    xs, ys, zs = sides
    return [((x, y, z), a + b + c) for x, a in xs for y, b in ys for z, c in zs if a + b + c <= ORDER]


def through(sound: NDArray[np.float64], taps: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n,), as long as it was."""
    size = 1 << int(np.ceil(np.log2(sound.size + taps.size)))
    return np.asarray(np.fft.irfft(np.fft.rfft(sound, size) * np.fft.rfft(taps, size), size)[: sound.size])


def as_samples(sound: NDArray[np.float64]) -> NDArray[np.int16]:
    return np.round(np.clip(sound, -1, 1) * 32767).astype(np.int16)


def spoken(name: Voice, seconds: float, random: np.random.Generator) -> NDArray[np.float64]:
    """A piece of a voice from anywhere in it."""
    whole = voice(name)
    return np.take(whole, np.arange(int(seconds * RATE)) + int(random.integers(0, whole.size)), mode="wrap")


def at_level(sound: NDArray[np.float64], db: float) -> NDArray[np.float64]:
    return sound * 10 ** (db / 20)


def hearings(seed: int, together: bool, seconds: float = 4.0) -> tuple[NDArray[np.int16], NDArray[np.int16], float]:
    """Two microphones with noise, levels and ways of their own, in one room or in two (both spoken in), and the true delay of the
    second after the first."""
    random = np.random.default_rng(4000 + seed)
    room, other = random_room(random), random_room(random)
    mouth, ears = random_spot(room, random), (random_spot(room, random), random_spot(room, random))
    first_voice: Voice = "a" if seed % 4 < 2 else "b"
    speech = spoken(first_voice, seconds, random)
    late = int(random.uniform(0, 0.2) * RATE)
    one = through(speech, response(room, mouth, ears[0], random))
    if together:
        two = through(speech, response(room, mouth, ears[1], random))
    else:
        another = spoken("b" if first_voice == "a" else "a", seconds, random)
        two = through(another, response(other, random_spot(other, random), random_spot(other, random), random))
    two = np.concatenate((np.zeros(late), two))[: one.size]
    metres = [float(np.linalg.norm(np.subtract(mouth, ear))) for ear in ears]
    delay_s = late / RATE + (metres[1] - metres[0]) / SOUND_M_S
    heard = []
    for sound in (one, two):
        level = random.uniform(-8, 8)
        heard.append(as_samples(at_level(sound, level) + at_level(pink(sound.size, random), random.uniform(-62, -48))))
    return heard[0], heard[1], delay_s


def howling(seed: int, seconds: float, gain_db: float, begins_s: float) -> NDArray[np.int16]:
    """A loudspeaker that plays what its microphone hears in a room, closed at begins_s: the loop's gain at its strongest frequency."""
    random = np.random.default_rng(7000 + seed)
    room = random_room(random)
    taps = response(room, random_spot(room, random), random_spot(room, random), random)
    late = int(random.uniform(0.02, 0.2) * RATE)
    spectrum = np.abs(np.fft.rfft(taps))
    hz = np.fft.rfftfreq(taps.size, 1 / RATE)
    spectrum[(hz < 200) | (hz > 6000)] = 0  # what a loudspeaker and a call pass on
    shaped = np.fft.irfft(np.fft.rfft(taps) * ((hz >= 200) & (hz <= 6000)), taps.size) / spectrum.max() * 10 ** (gain_db / 20)
    sound = at_level(spoken("a", seconds, random), -12) + at_level(pink(int(seconds * RATE), random), -60)
    loop = np.concatenate((np.zeros(late), shaped))
    block, whole, begins = late, sound.copy(), int(begins_s * RATE)
    for start in range(begins, whole.size - block, block):  # what was played in one block is heard in later ones
        piece = np.clip(whole[start : start + block], -1, 1)
        size = 1 << int(np.ceil(np.log2(piece.size + loop.size)))
        heard = np.fft.irfft(np.fft.rfft(piece, size) * np.fft.rfft(loop, size), size)[: piece.size + loop.size]
        end = min(whole.size, start + heard.size)
        whole[start:end] += heard[: end - start]
    return as_samples(whole)


def probed(seed: int, gain_db: float | None, played: NDArray[np.float64], seconds: float = 4.2) -> NDArray[np.int16]:
    """What a microphone hears while this is played round and round in its room, at this gain (None: in another), under speech."""
    random = np.random.default_rng(9000 + seed)
    room = random_room(random)
    ear = random_spot(room, random)
    count = int(seconds * RATE)
    sound = through(at_level(spoken("b", seconds, random), -4), response(room, random_spot(room, random), ear, random))
    if gain_db is not None:
        taps = response(room, random_spot(room, random), ear, random)
        taps *= 10 ** (gain_db / 20) / np.sqrt((taps**2).sum())
        start = int(random.integers(0, played.size))
        sound = sound + through(np.take(played, np.arange(count) + start, mode="wrap"), taps)
    return as_samples(sound + at_level(pink(count, random), -62))
