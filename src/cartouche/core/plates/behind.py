"""What is behind a person softened or replaced, and a little more light on the face."""

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Plane, Size, YuvColour, blank_frame, half_size, yuv_of_hex
from cartouche.core.plates.model import Behind

Net = Callable[[NDArray[np.float32]], NDArray[np.float32]]  # (1, 3, 144, 256) RGB 0-1 -> (1, 1, 144, 256) 0-1
SEEN = (256, 144)  # what the network looks at
SMOOTHED = 0.45  # of the last mask: its border would flicker otherwise
SOFT_SHARE = 0.025  # of the picture's width: how far what is behind is spread
MAX_LIGHT = 46  # luma that full light adds in the middle tones
_GAMMA = np.arange(256, dtype=np.float32) / 255


class PersonMask:
    """Where the person is, (144, 256) float32 0-1, from picture to picture."""

    def __init__(self, net: Net) -> None:
        self._net = net
        self._last: NDArray[np.float32] | None = None

    def see(self, frame: Frame) -> NDArray[np.float32]:
        y, u, v = (cv2.resize(plane, SEEN, interpolation=cv2.INTER_AREA) for plane in _pre_shrunk(frame))
        picture = cv2.cvtColor(cv2.merge([y, v, u]), cv2.COLOR_YCrCb2RGB)
        fresh = self._net(np.ascontiguousarray(picture.transpose(2, 0, 1)[None], np.float32) * np.float32(1 / 255))[0, 0]
        smoothed = fresh if self._last is None else SMOOTHED * self._last + (1 - SMOOTHED) * fresh
        self._last = np.asarray(smoothed, np.float32)
        return self._last


def _pre_shrunk(frame: Frame) -> tuple[Plane, ...]:
    """Halved while that is possible: an odd shrink by area costs ten times as much."""
    shrunk = []
    for plane in frame.planes:
        while plane.shape[1] >= 2 * SEEN[0] and plane.shape[0] >= 2 * SEEN[1]:
            plane = half_size(plane)
        shrunk.append(plane)
    return tuple(shrunk)


class BehindPainter:
    """Draws one feed's pictures anew; memory is reused, so a picture stays valid for RING - 1 more."""

    RING = 3

    def __init__(self) -> None:
        self._ring: list[Frame] = []
        self._next = 0

    def draw(self, frame: Frame, mask: NDArray[np.float32], wish: Behind) -> Frame:
        """mask: (h, w) float32 0-1, 1 where the person is."""
        if not self._ring or self._ring[0].size != frame.size:
            self._ring = [blank_frame(frame.size, YuvColour(0, 128, 128)) for _ in range(self.RING)]
        slot = self._ring[self._next]
        self._next = (self._next + 1) % self.RING
        colour = yuv_of_hex(wish.colour)
        soft: dict[tuple[int, ...], tuple[NDArray[np.float32], NDArray[np.float32]]] = {}
        for source, target, value in zip(frame.planes, slot.planes, colour, strict=True):
            size = target.shape[::-1]
            if size not in soft:
                person = np.asarray(cv2.resize(mask, size, interpolation=cv2.INTER_LINEAR), np.float32)
                soft[size] = (person, 1 - person)
            person, rest = soft[size]
            if wish.way == "as it is":
                np.copyto(target, source)
            else:
                ground = _softened(source, rest) if wish.way == "soften" else np.full_like(source, value)
                cv2.blendLinear(source, ground, person, rest, dst=target)
        if wish.light > 0:
            _lit(slot.y, soft[slot.y.shape[::-1]], wish.light)
        return Frame(slot.y, slot.u, slot.v, frame.captured_s)


def _softened(plane: Plane, rest: NDArray[np.float32]) -> Plane:
    """What is behind, blurred by way of an eighth of its size: nobody sees the difference, and it costs a fiftieth.

    Weighted by how little each pixel is the person's: else hair and shoulders would cast a halo.
    """
    size = (max(2, plane.shape[1] // 8), max(2, plane.shape[0] // 8))
    weight = cv2.resize(rest, size, interpolation=cv2.INTER_LINEAR) ** 2 + np.float32(0.002)
    small = cv2.resize(plane, size, interpolation=cv2.INTER_AREA).astype(np.float32)
    spread = max(0.8, SOFT_SHARE * size[0])
    blurred = cv2.GaussianBlur(small * weight, (0, 0), spread) / cv2.GaussianBlur(weight, (0, 0), spread)
    return cv2.resize(blurred.astype(np.uint8), plane.shape[::-1], interpolation=cv2.INTER_LINEAR)  # type: ignore[return-value]


def _lit(luma: Plane, masks: tuple[NDArray[np.float32], NDArray[np.float32]], light: float) -> None:
    """More light on the person, most in the middle tones: nothing burns out."""
    lift = MAX_LIGHT * light * 4 * _GAMMA * (1 - _GAMMA)
    table = np.clip(np.arange(256) + lift, 0, 255).astype(np.uint8)
    cv2.blendLinear(cv2.LUT(luma, table), luma, *masks, dst=luma)


def works_at(size: Size) -> bool:
    """Whether a picture is large enough to look for a person in."""
    return size.width >= SEEN[0] and size.height >= SEEN[1]
