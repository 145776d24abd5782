"""Table tops for the traced pictures, other ones than the bench's and the training's."""

import numpy as np
from numpy.typing import NDArray

SIDE = 512
KINDS = ("wood", "planks", "plain", "marble", "cloth", "check", "white", "mat")


def _cloud(random: np.random.Generator, stretch: float, power: float) -> NDArray[np.float64]:
    """Noise whose strength falls with frequency, (SIDE, SIDE, 1), mean 0, spread 1."""
    spectrum = np.fft.fft2(random.normal(size=(SIDE, SIDE)))
    radius = np.hypot(np.fft.fftfreq(SIDE)[:, None] * stretch, np.fft.fftfreq(SIDE)[None])
    radius[0, 0] = 1
    made = np.real(np.fft.ifft2(spectrum / radius**power))
    return np.asarray((made - made.mean()) / made.std())[:, :, None]


def desk_texture(random: np.random.Generator) -> tuple[NDArray[np.uint8], str]:
    """(SIDE, SIDE, 3) BGR and what it is."""
    kind = KINDS[int(random.integers(len(KINDS)))]
    ys, xs = (grid[:, :, None] for grid in np.mgrid[:SIDE, :SIDE])
    base = random.uniform(20, 235) * np.array([random.uniform(0.7, 1), random.uniform(0.8, 1), 1.0])
    if kind in ("wood", "planks"):
        dark = random.uniform(30, 130)
        made = np.array([dark, dark * 1.35 + 10, dark * 1.7 + 25]) * (1 + _cloud(random, 12, 1.4) * random.uniform(0.04, 0.14))
        if kind == "planks":
            made = made * (1 + 0.15 * random.normal(size=(1, 8, 1))).repeat(SIDE // 8, axis=1)
            made[:, :: SIDE // 8] *= 0.5
    elif kind == "marble":
        made = base + np.abs(_cloud(random, 1, 2)) * random.uniform(8, 30)
    elif kind == "cloth":
        weave = np.sin(xs * np.pi / 2 + 0.4) * np.sin(ys * np.pi / 2 + 0.4)
        made = base * (1 + 0.15 * weave) + _cloud(random, 1, 1) * 4
    elif kind == "check":
        square = 64 * int(random.integers(1, 3))
        made = np.where((xs // square + ys // square) % 2, base, random.uniform(60, 240, 3))
    elif kind == "mat":
        made = np.where((xs % 32 == 0) | (ys % 32 == 0), np.array([140, 170, 120]), np.array([90, 110, 40]))
    else:
        base = np.full(3, random.uniform(215, 245)) if kind == "white" else base
        made = base * (1 + _cloud(random, 1, 1.2) * random.uniform(0, 0.04))
    return np.clip(made, 0, 255).astype(np.uint8), kind
