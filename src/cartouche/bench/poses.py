"""Many views with known truth, over every condition under which a page must be found, or nothing be found."""

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.bench.camera import Camera, Grain, Light, Lying, Pose, lay, paper_matrix, photograph, true_corners
from cartouche.bench.curl import Curl, curled_corners, lay_curled
from cartouche.bench.desks import Kind, desk
from cartouche.bench.hand import Hand
from cartouche.bench.more_papers import Look, book, keyboard, sheet, whiteboard
from cartouche.bench.papers import Paper, contour_sheet
from cartouche.core.pictures import Corners, Frame, Size
from cartouche.core.straighten.lens import distort, undistort

FULL_HD = Size(1920, 1080)
DESKS: tuple[Kind, ...] = ("wood", "cloth", "black", "pale")
LOOKS = ("text", "squared", "ruled", "blank", "photo")
MAX_OUT = 0.12  # of the picture's width: how far the one corner may lie outside


@dataclass(frozen=True, eq=False)
class Scene:
    """One still view. corners: the page's own, top-left first, px; None where there is no page."""

    frame: Frame
    corners: Corners | None
    mirrors: int
    tags: tuple[str, ...]


@dataclass(frozen=True)
class Wanted:
    """What one scene shows besides its page. on_keyboard: the page lies on a laptop's keyboard."""

    paper: str
    desk: Kind
    hand: bool = False
    curled: bool = False
    others: bool = False
    corner_out: bool = False
    keyboard: bool = False
    on_keyboard: bool = False
    highlight: bool = False
    empty: bool = False

    @property
    def tags(self) -> tuple[str, ...]:
        flags = ("hand", "curled", "others", "corner_out", "keyboard", "on_keyboard", "highlight", "empty")
        return (f"paper_{self.paper}", f"desk_{self.desk}", *(flag for flag in flags if getattr(self, flag)))


PAPERS = ("contour", "A3", "A4", "A5", "A6", "Letter", "Legal", "whiteboard", "book")


def scenes(count: int, size: Size = FULL_HD, seed: int = 1) -> Iterator[Scene]:
    """Repeatable random views; every condition comes about equally often, one in ten has no page."""
    random = np.random.default_rng(seed)
    for number in range(count):
        yield view(random, wanted(random, number), size)


def wanted(random: np.random.Generator, number: int) -> Wanted:
    kind = DESKS[number % len(DESKS)]
    paper = PAPERS[int(random.integers(len(PAPERS)))]
    if number % 10 == 9:
        return Wanted(paper, kind, hand=random.random() < 0.4, keyboard=random.random() < 0.4, empty=True)
    flags = {name: bool(random.random() < 0.22) for name in ("hand", "curled", "others", "corner_out", "keyboard", "highlight")}
    return Wanted(paper, kind, **{**flags, "curled": flags["curled"] and paper not in ("whiteboard",)})


def _paper(random: np.random.Generator, name: str) -> Paper:
    seed = int(random.integers(4))
    if name == "contour":
        return contour_sheet()
    if name == "whiteboard":
        return whiteboard(seed)
    if name == "book":
        return book(seed)
    return sheet(name, bool(random.random() < 0.3), Look(LOOKS[int(random.integers(len(LOOKS)))], seed % 2))


def view(random: np.random.Generator, spec: Wanted, size: Size) -> Scene:
    paper = _paper(random, spec.paper)
    while True:
        camera, lying, tilt = _draw_view(random, size, paper)
        curl = Curl.drawn(random, paper) if spec.curled else None
        corners = curled_corners(camera, paper, lying, curl) if curl else true_corners(camera, paper, lying)
        if spec.empty or _shows(corners, size, spec.corner_out):
            break
    frame = _taken(random, spec, camera, lying, paper, curl)
    if spec.hand:
        _lay_hand(random, frame, camera, lying, paper)
    if spec.highlight:
        _highlight(random, frame, corners)
    Grain(camera.size, camera.noise).add(frame.y, int(random.integers(0, 100)))
    more = ("mirrored" if camera.mirrors else "unmirrored", "tilt_over_40" if tilt > 40 else "tilt_to_40")
    return Scene(frame, None if spec.empty else corners, camera.mirrors, (*spec.tags, *more))


