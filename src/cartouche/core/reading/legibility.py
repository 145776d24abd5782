"""The smallest print an audience can read, from pixels per millimetre on the page to the learner's eye."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.call.audience import Audience
from cartouche.core.pictures import Size

MM_PER_POINT = 25.4 / 72  # ISO 216 papers, desktop-publishing point
X_HEIGHT_PER_EM = 0.5  # text faces in school use lie between 0.45 and 0.53
SAMPLED_PX = 3.1  # px per x-height a camera or a codec alone would need; 4/3 cycles a letter (Legge et al. 1985) ask for 2.7 at least
FILTERED_PX = 1.5  # the same where a picture is resized with a filter: on the outgoing picture and on the screen
KELL_FACTOR = 0.7  # where a sensor samples, a picture shows 0.7 of the detail its sample count promises (Hsu 1986)
USUAL_PRINT_PT = 12.0  # body print of a school sheet; a picture that loses it needs the teacher's attention
READABLE_ANGLE_DEG = (
    0.125  # x-height at the eye: half as large again as the acuity limit of 5 arcmin, enough to read on (Whittaker & Lovie-Kitchin 1993)
)

FLUENT_PER_X_HEIGHT = 4 / KELL_FACTOR  # 5.7 px: two cycles a letter, what one chooses a camera's size by


class Print(NamedTuple):
    """points: smallest print that can be read.  limit: what most sets it ('camera', 'outgoing', 'call', 'tile', 'eye')."""

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
    feed_px_per_mm: NDArray[np.float64], outgoing_px_per_mm: NDArray[np.float64], outgoing: Size, audience: Audience
) -> Print:
    """Smallest type, in points, that this audience can read on anywhere on the visible page.

    feed_px_per_mm, outgoing_px_per_mm: (n,) px of the raw feed and of the outgoing picture per mm of page, at the
    same n spots of the page, each in its worst direction.  outgoing: px.
    Two rules, the harder one holds. Pixels: each stage spreads a point, by so much of a px of its own; the spreads' variances
    add (Dainty & Shaw), so the x-height needed is the root of the sum of squares of what each stage alone would need.
    SAMPLED_PX and FILTERED_PX are what fits a recogniser that reads the learner's picture, see benchmarks/legibility.py.
    Angle: at the eye the x-height subtends READABLE_ANGLE_DEG.
    Sources: Legge, Pelli, Rubin & Schleske, Psychophysics of reading I, Vision Research 25 (1985); Dainty & Shaw, Image
    Science (1974); Whittaker & Lovie-Kitchin, Visual requirements for reading, Optometry and Vision Science 70 (1993).
    Raises ValueError when there is no spot or a density is not positive.
    """
    if feed_px_per_mm.size == 0 or min(feed_px_per_mm.min(), outgoing_px_per_mm.min()) <= 0:
        raise ValueError("pixels per millimetre: wanted at least one, all above nought")
    in_call = outgoing_px_per_mm * min(1.0, audience.layer.width / outgoing.width, audience.layer.height / outgoing.height)
    shown = outgoing_px_per_mm * min(audience.tile_width_px / outgoing.width, audience.tile_height_px / outgoing.height)
    angle_mm = 2 * audience.distance_mm * np.tan(np.radians(READABLE_ANGLE_DEG) / 2)
    names = ("camera", "outgoing", "call", "tile")
    alone = np.stack([SAMPLED_PX / feed_px_per_mm, FILTERED_PX / outgoing_px_per_mm, SAMPLED_PX / in_call, FILTERED_PX / shown])
    by_pixels, by_eye = np.linalg.norm(alone, axis=0), angle_mm * audience.screen_px_per_mm / shown
    if by_eye.max() >= by_pixels.max():
        return Print(points_for_x_height(float(by_eye.max())), "eye")
    worst = int(by_pixels.argmax())
    return Print(points_for_x_height(float(by_pixels[worst])), names[int(alone[:, worst].argmax())])
