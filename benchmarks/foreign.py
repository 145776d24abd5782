"""The finder and the reader of ways on pictures that another program rendered (`traced/`). No network was taught on them."""

import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent))  # found from anywhere
from benchmarks.finder import GOOD_OVERLAP, GOOD_SHARE, SURE, corner_errors_px, overlap, reliability
from cartouche.core.pictures import Colour, Corners, Plane, Size, frame_from_bgr
from cartouche.core.reading.proof import read_way
from cartouche.core.straighten.finder import Found, NotFound, find_page
from cartouche.core.straighten.paper import true_proportions
from cartouche.models import page_nets, way_net

PICTURES = Path(__file__).parent / "traced"
LONG_PX = 1120  # as the watcher straightens a page to read it


class Picture(NamedTuple):
    """bgr: (h, w, 3).  corners: (4, 2) px, the page's own top-left first."""

    name: str
    bgr: Colour
    corners: Corners
    tags: list[str]

    @property
    def mirrored(self) -> bool:
        (ax, ay), (bx, by) = self.corners[2] - self.corners[0], self.corners[3] - self.corners[1]
        return bool(ax * by < ay * bx)


def pictures(folder: Path = PICTURES) -> Iterator[Picture]:
    for path in sorted(folder.glob("*.json")):
        truth = json.loads(path.read_text("utf-8"))
        bgr = cv2.imread(str(path.with_suffix(".jpg")))
        assert bgr is not None
        yield Picture(path.stem, np.asarray(bgr, np.uint8), np.array(truth["corners"]), truth["tags"])


def straightened(shown: Picture) -> Plane:
    """Luma of the page by its true corners, reflected if the view is, in its own proportions as the product works them out."""
    quad = shown.corners[[1, 0, 3, 2]] if shown.mirrored else shown.corners
    aspect = true_proportions(quad, Size(shown.bgr.shape[1], shown.bgr.shape[0])).aspect
    size = [round(LONG_PX * side / max(aspect, 1)) for side in (aspect, 1)]
    target = np.array([[0, 0], [size[0], 0], size, [0, size[1]]], np.float32)
    page = cv2.warpPerspective(shown.bgr, cv2.getPerspectiveTransform(quad.astype(np.float32), target), size)
    return np.asarray(cv2.cvtColor(page, cv2.COLOR_BGR2GRAY), np.uint8)


def off_share(found: Found | NotFound, shown: Picture) -> float:
    """Mean corner error as a share of the picture's diagonal; endless where nothing was found."""
    if not found:
        return np.inf
    return float(corner_errors_px(found.corners, shown.corners).mean() / np.hypot(*shown.bgr.shape[:2]))


def main(folder: Path = PICTURES) -> dict[str, object]:
    cv2.setNumThreads(1)
    page, way = page_nets(), way_net()
    shared, near, missed, sure_and_wrong = [], [], [], []
    said: list[tuple[float, bool]] = []
    ways = {"right": 0, "wrong": 0, "cannot_tell": 0, "turn_wrong_of_right": 0}
    for shown in pictures(folder):
        found = find_page(frame_from_bgr(shown.bgr), page)
        shared.append(overlap(found.corners, shown.corners) if found else 0.0)
        near.append(off_share(found, shown) < GOOD_SHARE)
        said += [(found.confidence, near[-1])] if found else []
        if shared[-1] < GOOD_OVERLAP:
            missed.append(f"{shown.name} {' '.join(shown.tags)}")
            sure_and_wrong += [shown.name] if found and found.confidence >= SURE else []
        told = read_way(straightened(shown), way)
        right = told.reads_true is not None and told.reads_true != shown.mirrored
        ways["cannot_tell" if told.reads_true is None else "right" if right else "wrong"] += 1
        ways["turn_wrong_of_right"] += right and told.quarters != 0
    return {
        "pictures": len(shared),
        "found": round(1 - len(missed) / len(shared), 3),
        "near": round(float(np.mean(near)), 3),
        "overlap": round(float(np.mean(shared)), 3),
        "sure_and_wrong": sure_and_wrong,
        "reliability": reliability(said),
        "ways": ways,
        "missed": missed,
    }


if __name__ == "__main__":
    print(json.dumps(main(*(Path(folder) for folder in sys.argv[1:])), indent=1))
