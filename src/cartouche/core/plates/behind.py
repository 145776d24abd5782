"""A face made the best of: what is behind it softened or replaced, its light and colour."""

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Plane, Size, YuvColour, blank_frame, half_size, yuv_of_hex
from cartouche.core.plates.grade import NO_LIGHT, Light, Mask, Table, lit, tables
from cartouche.core.plates.model import Behind, Grade

Masks = dict[tuple[int, ...], tuple[Mask, Mask]]  # by a plane's shape: of the person, of the rest
Net = Callable[[NDArray[np.float32]], NDArray[np.float32]]  # (1, 3, 144, 256) RGB 0-1 -> (1, 1, 144, 256) 0-1
SEEN = (256, 144)  # what the network looks at
SMOOTHED = 0.45  # of the last mask: its border would flicker otherwise
SOFT_SHARE = 0.025  # of the picture's width: how far what is behind is spread
MAX_LIGHT = 46  # luma that full light adds in the middle tones
AS_IT_COMES = Grade()
_GAMMA = np.arange(256, dtype=np.float32) / 255


class PersonMask:
    """Where the person is, (144, 256) float32 0-1, from picture to picture."""

    def __init__(self, net: Net) -> None:
        self._net = net
        self._last: NDArray[np.float32] | None = None

    def see(self, frame: Frame) -> NDArray[np.float32]:
        y, u, v = as_seen(frame)
        picture = cv2.cvtColor(cv2.merge([y, v, u]), cv2.COLOR_YCrCb2RGB)
        fresh = self._net(np.ascontiguousarray(picture.transpose(2, 0, 1)[None], np.float32) * np.float32(1 / 255))[0, 0]
        smoothed = fresh if self._last is None else SMOOTHED * self._last + (1 - SMOOTHED) * fresh
        self._last = np.asarray(smoothed, np.float32)
        return self._last


def as_seen(frame: Frame) -> tuple[Plane, ...]:
    """All three planes in the network's size, (144, 256). Halved while that is possible: an odd shrink by area costs ten times as much."""
    shrunk = []
    for plane in frame.planes:
        while plane.shape[1] >= 2 * SEEN[0] and plane.shape[0] >= 2 * SEEN[1]:
            plane = half_size(plane)
        shrunk.append(np.asarray(cv2.resize(plane, SEEN, interpolation=cv2.INTER_AREA), np.uint8))
    return tuple(shrunk)


class BehindPainter:
    """Draws one feed's pictures anew; memory is reused, so a picture stays valid for RING - 1 more."""

    RING = 3

    def __init__(self) -> None:
        self._ring: list[Frame] = []
        self._next = 0
        self._graded: dict[int, Plane] = {}
        self._ground: tuple[tuple[object, ...], tuple[Plane, ...] | None] = ((), None)
        self._picture: Frame | None = None

    def draw(
        self,
        frame: Frame,
        mask: Mask | None,
        wish: Behind,
        grade: Grade = AS_IT_COMES,
        light: Light = NO_LIGHT,
        ground: Frame | None = None,
    ) -> Frame:
        """mask: (h, w) float32 0-1, 1 where the person is; None where nobody was looked for: then colours alone are changed.
        light: as measured.  ground: what stands behind where a picture is wished."""
        graded = tables(grade, light.balance)
        if mask is None and graded is None:
            return frame
        if not self._ring or self._ring[0].size != frame.size:
            self._ring = [blank_frame(frame.size, YuvColour(0, 128, 128)) for _ in range(self.RING)]
        slot = self._ring[self._next]
        self._next = (self._next + 1) % self.RING
        soft = {plane.shape: _both(mask, plane.shape) for plane in slot.planes[:2]} if mask is not None else None
        self._paint(frame, slot, soft, wish, graded, ground)
        if soft is not None and grade.even > 0 and light.gain is not None:
            lit(slot.y, soft[slot.y.shape][0], light.gain, grade.even)
        if soft is not None and wish.light > 0:
            _lit(slot.y, soft[slot.y.shape], wish.light)
        return Frame(slot.y, slot.u, slot.v, frame.captured_s)

    def _paint(
        self, frame: Frame, slot: Frame, soft: Masks | None, wish: Behind, graded: tuple[Table, ...] | None, ground: Frame | None
    ) -> None:
        """Colours, and what is behind the person."""
        grounds = self._grounds(frame, wish, ground) if soft is not None else None
        for number, (source, target) in enumerate(zip(frame.planes, slot.planes, strict=True)):
            if soft is None or wish.way == "as it is":
                if graded is None:
                    np.copyto(target, source)
                else:
                    cv2.LUT(source, graded[number], dst=target)
                continue
            if graded is not None:
                source = cv2.LUT(source, graded[number], dst=self._scratch(number, source))  # type: ignore[assignment]
            behind = _softened(source, soft[target.shape][1]) if grounds is None else grounds[number]
            cv2.blendLinear(source, behind, *soft[target.shape], dst=target)

    def _scratch(self, number: int, like: Plane) -> Plane:
        if number not in self._graded or self._graded[number].shape != like.shape:
            self._graded[number] = np.empty_like(like)
        return self._graded[number]

    def _grounds(self, frame: Frame, wish: Behind, ground: Frame | None) -> tuple[Plane, ...] | None:
        """What stands behind, worked out again only when it has changed."""
        if wish.way not in ("replace", "picture"):
            return None
        picture = ground if wish.way == "picture" else None
        if self._ground[0] != (id(picture), frame.size, wish.colour):
            made = blank_frame(frame.size, yuv_of_hex(wish.colour)).planes if picture is None else _cropped(picture, frame.size)
            self._ground = ((id(picture), frame.size, wish.colour), made)
            self._picture = picture  # held, so that its id stays its own
        return self._ground[1]


def _both(mask: Mask, shape: tuple[int, ...]) -> tuple[Mask, Mask]:
    person = np.asarray(cv2.resize(mask, shape[::-1], interpolation=cv2.INTER_LINEAR), np.float32)
    return person, 1 - person


def _cropped(picture: Frame, size: Size) -> tuple[Plane, ...]:
    """Filled, cut about its middle."""
    made = []
    for plane, target in zip(picture.planes, blank_frame(size, YuvColour(0, 128, 128)).planes, strict=True):
        high, wide = plane.shape
        aspect = target.shape[1] / target.shape[0]
        keeps_w, keeps_h = min(wide, round(high * aspect)), min(high, round(wide / aspect))
        x, y = (wide - keeps_w) // 2, (high - keeps_h) // 2
        part = plane[y : y + keeps_h, x : x + keeps_w]
        made.append(np.asarray(cv2.resize(part, target.shape[::-1], interpolation=cv2.INTER_AREA), np.uint8))
    return tuple(made)


def _softened(plane: Plane, rest: Mask) -> Plane:
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
