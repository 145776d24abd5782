"""How much of the writing a floating face ever covers while pages fill up, and how often it moves."""

import json
import sys
import time

import cv2
import numpy as np

from cartouche.core.plates.model import Rect
from cartouche.core.plates.placement import COLUMNS, ROWS, VIEW, Floating, InkMap, cells_of, floated

PAGES = 300
LOOK_S = 0.35
WORDS_S = 0.6  # a quick hand
WIDE, HIGH = int(VIEW.width), int(VIEW.height)
SHOWN = np.full((HIGH, WIDE), 255, np.uint8)
START = Rect(x=0.77, y=0.03, width=0.2, height=0.3)
WALKS = ("lines", "columns", "sums", "drawing", "from below")


class Writer:
    """A hand that fills a page stroke by stroke, with pauses, in one of several ways."""

    def __init__(self, random: np.random.Generator) -> None:
        self.random, self.walk = random, WALKS[int(random.integers(len(WALKS)))]
        self.paper = np.full((HIGH, WIDE), int(random.integers(190, 245)), np.uint8)
        self.ink = np.zeros((HIGH, WIDE), np.uint8)
        self.line_high = int(random.integers(8, 15))
        self.margin = int(random.integers(8, 30))
        self.tip = np.array([self.margin, self.margin + 4.0])
        self.pause_s, self.comes_s, self.done = 0.0, 0.0, False
        if random.random() < 0.3:  # squared paper
            self.paper[:: self.line_high // 2] -= 6
            self.paper[:, :: self.line_high // 2] -= 6

    def write(self, seconds: float) -> None:
        self.comes_s -= seconds
        if self.pause_s > 0 or self.comes_s > 0:
            self.pause_s -= seconds
            return
        if self.random.random() < WORDS_S * seconds:
            self._word()
        if self.random.random() < 0.05:
            self.pause_s = self.random.uniform(2, 14)  # it is explained

    def _word(self) -> None:
        length = int(self.random.integers(8, 30))
        if self.tip[0] + length > WIDE - self.margin:
            self._next_line()
        if self.done:
            return
        xs = np.arange(0, length, 2)
        ys = self.random.normal(0, self.line_high / 6, len(xs))
        points = np.stack([self.tip[0] + xs, self.tip[1] + ys], axis=1).round().astype(np.int32)
        cv2.polylines(self.ink, [points], False, 255, 1, cv2.LINE_AA)
        self.tip[0] += length + 5
        if self.walk == "sums" and self.random.random() < 0.3:
            self._next_line()
        if self.walk == "drawing" and self.random.random() < 0.5:
            self.tip = self.random.uniform((self.margin, self.margin), (WIDE - 40, HIGH - self.margin))
            self.comes_s = 1.0  # the hand goes there, then it writes
            self.done = (self.ink > 0).mean() > 0.04

    def _next_line(self) -> None:
        self.tip[0] = self.margin + (WIDE // 2 if self.walk == "columns" and self.tip[1] < 0 else 0)
        self.tip[1] += -self.line_high if self.walk == "from below" else self.line_high
        if self.walk == "from below" and self.tip[1] < self.margin and not self.done and (self.ink > 0).mean() < 0.004:
            self.tip[1] = HIGH - self.margin
        self.done = not self.margin <= self.tip[1] <= HIGH - self.margin + 2

    def view(self) -> np.ndarray:
        """The page as the camera has it: ink, grain, and the hand while it writes."""
        made = cv2.subtract(self.paper, cv2.multiply(self.ink, np.full_like(self.ink, 1), scale=0.6))
        if self.pause_s <= 0 and not self.done:
            x, y = (int(value) for value in self.tip)
            cv2.ellipse(made, (x + 14, y + 18), (16, 12), 40, 0, 360, 140, -1)
            cv2.line(made, (x + 20, y + 24), (WIDE, HIGH + 60), 120, 22)
        return cv2.add(made, self.random.integers(0, 5, made.shape, np.uint8))


def one_page(random: np.random.Generator) -> tuple[float, float, int, float, bool]:
    """Most ink ever covered (share of the page's), the same at the end, moves, minutes, whether the page was full in the end."""
    writer, seen, full = Writer(random), InkMap(), cells_of(START)
    face, now_s, worst, moves, until_s = Floating(full, -1e9), 0.0, 0.0, 0, 600.0
    while now_s < until_s and not (writer.done and writer.pause_s < -4):
        now_s += LOOK_S
        writer.write(LOOK_S)
        writer.pause_s -= LOOK_S if writer.done else 0
        seen.see(writer.view(), SHOWN, now_s)
        after = floated(seen, face, full, now_s)
        moves += after.box != face.box
        face = after
        if face.crowded:
            break  # the page makes room
        worst = max(worst, covered(writer.ink, face))
    return worst, covered(writer.ink, face), moves, now_s / 60, face.crowded


def covered(ink: np.ndarray, face: Floating) -> float:
    """By the truth, not by the map: the share of all ink px that lies under the face."""
    x, y = WIDE // COLUMNS, HIGH // ROWS
    box = face.box
    under = ink[max(box.y, 0) * y : (box.y + box.height) * y, max(box.x, 0) * x : (box.x + box.width) * x]
    return float((under > 0).sum()) / max(float((ink > 0).sum()), 1.0)


def main(count: int = PAGES) -> dict[str, object]:
    cv2.setNumThreads(1)
    random = np.random.default_rng(4)
    told = np.array([one_page(random) for _ in range(count)])
    seen, view = InkMap(), Writer(random).view()
    begun = time.perf_counter()
    for number in range(50):
        seen.see(view, SHOWN, number)
    look_ms = (time.perf_counter() - begun) / 50 * 1000
    return {
        "pages": count,
        "covered_ever_share": round(float(told[:, 0].mean()), 5),
        "covered_worst_share": round(float(told[:, 0].max()), 4),
        "pages_with_any_covered": round(float((told[:, 0] > 0).mean()), 3),
        "moves_per_minute": round(float(told[:, 2].sum() / told[:, 3].sum()), 3),
        "made_room": round(float(told[:, 4].mean()), 3),
        "look_ms": round(look_ms, 2),
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
