"""Light and colour of a straightened page: paper to white and even, ink stays ink.

The light is read off the bare paper only. Paper is grown from the brightest plain spot, over steps small enough to be
light and never over the sharp edge of a printed picture; what is no paper (ink, a photograph, a hand) takes the light
of the paper round it. So a picture on the page keeps its own darkness.
Source: Zhang & He, Whiteboard scanning and image enhancement, Digital Signal Processing 17 (2007), section 4; Land &
McCann, Lightness and retinex theory, JOSA 61 (1971): sharp steps are paint, slow ones light.
"""

from dataclasses import dataclass
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Matrix, Plane, Size, index_matrix, scaling
from cartouche.core.straighten.chain import Chain, ColourLink

GRID = 128  # cells along the longer side: 2 mm of an A4 page, finer than the edge of a lamp's shadow
WHITE = 246.0  # what paper becomes: a little below the end, so that nothing clips and a highlight still shows
MAX_GAIN = 4.0  # a corner darker than a quarter of the light is noise
STEP = 11  # of 32 an octave: light that changes by a fifth from cell to cell has a sharp edge, and so is paint
COLOUR_STEP = 3  # chroma levels from cell to cell: paper in a lamp's warm light next to daylight changes by less
TINT_WITHIN = 0.02  # chroma over luma: a pale print differs from its paper by more
TINT_REACH = (25, 75)  # cells: light's colour changes more slowly than its strength
MIN_NEAR = 0.05  # share of a neighbourhood that is paper: less says little
MIXED_WITHIN = 0.04  # of a lamp's and a window's light on one page
MIN_PAPER = 0.12  # share of cells: less bare paper says nothing about the light
BURNT = 253  # luma at or above it has lost what was there
TOO_BRIGHT_SHARE = 0.2  # of the page: no lamp's highlight is as large; a screen glows there, or the exposure is too long
BURNT_SHARE = 0.004  # of the page: a smaller spot hides no word
DULL = 0.72  # darkest light over brightest: learners notice from here on


SAME_EVENNESS, SAME_SPOT = 0.02, 0.06  # shares: two looks at a page that lies still differ by less
EVEN = 0.72  # darkest over brightest light: less of a slope than this nobody sees on paper
LightVerdict = Literal["too bright", "highlight", "shadow", "even", "nearly even"]


class Tone(NamedTuple):
    """What the page's light is.

    light: (rows, columns) float32, luma of bare paper per cell.  tint: (2, rows, columns) float32, its u and v less 128, over its luma:
    a lamp on one side and a window on the other colour one page twice.
    evenness: darkest over brightest light on the page, 0-1.  shadow: where the darkest part lies, as shares, None when even.
    clipped: share of the page that a highlight has clipped away.  clipped_at: its middle, as shares, or None.
    grain: how much bare paper's brightness varies from spot to spot, over its brightness: noise and the paper's own texture.
    """

    light: NDArray[np.float32]
    tint: NDArray[np.float32]
    evenness: float
    shadow: tuple[float, float] | None
    clipped: float
    clipped_at: tuple[float, float] | None
    grain: float = 0.0

    @property
    def too_bright(self) -> bool:
        return self.clipped >= TOO_BRIGHT_SHARE

    @property
    def verdict(self) -> LightVerdict:
        """The first thing that is to be said of it."""
        if self.too_bright:
            return "too bright"
        if self.clipped_at is not None:
            return "highlight"
        if self.shadow is not None:
            return "shadow"
        return "even" if self.evenness >= EVEN else "nearly even"

    def says_as(self, other: "Tone") -> bool:
        """Whether a teacher is told the same by both, as far as one look can tell."""
        if self.verdict != other.verdict or abs(self.evenness - other.evenness) > SAME_EVENNESS:
            return False
        spots = ((self.shadow, other.shadow), (self.clipped_at, other.clipped_at))
        return all(a is b if a is None or b is None else max(abs(a[0] - b[0]), abs(a[1] - b[1])) <= SAME_SPOT for a, b in spots)


