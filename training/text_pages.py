"""Random pages of print and handwriting, and of what looks like it and is none: what the reader of ways learns from."""

from functools import cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from training.textures import Random, noise, page_texture

WORDS, SYLLABLES = (Path(__file__).with_name(name).read_text("utf-8").split() for name in ("words.txt", "syllables.txt"))
Picture = NDArray[np.uint8]


@cache
def fonts(folder: Path) -> list[Path]:
    found = sorted(folder.glob("node_modules/@fontsource/*/files/*-latin-400-normal.woff2"))
    return found + sorted(folder.glob("node_modules/@fontsource/*/files/*-latin-700-normal.woff2"))


@cache
def _font(path: Path, px: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(path, px)


def sentence(random: Random, words: int) -> str:
    made = []
    for _ in range(words):
        kind = random.random()
        if kind < 0.5:
            word = str(random.choice(WORDS))
        elif kind < 0.86:
            word = "".join(random.choice(SYLLABLES, int(random.integers(1, 4))))
        elif kind < 0.96:
            word = str(int(10 ** random.uniform(0, 5)))
        else:
            word = f"{random.integers(1, 99)}{random.choice(['.', ',', ' :', '%', ' +', ' ='])}{random.integers(1, 99)}"
        case = random.random()
        word = word.capitalize() if case < 0.2 else word.upper() if case < 0.24 else word
        made.append(word + (str(random.choice([",", ".", "?", "!", ";", ":"])) if random.random() < 0.12 else ""))
    text = " ".join(made)
    return text.upper() if random.random() < 0.05 else text


def text_page(random: Random, folder: Path, size: tuple[int, int] = (760, 620)) -> Picture:
    """Luma of a page that reads true and stands upright, as a camera and a squared-up view would leave it."""
    width, height = size
    page = Image.new("L", (width * 2, height * 2), int(random.uniform(200, 255)))
    pen = ImageDraw.Draw(page)
    if random.random() < 0.25:
        _rule(random, pen, page.size)
    y = random.uniform(10, 80)
    paths = fonts(folder)
    path = paths[int(random.integers(len(paths)))]
    px = int(np.exp(random.uniform(np.log(18), np.log(90))))
    while y < height * 2 - 60:
        if random.random() < 0.25:
            path, px = paths[int(random.integers(len(paths)))], int(np.exp(random.uniform(np.log(18), np.log(90))))
        text = sentence(random, int(random.integers(1, max(2, int(1.4 * width * 2 / px / 4)))))
        x = random.uniform(10, 200) if random.random() < 0.8 else random.uniform(10, width)
        pen.text((x, y), text, font=_font(path, px), fill=int(random.uniform(0, 120)))
        y += px * random.uniform(1.1, 1.8)
        if random.random() < 0.08:
            y += random.uniform(0, 200)
    return _photographed(random, np.asarray(page), size)


def _rule(random: Random, pen: ImageDraw.ImageDraw, size: tuple[int, int]) -> None:
    step, shade = random.uniform(24, 90), int(random.uniform(150, 225))
    for y in np.arange(random.uniform(0, step), size[1], step):
        pen.line((0, y, size[0], y), fill=shade, width=int(random.integers(1, 3)))
    if random.random() < 0.5:
        for x in np.arange(random.uniform(0, step), size[0], step):
            pen.line((x, 0, x, size[1]), fill=shade, width=int(random.integers(1, 3)))


def other_page(random: Random, size: tuple[int, int] = (760, 620)) -> Picture:
    """Contours, squares, photographs, strokes: no print."""
    if random.random() < 0.5:
        field = sum(noise(random, (size[1] * 2, size[0] * 2), (c, c)) * c**-0.8 for c in (4, 9, 16))
        levels = (field * random.uniform(6, 25)).astype(np.int32)
        edges = (np.abs(np.diff(levels, axis=1))[:-1] + np.abs(np.diff(levels, axis=0))[:, :-1]) > 0
        page = np.full((size[1] * 2, size[0] * 2), 245, np.uint8)
        page[:-1, :-1][cv2.dilate(edges.astype(np.uint8), np.ones((int(random.integers(1, 4)),) * 2)) > 0] = int(random.uniform(20, 150))
    else:
        page = np.full((size[1] * 2, size[0] * 2), int(random.uniform(200, 255)), np.uint8)
        for _ in range(int(random.integers(3, 60))):
            start = random.uniform((0, 0), (size[0] * 2, size[1] * 2))
            steps = np.cumsum(random.normal(0, random.uniform(3, 30), (int(random.integers(2, 14)), 2)), axis=0)
            cv2.polylines(
                page,
                [(start + steps).astype(np.int32)],
                random.random() < 0.3,
                int(random.uniform(0, 130)),
                int(random.integers(2, 9)),
                cv2.LINE_AA,
            )
        for _ in range(int(random.integers(0, 40))):
            middle = tuple(int(v) for v in random.uniform((0, 0), (size[0] * 2, size[1] * 2)))
            cv2.circle(page, middle, int(random.uniform(3, 30)), int(random.uniform(0, 150)), int(random.choice([-1, 2, 3])), cv2.LINE_AA)
    if random.random() < 0.15:
        page = cv2.resize(cv2.cvtColor(_no_text(random), cv2.COLOR_BGR2GRAY), (size[0] * 2, size[1] * 2))
    return _photographed(random, page, size)


def _no_text(random: Random) -> Picture:
    return page_texture(random, random.uniform(0.7, 1.4))


def _photographed(random: Random, page: Picture, size: tuple[int, int]) -> Picture:
    """The leftovers of a real view: a little slant, blur, few pixels, uneven light, noise, a codec."""
    width, height = size
    ends = np.array([[0, 0], [2 * width, 0], [2 * width, 2 * height], [0, 2 * height]], np.float32)
    onto = ends / 2 + random.normal(0, 0.012 * width, (4, 2)).astype(np.float32)
    small = cv2.warpPerspective(
        cv2.GaussianBlur(page, (0, 0), 0.8), cv2.getPerspectiveTransform(ends, onto), size, borderMode=cv2.BORDER_REPLICATE
    )
    worst = np.exp(random.uniform(0, np.log(4)))
    if worst > 1.15:  # the page was small in the camera's picture, in one direction more than in the other
        other = random.uniform(1, np.sqrt(worst))
        across, down = (worst, other) if random.random() < 0.5 else (other, worst)
        small = cv2.resize(_taken(random, small, (int(width / across), int(height / down))), size, interpolation=cv2.INTER_LINEAR)
    if random.random() < 0.7:
        small = cv2.GaussianBlur(small, (0, 0), random.uniform(0.3, 2.0))
    lit = small.astype(np.float32) * np.clip(noise(random, small.shape, (3, 3)) * 0.12 + random.uniform(0.5, 1), 0.2, 1.1)
    lit = lit * random.uniform(0.5, 1) + random.uniform(0, 60) + random.normal(0, random.uniform(0.3, 4), lit.shape)
    taken = np.clip(lit, 0, 255).astype(np.uint8)
    if random.random() < 0.3:
        taken = cv2.imdecode(cv2.imencode(".jpg", taken, [cv2.IMWRITE_JPEG_QUALITY, int(random.uniform(30, 90))])[1], cv2.IMREAD_GRAYSCALE)
    return taken


def _taken(random: Random, page: Picture, size: tuple[int, int]) -> Picture:
    """As few pixels as the camera had, and what it makes of them: smoothed against noise, or sharpened."""
    small = cv2.resize(page, size, interpolation=cv2.INTER_AREA)
    kind = random.random()
    if kind < 0.2:
        return cv2.bilateralFilter(small, 5, random.uniform(10, 40), 2)
    if kind < 0.4:
        return cv2.addWeighted(small, 1.6, cv2.GaussianBlur(small, (0, 0), 1.2), -0.6, 0)
    return small
