"""What a camera that should show a face shows: is somebody there, how large, and how lit. Pure measures of one picture."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Plane

MIN_PERSON = 0.05  # of the picture: less is a poster on the wall, or somebody far off
MIN_SURE = 0.5  # of the mask
MIN_SIDE = 0.02  # of the picture that is not the person: without it nothing tells of the light behind
DIM_LUMA = 80.0  # of 255, of the brightest tenth of the head: skin and hair of any colour have lit spots, an unlit face has none
DIM_BEHIND = 110.0  # and the rest is no brighter than this: the room itself is dark
AGAINST_LIGHT = 1.8  # luma behind over the brightest tenth of the head
WINDOW_LUMA, WINDOW_SHARE = 235, 0.2  # of what is behind: a wall is not white, a window is
BURNT_LUMA, BURNT_SHARE = 245, 0.12
HEAD_SHARE = 0.45  # the upper part of a person's height: face and hair, not the pullover


class FaceLook(NamedTuple):
    """share: of the picture that is a person, 0-1.  luma: of the brightest tenth of its upper part, 0-255.  behind: mean of the rest, None
    where there is hardly any; window: share of it that is white.  burnt: share of the upper part that is white.
    """

    share: float
    luma: float
    behind: float | None
    burnt: float
    window: float = 0.0

    @property
    def seen(self) -> bool:
        return self.share >= MIN_PERSON

    @property
    def fault(self) -> str:
        """'' where it is well; else 'nobody', 'against the light', 'too dark' or 'too bright'."""
        if not self.seen:
            return "nobody"
        if self.behind is not None and self.window > WINDOW_SHARE and self.behind > AGAINST_LIGHT * self.luma:
            return "against the light"
        if self.luma < DIM_LUMA and (self.behind is None or self.behind < DIM_BEHIND):
            return "too dark"
        return "too bright" if self.burnt > BURNT_SHARE else ""


def face_look(luma: Plane, mask: NDArray[np.float32]) -> FaceLook:
    """luma: (h, w) uint8.  mask: (mh, mw) float32 0-1, 1 where the person is, of the same view."""
    small = cv2.resize(luma, mask.shape[::-1], interpolation=cv2.INTER_AREA)
    person = mask > MIN_SURE
    share = float(person.mean())
    if not person.any():
        return FaceLook(0.0, 0.0, float(small.mean()), 0.0)
    rows = np.flatnonzero(person.any(axis=1))
    head = person.copy()
    head[rows[0] + max(1, round(HEAD_SHARE * (rows[-1] - rows[0] + 1))) :] = False
    rest = small[mask < 1 - MIN_SURE]
    behind = float(rest.mean()) if rest.size > MIN_SIDE * small.size else None
    window = float((rest >= WINDOW_LUMA).mean()) if behind is not None else 0.0
    return FaceLook(share, float(np.percentile(small[head], 90)), behind, float((small[head] >= BURNT_LUMA).mean()), window)