def page_tone(page: Frame) -> Tone | None:
    """The light on a straightened page, margins off. None when too little bare paper is seen to tell."""
    columns, rows = _grid(page)
    luma = _paper_luma(page.y, columns, rows)
    u, v = (np.asarray(cv2.resize(plane, (columns, rows), interpolation=cv2.INTER_AREA), np.uint8) for plane in (page.u, page.v))
    paper = _grown(luma, u, v)
    if paper.mean() < MIN_PAPER:
        return None
    light = _spread(luma.astype(np.float32), paper)
    low, high = (float(value) for value in np.percentile(light, (4, 96)))
    evenness = low / max(high, 1.0)
    at = np.unravel_index(int(cv2.blur(light, (7, 7)).argmin()), light.shape)
    shadow = ((float(at[1]) + 0.5) / columns, (float(at[0]) + 0.5) / rows) if evenness < DULL else None
    return Tone(light, _tint_of(luma, u, v, paper), evenness, shadow, *_clipped(page.y), _grain(page.y, light, paper))


def _grid(page: Frame) -> tuple[int, int]:
    scale = GRID / max(page.size)
    return max(8, round(page.size.width * scale)), max(8, round(page.size.height * scale))


def _paper_luma(luma: Plane, columns: int, rows: int) -> Plane:
    """Brightness of the paper within each cell: the bright side of a small neighbourhood, so that ink does not darken it."""
    fine = cv2.resize(luma, (columns * 4, rows * 4), interpolation=cv2.INTER_AREA)
    bright = cv2.morphologyEx(
        cv2.blur(fine, (2, 2)), cv2.MORPH_CLOSE, np.ones((7, 7), np.uint8)
    )  # closed: a shadow's edge stays where it is
    return cv2.resize(bright, (columns, rows), interpolation=cv2.INTER_AREA)  # type: ignore[return-value]


def _grown(luma: Plane, u: Plane, v: Plane) -> NDArray[np.bool_]:
    """Cells of bare paper: grown from the brightest plain one, neighbour by neighbour."""
    level = np.clip(np.log2(np.maximum(luma, 1).astype(np.float32)) * 32, 0, 255)
    slow = cv2.merge([level.astype(np.uint8), u, v])
    mask = np.zeros((luma.shape[0] + 2, luma.shape[1] + 2), np.uint8)
    best = np.zeros(luma.shape, bool)
    for seed in _seeds(luma, u, v):
        if mask[seed[1] + 1, seed[0] + 1]:
            continue
        before = mask.copy()
        step = (STEP, COLOUR_STEP, COLOUR_STEP)
        cv2.floodFill(slow.copy(), mask, seed, 0, step, step, 4 | cv2.FLOODFILL_MASK_ONLY | (1 << 8))
        part = (mask[1:-1, 1:-1] > 0) & (before[1:-1, 1:-1] == 0)
        if part.sum() > 0.06 * part.size and (not best.any() or _could_be_paper(part, best, luma, u, v)):
            best |= part
    return best & _of_one_tint(best, luma, u, v) if best.any() else best


def _of_one_tint(paper: NDArray[np.bool_], luma: Plane, u: Plane, v: Plane) -> NDArray[np.bool_]:
    """Cells whose colour is that of the paper round them: chroma over luma, which light leaves as it is and lamps change slowly."""
    full = luma >= WHITE  # overexposed: its colour has gone
    judged = paper & ~full if (paper & ~full).any() else paper
    tints = _tinted(luma, u, v)
    off = np.abs(tints - np.median(tints[:, judged], axis=1)[:, None, None]).max(axis=0)
    sure = judged & (off < TINT_WITHIN)
    if not sure.any():
        return full
    near = np.abs(tints - _tint_of(luma, u, v, sure)).max(axis=0) < TINT_WITHIN  # light may change on from there, skin is farther off
    return np.asarray((near & (off < MIXED_WITHIN)) | full)


def _tinted(luma: Plane, u: Plane, v: Plane) -> NDArray[np.float32]:
    return np.stack([cv2.blur((plane.astype(np.float32) - 128) / np.maximum(luma, 16), (3, 3)) for plane in (u, v)])


def _tint_of(luma: Plane, u: Plane, v: Plane, paper: NDArray[np.bool_]) -> NDArray[np.float32]:
    """The paper's tint at every cell, (2, rows, columns): its own neighbourhood's, or far from any paper the whole page's."""
    weight, tints = paper.astype(np.float32), _tinted(luma, u, v)
    near, far = (cv2.stackBlur(weight, (size, size)) for size in TINT_REACH)
    fields = []
    for tint in tints:
        whole = float(np.median(tint[paper]))
        spread = [cv2.stackBlur((tint - whole) * weight, (size, size)) for size in TINT_REACH]
        wide = spread[1] / np.maximum(far, MIN_NEAR)
        fields.append(whole + (spread[0] + MIN_NEAR * wide) / (near + MIN_NEAR))
    return np.asarray(np.stack(fields), np.float32)


