"""How soon a bumped stand or a slid page is followed, and that hands, dimmed lights and hunting focus are not followed."""

import json
import sys
from collections.abc import Iterator
from dataclasses import replace

import cv2
import numpy as np

from cartouche.bench.camera import Camera, Grain, Light, Lying, Pose, paper_matrix, photograph, true_corners
from cartouche.bench.desks import desk
from cartouche.bench.hand import Hand
from cartouche.bench.more_papers import Look, sheet
from cartouche.core.pictures import Corners, Frame, Matrix, Size, translation
from cartouche.core.straighten.finder import Found, NotFound, find_page
from cartouche.core.straighten.follower import LOOK_EVERY_S, Follower
from cartouche.core.straighten.geometry import transform
from cartouche.core.straighten.glide import FOLLOW_S
from cartouche.models import page_nets

SIZE = Size(1920, 1080)
IN_VIEW_PX = 60
RIGHT_PX = 3.0  # mean corner error: nobody sees it at 1080p
Step = tuple[Frame, Corners, bool]  # picture, true corners, whether it moves just then


def camera(random: np.random.Generator) -> Camera:
    position = (random.uniform(-160, 160), random.uniform(-160, 160), -random.uniform(520, 660))
    return Camera(SIZE, Pose(position, roll_deg=random.uniform(0, 360)), blur_px=0.7, noise=2.5, light=Light(exposure=1.1))


class Case:
    """One scene; its pictures are drawn where the desk or page changes, and only warped where the camera does."""

    def __init__(self, seed: int) -> None:
        self.random = np.random.default_rng(seed)
        self.camera, self.lying = camera(self.random), self._lying()
        self.desk = desk(("wood", "cloth", "black", "pale")[seed % 4])
        self.paper = sheet("A4", False, Look("text", seed % 3))
        while not self._in_view():  # and it stays so when the stand is bumped
            self.camera, self.lying = camera(self.random), self._lying()
        self.grain = Grain(SIZE, self.camera.noise)
        self.count = 0

    def _lying(self) -> Lying:
        return Lying(self.random.uniform(-15, 15), self.random.uniform(-10, 10), self.random.uniform(-10, 10))

    def _in_view(self) -> bool:
        corners = true_corners(self.camera, self.paper, self.lying)
        return bool((corners > IN_VIEW_PX).all() and (corners < np.array(SIZE) - IN_VIEW_PX).all())

    def still(self, lying: Lying | None = None, paper_look: Look | None = None, eye: Camera | None = None) -> tuple[Frame, Corners]:
        paper = sheet("A4", False, paper_look) if paper_look else self.paper
        eye, lying = eye or self.camera, lying or self.lying
        return photograph(eye, self.desk, paper, lying, supersample=1), true_corners(eye, paper, lying)

    def noisy(self, frame: Frame) -> Frame:
        made = Frame(frame.y.copy(), frame.u, frame.v, 0.0)
        self.count += 1
        self.grain.add(made.y, self.count)
        return made

    def bump(self) -> Iterator[Step]:
        frame, corners = self.still()
        shift, turn = self.random.uniform(-70, 70, 2), np.radians(self.random.uniform(-2.5, 2.5))
        for step in range(12):
            share = min(1.0, step / 3) + (0.25 * np.sin(step * 2.5) if 0 < step < 5 else 0)
            moved = _shaken(shift * share, turn * share)
            yield self.noisy(_warped(frame, moved)), transform(moved, corners), step < 5

    def slide(self) -> Iterator[Step]:
        to = Lying(
            self.lying.x + self.random.uniform(-25, 25),
            self.lying.y + self.random.uniform(-18, 18),
            self.lying.turn_deg + self.random.uniform(-6, 6),
        )
        steps = [self.still(_between(self.lying, to, share)) for share in (0.3, 0.7, 1.0)]
        for step in range(12):
            frame, corners = steps[min(step, 2)]
            yield self.noisy(frame), corners, step < 2

    def hand(self) -> Iterator[Step]:
        frame, corners = self.still()
        onto = self.camera.desk_matrix() @ paper_matrix(self.paper, self.lying)
        for step in range(40):
            tip = (210 - step * 9.0, 90 + 40 * np.sin(step / 5)) if step < 20 else (40.0, 120.0)
            made = self.noisy(frame)
            made = Frame(made.y, made.u.copy(), made.v.copy(), 0.0)
            Hand(onto, SIZE, 0.9, (105.0, 150.0)).draw(made, (float(tip[0]), float(tip[1])))
            yield made, corners, False

    def swap(self) -> Iterator[Step]:
        before, corners = self.still()
        other = Lying(self.lying.x + 2.0, self.lying.y - 1.5, self.lying.turn_deg + 0.6)
        after, moved = self.still(other, Look("text", 7))
        away = photograph(self.camera, self.desk, None, self.lying, supersample=1)
        for step in range(30):
            frame = before if step < 5 else away if step < 10 else after
            yield self.noisy(frame), corners if step < 10 else moved, step < 10

    def dim(self) -> Iterator[Step]:
        frame, corners = self.still()
        for step in range(25):
            share = 1 - 0.6 * min(1.0, step / 10)
            yield self.noisy(Frame(cv2.convertScaleAbs(frame.y, alpha=share), frame.u, frame.v, 0.0)), corners, False  # type: ignore[arg-type]

    def focus_hunt(self) -> Iterator[Step]:
        frame, corners = self.still()
        for step in range(25):
            sigma = 6 * abs(np.sin(step / 4)) + 0.01
            yield self.noisy(Frame(cv2.GaussianBlur(frame.y, (0, 0), sigma), frame.u, frame.v, 0.0)), corners, False  # type: ignore[arg-type]

    def nothing(self) -> Iterator[Step]:
        frame, corners = self.still()
        for _ in range(30):
            yield self.noisy(frame), corners, False


