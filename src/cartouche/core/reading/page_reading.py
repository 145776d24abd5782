"""What a look at the straightened page itself says: which way round it stands, and how small its print is."""

from typing import NamedTuple

import numpy as np

from cartouche.core.pictures import Plane
from cartouche.core.reading.legibility import points_for_x_height
from cartouche.core.reading.proof import MIN_PRINT, Net, Proof, proof_of, windows
from cartouche.core.reading.text_lines import TextLine, find_lines, ink_map

PRINT_PT = (3.5, 60.0)  # smaller is specks, larger is a heading on a poster
SMALLEST_SHARE = 0.12  # of all printed length: a single small word does not decide what a page asks for
SAME_SIZE, SAME_SURE = 0.04, 0.03  # of its size, of what is sure: two looks at a page that lies still differ by less


class PageReading(NamedTuple):
    """proof: see `proof`.  smallest_pt, usual_pt: print measured on the page, None without print or without a paper's name.
    step_mm: from line to line.  lines: how many lines of print were seen."""

    proof: Proof
    smallest_pt: float | None
    usual_pt: float | None
    step_mm: float | None
    lines: int

    def says_as(self, other: "PageReading") -> bool:
        """Whether a teacher is told the same by both, as far as one look can tell."""
        mine, its = self.proof, other.proof
        if self._tells() != other._tells():
            return False
        sizes = ((self.smallest_pt, other.smallest_pt), (self.usual_pt, other.usual_pt))
        return abs(mine.confidence - its.confidence) < SAME_SURE and all(_same_size(a, b) for a, b in sizes)

    def _tells(self) -> tuple[object, ...]:
        proof = self.proof
        return proof.reads_true, proof.quarters if proof.reads_true is not None else 0, proof.windows >= MIN_PRINT, self.step_mm is None


def read_page(luma: Plane, mm_per_px: float | None, net: Net, camera_px: float = 1.0) -> PageReading:
    """One look. luma: (h, w) uint8 of the straightened page.  mm_per_px: None while no paper is named.  camera_px: see `proof_of`."""
    ink = ink_map(luma)
    lines = find_lines(ink)
    proof = proof_of(windows(ink, lines), net, camera_px)
    if mm_per_px is None or proof.windows < 1:
        return PageReading(proof, None, None, None, len(lines))
    sizes = _sizes([line for line in lines if not line.vertical or proof.quarters % 2], mm_per_px)
    return PageReading(proof, *sizes, _step_mm(lines, mm_per_px), len(lines))


def _same_size(a: float | None, b: float | None) -> bool:
    return a is b if a is None or b is None else abs(a - b) <= SAME_SIZE * max(a, b)


def _sizes(lines: list[TextLine], mm_per_px: float) -> tuple[float | None, float | None]:
    """Smallest and usual print, points, each weighed by the length it runs for."""
    sizes = [(points_for_x_height(line.x_height_px * mm_per_px), _length(line)) for line in lines if line.letters >= 4]
    sizes = sorted((points, length) for points, length in sizes if PRINT_PT[0] <= points <= PRINT_PT[1])
    if not sizes:
        return None, None
    points, length = (np.array(values, np.float64) for values in zip(*sizes, strict=True))
    share = np.cumsum(length) / length.sum()
    return float(points[int(np.searchsorted(share, SMALLEST_SHARE))]), float(points[int(np.searchsorted(share, 0.5))])


def _length(line: TextLine) -> int:
    x0, y0, x1, y1 = line.box
    return y1 - y0 if line.vertical else x1 - x0


def _step_mm(lines: list[TextLine], mm_per_px: float) -> float | None:
    """The usual distance from one line to the next, mm."""
    middles = np.array(sorted({round((line.body[0] + line.body[1]) / 2) for line in lines}))
    heights = [line.x_height_px for line in lines]
    if len(middles) < 3:
        return None
    gaps = np.diff(middles)
    usual = gaps[(gaps > 1.2 * float(np.median(heights))) & (gaps < 8 * float(np.median(heights)))]
    return float(np.median(usual)) * mm_per_px if len(usual) else None
