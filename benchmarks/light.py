"""Even light: how even the paper is, how dark the ink, how true the colours, before and after; and what it costs a picture."""

import json
import sys
import time

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.bench.more_papers import Look, sheet
from cartouche.bench.papers import Paper, contour_sheet
from cartouche.core.pictures import Frame, Size, bgr_from_frame, frame_from_bgr
from cartouche.core.straighten.chain import Chain, ColourLink, LightLink
from cartouche.core.straighten.tone import apply_tone, correction, page_tone

LONG = 1120
CHAIN = Chain(light=LightLink(on=True), colour=ColourLink(on=True))


def lit(random: np.random.Generator, paper: Paper) -> tuple[NDArray[np.uint8], Frame]:
    """The page as it is, and as it comes under a slanting, shadowed, tinted light."""
    scale = LONG / max(paper.picture.shape)
    flat = cv2.resize(paper.picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    high, wide = (side // 2 * 2 for side in flat.shape[:2])
    flat = flat[:high, :wide]
    xs, ys = np.meshgrid(np.linspace(-1, 1, wide), np.linspace(-1, 1, high))
    gain = 0.66 + 0.14 * (random.uniform(-1, 1) * xs + random.uniform(-1, 1) * ys)
    if random.random() < 0.7:
        side = random.normal() * xs + random.normal() * ys + random.normal(0, 0.3)
        gain = gain * (1 - random.uniform(0.15, 0.45) / (1 + np.exp(-side / random.uniform(0.03, 0.2))))
    tint = 1 + random.uniform(-0.09, 0.09) * np.array([1, 0, -1])
    made = cv2.GaussianBlur(flat.astype(np.float32) * gain[:, :, None] * tint, (0, 0), 0.7) + random.normal(0, 2, flat.shape)
    return flat, frame_from_bgr(np.clip(made, 0, 255).astype(np.uint8))


class Measure:
    """Against the flat page: paper's own pixels, ink's, and coloured ones."""

    def __init__(self, flat: NDArray[np.uint8]) -> None:
        grey = cv2.cvtColor(flat, cv2.COLOR_BGR2GRAY)
        self.flat = cv2.cvtColor(flat, cv2.COLOR_BGR2LAB).astype(np.float32)
        near = np.ones((5, 5), np.uint8)
        self.paper = cv2.erode((grey > 235).astype(np.uint8), near) > 0
        self.ink = grey < 90
        colourful = np.hypot(self.flat[:, :, 1] - 128, self.flat[:, :, 2] - 128) > 12
        self.coloured = cv2.erode(colourful.astype(np.uint8), near) > 0

    def of(self, frame: Frame) -> dict[str, float]:
        luma = frame.y.astype(np.float32)
        paper = cv2.blur(luma, (9, 9))[self.paper]
        low, high = np.percentile(paper, (2, 98))
        lab = cv2.cvtColor(bgr_from_frame(frame), cv2.COLOR_BGR2LAB).astype(np.float32)
        off = np.linalg.norm((lab - self.flat) * np.array([100 / 255, 1, 1]), axis=2)
        return {
            "evenness": float(low / high),
            "ink_contrast": float(1 - np.median(luma[self.ink]) / np.median(luma[self.paper])) if self.ink.any() else np.nan,
            "colour_off_lab": float(np.median(off[self.coloured])) if self.coloured.sum() > 500 else np.nan,
        }


def main(count: int = 40) -> dict[str, float]:
    cv2.setNumThreads(1)
    random = np.random.default_rng(4)
    before, after, measuring, applying, bare = [], [], [], [], []
    for number in range(count):
        paper = contour_sheet() if number % 3 == 0 else sheet("A4", False, Look(("text", "photo", "squared")[number % 3], number % 2))
        flat, frame = lit(random, paper)
        truth = Measure(flat)
        before.append(truth.of(frame))
        begun = time.perf_counter()
        tone = page_tone(frame)
        measuring.append(time.perf_counter() - begun)
        if tone is None:
            after.append(truth.of(frame))
            continue
        made = correction(tone, CHAIN, np.eye(3), frame.size, (int(frame.size.width), int(frame.size.height)))
        shown = Frame.of([plane.copy() for plane in frame.planes], 0.0)
        begun = time.perf_counter()
        apply_tone(shown.planes, made)
        applying.append(time.perf_counter() - begun)
        begun = time.perf_counter()
        cv2.GaussianBlur(frame.y, (5, 5), 0)
        bare.append(time.perf_counter() - begun)
        after.append(truth.of(shown))
    names = ("evenness", "ink_contrast", "colour_off_lab")
    return {
        "pages": count,
        **{f"{name}_before": round(float(np.nanmean([one[name] for one in before])), 4) for name in names},
        **{f"{name}_after": round(float(np.nanmean([one[name] for one in after])), 4) for name in names},
        "measure_ms": round(1000 * float(np.median(measuring)), 2),
        "apply_ms": round(1000 * float(np.median(applying)), 2),
        "apply_ratio_to_blur_5": round(float(np.median(applying) / np.median(bare)), 2),
        "megapixels": round(Size(*frame.size).width * frame.size.height / 1e6, 2),
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
