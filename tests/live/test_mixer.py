"""The outgoing sound: clocked, on the server's time, in step with the picture, nothing lost, nothing made for nobody."""

import time
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import av
import numpy as np
import pytest

from cartouche.bench.rooms import as_samples
from cartouche.core.sound.lips import SENSOR_S
from cartouche.core.sound.loudness import RATE
from cartouche.live.files.clip import ClipSource, look_into
from cartouche.live.sound.clip_sound import ClipSound
from cartouche.live.sound.mixer import BLOCK, BLOCK_S, Mixer, SoundSource
from cartouche.live.sound.track import Track
from cartouche.live.troubles import Troubles
from tests.helpers import eventually


def clicks(track: Track, ppm: float, seconds: float, way_s: float = 0.005, seed: int = 1, lost: float = 0.0) -> float:
    """A device whose clock drifts clicks each true second; the true moment of the last click but one. Its blocks are late by chance."""
    random = np.random.default_rng(seed)
    rate = RATE * (1 + 1e-6 * ppm)
    last = 0.0
    for number in range(int(seconds * RATE / BLOCK)):
        first = number * BLOCK
        block = np.zeros(BLOCK, np.int16)
        begins, ends = first / rate, (first + BLOCK) / rate
        if int(ends) > int(begins):
            block[min(BLOCK - 1, round((int(ends) - begins) * rate))] = 20000
            last = 99.0 + int(ends)
        if random.random() >= lost:
            track.take(first, block, 100.0 + ends + way_s + random.exponential(0.006))
    return last


def click_error(track: Track, moment: float) -> float:
    samples = track.read(moment - 0.1, int(0.2 * RATE))
    return float(np.argmax(np.abs(samples.astype(int)))) / RATE - 0.1


@pytest.mark.parametrize("ppm", [-100.0, 0.0, 100.0])
def test_after_two_minutes_of_drift_a_click_stands_where_it_was_made(ppm: float) -> None:
    track = Track()
    last = clicks(track, ppm, 120)
    assert click_error(track, last) == pytest.approx(0.005, abs=0.002)  # the way itself is not known
    assert track.lost_blocks == 0


def test_lost_blocks_are_silence_and_nothing_slides() -> None:
    track = Track()
    last = clicks(track, 0.0, 30, lost=0.05)
    assert track.lost_blocks > 30
    errors = [abs(click_error(track, last - back) - 0.005) for back in (0.0, 1.0, 2.0)]
    assert min(errors) < 0.004


def test_where_nothing_is_it_is_silent_and_a_long_pause_begins_anew() -> None:
    track = Track()
    assert not track.read(0.0, BLOCK).any()
    track.take(0, np.full(BLOCK, 500, np.int16), 10.0)
    track.take(BLOCK * 500, np.full(BLOCK * 5, 700, np.int16), 40.0)
    heard = track.read(39.9, BLOCK)
    assert np.abs(heard).max() > 0
    assert not track.read(9.9, BLOCK).any()


class Tone:
    """A sine that knows its phase at every moment."""

    def read(self, from_s: float, count: int) -> np.ndarray:
        return as_samples(0.3 * np.sin(2 * np.pi * 440 * (from_s + np.arange(count) / RATE)))


@pytest.fixture
def mixing() -> Iterator[Callable[..., Mixer]]:
    made: list[Mixer] = []

    def make(sources: Sequence[SoundSource], delay: Callable[[float], float | None] = lambda _: 0.1) -> Mixer:
        made.append(Mixer(lambda: sources, delay, Troubles()))
        return made[-1]

    yield make
    for mixer in made:
        mixer.stop()


def test_it_is_clocked_and_costs_nothing_when_nobody_takes(mixing: Callable[..., Mixer]) -> None:
    mixer = mixing([Tone()])
    mixer.start()
    time.sleep(0.2)
    assert mixer.made == 0
    taken: list[float] = []
    claim = mixer.claim(lambda block, captured_s: taken.append(captured_s))
    eventually(lambda: len(taken) > 60)
    claim.release()
    claim.release()
    steps = np.diff(taken[5:])
    assert mixer.skipped == 0 or steps.max() > BLOCK_S  # a held-up machine says so
    assert np.median(steps) == pytest.approx(BLOCK_S, abs=1e-6)
    eventually(lambda: not mixer.claimed)
    made = mixer.made
    time.sleep(0.2)
    assert mixer.made <= made + 1


