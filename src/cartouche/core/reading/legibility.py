"""The smallest print an audience can read, from pixels per millimetre on the page to the learner's eye."""

import math
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.call.audience import Audience, Layer
from cartouche.core.pictures import Size

MM_PER_POINT = 25.4 / 72  # ISO 216 papers, desktop-publishing point
X_HEIGHT_PER_EM = 0.5  # text faces in school use lie between 0.45 and 0.53
CYCLES_PER_X_HEIGHT = 4 / 3  # letters are told apart; two would let one read at full speed (Legge et al. 1985)
KELL_FACTOR = 0.7  # where a sensor or a codec samples, a picture shows 0.7 of the detail its sample count promises (Hsu 1986)
FILTERED_FACTOR = 0.92  # where it is shrunk by area, nearly all of it
USUAL_PRINT_PT = 12.0  # body print of a school sheet; a picture that loses it needs the teacher's attention
READABLE_ANGLE_DEG = (
    0.125  # x-height at the eye: half as large again as the acuity limit of 5 arcmin, enough to read on (Whittaker & Lovie-Kitchin 1993)
)

SAMPLES_PER_X_HEIGHT = 2 * CYCLES_PER_X_HEIGHT / KELL_FACTOR  # 3.8 px, in the camera and in the call
FLUENT_PER_X_HEIGHT = 4 / KELL_FACTOR  # 5.7 px: two cycles a character, what one chooses a camera's size by
FILTERED_PER_X_HEIGHT = 2 * CYCLES_PER_X_HEIGHT / FILTERED_FACTOR  # 2.9 px, on the outgoing picture and on the screen


class Print(NamedTuple):
    """points: smallest print that can be read.  limit: what sets it ('camera', 'outgoing', 'call', 'tile', 'eye')."""

    points: float
    limit: str

    @property
    def whole_points(self) -> int:
        """The smallest whole size that reads: type comes in whole points, and rounding down would promise too much."""
        return math.ceil(self.points - 0.05)

    @property
    def holds_usual_print(self) -> bool:
        return self.whole_points <= USUAL_PRINT_PT


def points_for_x_height(x_height_mm: float) -> float:
    """Type size in points whose x-height is this many millimetres on the page."""
    return x_height_mm / X_HEIGHT_PER_EM / MM_PER_POINT


def smallest_print(
    feed_px_per_mm: NDArray[np.float64], outgoing_px_per_mm: NDArray[np.float64], outgoing: Size, layer: Layer, audience: Audience
) -> Print:
    """Smallest type, in points, that this audience can read on anywhere on the visible page.

    feed_px_per_mm, outgoing_px_per_mm: (n,) px of the raw feed and of the outgoing picture per mm of page, at the
    same n spots of the page, each in its worst direction.  outgoing: px.
    Two rules, the harder one holds: at every stage the x-height has enough pixels (cycles a character, Nyquist, Kell:
    SAMPLES_ and FILTERED_PER_X_HEIGHT), and at the eye it subtends READABLE_ANGLE_DEG. benchmarks/legibility.py holds the
    first against what a recogniser reads.
    Sources: Legge, Pelli, Rubin & Schleske, Psychophysics of reading I, Vision Research 25 (1985); Whittaker &
    Lovie-Kitchin, Visual requirements for reading, Optometry and Vision Science 70 (1993); Hsu, The Kell factor, SMPTE J. 95 (1986).
    Raises ValueError when there is no spot or a density is not positive.
    """
    if feed_px_per_mm.size == 0 or min(feed_px_per_mm.min(), outgoing_px_per_mm.min()) <= 0:
        raise ValueError("pixels per millimetre: wanted at least one, all above nought")
    in_call = outgoing_px_per_mm * min(1.0, layer.width / outgoing.width, layer.height / outgoing.height)
    shown = outgoing_px_per_mm * min(audience.tile_width_px / outgoing.width, audience.tile_height_px / outgoing.height)
    angle_mm = 2 * audience.distance_mm * np.tan(np.radians(READABLE_ANGLE_DEG) / 2)
    stages = (
        ("camera", SAMPLES_PER_X_HEIGHT / feed_px_per_mm),
        ("outgoing", FILTERED_PER_X_HEIGHT / outgoing_px_per_mm),
        ("call", SAMPLES_PER_X_HEIGHT / in_call),
        ("tile", FILTERED_PER_X_HEIGHT / shown),
        ("eye", angle_mm * audience.screen_px_per_mm / shown),
    )
    worst = _worst((name, float(needed.max())) for name, needed in stages)
    return Print(points_for_x_height(worst[1]), worst[0])


def _worst(stages: Iterable[tuple[str, float]]) -> tuple[str, float]:
    return max(stages, key=lambda stage: stage[1])
