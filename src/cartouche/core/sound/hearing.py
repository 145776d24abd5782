"""What a microphone gives, in words: from five seconds of it and from whether a voice is in them."""

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.loudness import RATE, gated_lufs, lufs, peak_db, powers

Kind = Literal["well", "too quiet", "too loud", "noise", "noisy", "hum", "nothing", "no voice"]

WINDOW_S = 5.0
ENOUGH_S = 1.5  # with less nothing is said
QUICK_S = 2.0
QUICK: tuple[Kind, ...] = ("too loud", "hum", "too quiet")  # so short a time tells these for sure
GAP = RATE // 50  # 20 ms: the gaps within words, where noise shows though nobody pauses (minimum statistics: R. Martin, 2001)
GAPS_SHARE = 0.03  # of them, the quietest
QUICK_NOISY_LU = 9.0  # between voice and gaps: a clear voice has 35, in a room that rings for 0.6 s still 10.6
RISES_LU = 10.0  # what set in just now stands so far above what was there before
SWITCHED_OFF_S = 1.0  # of zeros exactly: no microphone that is on gives them
CLIPPED_SHARE = 0.0004  # of all samples, in runs at one extreme
CLIPPED_RUN = 3
VOICE_SHARE = 0.12  # of the window
VOICE_SURE = 0.5
TOO_QUIET_LUFS, TOO_LOUD_LUFS = -42.0, -9.0  # a call's own gain reaches about 20 LU to either side of its -23
NOISY_LU = 12.0  # between voice and what is there without it (speech in noise: ANSI S3.5 puts half the words at 0, nearly all at 12)
SILENT_LUFS = -62.0
HUM_DB = 10.0  # of the mains' overtones above what is beside them
HUM_LUFS = -58.0
MAINS_HZ = (50.0, 60.0)
HUM_RATE = 1000  # samples a second: the sixth overtone of 60 Hz and 20 Hz beside it lie below its half
_TAPS = 8 * RATE // HUM_RATE + 1
_LOW_PASS = (np.sinc((np.arange(_TAPS) - _TAPS // 2) * 0.9 * HUM_RATE / RATE) * np.hamming(_TAPS)).astype(np.float32)


class Hearing(NamedTuple):
    """loudness: LUFS, of the voice where there is one.  peak: dBFS.  floor: LUFS of the quietest tenth.  clipped: share of samples.

    voice: share of the time, 0-1.  hum_hz: of the mains that is heard, None for none.
    """

    kind: Kind
    says: str
    loudness: float
    peak: float
    floor: float
    clipped: float
    voice: float
    hum_hz: float | None


_SAYS: dict[Kind, str] = {
    "well": "Your voice comes in well.",
    "too quiet": "Your voice comes in too quiet. Come closer to this microphone, or raise its level.",
    "too loud": "Your voice is too loud and clipped. Lower this microphone's level, or move back a little.",
    "noise": "Only noise comes in. Speak, or look for what makes it: a fan, an open window, the desk.",
    "noisy": "Your voice comes in with much noise. Come closer to this microphone, or try another.",
    "hum": "It hums. Plug the computer into another socket, or pull its charger out for a moment.",
    "nothing": "Nothing at all comes in: it is switched off or muted on the device itself.",
    "no voice": "It is open, and nobody speaks. Say a sentence.",
}


def hearing(samples: NDArray[np.int16], voice: NDArray[np.float64]) -> Hearing | None:
    """samples: (n,) mono at RATE, the newest WINDOW_S or less.  voice: (m,) chances of speech, evenly over the samples.

    What went well until now and does not any more is told by the newest QUICK_S alone, where they can tell.
    None where there is too little to say anything.
    """
    if samples.size < ENOUGH_S * RATE:
        return None
    whole = _judged(samples, voice)
    quick = int(QUICK_S * RATE)
    if whole.kind != "well" or samples.size <= quick:
        return whole
    newest = _judged(samples[-quick:], voice[-max(1, round(voice.size * quick / samples.size)) :])
    if newest.kind in QUICK:
        return newest
    noise = _noise_now(newest, gaps_lufs(samples[-quick:]), gaps_lufs(samples[:-quick]))
    return newest._replace(kind=noise, says=_SAYS[noise]) if noise is not None else whole


def _noise_now(newest: Hearing, gaps: float, before: float) -> Kind | None:
    """Noise that fills the gaps of a voice, or has set in where nobody speaks; a pause in a room as loud as ever is neither."""
    if newest.voice >= VOICE_SHARE:
        return "noisy" if newest.loudness - gaps < QUICK_NOISY_LU else None
    return "noise" if gaps > max(SILENT_LUFS, before + RISES_LU) else None


def gaps_lufs(samples: NDArray[np.int16]) -> float:
    """LUFS of the quietest few of its 20 ms pieces; SILENCE_LUFS of none."""
    parts = np.sort(powers(samples, GAP))
    return lufs(float(parts[int(GAPS_SHARE * parts.size)])) if parts.size else lufs(0.0)


def _judged(samples: NDArray[np.int16], voice: NDArray[np.float64]) -> Hearing:
    parts = powers(samples)
    floor = lufs(float(np.sort(parts)[: max(1, parts.size // 10)].mean()))
    speaks = (
        np.interp(np.arange(parts.size) + 0.5, (np.arange(voice.size) + 0.5) * parts.size / max(voice.size, 1), voice)
        if voice.size
        else parts * 0
    )
    spoken = parts[speaks > VOICE_SURE]
    share = float((voice > VOICE_SURE).mean()) if voice.size else 0.0
    loudness = lufs(float(spoken.mean())) if spoken.size else gated_lufs(parts)
    clipped, hum = clipped_share(samples), hum_hz(samples)
    kind = _kind(samples, share, loudness, floor, clipped, hum)
    return Hearing(kind, _SAYS[kind], loudness, peak_db(samples), floor, clipped, share, hum)


def _kind(samples: NDArray[np.int16], share: float, loudness: float, floor: float, clipped: float, hum: float | None) -> Kind:
    if longest_zeros(samples) >= SWITCHED_OFF_S * RATE:
        return "nothing"
    if clipped > CLIPPED_SHARE:
        return "too loud"
    if share < VOICE_SHARE:
        if hum is not None and floor > HUM_LUFS:
            return "hum"
        return "no voice" if floor < SILENT_LUFS else "noise"
    if hum is not None and floor > HUM_LUFS and loudness - floor < 2 * NOISY_LU:
        return "hum"
    if loudness < TOO_QUIET_LUFS:
        return "too quiet"
    if loudness > TOO_LOUD_LUFS:
        return "too loud"
    return "noisy" if loudness - floor < NOISY_LU else "well"


def longest_zeros(samples: NDArray[np.int16]) -> int:
    """Length of the longest run of exact zeros."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], samples == 0, [False])).astype(np.int8)))
    return int((edges[1::2] - edges[::2]).max()) if edges.size else 0


def clipped_share(samples: NDArray[np.int16]) -> float:
    """Share of samples in runs of CLIPPED_RUN and more at the window's own extreme: found after a later attenuation too.

    0 where they are too few for a verdict.
    """
    if samples.size < CLIPPED_RUN or not samples.any():
        return 0.0
    at_end = (samples == samples.max()) | (samples == samples.min())
    if np.count_nonzero(at_end) <= CLIPPED_SHARE * samples.size:  # too few for any verdict
        return 0.0
    run = np.convolve(at_end, np.ones(CLIPPED_RUN), "valid") >= CLIPPED_RUN
    return float(np.count_nonzero(run)) / samples.size


def hum_hz(samples: NDArray[np.int16]) -> float | None:
    """The mains whose overtones stand out: three of the first six above their neighbourhood by HUM_DB, over the whole window."""
    if samples.size < RATE:
        return None
    slow = np.lib.stride_tricks.sliding_window_view(samples.astype(np.float32), _TAPS)[:: RATE // HUM_RATE] @ _LOW_PASS
    spectrum = np.abs(np.fft.rfft(slow * np.hanning(slow.size))) ** 2
    step = HUM_RATE / slow.size
    for mains in MAINS_HZ:
        out = 0
        for overtone in range(1, 7):
            at = mains * overtone / step
            here = spectrum[max(0, round(at - 1.5 / step)) : round(at + 1.5 / step) + 1].max()
            beside = np.median(spectrum[max(1, round(at - 20 / step)) : round(at + 20 / step)])
            out += 10 * np.log10((here + 1e-9) / (beside * (1.5 / step) + 1e-9)) > HUM_DB
        if out >= 3:
            return mains
    return None
