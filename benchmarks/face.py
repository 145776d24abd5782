"""Faces made the best of: the mask's edge on drawn and synthetic people before busy rooms, its flicker, the light evened, ms a picture."""

import json
import sys
import time
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Frame, Size, bgr_from_frame, frame_from_bgr
from cartouche.core.plates.behind import BehindPainter, PersonMask, as_seen
from cartouche.core.plates.grade import light_of
from cartouche.core.plates.head import Head
from cartouche.core.plates.model import Behind, Grade
from cartouche.models import person_net

SIZE = Size(1280, 720)
Mask = NDArray[np.float32]
SKINS = [(196, 214, 240), (150, 178, 222), (110, 144, 196), (74, 104, 156), (52, 76, 122), (40, 56, 92)]  # BGR


class Person(NamedTuple):
    """mask: (144, 256) 0-1, true.  large: the same at SIZE.  picture: (h, w, 3) BGR of the person on black."""

    mask: Mask
    large: Mask
    picture: NDArray[np.uint8]
    head: Head


def person(seed: int) -> Person:
    """A head of some shape, skin and hair on shoulders, anywhere a camera has it."""
    random = np.random.default_rng(seed)
    wide, high = int(SIZE.width), int(SIZE.height)
    tall = random.uniform(0.24, 0.46) * high
    x, y = random.uniform(0.34, 0.66) * wide, random.uniform(0.34, 0.44) * high
    broad = tall * random.uniform(0.66, 0.8)
    skin, hair, cloth = SKINS[seed % 6], _colour(random, 12, 90), _colour(random, 20, 230)
    picture, mask = np.zeros((high, wide, 3), np.uint8), np.zeros((high, wide), np.uint8)

    def draw(shape: NDArray[np.float64], colour: tuple[int, ...]) -> None:
        points = [np.round(shape * 16).astype(np.int32)]
        cv2.fillPoly(picture, points, colour, cv2.LINE_AA, shift=4)
        cv2.fillPoly(mask, points, 255, cv2.LINE_AA, shift=4)

    reach = broad * random.uniform(1.25, 1.7)
    top = y + tall * random.uniform(0.62, 0.72)
    slope = np.linspace(np.pi, 2 * np.pi, 40)
    shoulders = np.stack([x + reach * np.cos(slope), top + tall * 0.55 + tall * 0.5 * np.sin(slope)], axis=1)
    draw(np.concatenate([shoulders, [(x + reach * 1.08, high + 60.0), (x - reach * 1.08, high + 60.0)]]), cloth)
    neck = broad * 0.27
    draw(
        np.array(
            [
                (x - neck, y + 0.2 * tall),
                (x + neck, y + 0.2 * tall),
                (x + neck * 1.15, top + 0.22 * tall),
                (x - neck * 1.15, top + 0.22 * tall),
            ]
        ),
        _shade(skin, 0.82),
    )
    long_hair = seed % 3 == 1
    draw(_oval(x, y - 0.07 * tall + (0.12 * tall if long_hair else 0), broad * 0.56, tall * (0.6 if long_hair else 0.5)), hair)
    draw(_oval(x, y + 0.04 * tall, broad * 0.46, tall * 0.44), skin)
    for side in (-1, 1):
        cv2.ellipse(
            picture, (int(x + side * broad * 0.19), int(y)), (int(broad * 0.07), int(tall * 0.03)), 0, 0, 360, (40, 34, 30), -1, cv2.LINE_AA
        )
        if seed % 2:
            cv2.ellipse(
                picture,
                (int(x + side * broad * 0.19), int(y)),
                (int(broad * 0.15), int(tall * 0.1)),
                0,
                0,
                360,
                (50, 50, 54),
                3,
                cv2.LINE_AA,
            )
    cv2.ellipse(
        picture, (int(x), int(y + 0.27 * tall)), (int(broad * 0.15), int(tall * 0.035)), 0, 0, 360, _shade(skin, 0.6), -1, cv2.LINE_AA
    )
    large = mask.astype(np.float32) / np.float32(255)
    low = y - 0.57 * tall + (0.02 * tall if long_hair else 0)
    bottom = y + 0.48 * tall
    head = Head(x / wide, (low + bottom) / 2 / high, 2 * broad * 0.56 / wide, (bottom - low) / high)
    return Person(np.asarray(cv2.resize(large, (256, 144), interpolation=cv2.INTER_AREA), np.float32), large, picture, head)


def _oval(x: float, y: float, wide: float, high: float) -> NDArray[np.float64]:
    angle = np.linspace(0, 2 * np.pi, 72)
    return np.stack([x + wide * np.cos(angle), y + high * np.sin(angle)], axis=1)


def _colour(random: np.random.Generator, low: int, high: int) -> tuple[int, ...]:
    return tuple(int(value) for value in random.integers(low, high, 3))


def _shade(colour: tuple[int, ...], by: float) -> tuple[int, ...]:
    return tuple(int(value * by) for value in colour)


