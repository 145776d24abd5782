"""The demo's papers, drawn at 300 dpi: a contour sheet with squared paper, a profile that a hand draws on it, a legend in small print."""

from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from cartouche.fonts import typeface

DPI = 300
PX_PER_MM = DPI / 25.4

Points = NDArray[np.float64]

INK_BGR = (152, 66, 28)
_BROWN = (52, 106, 160)
_GRID = (226, 205, 186)
_BANDS_BGR = [(203, 207, 190), (200, 214, 193), (206, 222, 201), (213, 230, 211), (218, 238, 222), (223, 243, 234), (235, 249, 245)]


@dataclass(frozen=True)
class Area:
    """A rectangle on the paper, millimetres from its top-left."""

    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Sheet:
    """The bare measures of a paper."""

    width_mm: float
    height_mm: float


A4_MM = Sheet(210, 297)


@dataclass(frozen=True, eq=False)
class Paper(Sheet):
    """A drawn paper. picture: (h, w, 3) uint8 BGR at 300 dpi.  profile_mm: (n, 2), the line a hand draws on it, in mm."""

    name: str
    picture: NDArray[np.uint8]
    profile_mm: Points


MAP = Area(22, 34, 166, 104)
SQUARES = Area(22, 146, 166, 66)


def _heights(xs: NDArray[np.float64], ys: NDArray[np.float64]) -> NDArray[np.float64]:
    """Height of the made-up ground in metres at map coordinates 0..1."""
    hills = (
        (0.27, 0.33, 0.12, 0.20, 112), (0.67, 0.53, 0.17, 0.22, 138), (0.93, 0.08, 0.16, 0.18, -52),
        (0.62, 0.04, 0.20, 0.12, -38), (0.05, 0.84, 0.12, 0.20, -44), (0.36, 0.90, 0.16, 0.12, 34),
        (0.98, 0.78, 0.12, 0.20, -34), (0.70, 0.98, 0.12, 0.10, -40), (0.03, 0.05, 0.14, 0.14, 30),
    )  # fmt: skip
    ground = 62 + 9 * np.sin(5.1 * xs + 1.3) * np.cos(6.3 * ys)
    for x, y, wide, high, metres in hills:
        ground = ground + metres * np.exp(-(((xs - x) / wide) ** 2) - ((ys - y) / high) ** 2)
    return ground


SECTION_A, SECTION_B = (0.06, 0.35), (0.94, 0.60)  # ends of the section line, in map coordinates


@cache
def profile_mm() -> Points:
    """The profile from A to B on the squared paper, in mm on the sheet, with the small shake of a hand."""
    along = np.linspace(0, 1, 240)
    xs = SECTION_A[0] + along * (SECTION_B[0] - SECTION_A[0])
    ys = SECTION_A[1] + along * (SECTION_B[1] - SECTION_A[1])
    shake = cv2.GaussianBlur(np.random.default_rng(7).normal(0, 1.2, (1, 240)), (9, 1), 0)[0]
    across = SQUARES.x + xs * SQUARES.width
    up = SQUARES.y + SQUARES.height - 6 - (_heights(xs, ys) - 20) / 190 * (SQUARES.height - 10) + shake * 0.4
    return np.stack([across, up], axis=1)


def _px(mm: float) -> int:
    return round(mm * PX_PER_MM)


