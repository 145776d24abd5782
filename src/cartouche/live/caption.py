"""A caption: a name and a line below it, drawn sharp at the size at which it goes out."""

from functools import lru_cache

import cv2
import numpy as np
from PIL import Image, ImageDraw

from cartouche.core.pictures import Frame, Size, frame_from_bgr
from cartouche.core.plates.paint import Alpha
from cartouche.fonts import pieces

SHEET, INK, SOFT = (0xFF, 0xFD, 0xF8), "#1D2433", "#5D6373"
GROUND_ALPHA = 236  # of 255
NAME_SHARE, LINE_SHARE = 0.046, 0.032  # em, of the outgoing height


@lru_cache(maxsize=32)
def caption(size: Size, name: str, line: str, outgoing_height: float) -> tuple[Frame, tuple[Alpha, Alpha]]:
    """The caption's picture and its coverage, of luma and chroma. Text that is too long for its place is drawn smaller."""
    width, height = int(size.width), int(size.height)
    picture = Image.new("RGBA", (width, height), (*SHEET, 0))
    pen = ImageDraw.Draw(picture)
    pad = round(0.4 * NAME_SHARE * outgoing_height)
    rows = [
        (text, share, weight, ink) for text, share, weight, ink in ((name, NAME_SHARE, 700, INK), (line, LINE_SHARE, 400, SOFT)) if text
    ]
    sizes = [min(round(share * outgoing_height), round(height / (1.35 * len(rows)))) for _, share, _, _ in rows]
    sizes = [fitting(text, px, weight, width - 2 * pad) for (text, _, weight, _), px in zip(rows, sizes, strict=True)]
    high = round(sum(1.3 * px for px in sizes)) + pad
    if rows:
        wide = round(max(length(text, px, weight) for (text, _, weight, _), px in zip(rows, sizes, strict=True))) + 2 * pad
        top = height - min(high, height)
        pen.rounded_rectangle((0, top, min(wide, width) - 1, height - 1), pad * 0.9, fill=(*SHEET, GROUND_ALPHA))
        y = top + pad / 2
        for (text, _, weight, ink), px in zip(rows, sizes, strict=True):
            x = float(pad)
            for font, part in pieces(text, px, weight):
                pen.text((x, y + 1.02 * px), part, font=font, fill=ink, anchor="ls")
                x += font.getlength(part)
            y += 1.3 * px
    rgba = np.asarray(picture)
    alpha = rgba[:, :, 3].astype(np.float32) / np.float32(255)
    frame = frame_from_bgr(np.ascontiguousarray(rgba[:, :, 2::-1]))
    half = cv2.resize(alpha, (width // 2, height // 2), interpolation=cv2.INTER_AREA)
    return frame, (alpha, np.asarray(half, np.float32))


def length(text: str, px: int, weight: int) -> float:
    return sum(font.getlength(part) for font, part in pieces(text, px, weight))


def fitting(text: str, px: int, weight: int, room: float) -> int:
    """The largest size at which the text fits."""
    wide = length(text, px, weight)
    return px if wide <= room else max(8, int(px * room / wide))
