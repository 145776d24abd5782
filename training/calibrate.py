"""Fit how sure the finder is: a logistic over its evidence, on scenes that neither the network nor the benchmark sees.

`PYTHONPATH=src:. .venv/bin/python -m training.calibrate 1400` prints the weights that stand in core/straighten/finder.py.
"""

import json
import sys

import cv2
import numpy as np

from benchmarks.finder import GOOD_SHARE, corner_errors_px
from cartouche.bench.poses import FULL_HD, Scene, scenes
from cartouche.core.straighten.finder import all_quads, look_closer
from cartouche.core.straighten.page_map import both, page_map, shrunk
from cartouche.core.straighten.rough_quads import plain_quads, regions
from cartouche.models import page_nets

SEEDS = (77, 78)
RIDGE = 0.002  # keeps a weight that few scenes speak for near nought; ten times as much made the judge one voice among many


def gathered(count: int) -> tuple[np.ndarray, np.ndarray, list[str]]:
    """Evidence and whether it was right, one row a quadrilateral."""
    nets, rows, good, names = page_nets(), [], [], []
    for scene in (one for seed in SEEDS for one in scenes(count // len(SEEDS), FULL_HD, seed)):
        small = shrunk(scene.frame)
        seen = page_map(small, nets.map)
        second = both(seen, page_map(small, nets.map, turned=True))
        rough = [one for region in regions(seen) for one in plain_quads(seen, region)]
        rough += [one for region in regions(second) for one in all_quads(second, region)]
        for looked_at in look_closer(scene.frame, small, rough, nets.judge):
            rows.append(list(looked_at.evidence.values()))
            good.append(right(scene, looked_at.corners))
            names = list(looked_at.evidence)
    return np.array(rows), np.array(good, np.float64), names


def right(scene: Scene, corners: np.ndarray) -> bool:
    return scene.corners is not None and bool(corner_errors_px(corners, scene.corners).mean() < GOOD_SHARE * np.hypot(*FULL_HD))


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


def main(count: int = 1400) -> None:
    cv2.setNumThreads(1)
    rows, good, names = gathered(count)
    weights = fitted(rows, good)
    print(json.dumps({"scenes": len(rows), "right": round(float(good.mean()), 4)}))
    print(dict(zip(names, (round(float(value), 2) for value in weights), strict=True)))


if __name__ == "__main__":
    main(*(int(value) for value in sys.argv[1:]))
