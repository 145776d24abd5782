"""The product's typefaces, for pictures drawn on the server: the outgoing card, captions and the bench's papers."""

from functools import cache, lru_cache
from itertools import groupby
from pathlib import Path

from PIL import ImageFont

FILE = Path(__file__).with_name("atkinson-hyperlegible-next-latin-wght-normal.woff2")
PLAIN_FILE = Path(__file__).with_name("atkinson-hyperlegible-next-latin-400.ttf")  # at one weight: PDF knows no variable fonts
# Signs that the first typeface lacks come from these, in this order.
FILES = (FILE, *(Path(__file__).with_name(f"noto-sans-{part}-wght-normal.woff2") for part in ("latin-ext", "greek", "cyrillic")))
MISSING = "[?]"  # stands where a sign is in none of them


@cache
def typeface(px: int, weight: int = 400, file: Path = FILE) -> ImageFont.FreeTypeFont:
    """Atkinson Hyperlegible Next, or another of FILES, at this many pixels an em; weight 200-800."""
    font = ImageFont.truetype(file, px)
    axes = font.get_variation_axes()
    font.set_variation_by_axes([weight if axis["name"] in (b"Weight", "Weight") else axis["default"] for axis in axes])
    return font


@lru_cache(maxsize=4096)
def file_with(sign: str) -> Path | None:
    """The first typeface that has this sign: one whose picture of it is not that of a sign that no typeface has."""
    if sign.isspace():
        return FILE
    for file in FILES:
        font = typeface(24, 400, file)
        drawn, none = font.getmask(sign), font.getmask("\U0010fffe")
        if (drawn.size, bytes(drawn)) != (none.size, bytes(none)):
            return file
    return None


def missing(text: str) -> tuple[str, ...]:
    """The signs of a text that no typeface has, each once."""
    return tuple(dict.fromkeys(sign for sign in text if file_with(sign) is None))


def pieces(text: str, px: int, weight: int = 400) -> list[tuple[ImageFont.FreeTypeFont, str]]:
    """A text as runs, each with the typeface that has its signs; a sign that none has stands as MISSING."""
    runs = []
    for file, run in groupby(text, file_with):
        signs = "".join(run)
        runs.append((typeface(px, weight, file or FILE), signs if file else MISSING * len(signs)))
    return runs
