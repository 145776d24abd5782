"""The camera that training scenes are seen by, and the map from its picture to the desk."""

import cv2
import numpy as np
from numpy.typing import NDArray

from training.textures import Random

WIDTH, HEIGHT = 288, 160  # what the network sees
OVER = 2  # drawn at twice that and shrunk by area
CELL = 8  # px: the maps from picture to desk are worked out once a cell and spread linearly
GRID = (WIDTH * OVER // CELL + 2, HEIGHT * OVER // CELL + 2)  # one cell more all round
Map = NDArray[np.float32]


class Eye:
    """A camera over the desk, with a lens that may bend. World: mm on the desk; the camera stands at z < 0."""

    def __init__(self, random: Random, page_mm: float, off: float = 0.2) -> None:
        """page_mm: its longer side.  off: how far beside the page's middle the camera may look, as a share of that."""
        tilt, around = np.radians(random.uniform(0, 64) if random.random() < 0.8 else random.uniform(0, 8)), random.uniform(0, 2 * np.pi)
        self.focal = random.uniform(0.65, 1.5)
        away = self.focal * page_mm / random.uniform(0.26, 0.85)
        eye = np.array([away * np.sin(tilt) * np.cos(around), away * np.sin(tilt) * np.sin(around), -away * np.cos(tilt)])
        aim = np.array([*random.uniform(-off, off, 2) * page_mm, 0.0])
        forward = (aim - eye) / np.linalg.norm(aim - eye)
        up = np.array([np.cos(1.1), np.sin(1.1), 0.2])
        right = np.cross(up, forward)
        right /= np.linalg.norm(right)
        down = np.cross(forward, right)
        roll = random.uniform(0, 2 * np.pi)
        right, down = np.cos(roll) * right + np.sin(roll) * down, np.cos(roll) * down - np.sin(roll) * right
        if random.random() < 0.3:
            right = -right  # mirrored
        self.rotation, self.eye = np.stack([right, down, forward]), eye
        self.bend = random.uniform(-0.16, 0.06) if random.random() < 0.4 else 0.0
        self.px = self.focal * WIDTH * OVER
        self.middle = np.array([WIDTH * OVER / 2, HEIGHT * OVER / 2])

    def see(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(n, 3) mm to (n, 2) picture px at the drawn size."""
        rays = (points - self.eye) @ self.rotation.T
        flat = rays[:, :2] / np.maximum(rays[:, 2:], 1.0)
        radius = (flat**2).sum(axis=1, keepdims=True) / (0.5 / self.focal) ** 2
        return np.asarray(flat * (1 + self.bend * radius) * self.px + self.middle)

    def desk_points(self) -> NDArray[np.float64]:
        """(rows, columns, 2) mm on the desk seen at the cells' middles."""
        xs, ys = np.meshgrid(*(CELL * (np.arange(count) - 0.5) for count in GRID))
        bent = (np.stack([xs.ravel(), ys.ravel()], axis=1) - self.middle) / self.px
        flat = bent.copy()
        for _ in range(6 if self.bend else 0):
            radius = (flat**2).sum(axis=1, keepdims=True) / (0.5 / self.focal) ** 2
            flat = bent / (1 + self.bend * radius)
        rays = np.column_stack([flat, np.ones(len(flat))]) @ self.rotation
        far = np.where(rays[:, 2] > 0.05, rays[:, 2], 0.05)
        return np.asarray((self.eye - self.eye[2] / far[:, None] * rays)[:, :2].reshape(GRID[1], GRID[0], 2))


def spread(grid: NDArray[np.float64]) -> tuple[Map, Map]:
    """A map given at the grid's cells, at every pixel's centre."""
    rows, columns = grid.shape[:2]
    both = cv2.resize(grid.astype(np.float32), (columns * CELL, rows * CELL), interpolation=cv2.INTER_LINEAR)[CELL:-CELL, CELL:-CELL]
    x, y = cv2.split(both)
    return x, y
