"""A made-up presenter at a laptop: drawn, swaying, blinking, speaking."""

from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.bench.camera import Grain
from cartouche.bench.sprite import Painting, Shifted, Sprite
from cartouche.core.pictures import Frame, Matrix, Size, YuvColour, frame_from_bgr, scaling, translation, yuv_of_hex

DRAWN_RING = 6  # frames that stay untouched after they were handed out
BLINK_EVERY_S, BLINK_S = 3.7, 0.16

_Points = NDArray[np.float64]


OVER = 2  # still shapes are drawn at twice the size and shrunk: finer edges, paid for once
_GROWN = 1.12  # the design sits a little small in its frame


@cache
def _yuv(colour: str) -> YuvColour:
    return yuv_of_hex(colour)


def _ellipse(x: float, y: float, wide: float, high: float, start: float = 0, end: float = 360) -> _Points:
    angle = np.radians(np.linspace(start, end, 48))
    return np.stack([x + wide * np.cos(angle), y + high * np.sin(angle)], axis=1)


def _rounded(points: list[tuple[float, float]]) -> _Points:
    """A closed smooth outline through control points (Chaikin's corner cutting, three rounds)."""
    line = np.array(points, np.float64)
    for _ in range(3):
        after = np.roll(line, -1, axis=0)
        line = np.stack([0.75 * line + 0.25 * after, 0.25 * line + 0.75 * after], axis=1).reshape(-1, 2)
    return line


_HAIR_BACK = _rounded(
    [(-118, -40), (-128, -150), (-70, -214), (20, -224), (104, -184), (132, -100), (126, 10), (112, 92), (70, 70), (-70, 70), (-112, 92)]
)
_FACE = _rounded([(-92, -96), (-60, -150), (60, -150), (92, -96), (92, 10), (70, 86), (26, 122), (-26, 122), (-70, 86), (-92, 10)])
_FACE_SIDE = _rounded([(44, -120), (92, -96), (92, 10), (70, 86), (26, 122), (4, 124), (44, 84), (62, 20), (58, -60)])
_HAIR_FRONT = _rounded(
    [
        (-104, -44),
        (-116, -140),
        (-60, -206),
        (30, -212),
        (104, -170),
        (116, -60),
        (98, -60),
        (78, -112),
        (24, -136),
        (-30, -118),
        (-78, -86),
    ]
)
_SHOULDERS = _rounded(
    [(-300, 420), (-286, 232), (-190, 176), (-84, 148), (-40, 180), (40, 180), (84, 148), (190, 176), (286, 232), (300, 420)]
)
_COLLAR = _rounded([(-86, 148), (-58, 132), (0, 196), (58, 132), (86, 148), (50, 214), (0, 236), (-50, 214)])
_NECK = _rounded([(-62, 40), (62, 40), (66, 150), (60, 250), (-60, 250), (-66, 150)])
_NECK_SHADE = _rounded([(-58, 60), (58, 60), (60, 128), (10, 150), (-54, 122)])
_NOSE = _rounded([(-4, -18), (6, -18), (18, 34), (8, 44), (-10, 42), (4, 30)])
_BUN = _ellipse(30, -226, 62, 46)


_BROWS = tuple(np.concatenate([_ellipse(x, -44, 27, 20, 205, 335), _ellipse(x, -42, 26, 15, 205, 335)[::-1]]) for x in (-41, 41))
_BODY_SHAPES: tuple[tuple[_Points, str, float], ...] = (
    (_SHOULDERS, "#2A5A66", 0),
    (_ellipse(210, 380, 130, 190), "#234C57", 26),
    (_ellipse(-150, 260, 90, 70), "#357180", 26),
    (_COLLAR, "#234C57", 0),
)
_HEAD_SHAPES: tuple[tuple[_Points, str, float], ...] = (
    (_BUN, "#33251F", 0),
    (_ellipse(18, -238, 30, 20), "#4A3830", 9),
    (_HAIR_BACK, "#2B1F1C", 0),
    (_NECK, "#A06A48", 0),
    (_NECK_SHADE, "#7E5138", 7),
    (_FACE, "#B47B57", 0),
    (_FACE_SIDE, "#A06848", 10),
    (_ellipse(-34, -96, 40, 26), "#C48D68", 14),
    *((_ellipse(44 * side, 44, 20, 13), "#BC7457", 7) for side in (-1, 1)),
    (_NOSE, "#94603F", 2.5),
    *((brow, "#33241F", 0) for brow in _BROWS),
    (np.array([(-8, -28), (8, -28), (8, -24), (-8, -24)], np.float64), "#3F3B3C", 0),
    (_HAIR_FRONT, "#3A2A24", 0),
    (_ellipse(-40, -176, 46, 22), "#54403A", 12),
)


