"""The product's typefaces, for pictures drawn on the server: the outgoing card, captions and the bench's papers."""

import unicodedata
from functools import cache, lru_cache
from itertools import groupby
from pathlib import Path
from typing import NamedTuple

from PIL import ImageFont, features

FILE = Path(__file__).with_name("atkinson-hyperlegible-next-latin-wght-normal.woff2")
PLAIN_FILE = Path(__file__).with_name("atkinson-hyperlegible-next-latin-400.ttf")  # at one weight: PDF knows no variable fonts
FIGURES_FILE = Path(__file__).with_name("atkinson-hyperlegible-mono-latin-wght-normal.woff2")  # every figure as wide as any other
_NOTO = (
    *(f"noto-sans-{part}" for part in ("latin-ext", "greek", "cyrillic", "arabic", "hebrew")),
    *(f"noto-emoji-{part}" for part in range(10)),
)
# Signs that the first typeface lacks come from these, in this order.
FILES = (FILE, *(Path(__file__).with_name(f"{name}-wght-normal.woff2") for name in _NOTO))
MISSING = "[?]"  # stands where a sign is in none of them
SHAPES = features.check("raqm")  # letters joined and set from right to left; without it such scripts count as missing
_RIGHT_TO_LEFT = ("R", "AL")
_UNSEEN = ("Cf", "Mn", "Me")  # joiners, selectors, marks: part of the sign before


class Run(NamedTuple):
    """Signs of one typeface, in the order in which they are written. file: None where no typeface has them."""

    file: Path | None
    signs: str


@cache
def typeface(px: int, weight: int = 400, file: Path = FILE) -> ImageFont.FreeTypeFont:
    """Atkinson Hyperlegible Next, or another of FILES, at this many pixels an em; weight 200-800."""
    font = ImageFont.truetype(file, px)
    axes = font.get_variation_axes()
    font.set_variation_by_axes([weight if axis["name"] in (b"Weight", "Weight") else axis["default"] for axis in axes])
    return font


def figures(px: int, weight: int = 700) -> ImageFont.FreeTypeFont:
    """Atkinson Hyperlegible Mono: what counts does not dance."""
    return typeface(px, weight, FIGURES_FILE)


@lru_cache(maxsize=4096)
def file_with(sign: str) -> Path | None:
    """The first typeface that has this sign."""
    if sign.isspace():
        return FILE
    if not SHAPES and unicodedata.bidirectional(sign) in _RIGHT_TO_LEFT:
        return None
    return next((file for file in FILES if _has(file, sign)), None)


@lru_cache(maxsize=4096)
def _has(file: Path, sign: str) -> bool:
    """Its picture of the sign is not that of a sign that no typeface has."""
    font = typeface(24, 400, file)
    drawn, none = font.getmask(sign), font.getmask("\U0010fffe")
    return (drawn.size, bytes(drawn)) != (none.size, bytes(none))


def missing(text: str) -> tuple[str, ...]:
    """The signs of a text that no typeface has, each once."""
    return tuple(dict.fromkeys(sign for file, signs in _runs(text) if file is None for sign in signs))


def pieces(text: str, px: int, weight: int = 400) -> list[tuple[ImageFont.FreeTypeFont, str]]:
    """A text as runs from left to right, each with the typeface that has its signs; a sign that none has stands as MISSING."""
    return [
        (typeface(px, weight, run.file or FILE), run.signs if run.file else MISSING * len(run.signs)) for run in _left_to_right(_runs(text))
    ]


def _runs(text: str) -> list[Run]:
    """A space or a mark stays with the signs before it, so that words of one script stay one run."""
    files: list[Path | None] = []
    for sign in text:
        before = files[-1] if files else None
        stays = before is not None and (unicodedata.category(sign) in _UNSEEN or (sign.isspace() and _has(before, sign)))
        files.append(before if stays else file_with(sign))
    return [Run(file, "".join(sign for _, sign in run)) for file, run in groupby(zip(files, text, strict=True), lambda pair: pair[0])]


def _left_to_right(runs: list[Run]) -> list[Run]:
    """Runs as they stand on the line: Unicode's bidirectional algorithm (UAX 9, rule L2) for two levels."""
    first = next((way for run in runs if (way := _way(run))), "L")
    runs = [part for run in runs for part in _with_its_end_apart(run)]
    ways = [_way(run) for run in runs]
    for at, way in enumerate(ways):  # what has no direction takes that of both its neighbours, or the line's
        if not way:
            before, after = ways[at - 1] if at else first, next((later for later in ways[at + 1 :] if later), first)
            ways[at] = before if before == after else first
    ordered: list[Run] = []
    for way, group in groupby(zip(ways, runs, strict=True), lambda pair: pair[0]):
        inside = [run for _, run in group]
        ordered = (
            [*ordered, *(inside[::-1] if way == "R" else inside)] if first == "L" else [*(inside[::-1] if way == "R" else inside), *ordered]
        )
    return ordered


def _with_its_end_apart(run: Run) -> list[Run]:
    """A space at the end of a run belongs to what stands on both its sides, not to the run alone."""
    bare = run.signs.rstrip()
    return [part for part in (Run(run.file, bare), Run(run.file, run.signs[len(bare) :])) if part.signs]


def _way(run: Run) -> str:
    """'R', 'L', or '' where no sign has a direction of its own."""
    for sign in run.signs:
        kind = unicodedata.bidirectional(sign)
        if kind in _RIGHT_TO_LEFT:
            return "R"
        if kind == "L":
            return "L"
    return ""
