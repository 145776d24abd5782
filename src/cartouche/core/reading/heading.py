"""What a recogniser of print read on a page: which of it is words, and which line is the page's heading."""

import re
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

MIN_SURE = 0.7  # below it, a drawing was taken for print
LARGER = 1.2  # than the page's usual print: a heading
WITHIN = 0.5  # of the page's height: a heading stands above what it heads
TITLE_CHARS = (4, 60)
_WORD = re.compile(r"[^\W\d_]{3,}")


class ReadLine(NamedTuple):
    """sure: 0-1.  high: px, of its letters.  top: px from the page's upper edge."""

    text: str
    sure: float
    high: float
    top: float


def readable(lines: Sequence[ReadLine]) -> list[ReadLine]:
    """Those that are words: squared paper and borders are read as rows of strokes."""
    return [line for line in lines if line.sure >= MIN_SURE and _WORD.search(line.text)]


def words(lines: Sequence[ReadLine]) -> str:
    """All that can be read, line by line."""
    return "\n".join(_tidy(line.text) for line in readable(lines))


def heading(lines: Sequence[ReadLine], page_height: float) -> str:
    """The largest line in the page's upper half, where it is larger than the usual print; '' where there is none."""
    found = readable(lines)
    upper = [line for line in found if line.top < WITHIN * page_height]
    if not upper:
        return ""
    best = max(upper, key=lambda line: line.high)
    usual = float(np.median([line.high for line in found if line is not best] or [0.0]))
    text = _tidy(best.text)
    if best.high < LARGER * usual or not TITLE_CHARS[0] <= len(text) <= TITLE_CHARS[1]:
        return ""
    return text


def _tidy(text: str) -> str:
    return " ".join(text.split()).strip(" -|_·:;,")
