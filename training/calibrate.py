"""Fit how sure the finder is: a logistic over its evidence, on scenes that neither the network nor the benchmark sees.

`PYTHONPATH=src:. .venv/bin/python -m training.calibrate 600` prints the weights that stand in core/straighten/finder.py.
"""

import json
import sys

import cv2
import numpy as np

from benchmarks.finder import GOOD_SHARE, corner_errors_px
from cartouche.bench.poses import FULL_HD, Scene, scenes
from cartouche.core.straighten.finder import look_closer
from cartouche.core.straighten.page_map import both, page_map
from cartouche.core.straighten.rough_quads import Rough, rough_quads
from cartouche.models import page_net

SEED = 77
RIDGE = 0.02  # keeps a weight that few scenes speak for near nought


def gathered(count: int) -> tuple[np.ndarray, np.ndarray, list[str]]:
    """Evidence and whether it was right, one row a scene."""
    net, rows, good, names = page_net(), [], [], []
    for scene in scenes(count, FULL_HD, SEED):
        seen = page_map(scene.frame, net)
        second = both(seen, page_map(scene.frame, net, turned=True))
        for one in rough_quads(seen) + rough_quads(second):
            row = judged(scene, one)
            if row is not None:
                rows.append(list(row[0].values()))
                good.append(row[1])
                names = list(row[0])
    return np.array(rows), np.array(good, np.float64), names


def judged(scene: Scene, rough: Rough) -> tuple[dict[str, float], bool] | None:
    """The evidence for one quadrilateral, as the finder has it, and whether it is right."""
    looked = look_closer(scene.frame, rough)
    if looked is None:
        return None
    right = scene.corners is not None and corner_errors_px(looked.corners, scene.corners).mean() < GOOD_SHARE * np.hypot(*FULL_HD)
    return looked.evidence, bool(right)


def fitted(rows: np.ndarray, good: np.ndarray) -> np.ndarray:
    """Newton's method on the penalised likelihood."""
    scale = np.where(rows.std(axis=0) > 0, rows.std(axis=0), 1.0)
    x, weights = rows / scale, np.zeros(rows.shape[1])
    penalty = RIDGE * len(rows) * np.diag([0.0 if (column == 1).all() else 1.0 for column in rows.T]) / 10
    for _ in range(40):
        chance = 1 / (1 + np.exp(-x @ weights))
        slope = x.T @ (good - chance) - penalty @ weights
        curve = (x * (chance * (1 - chance))[:, None]).T @ x + penalty + 1e-9 * np.eye(len(weights))
        weights += np.linalg.solve(curve, slope)
    return weights / scale


def main(count: int = 600) -> None:
    cv2.setNumThreads(1)
    rows, good, names = gathered(count)
    weights = fitted(rows, good)
    print(json.dumps({"scenes": len(rows), "right": round(float(good.mean()), 4)}))
    print(dict(zip(names, (round(float(value), 2) for value in weights), strict=True)))


if __name__ == "__main__":
    main(*(int(value) for value in sys.argv[1:]))