def room(seed: int) -> NDArray[np.uint8]:
    """A busy one: shelves, pictures, a window, lamps. (h, w, 3) BGR."""
    random = np.random.default_rng(5000 + seed)
    wide, high = int(SIZE.width), int(SIZE.height)
    made = np.full((high, wide, 3), _colour(random, 90, 230), np.uint8)
    for _ in range(int(random.integers(20, 70))):
        x, y = int(random.integers(0, wide)), int(random.integers(0, high))
        w, h = int(random.integers(20, 260)), int(random.integers(20, 300))
        if random.random() < 0.75:
            cv2.rectangle(made, (x, y), (x + w, y + h), _colour(random, 10, 250), -1)
        else:
            cv2.circle(made, (x, y), w // 3, _colour(random, 10, 250), -1, cv2.LINE_AA)
    return np.asarray(cv2.GaussianBlur(made, (0, 0), random.uniform(0.8, 4.0)), np.uint8)


def scene(seed: int, noise_seed: int = 0) -> tuple[Frame, Person]:
    drawn = person(seed)
    soft = cv2.GaussianBlur(drawn.large, (0, 0), 1.2)[..., None]
    picture = cv2.GaussianBlur(drawn.picture, (0, 0), 1.0) * soft + room(seed) * (1 - soft)
    picture += np.random.default_rng(9000 + seed + 77 * noise_seed).normal(0, 3, picture.shape[:2])[..., None]
    return frame_from_bgr(np.clip(picture, 0, 255).astype(np.uint8)), drawn


def lit_from_a_side(frame: Frame, by: float) -> Frame:
    """So many times as bright at the right edge as in the middle, as much darker at the left."""
    slope = by ** np.linspace(-1, 1, frame.y.shape[1], dtype=np.float32)[None, :]
    return Frame(np.clip(frame.y * slope, 0, 255).astype(np.uint8), frame.u, frame.v, 0.0)


def tinted(frame: Frame, u: float, v: float) -> Frame:
    shifted = (np.clip(plane.astype(np.float32) + by, 0, 255).astype(np.uint8) for plane, by in ((frame.u, u), (frame.v, v)))
    return Frame(frame.y, *shifted, 0.0)


def skin_slope(frame: Frame, mask: Mask) -> float:
    """How unevenly the face is lit from left to right: stops per picture width, over its skin."""
    y, u, v = (plane.astype(np.float64) for plane in as_seen(frame))
    skin = (mask > 0.7) & (v > 134) & (v < 178) & (u > 80) & (u < 127) & (y > 12)
    if skin.sum() < 30:
        return 0.0
    return float(np.polyfit(np.nonzero(skin)[1] / mask.shape[1], np.log2(y[skin]), 1)[0])


def edge_error(mask: Mask, true: Mask) -> float:
    """Mean distance of the mask's edge from the true one, in shares of the picture's width; both as large."""
    edges = [cv2.morphologyEx((one > 0.5).astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) for one in (mask, true)]
    inside = (slice(2, -2), slice(2, -2))
    found, wanted = (edge[inside] > 0 for edge in edges)
    if not found.any():
        return 1.0
    apart = cv2.distanceTransform((~wanted).astype(np.uint8), cv2.DIST_L2, 5)
    back = cv2.distanceTransform((~found).astype(np.uint8), cv2.DIST_L2, 5)
    return float((apart[found].mean() + back[wanted].mean()) / 2 / mask.shape[1])


def measure(count: int) -> dict[str, float]:
    net = person_net()
    edges, wrong, flicker, before, after = [], [], [], [], []
    for seed in range(count):
        frame, drawn = scene(seed)
        seer = PersonMask(net)
        mask = seer.see(frame)
        edges.append(edge_error(mask, drawn.mask))
        wrong.append(float((np.abs(mask - drawn.mask) > 0.5).mean()))
        again = seer.see(scene(seed, 1)[0])
        flicker.append(float(np.abs(again - mask)[2:-2, 2:-2].mean()))
        side = lit_from_a_side(frame, 1.5)
        light = light_of(side, mask, as_seen)
        made = BehindPainter().draw(side, mask, Behind(), Grade(even=1.0), light)
        before.append(abs(skin_slope(side, drawn.mask)))
        after.append(abs(skin_slope(made, drawn.mask)))
    return {
        "heads": count,
        "edge_share": round(float(np.median(edges)), 4),
        "edge_share_p95": round(float(np.percentile(edges, 95)), 4),
        "wrong_area": round(float(np.mean(wrong)), 4),
        "flicker": round(float(np.mean(flicker)), 5),
        "slope_before": round(float(np.median(before)), 3),
        "slope_after": round(float(np.median(after)), 3),
    }


def speed() -> dict[str, float]:
    """ms a picture at 720p, and as a share of looking for the person alone."""
    net, face = person_net(), Presenter(SIZE).picture(1.0, 0.0)
    seer, painter = PersonMask(net), BehindPainter()
    mask = seer.see(face)
    light = light_of(face, mask, as_seen)
    ground = frame_from_bgr(room(1))
    ways = {
        "find": lambda: seer.see(face),
        "soften": lambda: painter.draw(face, mask, Behind(way="soften")),
        "picture": lambda: painter.draw(face, mask, Behind(way="picture", feed_id="x"), ground=ground),
        "all": lambda: painter.draw(face, mask, Behind(way="soften", light=0.3), Grade(even=0.7, balanced=True, contrast=0.2), light),
        "light": lambda: light_of(face, mask, as_seen),
    }
    told = {}
    for name, work in ways.items():
        took = []
        for _ in range(30):
            begun = time.perf_counter()
            work()
            took.append(time.perf_counter() - begun)
        told[f"{name}_ms"] = round(1000 * float(np.median(took)), 2)
    return told


if __name__ == "__main__":
    if len(sys.argv) > 2:
        cv2.imwrite(sys.argv[2], bgr_from_frame(scene(int(sys.argv[1]))[0]))
    else:
        print(json.dumps(measure(int(sys.argv[1]) if len(sys.argv) > 1 else 200) | speed()))
