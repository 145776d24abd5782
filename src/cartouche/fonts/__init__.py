"""The product's one typeface, for pictures drawn on the server: the outgoing card and the bench's papers."""

from functools import cache
from pathlib import Path

from PIL import ImageFont

FILE = Path(__file__).with_name("atkinson-hyperlegible-next-latin-wght-normal.woff2")
PLAIN_FILE = Path(__file__).with_name("atkinson-hyperlegible-next-latin-400.ttf")  # at one weight: PDF knows no variable fonts


@cache
def typeface(px: int, weight: int = 400) -> ImageFont.FreeTypeFont:
    """Atkinson Hyperlegible Next at this many pixels an em; weight 200-800."""
    font = ImageFont.truetype(FILE, px)
    font.set_variation_by_axes([weight])
    return font
