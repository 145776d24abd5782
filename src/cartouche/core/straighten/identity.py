"""Is it still the same page? Print and layout are compared, not only where it lies: a bump, a slide or a hunting focus is no new page.

Two small pictures of the page are compared in parts, at the sharpness of the softer one and with a little play, so that neither blur
nor corners that are off by a pixel count. Another page is believed only when it has lain there for some looks on end.
"""

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Corners, Plane, Size, index_matrix
from cartouche.core.straighten.geometry import rectangle, solve_homography

Thumb = NDArray[np.float32]  # (256, 192) luma, less its light
Parts = NDArray[np.float32]  # (PARTS, high, PARTS, wide): part (row, column) of a thumbnail is [row, :, column]
THUMB, PARTS = Size(192, 256), 6
PLAY_PX = 3
SOFTER = (0.0, 0.7, 1.1, 1.6, 2.4, 3.6)  # sigma, px of the small picture
SAME, OTHER = 0.45, 0.3  # median correlation of the parts: above, the same page; below, another
BELIEVED_S, LOOKS = 0.5, 4  # how long another page must lie there, in at least so many looks
FAINT = 0.4  # of the contrast of the page before: too soft to tell, for a while
FAINT_S = 3.0  # after so long it is a page with less on it
BARE = 3.0  # luma: the contrast of a part with nothing on it


def thumbnail(luma: Plane, corners: Corners) -> Thumb:
    """A small picture of what lies within the corners, less its light. luma: (h, w) uint8.  corners: (4, 2) px."""
    onto = index_matrix(solve_homography(corners, rectangle(THUMB)))
    half = cv2.resize(luma, (luma.shape[1] // 2, luma.shape[0] // 2), interpolation=cv2.INTER_AREA)
    shrink = index_matrix(np.diag([0.5, 0.5, 1.0]))
    small = cv2.warpPerspective(half, onto @ np.linalg.inv(shrink), (int(THUMB.width), int(THUMB.height))).astype(np.float32)
    return np.asarray(small - cv2.GaussianBlur(small, (0, 0), 16), np.float32)


def likeness(a: Thumb, b: Thumb) -> float:
    """Of two thumbnails, -1 to 1: at the softer one's sharpness, with a little play; 1 for two bare pages."""
    soft, sharp = (a, b) if contrast(a) <= contrast(b) else (b, a)
    softened = [np.asarray(cv2.GaussianBlur(sharp, (0, 0), sigma) if sigma else sharp, np.float32) for sigma in SOFTER]
    return _in_step(soft, min(softened, key=lambda thumb: abs(contrast(thumb) - contrast(soft))))


def contrast(thumb: Thumb) -> float:
    return float(thumb.std())


def _in_step(a: Thumb, b: Thumb) -> float:
    """Median correlation of the parts on which at least one has anything, at the shift at which the whole agrees best."""
    found = cv2.matchTemplate(b, a[PLAY_PX:-PLAY_PX, PLAY_PX:-PLAY_PX], cv2.TM_CCOEFF_NORMED)
    dy, dx = np.unravel_index(int(np.nan_to_num(found, nan=-1.0).argmax()), found.shape)
    high, wide = a.shape[0] - 2 * PLAY_PX, a.shape[1] - 2 * PLAY_PX
    inner, other = a[PLAY_PX : PLAY_PX + high, PLAY_PX : PLAY_PX + wide], b[dy : dy + high, dx : dx + wide]
    one, two = _unruled(_parts(inner)), _unruled(_parts(other))
    one_std, two_std = np.sqrt(_means(one, one)), np.sqrt(_means(two, two))
    strongest = np.maximum(one_std, two_std)
    printed = strongest > BARE
    if not printed.any():
        return 1.0
    return float(np.median(_means(one, two)[printed] / np.maximum(one_std * two_std, 0.25 * strongest**2)[printed]))


def _parts(thumb: Thumb) -> Parts:
    high, wide = thumb.shape[0] // PARTS, thumb.shape[1] // PARTS
    return thumb[: PARTS * high, : PARTS * wide].reshape(PARTS, high, PARTS, wide)


def _unruled(parts: Parts) -> Parts:
    """Less what runs along the rows and columns of each: two pages of text, or of squares, have their lines in common and nothing else."""
    rows, columns = parts.mean(axis=3, keepdims=True), parts.mean(axis=1, keepdims=True)
    return np.asarray(parts - (rows - rows.mean(axis=1, keepdims=True)) - columns, np.float32)


def _means(a: Parts, b: Parts) -> NDArray[np.float32]:
    """(PARTS, PARTS), of the product in each part; of such as are unruled, whose mean is nothing, the covariance."""
    return np.asarray(np.einsum("iajb,iajb->ij", a, b) / (a.shape[1] * a.shape[3]), np.float32)


class Identity:
    """Says once when another page lies there. Time is passed in."""

    def __init__(self) -> None:
        self.thumb: Thumb | None = None
        self.before: Thumb | None = None  # of the page that was there before this one
        self._kept_s = -math.inf
        self._doubt_since_s: float | None = None
        self._doubts = 0

    @property
    def doubts(self) -> bool:
        """Whether it may be another page: it should be looked at again soon."""
        return self._doubt_since_s is not None

    def see(self, luma: Plane, corners: Corners, now_s: float, *, disturbed: bool) -> bool:
        """A look at a page that lies at rest. disturbed: it may have been changed since the last look."""
        if not disturbed and not self.doubts and now_s - self._kept_s < 1.0:
            return False
        thumb = thumbnail(luma, corners)
        if self.thumb is None or not (disturbed or self.doubts):
            return self._keep(thumb, now_s)
        like = likeness(thumb, self.thumb)
        if like >= SAME:
            self._doubt_since_s = None
            return self._keep(thumb, now_s) if contrast(thumb) > 0.8 * contrast(self.thumb) else False
        if self._doubt_since_s is None:
            self._doubt_since_s, self._doubts = now_s, 0
        self._doubts += 1
        patience_s = FAINT_S if contrast(thumb) < FAINT * contrast(self.thumb) else BELIEVED_S
        if like >= OTHER or self._doubts < LOOKS or now_s - self._doubt_since_s < patience_s:
            return False
        self.before = self.thumb
        self._keep(thumb, now_s)
        return True

    def _keep(self, thumb: Thumb, now_s: float) -> bool:
        self.thumb, self._kept_s, self._doubt_since_s = thumb, now_s, None
        return False
