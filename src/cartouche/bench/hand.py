"""A writing hand, drawn straight onto a frame's planes: strokes in paper millimetres from the pen's tip, seen through the camera."""

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Frame, Matrix, YuvColour, yuv_of_hex
from cartouche.core.straighten.geometry import transform

Stroke = tuple[tuple[tuple[float, float], ...], float, str]  # points in mm from the tip, width in mm, colour

_SKIN, _SHADE, _BRIGHT, _NAIL = "#A9714E", "#8A5839", "#BC8763", "#D6A88C"
_SLEEVE, _SLEEVE_DARK, _PEN, _PEN_LIGHT = "#2A5A66", "#20464F", "#24345E", "#51659A"

STROKES: tuple[Stroke, ...] = (
    (((104, 104), (330, 372)), 66, _SLEEVE_DARK),
    (((108, 104), (334, 368)), 58, _SLEEVE),
    (((74, 66), (106, 104)), 46, _SHADE),
    (((76, 64), (108, 102)), 40, _SKIN),
    (((98, 96), (112, 112)), 62, _SLEEVE_DARK),
    (((40, 42), (54, 58), (68, 64)), 19, _SHADE),
    (((34, 31), (44, 40), (62, 50)), 19, _SHADE),
    (((36, 30), (48, 40), (64, 48)), 16, _SKIN),
    (((56, 42), (72, 60)), 46, _SHADE),
    (((57, 40), (74, 58)), 41, _SKIN),
    (((20, 14), (35, 20), (54, 32)), 16, _SHADE),
    (((4, 3), (60, 22)), 5.6, _PEN),
    (((0, 0), (6, 3)), 2.0, "#30343C"),
    (((10, 4.2), (58, 20.4)), 1.6, _PEN_LIGHT),
    (((16, 8), (32, 10), (54, 26)), 16, _SHADE),
    (((16, 7.5), (32, 8.5), (55, 24)), 13.5, _SKIN),
    (((30, 7), (42, 13)), 5, _BRIGHT),
    (((17, 7.2), (20, 7.4)), 6.5, _NAIL),
    (((20, 18), (36, 32), (60, 46)), 17, _SHADE),
    (((20, 17), (37, 30), (62, 44)), 14.5, _SKIN),
    (((36, 28), (48, 36)), 5, _BRIGHT),
    (((20, 17.2), (24, 20)), 7, _NAIL),
)
_COLOURS = {stroke[2]: yuv_of_hex(stroke[2]) for stroke in STROKES}
_SHADOW_MM = (7.0, 9.0)


def draw_hand(picture: Frame, paper_to_picture: Matrix, tip_mm: tuple[float, float], gain: float) -> None:
    """Draw the hand and its soft shadow onto planes that the caller owns. gain: light on the page about there, 0-1."""
    points = np.concatenate([np.array(stroke[0]) for stroke in STROKES]) + np.array(tip_mm)
    density = _density(paper_to_picture, tip_mm)
    _shadow(picture, transform(paper_to_picture, points + np.array(_SHADOW_MM)), density)
    seen = transform(paper_to_picture, points)
    first = 0
    for corners, width_mm, colour in STROKES:
        line = seen[first : first + len(corners)]
        first += len(corners)
        y, u, v = _COLOURS[colour]
        _stroke(picture, line, width_mm * density, YuvColour(int(y * gain), u, v))


def _density(paper_to_picture: Matrix, spot: tuple[float, float]) -> float:
    around = np.array([spot, (spot[0] + 40, spot[1]), (spot[0], spot[1] + 40)])
    seen = transform(paper_to_picture, around)
    return float((np.linalg.norm(seen[1] - seen[0]) + np.linalg.norm(seen[2] - seen[0])) / 80)


def _stroke(picture: Frame, line: NDArray[np.float64], width: float, colour: YuvColour) -> None:
    for plane, value, share in zip(picture.planes, colour, (1.0, 0.5, 0.5), strict=True):
        points = (line * share * 16).astype(np.int32)[:, None]
        cv2.polylines(plane, [points], False, int(value), max(1, round(width * share)), cv2.LINE_AA, shift=4)


def _shadow(picture: Frame, points: NDArray[np.float64], density: float) -> None:
    scale = 8
    height, width = picture.y.shape
    mask = np.zeros((height // scale, width // scale), np.uint8)
    first = 0
    for corners, width_mm, _ in STROKES:
        line = (points[first : first + len(corners)] / scale * 16).astype(np.int32)[:, None]
        first += len(corners)
        cv2.polylines(mask, [line], False, 92, max(1, round(width_mm * density / scale)), cv2.LINE_AA, shift=4)
    x, y, w, h = cv2.boundingRect(mask)
    if not w:
        return
    x0, y0 = max(0, x - 3), max(0, y - 3)
    soft = cv2.GaussianBlur(mask, (0, 0), 1.6)[y0 : y + h + 3, x0 : x + w + 3]
    part = picture.y[y0 * scale : y0 * scale + soft.shape[0] * scale, x0 * scale : x0 * scale + soft.shape[1] * scale]
    light = cv2.resize(cv2.bitwise_not(soft), (part.shape[1], part.shape[0]))
    cv2.multiply(part, light, dst=part, scale=1 / 255)
