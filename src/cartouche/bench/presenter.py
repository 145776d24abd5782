"""A made-up presenter at a laptop: drawn, swaying, blinking, speaking. Shapes go straight onto a frame's planes."""

from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.bench.camera import Grain
from cartouche.core.pictures import Frame, Size, YuvColour, frame_from_bgr, yuv_of_hex

RING = 6  # frames that stay untouched after they were handed out
BLINK_EVERY_S, BLINK_S = 3.7, 0.16

_Points = NDArray[np.float64]


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
_NECK = _rounded([(-62, 40), (62, 40), (64, 150), (0, 206), (-64, 150)])
_NECK_SHADE = _rounded([(-58, 60), (58, 60), (60, 128), (10, 150), (-54, 122)])
_NOSE = _rounded([(-4, -18), (6, -18), (18, 34), (8, 44), (-10, 42), (4, 30)])
_BUN = _ellipse(30, -226, 62, 46)


class Presenter:
    """Pictures of the presenter for any moment; untouched for RING - 1 more calls."""

    def __init__(self, size: Size, noise: float = 1.8) -> None:
        self.size = size
        self._scale = size.height / 720
        self._room = _room(size)
        self._ring = [Frame(*(plane.copy() for plane in self._room.planes), 0.0) for _ in range(RING)]
        self._grain = Grain(size, noise, seed=5)
        self._number = 0

    def picture(self, moment_s: float, captured_s: float) -> Frame:
        made = self._ring[self._number % RING]
        for target, source in zip(made.planes, self._room.planes, strict=True):
            np.copyto(target, source)
        self._person(made, moment_s)
        self._grain.add(made.y, self._number)
        self._number += 1
        return Frame(made.y, made.u, made.v, captured_s)

    def _person(self, picture: Frame, t: float) -> None:
        lean = 7 * np.sin(t * 0.7) + 3 * np.sin(t * 1.9 + 1)
        body = (640 + 0.5 * lean, 380 + 1.5 * np.sin(t * 1.1))
        head = (640 + 1.6 * lean, 344 + 3 * np.sin(t * 1.3) + 2 * np.sin(t * 2.7))
        self._fill(picture, _HAIR_BACK, head, "#2B1F1C")
        self._fill(picture, _BUN, head, "#33251F")
        self._fill(picture, _SHOULDERS, body, "#2A5A66")
        self._fill(picture, _COLLAR, body, "#234C57")
        self._fill(picture, _NECK, body, "#A06A48")
        self._fill(picture, _NECK_SHADE, body, "#84553A")
        self._fill(picture, _FACE, head, "#B47B57")
        self._fill(picture, _FACE_SIDE, head, "#A56E4C")
        for side in (-1, 1):
            self._fill(picture, _ellipse(44 * side, 44, 22, 14), head, "#B9775A")
        self._fill(picture, _NOSE, head, "#99643F")
        self._eyes(picture, head, t)
        self._mouth(picture, head, t)
        self._fill(picture, _HAIR_FRONT, head, "#3A2A24")

    def _eyes(self, picture: Frame, head: tuple[float, float], t: float) -> None:
        shut = t % BLINK_EVERY_S < BLINK_S
        look = 3.5 * np.sin(t * 0.43)
        for side in (-1, 1):
            x = 41 * side
            if shut:
                self._line(picture, _ellipse(x, -24, 19, 7, 10, 170), head, "#4A2E22", 4)
            else:
                self._fill(picture, _ellipse(x, -26, 20, 12.5), head, "#F4EFE9")
                self._fill(picture, _ellipse(x + look, -26, 10.5, 11), head, "#3B2418")
                self._fill(picture, _ellipse(x + look + 3.5, -30, 3, 3), head, "#FFFFFF")
                self._line(picture, _ellipse(x, -25, 21, 14, 195, 345), head, "#33211A", 4)
            brow = np.array([(x - 24, -57 - 2 * side), (x, -63), (x + 24, -57 + 2 * side)])
            self._line(picture, brow, head, "#33241F", 7)
            self._line(picture, _ellipse(x, -24, 34, 27), head, "#3F3B3C", 3.5)
        self._line(picture, np.array([(-8, -26), (8, -26)]), head, "#3F3B3C", 3.5)

    def _mouth(self, picture: Frame, head: tuple[float, float], t: float) -> None:
        speaking = max(0.0, np.sin(t * 0.55 + 0.6)) ** 0.4
        opened = speaking * abs(np.sin(t * 8.3) * np.sin(t * 3.1)) * 15
        if opened > 2.5:
            self._fill(picture, _ellipse(0, 72, 26, opened), head, "#5B2020")
            self._fill(picture, _ellipse(0, 72 - opened * 0.45, 19, opened * 0.32), head, "#F2ECE6")
        self._line(picture, _ellipse(0, 58, 34, 20 + opened * 0.3, 25, 155), head, "#8C3F35", 6)

    def _fill(self, picture: Frame, shape: _Points, at: tuple[float, float], colour: str) -> None:
        points = self._placed(shape, at)
        for plane, value, share in zip(picture.planes, _yuv(colour), (1, 0.5, 0.5), strict=True):
            cv2.fillPoly(plane, [(points * share).astype(np.int32)], int(value), cv2.LINE_AA, shift=4)

    def _line(self, picture: Frame, shape: _Points, at: tuple[float, float], colour: str, width: float) -> None:
        points = self._placed(shape, at)
        for plane, value, share in zip(picture.planes, _yuv(colour), (1, 0.5, 0.5), strict=True):
            thick = max(1, round(width * self._scale * share))
            cv2.polylines(plane, [(points * share).astype(np.int32)], False, int(value), thick, cv2.LINE_AA, shift=4)

    def _placed(self, shape: _Points, at: tuple[float, float]) -> _Points:
        middle = np.array([self.size.width / 2 + (at[0] - 640) * self._scale, at[1] * self._scale])
        return (shape * self._scale * 1.12 + middle) * 16


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
    return frame_from_bgr(soft)
