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
CYCLES_PER_X_HEIGHT = 2.0  # reading is at full speed from two cycles a character (Legge et al. 1985)
KELL_FACTOR = 0.7  # a sampled picture shows 0.7 of the detail its sample count promises (Kell et al. 1934; Hsu 1986)
USUAL_PRINT_PT = 12.0  # body print of a school sheet; a picture that loses it needs the teacher's attention
CRITICAL_ANGLE_DEG = 0.2  # below this x-height reading slows even when every detail is there (Legge & Bigelow 2011)

SAMPLES_PER_X_HEIGHT = 2 * CYCLES_PER_X_HEIGHT / KELL_FACTOR  # 5.7 px


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
    """Smallest type, in points, that this audience reads without slowing down anywhere on the visible page.

    feed_px_per_mm, outgoing_px_per_mm: (n,) px of the raw feed and of the outgoing picture per mm of page, at the
    same n spots of the page, each in its worst direction.  outgoing: px.
    Two rules, the harder one holds: at every stage the x-height has SAMPLES_PER_X_HEIGHT pixels (two cycles a
    character, Nyquist, Kell), and at the eye it subtends CRITICAL_ANGLE_DEG.
    Sources: Legge, Pelli, Rubin & Schleske, Psychophysics of reading I, Vision Research 25 (1985); Legge & Bigelow,
    Does print size matter for reading?, Journal of Vision 11(5):8 (2011); Hsu, The Kell factor, SMPTE J. 95 (1986).
    Raises ValueError when there is no spot or a density is not positive.
    """
    if feed_px_per_mm.size == 0 or min(feed_px_per_mm.min(), outgoing_px_per_mm.min()) <= 0:
        raise ValueError("pixels per millimetre: wanted at least one, all above nought")
    in_call = outgoing_px_per_mm * min(1.0, layer.width / outgoing.width, layer.height / outgoing.height)
    shown = outgoing_px_per_mm * min(audience.tile_width_px / outgoing.width, audience.tile_height_px / outgoing.height)
    angle_mm = 2 * audience.distance_mm * np.tan(np.radians(CRITICAL_ANGLE_DEG) / 2)
    stages = (
        ("camera", SAMPLES_PER_X_HEIGHT / feed_px_per_mm),
        ("outgoing", SAMPLES_PER_X_HEIGHT / outgoing_px_per_mm),
        ("call", SAMPLES_PER_X_HEIGHT / in_call),
        ("tile", SAMPLES_PER_X_HEIGHT / shown),
        ("eye", angle_mm * audience.screen_px_per_mm / shown),
    )
    worst = _worst((name, float(needed.max())) for name, needed in stages)
    return Print(points_for_x_height(worst[1]), worst[0])


def _worst(stages: Iterable[tuple[str, float]]) -> tuple[str, float]:
    return max(stages, key=lambda stage: stage[1])