def _draw_view(random: np.random.Generator, size: Size, paper: Paper) -> tuple[Camera, Lying, float]:
    tilt, around = np.radians(random.uniform(0, 60)), random.uniform(0, 2 * np.pi)
    focal = random.uniform(0.75, 1.2)
    away = focal * max(paper.width_mm, paper.height_mm) / random.uniform(0.3, 0.62)
    position = (away * np.sin(tilt) * np.cos(around), away * np.sin(tilt) * np.sin(around) - 1e-3, -away * np.cos(tilt))
    lamp = (random.uniform(-350, 350), random.uniform(-350, 350), -random.uniform(420, 800))
    reach = 0.12 * max(paper.width_mm, paper.height_mm)
    camera = Camera(
        size,
        Pose(position, (random.uniform(-reach, reach), random.uniform(-reach, reach)), roll_deg=random.uniform(0, 360)),
        focal=focal,
        mirrors=int(random.integers(0, 2)),
        noise=random.uniform(1, 4),
        blur_px=random.uniform(0, 1.6),
        light=Light(lamp=lamp, exposure=random.uniform(0.7, 1.08)),
    )
    return camera, Lying(random.uniform(-30, 30), random.uniform(-30, 30), random.uniform(0, 360)), float(np.degrees(tilt))


def _shows(corners: Corners, size: Size, corner_out: bool) -> bool:
    """All four well inside, or just one of them a little outside."""
    margin = 0.012 * size.width
    out = np.maximum(np.maximum(margin - corners, corners - np.array(size) + margin), 0).max(axis=1)
    if np.ptp(corners, axis=0).min() < 0.2 * size.height:
        return False
    if not corner_out:
        return bool((out <= 0).all())
    return bool((out > 2 * margin).sum() == 1 and (out > 0).sum() == 1 and out.max() < MAX_OUT * size.width)


def _taken(random: np.random.Generator, spec: Wanted, camera: Camera, lying: Lying, paper: Paper, curl: Curl | None) -> Frame:
    top = desk(spec.desk, with_objects=bool(random.random() < 0.5))
    reach = max(paper.width_mm, paper.height_mm)

    def draw(picture: NDArray[np.uint8], fine: Camera) -> None:
        if spec.keyboard:
            angle = random.uniform(0, 2 * np.pi)
            away = 0.72 * reach + 65
            lay(picture, fine, keyboard(), Lying(away * np.cos(angle), away * np.sin(angle), np.degrees(angle) + 90))
        if spec.on_keyboard:
            askew = float(random.choice([0, 90]) + random.normal(0, 8))
            lay(picture, fine, keyboard(), Lying(random.uniform(-60, 60), random.uniform(-60, 60), lying.turn_deg + askew))
        if spec.others:
            for _ in range(2):
                other = sheet("A4", False, Look("text", int(random.integers(2))))
                angle, away = random.uniform(0, 2 * np.pi), random.uniform(0.95, 1.2) * reach + 60
                lay(picture, fine, other, Lying(away * np.cos(angle), away * np.sin(angle), random.uniform(0, 360)))
        if spec.empty:
            return
        if curl is not None:
            lay_curled(picture, fine, paper, lying, curl)
        else:
            lay(picture, fine, paper, lying)

    return photograph(camera, top, None, lying, draw=draw, supersample=1)


def _lay_hand(random: np.random.Generator, frame: Frame, camera: Camera, lying: Lying, paper: Paper) -> None:
    """A hand whose tip rests anywhere on the page or on its edge, so that it or its arm covers a side or a corner."""
    tip = (float(random.uniform(0.05, 0.8) * paper.width_mm), float(random.uniform(0.05, 0.8) * paper.height_mm))
    Hand(camera.desk_matrix() @ paper_matrix(paper, lying), camera.size, 0.9, tip).draw(frame, tip)


def _highlight(random: np.random.Generator, frame: Frame, corners: Corners) -> None:
    """A lamp's reflection on the page, clipped out in its middle."""
    x, y = random.dirichlet(np.ones(4)) @ corners
    wide = random.uniform(0.03, 0.09) * frame.size.width
    high, across = frame.y.shape
    xs, ys = np.meshgrid(np.arange(across, dtype=np.float32), np.arange(high, dtype=np.float32))
    glow = np.clip(230 * np.exp(-(((xs - x) / wide) ** 2) - ((ys - y) / (0.7 * wide)) ** 2), 0, 255).astype(np.uint8)
    cv2.add(frame.y, glow, dst=frame.y)


def bulged(scene: Scene, distortion: float) -> Scene:
    """The same scene through a wide lens. distortion: of the division model."""
    size = scene.frame.size
    planes = []
    for plane in scene.frame.planes:
        high, wide = plane.shape
        xs, ys = np.meshgrid(np.arange(wide) + 0.5, np.arange(high) + 0.5)
        maps = (undistort(np.stack([xs, ys], axis=-1), distortion, Size(wide, high)) - 0.5).astype(np.float32)
        planes.append(cv2.remap(plane, maps, None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))  # type: ignore[call-overload]
    corners = None if scene.corners is None else distort(scene.corners, distortion, size)
    return Scene(Frame.of(planes, scene.frame.captured_s), corners, scene.mirrors, (*scene.tags, "wide_lens"))  # type: ignore[arg-type]