class Presenter:
    """Pictures of the presenter for any moment; untouched for DRAWN_RING - 1 more calls.

    Body and head are drawn once and shifted; eyes and mouth are drawn each time.
    """

    def __init__(self, size: Size, noise: float = 1.8) -> None:
        self.size = size
        self._scale = size.height / 720
        self._room = _room(size)
        self._ring = [Frame.of([plane.copy() for plane in self._room.planes], 0.0) for _ in range(DRAWN_RING)]
        self._grain = Grain(size, noise, seed=5)
        self._number = 0
        self._body, self._head = _parts(size)

    def picture(self, moment_s: float, captured_s: float) -> Frame:
        slot = self._ring[self._number % DRAWN_RING]
        for target, source in zip(slot.planes, self._room.planes, strict=True):
            np.copyto(target, source)
        self._person(slot, moment_s)
        self._grain.add(slot.y, self._number)
        self._number += 1
        return Frame(slot.y, slot.u, slot.v, captured_s)

    def _person(self, picture: Frame, t: float) -> None:
        lean = 7 * np.sin(t * 0.7) + 3 * np.sin(t * 1.9 + 1)
        body = self._spot(640 + 0.5 * lean, 380 + 1.5 * np.sin(t * 1.1))
        head = np.round(self._spot(640 + 1.6 * lean, 344 + 3 * np.sin(t * 1.3) + 2 * np.sin(t * 2.7)))
        self._head.draw(picture, head)
        self._body.draw(picture, body)
        self._eyes(picture, head, t)
        self._mouth(picture, head, t)

    def _spot(self, x: float, y: float) -> _Points:
        """A spot of the 1280x720 design in px."""
        return np.array([self.size.width / 2 + (x - 640) * self._scale, y * self._scale])

    def _eyes(self, picture: Frame, head: _Points, t: float) -> None:
        shut = t % BLINK_EVERY_S < BLINK_S
        look = 3.5 * np.sin(t * 0.43)
        for x in (-41, 41):
            if shut:
                self._line(picture, _ellipse(x, -24, 19, 7, 10, 170), head, "#4A2E22", 4)
            else:
                self._fill(picture, _ellipse(x, -26, 20, 12.5), head, "#F4EFE9")
                self._fill(picture, _ellipse(x + look, -26, 10.5, 11), head, "#3B2418")
                self._fill(picture, _ellipse(x + look + 3.5, -30, 3, 3), head, "#FFFFFF")
                self._line(picture, _ellipse(x, -25, 21, 14, 195, 345), head, "#33211A", 4)
            self._line(picture, _ellipse(x, -24, 34, 27), head, "#3F3B3C", 3.5)

    def _mouth(self, picture: Frame, head: _Points, t: float) -> None:
        speaking = max(0.0, np.sin(t * 0.55 + 0.6)) ** 0.4
        opened = round(speaking * abs(np.sin(t * 8.3) * np.sin(t * 3.1)) * 15, 1)
        if opened > 2.5:
            self._fill(picture, _ellipse(0, 72, 26, opened), head, "#5B2020")
            self._fill(picture, _ellipse(0, 72 - opened * 0.45, 19, opened * 0.32), head, "#F2ECE6")
        self._line(picture, _ellipse(0, 58, 34, 20 + opened * 0.3, 25, 155), head, "#8C3F35", 6)

    def _fill(self, picture: Frame, shape: _Points, at: _Points, colour: str) -> None:
        points = self._placed(shape, at)
        for plane, value, share in zip(picture.planes, _yuv(colour), (1, 0.5, 0.5), strict=True):
            cv2.fillPoly(plane, [(points * share).astype(np.int32)], int(value), cv2.LINE_AA, shift=4)

    def _line(self, picture: Frame, shape: _Points, at: _Points, colour: str, width: float) -> None:
        points = self._placed(shape, at)
        for plane, value, share in zip(picture.planes, _yuv(colour), (1, 0.5, 0.5), strict=True):
            thick = max(1, round(width * self._scale * share))
            cv2.polylines(plane, [(points * share).astype(np.int32)], False, int(value), thick, cv2.LINE_AA, shift=4)

    def _placed(self, shape: _Points, at: _Points) -> _Points:
        return (shape * self._scale * _GROWN + at) * 16


