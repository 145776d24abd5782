"""Random desks and pages as textures, for teaching the page finder. Nothing here is the bench's: it must not learn the bench."""

import cv2
import numpy as np
from numpy.typing import NDArray

Texture = NDArray[np.uint8]  # (h, w, 3) BGR
Random = np.random.Generator


def noise(random: Random, shape: tuple[int, int], cells: tuple[int, int]) -> NDArray[np.float32]:
    """Smooth noise of about unit size, (h, w)."""
    coarse = random.normal(0, 1, (max(2, cells[1]), max(2, cells[0]))).astype(np.float32)
    return cv2.resize(coarse, (shape[1], shape[0]), interpolation=cv2.INTER_CUBIC)


def colour(random: Random, low: float = 0, high: float = 255, most_coloured: float = 90) -> NDArray[np.float32]:
    grey = random.uniform(low, high)
    return np.clip(grey + random.normal(0, 1, 3) * random.uniform(0, most_coloured) / 2, 0, 255).astype(np.float32)


def desk_texture(random: Random, size: int = 640) -> Texture:
    kind = random.choice(["plain", "cloud", "wood", "weave", "stripes", "black", "pale", "pale", "speckle"])
    base = colour(random)
    shape = (size, size)
    amount = float(random.uniform(3, 26))
    if kind == "black":
        base, amount = colour(random, 2, 45, 20), float(random.uniform(1, 7))
    if kind == "pale":
        base, amount = colour(random, 175, 250, 26), float(random.uniform(1, 9))
    if kind == "wood":
        streak = int(random.integers(2, 9))
        value = noise(random, shape, (streak, int(random.integers(80, 300)))) + 0.6 * noise(random, shape, (streak * 4, size))
        value += noise(random, shape, (3, 5))
        board = int(random.integers(90, 320))
        value -= np.where(np.arange(size) % board < random.integers(0, 4), random.uniform(0, 3), 0)[:, None]
    elif kind == "weave":
        step = random.uniform(2.5, 9)
        xs = np.sin(np.arange(size) * 2 * np.pi / step)
        value = (xs[None, :] * xs[:, None] + 0.4 * random.normal(0, 1, shape)).astype(np.float32)
    elif kind == "stripes":
        step = random.uniform(14, 120)
        xs = np.sign(np.sin(np.arange(size) * 2 * np.pi / step))
        value = xs[None, :] + (xs[:, None] if random.random() < 0.5 else 0) + 0.1 * random.normal(0, 1, shape)
        amount = float(random.uniform(4, 50))
    elif kind == "speckle":
        value = 1.5 * noise(random, shape, (160, 160)) + random.normal(0, 1, shape)
    else:
        value = sum(noise(random, shape, (cells, cells)) * cells**-0.4 for cells in (3, 9, 30, 120)) + 0.3 * random.normal(0, 1, shape)
    tint = 1 + random.normal(0, 0.15, 3)
    picture = base + amount * np.asarray(value, np.float32)[:, :, None] * tint.astype(np.float32)
    if random.random() < 0.15:  # the desk ends, or a mat lies on it
        edge = int(random.uniform(0.15, 0.85) * size)
        picture[:, :edge] = picture[:, :edge] * random.uniform(0.3, 1.3) + random.normal(0, 40)
    return np.clip(picture, 0, 255).astype(np.uint8)


def paled(random: Random, desk: Texture, page: Texture) -> Texture:
    """The same desk as white as a page: only its shadow and a little less or more light tell the page's edge."""
    calm = (desk.astype(np.float32) - desk.mean(axis=(0, 1))) * random.uniform(0.02, 0.3)
    return np.clip(page[:2].mean(axis=(0, 1)) + random.normal(0, 7) + random.normal(0, 2, 3) + calm, 0, 255).astype(np.uint8)


def page_texture(random: Random, aspect: float, tall: int = 520) -> Texture:
    """aspect: width / height."""
    width, height = int(tall * min(1.0, aspect)), int(tall * min(1.0, 1 / aspect))
    paper = np.clip(random.uniform(205, 252) + random.normal(0, 1, 3) * (4 if random.random() < 0.75 else 28), 60, 255)
    picture = np.full((height, width, 3), paper, np.uint8)
    if random.random() < 0.05:
        picture[:] = colour(random, 20, 250, 120)
    kinds = random.choice(
        ["text", "mixed", "figure", "squared", "ruled", "blank", "photo", "drawing"], p=[0.24, 0.24, 0.1, 0.12, 0.1, 0.08, 0.06, 0.06]
    )
    margin = random.uniform(0.03, 0.12)
    box = (margin * width, margin * height, (1 - margin) * width, (1 - margin) * height)
    if kinds in ("squared", "ruled"):
        _rules(random, picture, squared=kinds == "squared")
        _strokes(random, picture, box, int(random.integers(0, 14)))
    elif kinds == "photo":
        _photo(random, picture, (0, 0, width, height) if random.random() < 0.4 else box)
    elif kinds == "drawing":
        _strokes(random, picture, box, int(random.integers(3, 30)))
    elif kinds != "blank":
        _columns(random, picture, box, kinds)
    if random.random() < 0.12:
        _frame(random, picture)
    if random.random() < 0.05:
        fold = int(random.uniform(0.3, 0.7) * height)
        picture[fold : fold + 2] = (picture[fold : fold + 2] * 0.85).astype(np.uint8)
    return picture


def _ink(random: Random) -> tuple[int, ...]:
    dark = random.uniform(5, 110)
    return tuple(int(v) for v in np.clip(dark + random.normal(0, 1, 3) * (3 if random.random() < 0.6 else 60), 0, 220))


