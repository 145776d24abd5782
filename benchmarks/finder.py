"""How often, how exactly and how quickly the page is found, over bench views with known corners."""

import json
import sys
import time
from collections import defaultdict

import cv2
import numpy as np

from cartouche.bench.poses import scenes
from cartouche.core.pictures import Corners, Size
from cartouche.core.straighten.finder import find_page

SCENES = 240
GOOD_SHARE = 0.01  # of the diagonal: mean corner error that still counts as found


def corner_errors_px(found: Corners, truth: Corners) -> np.ndarray:
    """Distances of matched corners: the finder's order starts elsewhere and runs clockwise as seen."""
    (ax, ay), (bx, by) = truth[2] - truth[0], truth[3] - truth[1]
    seen = truth if ax * by > ay * bx else truth[::-1]
    return min((np.linalg.norm(found - np.roll(seen, k, axis=0), axis=1) for k in range(4)), key=np.sum)


def overlap(found: Corners, truth: Corners) -> float:
    """Intersection over union of two convex quadrilaterals."""
    a, b = (cv2.convexHull(quad.astype(np.float32)) for quad in (found, truth))
    shared = cv2.intersectConvexConvex(a, b)[0]
    return float(shared / (cv2.contourArea(a) + cv2.contourArea(b) - shared))


def main(count: int = SCENES) -> dict[str, object]:
    cv2.setNumThreads(1)
    size = Size(1920, 1080)
    errors, times, overlaps, by_tag = [], [], [], defaultdict(list)
    for scene in scenes(count, size):
        begun = time.perf_counter()
        result = find_page(scene.frame)
        times.append(time.perf_counter() - begun)
        good = False
        if result:
            off = corner_errors_px(result.corners, scene.corners)
            good = off.mean() < GOOD_SHARE * np.hypot(*size)
            overlaps.append(overlap(result.corners, scene.corners))
            if good:
                errors.append(off.mean())
        else:
            overlaps.append(0.0)
        for tag in scene.tags:
            by_tag[tag].append(good)
    return {
        "scenes": count,
        "found": len(errors) / count,
        "median_px": round(float(np.median(errors)), 3),
        "overlap": round(float(np.mean(overlaps)), 4),
        "ms": round(1000 * float(np.median(times)), 2),
        "by_tag": {tag: round(float(np.mean(goods)), 3) for tag, goods in sorted(by_tag.items())},
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