@cache
def _parts(size: Size) -> tuple[Shifted, Shifted]:
    """Body and head in pictures of this size: drawing them takes longer than a second of pictures."""
    body, head = (Shifted(*_still(shapes, size.height / 720 * _GROWN), size) for shapes in (_BODY_SHAPES, _HEAD_SHAPES))
    return body, head


def _still(shapes: tuple[tuple[_Points, str, float], ...], scale: float) -> tuple[Sprite, Matrix]:
    """Filled shapes (outline, colour, softness of its shading) as a sprite, and its map to px about their origin."""
    points = np.concatenate([shape for shape, _, _ in shapes])
    low, fine = points.min(axis=0) - 8, scale * OVER
    width, height = ((points.max(axis=0) + 8 - low) * fine).astype(int) // 2 * 2
    painting = Painting(width, height)
    for shape, colour, soft in shapes:
        outline = (shape - low) * fine
        area = painting.part(outline, 3 * soft * fine + 2)
        mask = np.zeros(painting.cover[area].shape, np.uint8)
        corner = np.array([area[1].start, area[0].start])
        cv2.fillPoly(mask, [((outline - corner) * 16).astype(np.int32)], 255, cv2.LINE_AA, shift=4)
        alpha = mask.astype(np.float32) / np.float32(255)
        if soft:  # shading fades inside the shapes below it; it never reaches beyond them
            alpha = np.minimum(cv2.GaussianBlur(alpha, (0, 0), soft * fine), painting.cover[area])
        painting.lay(area, alpha, colour)
    return painting.sprite(), translation(low[0] * scale, low[1] * scale) @ scaling(1 / OVER, 1 / OVER)


def _room(size: Size) -> Frame:
    """A wall by a window with a bookshelf, out of focus."""
    room = np.zeros((720, 1280, 3), np.uint8)
    slope = np.linspace(0, 1, 1280, dtype=np.float32)[None, :, None]
    room[:] = np.array([196, 212, 220]) * (1.02 - 0.16 * slope) * np.ones((720, 1, 1))
    cv2.rectangle(room, (60, 60), (330, 470), (232, 224, 206), -1)
    cv2.rectangle(room, (60, 330), (330, 470), (188, 206, 184), -1)
    cv2.circle(room, (130, 350), 70, (160, 188, 160), -1)
    cv2.circle(room, (262, 376), 64, (146, 176, 146), -1)
    for part in (((52, 52), (338, 478)), ((188, 52), (200, 478)), ((52, 250), (338, 262))):
        cv2.rectangle(room, part[0], part[1], (238, 242, 244), 14)
    cv2.rectangle(room, (900, 90), (1240, 700), (98, 132, 160), -1)
    random = np.random.default_rng(4)
    spines = [(92, 70, 50), (66, 88, 150), (120, 110, 62), (70, 128, 176), (150, 160, 172), (84, 100, 60), (60, 60, 110)]
    for shelf in (110, 265, 420, 575):
        cv2.rectangle(room, (916, shelf), (1224, shelf + 130), (70, 98, 122), -1)
        x = 922
        while x < 1190:
            wide, high = int(random.integers(16, 34)), int(random.integers(88, 124))
            cv2.rectangle(room, (x, shelf + 130 - high), (x + wide - 3, shelf + 130), spines[int(random.integers(len(spines)))], -1)
            x += wide
    soft = cv2.GaussianBlur(
        cv2.resize(room, (int(size.width), int(size.height)), interpolation=cv2.INTER_AREA), (0, 0), 4 * size.height / 720
    )
    return frame_from_bgr(np.asarray(soft, np.uint8))