def _columns(random: Random, picture: Texture, box: tuple[float, ...], kind: str) -> None:
    x0, y, x1, y1 = box
    columns = 2 if random.random() < 0.2 else 1
    wide = (x1 - x0) / columns
    for column in range(columns):
        at = y
        while at < y1 - 6:
            left, right = x0 + column * wide, x0 + (column + 0.94) * wide
            if kind != "text" and random.random() < (0.5 if kind == "figure" else 0.25):
                high = min(random.uniform(0.08, 0.35) * picture.shape[0], y1 - at)
                _photo(random, picture, (left, at, right, at + high))
                at += high + random.uniform(4, 16)
            else:
                at = _paragraph(random, picture, left, right, at, y1)
            if random.random() < 0.12:
                break


def _paragraph(random: Random, picture: Texture, left: float, right: float, y: float, y1: float) -> float:
    high = random.uniform(2, 6) if random.random() < 0.85 else random.uniform(6, 20)
    ink = _ink(random)
    for _ in range(int(random.integers(1, 9))):
        if y > y1:
            break
        x, end = left, right if random.random() < 0.8 else left + (right - left) * random.uniform(0.2, 0.9)
        while x < end:
            word = random.uniform(1.5, 6) * high
            cv2.rectangle(picture, (int(x), int(y)), (int(min(x + word, end)), int(y + high * 0.6)), ink, -1)
            for _ in range(int(word / max(2.0, high * 0.6))):  # letters: light gaps
                gap = int(x + random.uniform(0, word))
                cv2.line(picture, (gap, int(y)), (gap, int(y + high * 0.6)), tuple(int(v) for v in picture[0, 0]), 1)
            x += word + high * 0.6
        y += high * random.uniform(1.4, 1.9)
    return y + high * random.uniform(0.5, 3)


def _photo(random: Random, picture: Texture, box: tuple[float, ...]) -> None:
    x0, y0, x1, y1 = (int(v) for v in box)
    part = picture[y0:y1, x0:x1]
    if part.size == 0:
        return
    if random.random() < 0.5:
        field = sum(noise(random, part.shape[:2], (c, c))[:, :, None] * random.normal(0, 25, 3) for c in (2, 4, 9, 25))
        part[:] = np.clip(colour(random) + field, 0, 255)
    else:
        part[:] = colour(random, 90, 250, 120)
        _strokes(random, picture, box, int(random.integers(2, 12)))
    if random.random() < 0.5:
        cv2.rectangle(picture, (x0, y0), (x1, y1), _ink(random), 1)


def _rules(random: Random, picture: Texture, squared: bool) -> None:
    step = random.uniform(6, 26)
    ink = tuple(int(v) for v in np.clip(np.array(picture[0, 0], float) - random.uniform(12, 110, 3), 0, 255))
    thick = 1 if random.random() < 0.8 else 2
    for y in np.arange(random.uniform(0, step), picture.shape[0], step):
        cv2.line(picture, (0, int(y)), (picture.shape[1], int(y)), ink, thick)
    if squared:
        for x in np.arange(random.uniform(0, step), picture.shape[1], step):
            cv2.line(picture, (int(x), 0), (int(x), picture.shape[0]), ink, thick)
    elif random.random() < 0.4:
        x = int(random.uniform(0.08, 0.2) * picture.shape[1])
        cv2.line(picture, (x, 0), (x, picture.shape[0]), _ink(random), 1)


def _strokes(random: Random, picture: Texture, box: tuple[float, ...], count: int) -> None:
    x0, y0, x1, y1 = box
    for _ in range(count):
        start = random.uniform((x0, y0), (x1, y1))
        steps = np.cumsum(np.cumsum(random.normal(0, 2.2, (24, 2)), axis=0) * 0.5, axis=0) * random.uniform(0.3, 1.5)
        points = np.clip(start + steps, (x0, y0), (x1, y1)).astype(np.int32)
        cv2.polylines(picture, [points], random.random() < 0.15, _ink(random), int(random.integers(1, 4)), cv2.LINE_AA)


def _frame(random: Random, picture: Texture) -> None:
    """A printed border close to the paper's edge: what is most easily taken for it."""
    inset = int(random.uniform(0.02, 0.1) * min(picture.shape[:2]))
    far = (picture.shape[1] - inset, picture.shape[0] - inset)
    cv2.rectangle(picture, (inset, inset), far, _ink(random), int(random.integers(1, 6)))


def board_texture(random: Random, aspect: float) -> Texture:
    """A mini whiteboard: glossy white, with or without a frame."""
    picture = np.full((int(420 / max(1, aspect)), int(420 * min(1, aspect)), 3), random.uniform(220, 255), np.uint8)
    height, width = picture.shape[:2]
    _strokes(random, picture, (0.1 * width, 0.1 * height, 0.9 * width, 0.9 * height), int(random.integers(0, 14)))
    if random.random() < 0.8:
        cv2.rectangle(picture, (0, 0), (width - 1, height - 1), tuple(int(v) for v in colour(random)), int(random.uniform(6, 26)))
    return picture


def book_texture(random: Random) -> Texture:
    """Two facing pages with the shade of the gutter."""
    pages = [page_texture(random, random.uniform(0.66, 0.8), 440) for _ in range(2)]
    high, wide = min(p.shape[0] for p in pages), min(p.shape[1] for p in pages)
    pages[1][:] = np.clip(pages[1].astype(np.float32) * random.uniform(0.85, 1.1), 0, 255)
    spread = np.concatenate([p[:high, :wide] for p in pages], axis=1).astype(np.float32)
    away = np.abs(np.arange(2 * wide) - wide) / wide
    shade = 1 - random.uniform(0.2, 0.75) * np.exp(-away / random.uniform(0.02, 0.12))
    return np.clip(spread * shade[None, :, None], 0, 255).astype(np.uint8)
