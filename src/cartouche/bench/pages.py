"""A camera over a page on which a hand draws: a picture for any moment, and the truth about it."""

from functools import cache
from typing import NamedTuple

import cv2
import numpy as np

from cartouche.bench.camera import Camera, Grain, Lying, illumination, paper_matrix, true_corners
from cartouche.bench.hand import Hand
from cartouche.bench.papers import A4_MM, INK_BGR, SQUARES, Points, profile_mm
from cartouche.core.pictures import Corners, Frame, YuvColour, yuv_of_hex
from cartouche.core.straighten.geometry import transform

DRAWING_S, LEAVING_S, RESTING_S, COMING_S = 46.0, 1.6, 9.0, 1.6
ROUND_S = DRAWING_S + LEAVING_S + RESTING_S + COMING_S
FIRST_MOMENT_S = 20.0  # the demo opens with the profile partly drawn
PEN_MM = 0.9
DRAWN_RING = 6  # frames that stay untouched after they were handed out
_AWAY_MM = (210.0, 250.0)


class Work(NamedTuple):
    """What the hand has done: points of the profile drawn, and the pen's tip in paper mm (None: no hand)."""

    drawn: int
    tip_mm: tuple[float, float] | None


def work_at(line: Points, moment_s: float) -> Work:
    """The state of the page at a moment; it repeats every ROUND_S. line: (n, 2) mm, what the hand draws."""
    phase = (moment_s + FIRST_MOMENT_S) % ROUND_S
    if phase < DRAWING_S:
        along = phase / DRAWING_S
        along = along + 0.012 * np.sin(along * 70)  # a hand does not move evenly
        drawn = int(np.clip(along, 0, 1) * (len(line) - 1)) + 1
        return Work(drawn, (float(line[drawn - 1, 0]), float(line[drawn - 1, 1])))
    if phase < DRAWING_S + LEAVING_S:
        return Work(len(line), _moved(line[-1], (phase - DRAWING_S) / LEAVING_S))
    if phase < DRAWING_S + LEAVING_S + RESTING_S:
        return Work(len(line), None)
    return Work(0, _moved(line[0], (ROUND_S - phase) / COMING_S))


def _moved(point: np.ndarray, share: float) -> tuple[float, float]:
    eased = share * share * (3 - 2 * share)
    return float(point[0] + _AWAY_MM[0] * eased), float(point[1] + _AWAY_MM[1] * eased)


class PageView:
    """Pictures of one page by one camera. The still scene is photographed once; ink, hand and noise are added per frame."""

    def __init__(self, camera: Camera, lying: Lying, clean: Frame) -> None:
        """clean: the still scene with the contour sheet, as `photograph` gives it."""
        self.camera, self.lying = camera, lying
        self._line = profile_mm()
        self._clean = clean
        self._inked = _copied(self._clean)
        self._drawn = 0
        self._ring = [_copied(self._clean) for _ in range(DRAWN_RING)]
        self._grain = Grain(camera.size, camera.noise)
        self._number = 0
        self._matrix = camera.desk_matrix() @ paper_matrix(A4_MM, lying)
        self._hand = _hand(camera, lying)

    def corners(self) -> Corners:
        """The truth: the page's own corners in picture px, its top-left first, clockwise on the page."""
        return true_corners(self.camera, A4_MM, self.lying)

    def picture(self, moment_s: float, captured_s: float) -> Frame:
        """The scene at a moment, stamped with the moment of capture. Untouched for DRAWN_RING - 1 more calls."""
        work = work_at(self._line, moment_s)
        self._ink(work.drawn)
        slot = self._ring[self._number % DRAWN_RING]
        for target, source in zip(slot.planes, self._inked.planes, strict=True):
            np.copyto(target, source)
        if work.tip_mm is not None:
            self._hand.draw(slot, work.tip_mm)
        self._grain.add(slot.y, self._number)
        self._number += 1
        return Frame(slot.y, slot.u, slot.v, captured_s)

    def _ink(self, drawn: int) -> None:
        """Bring the inked scene up to `drawn` points: new ones are added, fewer mean a new sheet."""
        if drawn < self._drawn:
            for target, source in zip(self._inked.planes, self._clean.planes, strict=True):
                np.copyto(target, source)
            self._drawn = 0
        if drawn > max(self._drawn, 1):
            points = self._line[max(0, self._drawn - 1) : drawn]
            pen_px = PEN_MM * float(np.sqrt(abs(cv2.contourArea(self.corners().astype(np.float32))) / (A4_MM.width_mm * A4_MM.height_mm)))
            _draw_line(self._inked, transform(self._matrix, points), pen_px, _INK)
        self._drawn = drawn


@cache
def _hand(camera: Camera, lying: Lying) -> Hand:
    light = illumination(camera)
    where = np.clip(true_corners(camera, A4_MM, lying).mean(axis=0), 0, np.array(camera.size) - 1).astype(int)
    about = (SQUARES.x + SQUARES.width / 2, SQUARES.y + SQUARES.height / 2)
    return Hand(camera.desk_matrix() @ paper_matrix(A4_MM, lying), camera.size, min(1.0, float(light[where[1], where[0]])), about)


_INK: YuvColour = yuv_of_hex("#{2:02X}{1:02X}{0:02X}".format(*INK_BGR))


def _draw_line(picture: Frame, line: np.ndarray, width_px: float, colour: YuvColour) -> None:
    for plane, value, share in zip(picture.planes, colour, (1.0, 0.5, 0.5), strict=True):
        points = (line * share * 16).astype(np.int32)[:, None]
        cv2.polylines(plane, [points], False, int(value), max(1, round(width_px * share)), cv2.LINE_AA, shift=4)


def _copied(frame: Frame) -> Frame:
    return Frame(frame.y.copy(), frame.u.copy(), frame.v.copy(), frame.captured_s)
