"""From a frame to a map of where the page lies, under hands too, and where its border runs."""

from collections.abc import Callable
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Plane, half_size

Map = NDArray[np.float32]
Net = Callable[[NDArray[np.float32]], NDArray[np.float32]]  # (1, 3, h, w) -> (1, 2, h/2, w/2) logits
INPUT_PIXELS = 288 * 160  # what the network was taught at; any proportions, sides a multiple of 16
MIN_PAGE = (
    0.33  # of the map: the second half of a book is often only half believed, and how well a quadrilateral covers the map decides anyway
)


class Small(NamedTuple):
    """planes: (3, h, w) uint8 y, u, v of one size.  scale: feed px per pixel of theirs, x and y."""

    planes: NDArray[np.uint8]
    scale: NDArray[np.float64]


class PageMap(NamedTuple):
    """page, border: (h, w) float32 in 0..1.  scale: feed px per cell, x and y."""

    page: Map
    border: Map
    scale: NDArray[np.float64]


def page_map(small: Small, net: Net, turned: bool = False) -> PageMap:
    """A portrait picture is laid on its side for the network: it was taught landscape, and a page has no up.

    turned: it looks at the picture half a turn round. It errs in other places then: see `both`.
    """
    tall = small.planes.shape[1] > small.planes.shape[2]
    planes = small.planes.transpose(0, 2, 1) if tall else small.planes
    given = planes[:, ::-1, ::-1] if turned else planes
    logits = net(given[None].astype(np.float32) * np.float32(1 / 255))[0]
    page, border = (1 / (1 + np.exp(-part)) for part in (logits[:, ::-1, ::-1] if turned else logits))
    if tall:
        page, border = page.T, border.T
    scale = small.scale * small.planes.shape[:0:-1] / np.array(page.shape[::-1])
    return PageMap(np.ascontiguousarray(page), np.ascontiguousarray(border), scale)


def both(first: PageMap, second: PageMap) -> PageMap:
    """What two looks at one frame say together: their log-odds are averaged.

    Both maps: (rows, columns) float32, 0-1, of one size.
    """
    return PageMap(_together(first.page, second.page), _together(first.border, second.border), first.scale)


def _together(a: Map, b: Map) -> Map:
    is_so, is_not = np.sqrt(a * b), np.sqrt((1 - a) * (1 - b))
    return np.asarray(is_so / np.maximum(is_so + is_not, np.float32(1e-12)), np.float32)


def shrunk(frame: Frame) -> Small:
    """The size that the network was taught at, and the frame's proportions to within a few hundredths."""
    unit = np.sqrt(INPUT_PIXELS / (frame.size.width * frame.size.height)) / 16
    size = (max(2, round(frame.size.width * unit)) * 16, max(2, round(frame.size.height * unit)) * 16)
    return Small(np.stack([_area(plane, size) for plane in frame.planes]), np.array(frame.size) / size)


def _area(plane: Plane, size: tuple[int, int]) -> Plane:
    """Halved while that is possible, then between the nearest: a tenth of what an odd shrink by area costs, and no more aliased."""
    while plane.shape[1] >= 2 * size[0] and plane.shape[0] >= 2 * size[1]:
        plane = half_size(plane)
    return cv2.resize(plane, size, interpolation=cv2.INTER_LINEAR)  # type: ignore[return-value]