def test_blocks_join_without_a_click_and_wait_for_the_picture(mixing: Callable[..., Mixer]) -> None:
    mixer = mixing([Tone()], lambda _: 0.15)
    blocks: list[tuple[np.ndarray, float]] = []
    mixer.claim(lambda block, captured_s: blocks.append((block.copy(), captured_s)))
    for number in range(400):
        mixer.step(100.0 + number * BLOCK_S)
    sound = np.concatenate([block for block, _ in blocks]).astype(int)
    assert np.abs(np.diff(sound)).max() < 1200  # a sine of 440 Hz at this level moves by 570 a sample at most; a crossfade may add as much
    assert 100.0 + 399 * BLOCK_S - blocks[-1][1] == pytest.approx(0.15 + SENSOR_S, abs=1e-6)


def test_a_taker_or_a_source_that_fails_ends_nothing(mixing: Callable[..., Mixer]) -> None:
    class Gone:
        def read(self, from_s: float, count: int) -> np.ndarray:
            raise OSError("its file was deleted")

    mixer, loudest = mixing([Gone(), Tone()]), []

    def fails(block: np.ndarray, captured_s: float) -> None:
        raise ValueError("full")

    mixer.claim(fails)
    mixer.claim(lambda block, captured_s: loudest.append(int(block.max())))
    mixer.start()
    eventually(lambda: len(loudest) > 50)
    assert min(loudest[:50]) > 9000  # the other one is heard all the time
    assert mixer.made >= 50


def test_too_much_sound_is_held_at_the_ends(mixing: Callable[..., Mixer]) -> None:
    class Loud:
        def read(self, from_s: float, count: int) -> np.ndarray:
            return np.full(count, 30000, np.int16)

    mixer, peaks = mixing([Loud(), Loud()]), []
    mixer.claim(lambda block, captured_s: peaks.append(int(block.max())))
    mixer.step(1.0)
    assert peaks == [32767]


@pytest.fixture
def clip(tmp_path: Path) -> Path:
    """Four seconds, grey, with a short tone at each whole second."""
    path = tmp_path / "clip.mp4"
    with av.open(str(path), "w") as container:
        video, audio = container.add_stream("libx264", rate=30), container.add_stream("aac", rate=RATE)
        video.width, video.height, video.pix_fmt = 320, 240, "yuv420p"
        audio.layout = "mono"
        for number in range(120):
            frame = av.VideoFrame.from_ndarray(np.full((360, 320), 128, np.uint8), format="yuv420p")
            frame.pts = number
            container.mux(video.encode(frame))
        container.mux(video.encode())
        moment = np.arange(4 * RATE) / RATE
        sound = as_samples(0.4 * np.sin(2 * np.pi * 1000 * moment) * (moment % 1 < 0.05))
        for start in range(0, sound.size, 1024):
            samples = np.pad(sound[start : start + 1024], (0, max(0, start + 1024 - sound.size)))
            piece = av.AudioFrame.from_ndarray(samples.reshape(1, -1), "s16", "mono")
            piece.sample_rate, piece.pts = RATE, start
            container.mux(audio.encode(piece))
        container.mux(audio.encode())
    return path


def test_a_clip_sounds_in_step_with_its_picture_and_is_silent_while_it_rests(clip: Path) -> None:
    source = ClipSource(clip, look_into(clip, "Clip"))
    sound = ClipSound(source.path, source.position_at)
    assert not sound.read(0.0, BLOCK).any()
    source.play()
    heard = []
    for number in range(150):
        now = 50.0 + number * BLOCK_S
        source.picture(now)
        heard.append(sound.read(now - 0.1, BLOCK))
    whole = np.abs(np.concatenate(heard).astype(int))
    begins = [int(np.flatnonzero(whole[start:] > 2000)[0]) + start for start in (RATE // 2, int(1.5 * RATE))]
    assert begins[0] / RATE == pytest.approx(1.1 - SENSOR_S, abs=0.03)  # a tenth of a second behind, as it was read
    assert (begins[1] - begins[0]) / RATE == pytest.approx(1.0, abs=0.01)
    source.pause()
    assert not sound.read(60.0, BLOCK).any()
    sound.close()
    sound.close()
    source.close()


def test_a_clip_steps_back_while_somebody_speaks_and_glides(clip: Path) -> None:
    speaks = False
    sound = ClipSound(clip, lambda moment_s: moment_s)
    sound.ducks = lambda: speaks
    loud = np.abs(sound.read(0.0, BLOCK)).max()
    speaks = True
    sound.read(1.0, BLOCK)
    quiet = np.abs(sound.read(2.0, BLOCK)).max()
    assert 20 * np.log10(loud / quiet) == pytest.approx(9, abs=2)
    sound.close()
