"""More things that lie under a camera: sheets of every size, squared and ruled, a mini whiteboard, an open book, a keyboard."""

from functools import cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from cartouche.bench.papers import Paper
from cartouche.core.straighten.paper import PAPERS_MM
from cartouche.fonts import typeface

PX_PER_MM = 4.0  # a hundred dots an inch: finer than a camera sees them
NO_LINE = np.empty((0, 2))
SENTENCES = (
    "A contour joins points of equal height.", "The closer the lines, the steeper the ground.", "North is at the top of the sheet.",
    "Measure along the paper's edge, not by eye.", "A spot height marks one point alone.", "Valleys point uphill, spurs point down.",
    "Count the thick lines first, then the thin ones between.", "Set the map before you read it.", "Write the bearing beside the arrow.",
)  # fmt: skip


class Look(NamedTuple):
    """kind: 'text', 'squared', 'ruled', 'blank', 'photo'.  seed: which of many."""

    kind: str
    seed: int


@cache
def sheet(name: str, lying: bool, look: Look) -> Paper:
    """A sheet of a named size."""
    width, height = PAPERS_MM[name] if not lying else PAPERS_MM[name][::-1]
    picture = _blank(width, height, (247, 250, 251))
    random = np.random.default_rng([look.seed, len(name)])
    if look.kind in ("squared", "ruled"):
        _rules(picture, 5.0 if look.kind == "squared" else 8.0, squared=look.kind == "squared")
    if look.kind == "photo":
        _photo(picture, random)
    if look.kind != "blank":
        picture = _written(picture, random, every_mm=8.0 if look.kind == "ruled" else 6.5, share=0.35 if look.kind == "photo" else 0.8)
    return Paper(width, height, f"{name} {look.kind}", picture, NO_LINE)


@cache
def whiteboard(seed: int) -> Paper:
    random = np.random.default_rng(seed)
    width, height = ((297.0, 210.0), (240.0, 180.0), (300.0, 225.0))[seed % 3]
    picture = _written(_blank(width, height, (250, 250, 250)), random, every_mm=18, share=0.5)
    frame = ((60, 60, 64), (186, 188, 190), (140, 80, 30))[seed % 3]
    wide = int(random.uniform(2.5, 4) * PX_PER_MM)
    if seed % 4 != 3:  # some have none
        cv2.rectangle(picture, (wide // 2, wide // 2), (picture.shape[1] - wide // 2, picture.shape[0] - wide // 2), frame, wide)
    return Paper(width, height, "Mini whiteboard", picture, NO_LINE)


@cache
def book(seed: int) -> Paper:
    """Two facing pages with the gutter's shade between them."""
    random = np.random.default_rng(seed)
    width, height = 165.0, 235.0
    pages = [_written(_blank(width, height, (236, 243, 245)), random, every_mm=5.5, share=0.86) for _ in range(2)]
    spread = np.concatenate(pages, axis=1).astype(np.float32)
    away = np.abs(np.arange(spread.shape[1]) - spread.shape[1] / 2) / (spread.shape[1] / 2)
    spread *= (1 - 0.5 * np.exp(-away / 0.05))[None, :, None]
    return Paper(2 * width, height, "Open book", spread.astype(np.uint8), NO_LINE)


@cache
def keyboard() -> Paper:
    width, height = 430.0, 130.0
    picture = _blank(width, height, (46, 44, 42))
    step = picture.shape[1] / 15
    for row in range(5):
        for column in range(15):
            x, y = int((column + 0.06) * step), int(row * picture.shape[0] / 5 + 4)
            cv2.rectangle(picture, (x, y), (x + int(0.86 * step), y + int(picture.shape[0] / 5) - 8), (74, 70, 68), -1)
    return Paper(width, height, "Keyboard", picture, NO_LINE)


def _blank(width_mm: float, height_mm: float, colour: tuple[int, int, int]) -> NDArray[np.uint8]:
    return np.full((int(height_mm * PX_PER_MM), int(width_mm * PX_PER_MM), 3), colour, np.uint8)


def _rules(picture: NDArray[np.uint8], step_mm: float, squared: bool) -> None:
    step = step_mm * PX_PER_MM
    for at in np.arange(step, picture.shape[0], step):
        cv2.line(picture, (0, int(at)), (picture.shape[1], int(at)), (226, 196, 170), 1)
    for at in np.arange(step, picture.shape[1] if squared else 0, step):
        cv2.line(picture, (int(at), 0), (int(at), picture.shape[0]), (226, 196, 170), 1)


def _photo(picture: NDArray[np.uint8], random: np.random.Generator) -> None:
    high, wide = picture.shape[0] // 2, int(picture.shape[1] * 0.8)
    coarse = random.normal(0, 1, (7, 9, 3)).astype(np.float32)
    part = cv2.resize(coarse, (wide, high), interpolation=cv2.INTER_CUBIC) * 34 + random.uniform(70, 150, 3)
    y, x = int(picture.shape[0] * 0.42), int(picture.shape[1] * 0.1)
    picture[y : y + high, x : x + wide] = np.clip(part, 0, 255)


def _written(picture: NDArray[np.uint8], random: np.random.Generator, every_mm: float, share: float) -> NDArray[np.uint8]:
    page = Image.fromarray(picture[:, :, ::-1])
    pen = ImageDraw.Draw(page)
    step = every_mm * PX_PER_MM
    font = typeface(max(8, round(step * 0.68)), 400)
    room = picture.shape[1] - 28 * PX_PER_MM
    for line in range(int(random.integers(2, 5)), int(share * picture.shape[0] / step)):
        text = ""
        while pen.textlength(text, font=font) < room * random.uniform(0.6, 0.95):
            text += SENTENCES[int(random.integers(len(SENTENCES)))] + " "
        while text and pen.textlength(text, font=font) > room:
            text = text.rstrip().rpartition(" ")[0]
        if random.random() < 0.88:
            pen.text((14 * PX_PER_MM, line * step), text, font=font, fill=(40, 40, 60))
    return np.ascontiguousarray(np.asarray(page)[:, :, ::-1])
