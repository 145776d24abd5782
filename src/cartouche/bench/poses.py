"""Many views of the demo sheet with known truth: mirrored, turned, tilted, on several desks, with and without the hand."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from cartouche.bench.camera import Camera, Grain, Light, Lying, Pose, paper_matrix, photograph, true_corners
from cartouche.bench.desks import Kind, desk
from cartouche.bench.hand import Hand
from cartouche.bench.papers import Paper, contour_sheet
from cartouche.core.pictures import Corners, Frame, Size

FULL_HD = Size(1920, 1080)
DESKS: tuple[Kind, ...] = ("wood", "cloth", "black", "pale")


@dataclass(frozen=True, eq=False)
class Scene:
    """One still view. corners: the page's own, top-left first, px."""

    frame: Frame
    corners: Corners
    mirrors: int
    tags: tuple[str, ...]


def scenes(count: int, size: Size = FULL_HD, seed: int = 1) -> Iterator[Scene]:
    """Repeatable random views in which all four corners are seen."""
    random = np.random.default_rng(seed)
    paper = contour_sheet()
    made = 0
    while made < count:
        camera, lying = _draw_view(random, size, paper)
        corners = true_corners(camera, paper, lying)
        inside = (corners > 0.012 * size.width).all() and (corners < np.array(size) - 0.012 * size.width).all()
        if not inside or np.ptp(corners, axis=0).min() < 0.2 * size.height:
            continue
        yield _scene(random, camera, lying, corners, paper, DESKS[made % len(DESKS)], with_hand=made % 3 == 0)
        made += 1


def _draw_view(random: np.random.Generator, size: Size, paper: Paper) -> tuple[Camera, Lying]:
    tilt, around = np.radians(random.uniform(0, 52)), random.uniform(0, 2 * np.pi)
    away = random.uniform(380, 760)
    position = (away * np.sin(tilt) * np.cos(around), away * np.sin(tilt) * np.sin(around) - 1e-3, -away * np.cos(tilt))
    light = Light(
        lamp=(random.uniform(-350, 350), random.uniform(-350, 350), -random.uniform(420, 800)), exposure=random.uniform(0.75, 1.08)
    )
    camera = Camera(
        size,
        Pose(position, (random.uniform(-25, 25), random.uniform(-25, 25)), roll_deg=random.uniform(0, 360)),
        focal=random.uniform(0.75, 1.2),
        mirrors=int(random.integers(0, 2)),
        noise=random.uniform(1, 4),
        blur_px=random.uniform(0, 1.6),
        light=light,
    )
    return camera, Lying(random.uniform(-30, 30), random.uniform(-30, 30), random.uniform(-30, 30))


def _scene(random: np.random.Generator, camera: Camera, lying: Lying, corners: Corners, paper: Paper, kind: Kind, with_hand: bool) -> Scene:
    frame = photograph(replace(camera), desk(kind), paper, lying)
    if with_hand:
        tip = (float(random.uniform(40, 170)), float(random.uniform(60, 210)))
        Hand(camera.desk_matrix() @ paper_matrix(paper, lying), camera.size, 0.9, tip).draw(frame, tip)
    Grain(camera.size, camera.noise).add(frame.y, int(random.integers(0, 100)))
    forward = -np.array(camera.pose.position)
    tilt = np.degrees(np.arccos(abs(forward[2]) / np.linalg.norm(forward)))
    tags = [f"desk_{kind}", "mirrored" if camera.mirrors else "unmirrored", "tilt_over_40" if tilt > 40 else "tilt_to_40"]
    return Scene(frame, corners, camera.mirrors, (*tags, "hand" if with_hand else "no_hand"))
