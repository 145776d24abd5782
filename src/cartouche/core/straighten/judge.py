"""Is a quadrilateral the page, all of it and nothing else? Seen squared up, with what lies around it, that is easily told.

The map of the page answers cell by cell; here a second small network answers once for a whole quadrilateral. Half a
book goes on beyond its gutter, a page with a ruler beside it has a side inside.
"""

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Plane

Judge = Callable[[NDArray[np.float32]], NDArray[np.float32]]  # (n, 4, CANVAS, CANVAS) -> (n,) log-odds
CANVAS, SQUARE = 96, 64  # px: the quadrilateral is drawn as a square of that in the middle
_RIM = (CANVAS - SQUARE) / 2
_TARGET = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32) * SQUARE + np.float32(_RIM - 0.5)


def squared(planes: NDArray[np.uint8], quads: NDArray[np.float64]) -> NDArray[np.float32]:
    """Each quadrilateral and its surroundings squared up, (n, 4, CANVAS, CANVAS): y, u, v in 0..1, and 1 where the picture is.

    planes: (3, h, w) y, u, v of one size.  quads: (n, 4, 2) px of theirs, clockwise.
    """
    batch = np.empty((len(quads), 4, CANVAS, CANVAS), np.float32)
    whole: Plane = np.full(planes.shape[1:], 255, np.uint8)
    for channels, quad in zip(batch, quads, strict=True):
        onto = cv2.getPerspectiveTransform((quad - 0.5).astype(np.float32), _TARGET)
        for canvas, plane in zip(channels, (*planes, whole), strict=True):
            canvas[:] = cv2.warpPerspective(plane, onto, (CANVAS, CANVAS), flags=cv2.INTER_LINEAR)
    batch *= np.float32(1 / 255)
    return batch
