"""How often, how exactly and how quickly the page is found, over bench views with known corners."""

import json
import sys
import time
from collections import defaultdict
from typing import NamedTuple

import cv2
import numpy as np

from cartouche.bench.poses import scenes
from cartouche.core.pictures import Corners, Size
from cartouche.core.straighten.finder import find_page
from cartouche.models import page_nets

SCENES = 1000
GOOD_OVERLAP = 0.9  # of found and true quadrilateral: it is the page, whatever a curled or hidden corner is off by
SQUARE = (
    cv2.getPerspectiveTransform(  # what it is compared with: one plane of a page of 1400 x 1080 squared up, 6.6 ms when the budget was set
        np.array([[400, 100], [1500, 160], [1600, 1000], [300, 900]], np.float32),
        np.array([[0, 0], [1400, 0], [1400, 1080], [0, 1080]], np.float32),
    )
)
GOOD_SHARE = 0.01  # of the diagonal: a mean corner error below it is near; what the finder says of its chances means that


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


class Tally(NamedTuple):
    """Of one kind of scene. off_px: of each page found anything for, endless where nothing was.  overlaps: 0 there."""

    off_px: list[float]
    overlaps: list[float]

    def told(self) -> dict[str, float]:
        found = np.array(self.overlaps) >= GOOD_OVERLAP
        return {
            "found": round(float(found.mean()), 4),
            "mean_px": round(float(np.array(self.off_px)[found].mean()), 2),
            "overlap": round(float(np.mean(self.overlaps)), 4),
        }


def main(count: int = SCENES, seed: int = 1) -> dict[str, object]:
    cv2.setNumThreads(1)
    size, nets = Size(1920, 1080), page_nets()
    near_px = GOOD_SHARE * float(np.hypot(*size))
    times: list[float] = []
    warps: list[float] = []
    by_tag: dict[str, Tally] = defaultdict(lambda: Tally([], []))
    said: list[tuple[float, bool]] = []
    invented, empty = 0, 0
    for scene in scenes(count, size, seed):
        begun = time.perf_counter()
        result = find_page(scene.frame, nets)
        times.append(time.perf_counter() - begun)
        begun = time.perf_counter()
        cv2.warpPerspective(scene.frame.y, SQUARE, (1400, 1080), flags=cv2.INTER_LINEAR)
        warps.append(time.perf_counter() - begun)
        if scene.corners is None:
            empty, invented = empty + 1, invented + bool(result)
            said += [(result.confidence, False)] if result else []
            continue
        off = float(corner_errors_px(result.corners, scene.corners).mean()) if result else np.inf
        shared = overlap(result.corners, scene.corners) if result else 0.0
        said += [(result.confidence, off < near_px)] if result else []
        for tag in ("all", *scene.tags):
            by_tag[tag].off_px.append(off)
            by_tag[tag].overlaps.append(shared)
    everything = by_tag.pop("all")
    off_px = np.array(everything.off_px)
    return {
        "scenes": count,
        **everything.told(),
        "near": round(float((off_px < near_px).mean()), 4),
        "median_px": round(float(np.median(off_px)), 3),
        "ms": round(1000 * float(np.median(times)), 2),
        "mean_ms": round(1000 * float(np.mean(times)), 2),
        "p95_ms": round(1000 * float(np.percentile(times, 95)), 2),
        "ratio_warp": round(float(np.median(times) / np.median(warps)), 2),
        "invented": round(invented / max(empty, 1), 4),
        "reliability": reliability(said),
        "by_tag": {tag: tally.told() for tag, tally in sorted(by_tag.items())},
    }


SURE = 0.95  # what is said so sure is acted upon unasked
BANDS = ((0.0, 0.5), (0.5, 0.8), (0.8, 0.95), (0.95, 0.99), (0.99, 1.01))


def reliability(said: list[tuple[float, bool]]) -> dict[str, object]:
    """Of those it calls so sure, how many there are, how sure on average, and how many are right; and how many are off among the sure."""
    table = {}
    for low, high in BANDS:
        within = [(sure, good) for sure, good in said if low <= sure < high]
        if within:
            mean, right = np.mean(within, axis=0)
            table[f"{low:.2f}_to_{min(high, 1):.2f}"] = {"of": len(within), "said": round(float(mean), 3), "right": round(float(right), 3)}
    off = [not good for sure, good in said if sure >= SURE]
    return {"table": table, "sure": len(off), "sure_and_off": sum(off)}


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
