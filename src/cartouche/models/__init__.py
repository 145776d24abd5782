"""The small networks that ship with the product, as plain functions of arrays. How they were taught: training/README.md."""

import os
from collections.abc import Callable
from functools import cache
from pathlib import Path

import numpy as np
import onnxruntime
from numpy.typing import NDArray

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
    _BEFORE = 64  # samples that stand in front of each chunk

    def __init__(self) -> None:
        self._before = np.zeros(self._BEFORE, np.float32)
        self._memory = [np.zeros((1, 1, 128), np.float32)] * 2

    def __call__(self, samples: NDArray[np.int16]) -> NDArray[np.float64]:
        """(n,) int16 at RATE to (n // CHUNK,) chances of speech. All chunks in one call: it costs a tenth of one call for each."""
        whole = samples.size // self.CHUNK
        if not whole:
            return np.zeros(0)
        chunks = samples[: whole * self.CHUNK].reshape(whole, self.CHUNK) / np.float32(np.iinfo(np.int16).max)
        before = np.vstack((self._before, chunks[:-1, -self._BEFORE :]))
        self._before = chunks[-1, -self._BEFORE :]
        hidden, cell = self._memory
        chances, *self._memory = _session("speech").run(None, {"input": np.hstack((before, chunks)), "h": hidden, "c": cell})
        return np.asarray(chances, np.float64)