def _between(a: Lying, b: Lying, share: float) -> Lying:
    return replace(a, x=a.x + share * (b.x - a.x), y=a.y + share * (b.y - a.y), turn_deg=a.turn_deg + share * (b.turn_deg - a.turn_deg))


def _shaken(shift: np.ndarray, turn: float) -> Matrix:
    middle = np.array(SIZE) / 2
    cos, sin = np.cos(turn), np.sin(turn)
    rotate = np.array([[cos, -sin, 0], [sin, cos, 0], [0, 0, 1.0]])
    return translation(*(middle + shift)) @ rotate @ translation(*(-middle))


def _warped(frame: Frame, matrix: Matrix) -> Frame:
    half = np.diag([0.5, 0.5, 1.0])
    planes = []
    for plane, step in zip(frame.planes, (1, 2, 2), strict=True):
        own = matrix if step == 1 else half @ matrix @ np.linalg.inv(half)
        planes.append(cv2.warpPerspective(plane, own, plane.shape[::-1], borderMode=cv2.BORDER_REFLECT_101))
    return Frame.of(planes, 0.0)  # type: ignore[arg-type]


def run(steps: Iterator[Step], first: Corners) -> tuple[float | None, int, int, float]:
    """Seconds from the end of the movement until right (None: never), moves, new pages, jitter px."""
    net, follower, force = page_nets(), Follower(), first

    def find(frame: Frame) -> Found | NotFound:
        return find_page(frame, net)

    now_s, ended_s, settled_s, moves, new_pages = 0.0, 0.0, None, 0, 0
    path = []
    for frame, truth, moving in steps:
        now_s += LOOK_EVERY_S
        looked = follower.look(frame, force, find, now_s)
        new_pages += looked.new_page
        if looked.moved_to is not None:
            force, moves = looked.moved_to, moves + 1
        if moving:
            ended_s, settled_s = now_s, None
        right = min(float(np.linalg.norm(force - np.roll(truth, k, axis=0), axis=1).mean()) for k in range(4)) < RIGHT_PX
        settled_s = (
            (now_s - ended_s + (FOLLOW_S if looked.moved_to is not None else 0) if settled_s is None else settled_s) if right else None
        )
        path.append(force)
    return settled_s, moves, new_pages, float(np.std(np.array(path[-10:]), axis=0).max())


def main(cases: int = 12) -> dict[str, object]:
    cv2.setNumThreads(1)
    settle: dict[str, list[float]] = {"bump": [], "slide": [], "swap": []}
    false_moves, lost, new_right, jitter = {"hand": 0, "dim": 0, "focus_hunt": 0, "nothing": 0}, 0, 0, 0.0
    for seed in range(cases):
        for name in (*settle, *false_moves):
            case = Case(seed)
            first = _clockwise(case.still()[1])
            settled_s, moves, new_pages, shaken = run(getattr(case, name)(), first)
            if name in false_moves:
                false_moves[name] += moves
                jitter = max(jitter, shaken)
            elif settled_s is None:
                lost += 1
            else:
                settle[name].append(settled_s)
            new_right += name == "swap" and new_pages == 1
    return {
        "cases": cases,
        **{f"settle_{name}_s": round(float(np.median(values)), 2) for name, values in settle.items() if values},
        **{f"settle_{name}_worst_s": round(float(np.max(values)), 2) for name, values in settle.items() if values},
        "never_settled": lost,
        "jitter_px": round(jitter, 3),
        **{f"false_moves_{name}": count for name, count in false_moves.items()},
        "new_page_told": round(new_right / cases, 3),
    }


def _clockwise(corners: Corners) -> Corners:
    (ax, ay), (bx, by) = corners[2] - corners[0], corners[3] - corners[1]
    return corners if ax * by > ay * bx else corners[::-1]


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