def _draw_map(sheet: NDArray[np.uint8]) -> None:
    width, height = _px(MAP.width), _px(MAP.height)
    xs, ys = np.meshgrid(np.linspace(0, 1, width // 4), np.linspace(0, 1, height // 4))
    ground = cv2.resize(_heights(xs, ys).astype(np.float32), (width, height), interpolation=cv2.INTER_CUBIC)
    bands = np.clip(((ground + 10) / 30).astype(int), 0, len(_BANDS_BGR) - 1)
    area = np.array(_BANDS_BGR, np.uint8)[bands]
    for metres in range(10, 220, 10):
        outline, _ = cv2.findContours((ground > metres).astype(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
        thick = metres % 50 == 0
        for contour in outline:
            smooth = _smoothed(np.asarray(contour[:, 0, :], np.int32), width, height)
            for piece in smooth:
                cv2.polylines(area, [piece], False, _BROWN, 5 if thick else 2, cv2.LINE_AA, shift=4)
    cv2.rectangle(area, (0, 0), (width - 1, height - 1), (60, 60, 60), 4)
    x, y = _px(MAP.x), _px(MAP.y)
    sheet[y : y + height, x : x + width] = area


def _smoothed(contour: NDArray[np.int32], width: int, height: int) -> list[NDArray[np.int32]]:
    """A pixel contour without its stairs and without the runs along the map's edge, in 1/16 px."""
    on_edge = (contour[:, 0] < 2) | (contour[:, 0] > width - 3) | (contour[:, 1] < 2) | (contour[:, 1] > height - 3)
    runs = np.split(contour, np.flatnonzero(np.diff(on_edge)) + 1)
    pieces = []
    for run, edge in zip(runs, [on_edge[0], *on_edge[1:][np.diff(on_edge)]], strict=True):
        if not edge and len(run) > 12:
            closed = len(runs) == 1
            line = run.astype(np.float32).reshape(1, -1, 2)
            if closed:
                line = np.concatenate([line, line[:, :24]], axis=1)
            smooth = cv2.GaussianBlur(line, (15, 1), 0, borderType=cv2.BORDER_REPLICATE)[0]
            kept = smooth[8:-8] if closed else smooth
            pieces.append((kept * 16).astype(np.int32)[:, None, :])
    return pieces


def _draw_squares(sheet: NDArray[np.uint8]) -> None:
    for i in range(int(SQUARES.width / 2) + 1):
        x = _px(SQUARES.x + 2 * i)
        shade = (198, 170, 146) if i % 5 == 0 else _GRID
        cv2.line(sheet, (x, _px(SQUARES.y)), (x, _px(SQUARES.y + SQUARES.height)), shade, 3 if i % 5 == 0 else 2)
    for i in range(int(SQUARES.height / 2) + 1):
        y = _px(SQUARES.y + 2 * i)
        shade = (198, 170, 146) if i % 5 == 0 else _GRID
        cv2.line(sheet, (_px(SQUARES.x), y), (_px(SQUARES.x + SQUARES.width), y), shade, 3 if i % 5 == 0 else 2)


LEGEND = (
    ("Brown line", "equal height, every 10 m"),
    ("Thick line", "every 50 m"),
    ("Closed ring", "a summit, or a hollow if ticked"),
    ("Crowded lines", "steep ground"),
)
SMALL_PRINT = (
    "Where contours crowd together the ground is steep; where they spread, it is gentle. Count the thick lines first.",
    "Transfer each crossing straight down to the squares, then join the points with one smooth line. Height is drawn five times too tall.",
    "Larkmoor Field School - Reading the ground - Sheet 3 - scale 1 : 25 000, one square is fifty metres on the ground.",
)


def _draw_words(sheet: NDArray[np.uint8]) -> NDArray[np.uint8]:
    picture = Image.fromarray(sheet[:, :, ::-1])
    pen = ImageDraw.Draw(picture)

    def write(x: float, y: float, text: str, points: float, weight: int = 400, fill: str = "#1D2433") -> None:
        pen.text((_px(x), _px(y)), text, font=typeface(round(points / 72 * DPI), weight), fill=fill)

    write(22, 13, "Sheet 3 · Reading the ground", 20, 700)
    write(22, 24, "Draw the profile from A to B. Mark the steepest slope.", 12)
    for name, (x, y), side in (("A", SECTION_A, -6.5), ("B", SECTION_B, 2.5)):
        write(MAP.x + x * MAP.width + side, MAP.y + y * MAP.height - 4, name, 16, 700, "#1C4298")
    for i, (term, meaning) in enumerate(LEGEND):
        column, row = i % 2, i // 2
        write(22 + 84 * column, 217 + 7 * row, term, 10, 700)
        write(22 + 84 * column + 27, 217 + 7 * row, meaning, 10)
    for i, line in enumerate(SMALL_PRINT):
        write(22, 234 + 5 * i, line, 8)
    for i, points in enumerate((16, 14, 12, 11, 10, 9, 8, 7, 6, 5)):
        write(
            22 + sum(p * 1.35 + 3.2 for p in (16, 14, 12, 11, 10, 9, 8, 7, 6, 5)[:i]), 256 + (16 - points) * 0.28, f"Hill {points}", points
        )
    return np.ascontiguousarray(np.asarray(picture)[:, :, ::-1])


def _draw_section(sheet: NDArray[np.uint8]) -> None:
    ends = [(_px(MAP.x + x * MAP.width), _px(MAP.y + y * MAP.height)) for x, y in (SECTION_A, SECTION_B)]
    cv2.line(sheet, ends[0], ends[1], INK_BGR, 6, cv2.LINE_AA)


@cache
def contour_sheet() -> Paper:
    """A4 upright, without the profile: that is the hand's work."""
    sheet = np.full((_px(297), _px(210), 3), (250, 252, 252), np.uint8)
    _draw_map(sheet)
    _draw_squares(sheet)
    _draw_section(sheet)
    return Paper(A4_MM.width_mm, A4_MM.height_mm, "Sheet 3", _draw_words(sheet), profile_mm())
