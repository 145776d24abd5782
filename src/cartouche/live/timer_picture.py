"""The timer as learners see it: drawn sharp at the size at which it goes out, small in a corner or as large as its place."""

from functools import lru_cache

import cv2
import numpy as np
from PIL import Image, ImageDraw

from cartouche.core.pictures import Frame, Size, frame_from_bgr
from cartouche.core.plates.compose import NO_CHAIN, Layer
from cartouche.core.plates.corner import Corner
from cartouche.core.plates.model import Place, Plate, TimerContent
from cartouche.core.plates.paint import Alpha
from cartouche.core.plates.placement import Cells
from cartouche.core.plates.placing import place_box
from cartouche.core.teach.timer import Timer
from cartouche.fonts import figures
from cartouche.live.setup import Setup

SHEET, INK, LAPIS, OCHRE = "#FFFDF8", "#1D2433", "#23459B", "#9A6410"
GROUND_ALPHA = 240  # of 255
WIDE, HIGH = 0.13, 0.1  # of the outgoing picture, in a corner
FLASH_S = 0.5


class TimerPicture:
    """Used by the desk's thread."""

    def __init__(self) -> None:
        self._corner = Corner()
        self._place: Place | None = None

    def reading(self, timer: Timer, now_s: float) -> tuple[str, bool, bool]:
        """What it reads, whether it stands out, whether it stands still."""
        out = timer.flashes(now_s) and int(now_s / FLASH_S) % 2 == 0
        return timer.reads(now_s), out, not timer.runs

    def layers(self, setup: Setup, plate: Plate | None, written: Cells | None, outgoing: Size, now_s: float) -> list[Layer]:
        """In a corner, unless the plate shows it large or nobody is to see it."""
        timer = setup.timer
        if timer.shown == "hidden" or plate is None or any(isinstance(place.content, TimerContent) for place in plate.places):
            return []
        rect = self._corner.at(plate, setup.page_id, written, WIDE, HIGH, now_s)
        if self._place is None or self._place.rect != rect:
            self._place = Place(content=TimerContent(), rect=rect)
        box = place_box(self._place, outgoing)
        frame, alpha = clock_face(Size(box.x1 - box.x0, box.y1 - box.y0), *self.reading(timer, now_s))
        return [Layer(self._place, NO_CHAIN, frame, alpha=alpha)]


@lru_cache(maxsize=16)
def clock_face(size: Size, reads: str, stands_out: bool, stands_still: bool) -> tuple[Frame, tuple[Alpha, Alpha]]:
    """Its picture and coverage, of luma and chroma, for a place of this size, px."""
    width, height = int(size.width), int(size.height)
    ground, ink = (OCHRE, SHEET) if stands_out else (SHEET, INK if not stands_still else LAPIS)
    picture = Image.new("RGBA", (width, height), (*_rgb(ground), 0))
    pen = ImageDraw.Draw(picture)
    pen.rounded_rectangle((0, 0, width - 1, height - 1), min(width, height) * 0.16, fill=(*_rgb(ground), GROUND_ALPHA))
    px = max(8, int(min(0.74 * height, 0.9 * width / (0.62 * max(4, len(reads))))))
    pen.text((width / 2, height / 2), reads, font=figures(px), fill=ink, anchor="mm")
    rgba = np.asarray(picture)
    alpha = rgba[:, :, 3].astype(np.float32) / np.float32(255)
    frame = frame_from_bgr(np.ascontiguousarray(rgba[:, :, 2::-1]))
    half = cv2.resize(alpha, (width // 2, height // 2), interpolation=cv2.INTER_AREA)
    return frame, (alpha, np.asarray(half, np.float32))


def _rgb(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:], 16)
