"""Does the page itself tell which way round it stands? Over pages in fonts and hands that the network was not taught with."""

import json
import sys
import time
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from cartouche.bench.more_papers import SENTENCES
from cartouche.core.pictures import Plane
from cartouche.core.reading.proof import read_way
from cartouche.models import way_net

FONTS = Path(__file__).parent.parent / "frontend/node_modules/@fontsource"
PRINT = ("alegreya", "quicksand", "zilla-slab", "ibm-plex-mono", "libre-franklin")
HANDS = ("coming-soon", "short-stack", "mali", "sriracha", "neucha")
SIZE = (794, 1123)  # px of the straightened page, as the watcher sees it
NUMBERS = "3.14 × 2 = 6.28 · 25 000 : 1 · 47° 30′ · 1 482 m · 960 hPa"


def page(random: np.random.Generator, font: str, style: str) -> Plane:
    """A page as it comes from a squared-up view: uneven light, blur, noise. style: 'full', 'few lines', 'figures'."""
    picture = Image.new("L", (SIZE[0] * 2, SIZE[1] * 2), int(random.uniform(215, 255)))
    pen = ImageDraw.Draw(picture)
    mm = SIZE[1] * 2 / 297
    points = random.uniform(9, 18) if font in PRINT else random.uniform(14, 26)
    face = ImageFont.truetype(FONTS / font / f"files/{font}-latin-400-normal.woff2", round(points * 0.3528 * mm))
    lines = {"full": int(220 / (points * 0.55)), "few lines": 3, "figures": 4}[style]
    for line in range(lines):
        words = NUMBERS if style == "figures" and line % 2 else " ".join(random.choice(SENTENCES, 2))
        words = words[: int(165 / (points * 0.19))]
        pen.text((20 * mm, (20 + line * points * 0.55) * mm), words, font=face, fill=int(random.uniform(10, 90)))
    small = cv2.resize(np.asarray(picture), SIZE, interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), random.uniform(0.4, 1.1)).astype(np.float32)
    xs, ys = np.meshgrid(np.linspace(-1, 1, SIZE[0]), np.linspace(-1, 1, SIZE[1]))
    lit = small * (0.8 + 0.15 * (random.uniform(-1, 1) * xs + random.uniform(-1, 1) * ys)) + random.normal(0, 2.5, small.shape)
    return np.clip(lit, 0, 255).astype(np.uint8)


def main(count: int = 500) -> dict[str, object]:
    cv2.setNumThreads(1)
    net, random = way_net(), np.random.default_rng(5)
    right = wrong = silent = turned_wrong = told_turned = 0
    by_kind: dict[str, list[int]] = {}
    times = []
    for number in range(count):
        font = (*PRINT, *HANDS)[number % 10]
        style = ("full", "full", "few lines", "figures")[number // 10 % 4]
        quarters, mirrored = int(random.integers(4)), bool(random.integers(2))
        luma = np.ascontiguousarray(np.rot90(page(random, font, style), -quarters))
        luma = np.ascontiguousarray(luma[:, ::-1]) if mirrored else luma
        begun = time.perf_counter()
        told = read_way(luma, net)
        times.append(time.perf_counter() - begun)
        # mirrored after the turn: flipped back it stands turned by the same quarters, and wants the rest of four
        wants = -quarters % 4
        good = told.reads_true is not None and told.reads_true != mirrored
        silent += told.reads_true is None
        right += good
        wrong += told.reads_true is not None and not good
        if good:
            told_turned += 1
            turned_wrong += told.quarters != wants

        for name in ("hand" if font in HANDS else "print", style):
            by_kind.setdefault(name, [0, 0, 0])[0 if good else 2 if told.reads_true is None else 1] += 1
    return {
        "pages": count,
        "right": round(right / count, 4),
        "wrong": round(wrong / count, 4),
        "cannot_tell": round(silent / count, 4),
        "turn_wrong_of_right": round(turned_wrong / max(told_turned, 1), 4),
        "ms": round(1000 * float(np.median(times)), 1),
        "by_kind_right_wrong_silent": by_kind,
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
