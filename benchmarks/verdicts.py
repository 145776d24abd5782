"""What microphones of the bench give, in words, against what they are: 30 and more of them, three seeds each, both mains."""

import json
import sys
import time

import av
import numpy as np

from cartouche.bench.microphones import CASES, TRUTH, microphone
from cartouche.core.sound.hearing import hearing
from cartouche.core.sound.loudness import RATE
from cartouche.models import SpeechNet


def spoken(samples: np.ndarray) -> np.ndarray:
    """Chances of speech, as the running program has them."""
    resampler = av.AudioResampler("s16", "mono", SpeechNet.RATE)
    frame = av.AudioFrame.from_ndarray(samples[None, :], "s16", "mono")
    frame.sample_rate = RATE
    parts = [piece.to_ndarray().ravel() for piece in (*resampler.resample(frame), *resampler.resample(None))]
    return SpeechNet()(np.concatenate(parts))


def main(seeds: int = 6) -> dict[str, object]:
    right, wrong, took = 0, [], []
    for seed in range(seeds):
        for case in CASES:
            samples = microphone(case, 5.0, 100 + seed, 50.0 if seed % 2 else 60.0)
            voice = spoken(samples)
            begun = time.perf_counter()
            told = hearing(samples, voice)
            took.append(time.perf_counter() - begun)
            if told is not None and told.kind == TRUTH[case]:
                right += 1
            else:
                wrong.append(f"{case} ({seed}): {told}")
    for one in wrong:
        print(one, file=sys.stderr)
    count = seeds * len(CASES)
    return {
        "microphones": count,
        "right": round(right / count, 3),
        "wrong": len(wrong),
        "judge_ms": round(1000 * float(np.median(took)), 1),
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
