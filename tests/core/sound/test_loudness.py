"""Loudness against the standard's own case and against FFmpeg's meter."""

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from cartouche.bench.microphones import CASES, microphone
from cartouche.core.sound.loudness import RATE, SILENCE_LUFS, integrated_lufs, peak_db, powers

WITHIN_LU = 0.1


def by_ffmpeg(samples: NDArray[np.int16]) -> float:
    graph = av.filter.Graph()
    source = graph.add_abuffer(format="s16", sample_rate=RATE, layout="mono")
    meter, sink = graph.add("ebur128", "metadata=1"), graph.add("abuffersink")
    source.link_to(meter)
    meter.link_to(sink)
    graph.configure()
    told = SILENCE_LUFS
    for at in range(0, samples.size - 4799, 4800):
        frame = av.AudioFrame.from_ndarray(samples[None, at : at + 4800], "s16", "mono")
        frame.sample_rate, frame.pts = RATE, at
        graph.push(frame)
        while True:
            try:
                told = float(graph.pull().metadata["lavfi.r128.I"])
            except (BlockingIOError, EOFError, av.FFmpegError):
                break
    return told


def test_a_sine_of_full_scale_is_at_minus_three() -> None:
    """BS.1770-5, section 1: 0 dBFS at 997 Hz in one channel reads -3.01 LUFS."""
    sine = np.sin(2 * np.pi * 997 * np.arange(5 * RATE) / RATE)
    assert integrated_lufs(sine) == pytest.approx(-3.01, abs=0.05)
    assert peak_db(sine) == pytest.approx(0, abs=0.01)


@pytest.mark.parametrize("case", [case for case in CASES if case not in ("muted on the device", "quiet room")])
def test_it_agrees_with_another_meter(case: str) -> None:
    samples = microphone(case, 8.0, 5)  # type: ignore[arg-type]
    assert integrated_lufs(samples) == pytest.approx(by_ffmpeg(samples), abs=WITHIN_LU)


def test_silence_and_too_little_have_no_loudness() -> None:
    assert integrated_lufs(np.zeros(RATE, np.int16)) == SILENCE_LUFS
    assert integrated_lufs(np.zeros(10, np.int16)) == SILENCE_LUFS
    assert peak_db(np.zeros(0, np.int16)) == SILENCE_LUFS
    assert powers(np.zeros(100, np.int16)).size == 0
