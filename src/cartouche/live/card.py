"""The calm card: what goes out where a feed has no picture, in the product's own look. Never black."""

from functools import lru_cache

import numpy as np
from PIL import Image, ImageDraw

from cartouche.core.pictures import Frame, Size, frame_from_bgr
from cartouche.fonts import typeface

PAPER, SHEET, INK, SOFT, LAPIS = "#F3EEE3", "#FFFDF8", "#1D2433", "#626878", "#23459B"


@lru_cache(maxsize=16)
def card(size: Size, title: str, line: str) -> Frame:
    """A still frame with a title and one line below, framed by the cartouche."""
    width, height = int(size.width), int(size.height)
    over = 2
    picture = Image.new("RGB", (width * over, height * over), PAPER)
    pen = ImageDraw.Draw(picture)
    unit = min(width, height * 1.2) * over / 640
    middle, centre = width * over / 2, height * over / 2
    wide, high = 250 * unit, 92 * unit
    box = (middle - wide, centre - high, middle + wide, centre + high)
    inner = (box[0] + 7 * unit, box[1] + 7 * unit, box[2] - 7 * unit, box[3] - 7 * unit)
    pen.rounded_rectangle(box, 30 * unit, fill=SHEET, outline=LAPIS, width=max(2, round(3 * unit)))
    pen.rounded_rectangle(inner, 24 * unit, outline=LAPIS, width=max(1, round(1.5 * unit)))
    bar = box[2] + 9 * unit
    pen.rounded_rectangle((bar, centre - 52 * unit, bar + 6 * unit, centre + 52 * unit), 3 * unit, fill=LAPIS)
    pen.text((middle, centre - 18 * unit), title, font=typeface(max(8, round(38 * unit)), 700), fill=INK, anchor="mm")
    pen.text((middle, centre + 30 * unit), line, font=typeface(max(8, round(22 * unit)), 400), fill=SOFT, anchor="mm")
    small = picture.resize((width, height), Image.Resampling.BOX)
    return frame_from_bgr(np.ascontiguousarray(np.asarray(small)[:, :, ::-1]))