def _seeds(luma: Plane, u: Plane, v: Plane) -> list[tuple[int, int]]:
    """Bright, plain cells all over the page, the brightest first."""
    plain = cv2.absdiff(cv2.dilate(luma, np.ones((3, 3), np.uint8)), cv2.erode(luma, np.ones((3, 3), np.uint8)))
    colour = np.abs(u.astype(np.int16) - 128) + np.abs(v.astype(np.int16) - 128)
    worth = luma.astype(np.int16) - 2 * plain - 2 * colour
    seeds = []
    rows, columns = luma.shape
    for y0 in range(0, rows, max(1, rows // 4)):
        for x0 in range(0, columns, max(1, columns // 4)):
            part = worth[y0 : y0 + rows // 4, x0 : x0 + columns // 4]
            y, x = np.unravel_index(int(part.argmax()), part.shape)
            seeds.append((int(part.max()), x0 + int(x), y0 + int(y)))
    return [(x, y) for _, x, y in sorted(seeds, reverse=True)]


def _could_be_paper(part: NDArray[np.bool_], paper: NDArray[np.bool_], luma: Plane, u: Plane, v: Plane) -> bool:
    """Paper beyond a hard shadow: of the paper's own colour, as plain, and not darker than a shadow makes it."""
    dark = float(np.median(luma[part])) / max(float(np.median(luma[paper])), 1.0)
    off = max(abs(float(np.median(plane[part])) - float(np.median(plane[paper]))) for plane in (u, v))
    rough = float(cv2.Laplacian(luma, cv2.CV_32F)[part].std()) / max(float(np.median(luma[part])), 1.0)
    return dark > 0.4 and off < COLOUR_STEP * 2 and rough < 0.03 and part.sum() > 0.12 * part.size


def _spread(luma: NDArray[np.float32], paper: NDArray[np.bool_]) -> NDArray[np.float32]:
    """Light at every cell: the paper's own where it is bare, else from the nearest paper, smoothly (normalised convolution)."""
    bare = cv2.erode(paper.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(np.float32)
    bare = bare if bare.sum() > 0.3 * paper.sum() else paper.astype(np.float32)
    light, known = np.zeros(luma.shape, np.float64), np.zeros(luma.shape, np.float64)
    for size in (0.8, 2.5, 10.0, 40.0):
        weight = cv2.GaussianBlur(bare, (0, 0), size)
        value = cv2.GaussianBlur(luma * bare, (0, 0), size) / np.maximum(weight, 1e-6)
        trust = np.clip(weight * 5, 0, 1) * (1 - known) if size < 40 else 1 - known
        light, known = light + trust * value, known + trust
    return np.asarray(cv2.GaussianBlur(light, (0, 0), 0.6), np.float32)


def _clipped(luma: Plane) -> tuple[float, tuple[float, float] | None]:
    """Share of the page and middle of the largest spot that a highlight has clipped to pure white."""
    small = cv2.resize(luma, (96, 96), interpolation=cv2.INTER_AREA)
    _, mask = cv2.threshold(small, BURNT - 1, 255, cv2.THRESH_BINARY)
    count, _, stats, middles = cv2.connectedComponentsWithStats(mask)
    if count < 2:
        return 0.0, None
    largest = 1 + int(stats[1:, 4].argmax())
    share = float(stats[largest, 4]) / mask.size
    if share < BURNT_SHARE:
        return 0.0, None
    x, y = middles[largest]
    return share, ((float(x) + 0.5) / 96, (float(y) + 0.5) / 96)


def _grain(luma: Plane, light: NDArray[np.float32], paper: NDArray[np.bool_]) -> float:
    """Of the plainest third of the paper: there is print elsewhere. Every fourth pixel, not averaged: that would hide it."""
    spots = np.ascontiguousarray(luma[::4, ::4])
    size = spots.shape[::-1]
    even = spots / np.maximum(cv2.resize(light, size, interpolation=cv2.INTER_LINEAR), 1.0)
    mean = cv2.blur(even, (5, 5))
    spread = np.maximum(cv2.blur(even * even, (5, 5)) - mean * mean, 0)
    bare = cv2.resize(paper.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST) > 0
    return float(np.sqrt(np.percentile(spread[bare], 33)))


@dataclass(frozen=True, eq=False)
class Correction:
    """What tone does to a place, at the place's own size: worked out when the light is measured anew, not per picture.

    gain: (h, w) float32 over luma.  table: 256 values after it, or None.  tint: (2, h / 2, w / 2) float32, paper's u and v over its luma.
    """

    gain: NDArray[np.float32] | None
    table: NDArray[np.uint8] | None
    tint: NDArray[np.float32] | None


GRAINS = 7.0  # paper is what lies within so many of its grain below white
MIN_SHOULDER, MAX_SHOULDER = 0.06, 0.2  # of white: even smooth paper has a fold; beyond, pale print would go


def white_table(lift: float = 1.0, grain: float = MAX_SHOULDER / GRAINS) -> NDArray[np.uint8]:
    """After the light is even: paper and its grain to white, ink a little deeper, a smooth shoulder between (no veil, no halo).

    grain: see `Tone`. The smoother the paper, the paler the print that stays: small print that blur has left grey is not bleached.
    """
    x = np.arange(256, dtype=np.float32) / WHITE
    knee = 1 - np.clip(GRAINS * grain, MIN_SHOULDER, MAX_SHOULDER)
    rising = np.clip((x - knee) / (0.85 * (1 - knee)), 0, 1)
    lifted = np.where(x > knee, knee + (1 - knee) * np.sin(rising * np.pi / 2), x)
    deeper = np.clip((lifted - 0.03) / 0.97, 0, 1)
    return np.clip(np.round(255 * (lift * deeper + (1 - lift) * np.clip(x * WHITE / 255, 0, 1))), 0, 255).astype(np.uint8)


def correction(tone: Tone, chain: Chain, to_canvas: Matrix, canvas: Size, size: tuple[int, int]) -> Correction:
    """The chain's light and colour links on one place. to_canvas: box px -> canvas units, (3, 3).  size: of the box, px, even."""
    onto = scaling(tone.light.shape[1] / canvas.width, tone.light.shape[0] / canvas.height) @ to_canvas
    tint = _tint(tone, chain.colour)
    if tint is not None:
        half = (size[0] // 2, size[1] // 2)
        tint = np.stack([_laid(field, onto @ scaling(2.0, 2.0), half) for field in tint])
    if not chain.light.on:
        return Correction(None, None, tint)
    lift = chain.light.lift
    gain = np.clip(WHITE / np.maximum(tone.light, 1.0), 1 / MAX_GAIN, MAX_GAIN)
    gain = 1 + lift * (gain - 1)
    return Correction(_laid(np.asarray(gain, np.float32), onto, size), white_table(lift, tone.grain), tint)


def _laid(field: NDArray[np.float32], onto: Matrix, size: tuple[int, int]) -> NDArray[np.float32]:
    """A field of the page's cells as it lies in a place. onto: place px -> cells."""
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    return np.asarray(cv2.warpPerspective(field, index_matrix(onto), size, flags=flags, borderMode=cv2.BORDER_REPLICATE), np.float32)


WARMEST, MAX_TINTED = 0.16, 0.12  # chroma over luma at the ends of the sliders: candle to blue sky


def _tint(tone: Tone, link: ColourLink) -> NDArray[np.float32] | None:
    if not link.on:
        return None
    if link.set == "auto":
        return tone.tint
    green = MAX_TINTED * link.tint
    by_hand = np.array([WARMEST * link.warmth + green, -WARMEST * link.warmth + green], np.float32)
    return np.broadcast_to(by_hand[:, None, None], tone.tint.shape).copy() if np.abs(by_hand).sum() > 0.004 else None


def apply_tone(planes: tuple[Plane, Plane, Plane], correction: Correction) -> None:
    """In place, on one place's own planes: one gain, one table; chroma loses the paper's tint in proportion to its luma.

    planes: (h, w), (h/2, w/2), (h/2, w/2) uint8, full range.
    """
    y, u, v = planes
    if correction.gain is not None:
        cv2.multiply(y, correction.gain, dst=y, dtype=cv2.CV_8U)
        if correction.table is not None:
            cv2.LUT(y, correction.table, dst=y)
    if correction.tint is not None:
        half = cv2.resize(y, (u.shape[1], u.shape[0]), interpolation=cv2.INTER_LINEAR)
        for plane, tint in zip((u, v), correction.tint, strict=True):
            cv2.subtract(plane, cv2.multiply(half, tint, dtype=cv2.CV_32F), dst=plane, dtype=cv2.CV_8U)
