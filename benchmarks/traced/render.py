"""Renders the pictures beside this file, by a path tracer that shares nothing with the bench but the papers' print.

The bench's own views could hide what the bench's drawing leaves out: light that bounces, soft shadows, a lens that is out of focus,
things that stand up from the desk, pages that bulge. `pip install mitsuba==3.9.1`, then
`PYTHONPATH=src:. python -m benchmarks.traced.render 0 40` draws them anew (half a minute each); with a folder behind, further
seeds are drawn there that nobody has looked at, and `./run bench foreign FOLDER` looks.
World: mm, the desk at z = 0, z upwards.
"""

import json
import sys
from pathlib import Path
from typing import Any

import cv2
import mitsuba as mi
import numpy as np
from numpy.typing import NDArray

from benchmarks.traced.desks import desk_texture
from cartouche.bench.more_papers import Look, book, sheet, whiteboard
from cartouche.bench.papers import Paper, contour_sheet

mi.set_variant("scalar_rgb")
from mitsuba import ScalarTransform4f as Transform  # noqa: E402 - a variant's own types come after it

WIDTH, HEIGHT = 1280, 720
SAMPLES = 16
PAPERS = ("contour", "A3", "A4", "A5", "A6", "Letter", "Legal", "whiteboard", "book", "book")
THINGS_MM = ((300, 30, 1.5), (150, 70, 9), (60, 20, 12), (350, 240, 16), (90, 90, 3), (180, 12, 10), (200, 28, 2))  # long, wide, high
Points = NDArray[np.float64]
Part = dict[str, Any]


def texture(bgr: NDArray[np.uint8]) -> Part:
    coded = np.ascontiguousarray(bgr[:, :, ::-1]).astype(np.float32) / 255
    linear = np.where(coded <= 0.04045, coded / 12.92, ((coded + 0.055) / 1.055) ** 2.4)
    return {"type": "bitmap", "bitmap": mi.Bitmap((linear * 0.9).astype(np.float32)), "raw": True, "wrap_mode": "mirror"}


def matt(colour: Any) -> Part:
    return {"type": "diffuse", "reflectance": colour if isinstance(colour, dict) else _rgb(colour)}


def glossy(colour: Any, rough: float = 0.1) -> Part:
    return {"type": "roughplastic", "diffuse_reflectance": colour if isinstance(colour, dict) else _rgb(colour), "alpha": rough}


def _rgb(colour: Any) -> Part:
    return {"type": "rgb", "value": [float(value) for value in colour]}


def box(size: tuple[float, float, float], middle: Any, turn: float, bottom: float, surface: Part) -> Part:
    place = Transform().translate([float(middle[0]), float(middle[1]), bottom + size[2] / 2]).rotate([0, 0, 1], turn)
    return {"type": "cube", "to_world": place.scale([side / 2 for side in size]), "bsdf": surface}


def flat(size: tuple[float, float], middle: Any, turn: float, height: float, surface: Part) -> Part:
    place = Transform().translate([float(middle[0]), float(middle[1]), height]).rotate([0, 0, 1], turn)
    return {"type": "rectangle", "to_world": place.scale([size[0] / 2, size[1] / 2, 1]), "bsdf": surface}


def bulging(size: tuple[float, float], heights: NDArray[np.float64], turn: float, surface: Part) -> tuple[Any, Points]:
    """A sheet about the origin with its height at each point of a grid, top-left first; and its four corners, (4, 3)."""
    rows, columns = heights.shape
    u, v = np.meshgrid(np.linspace(0, 1, columns), np.linspace(0, 1, rows))
    x, y = (u - 0.5) * size[0], (0.5 - v) * size[1]
    cos, sin = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    points = np.stack([cos * x - sin * y, sin * x + cos * y, heights], axis=-1)
    at = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = (part.ravel() for part in (at[:-1, :-1], at[:-1, 1:], at[1:, :-1], at[1:, 1:]))
    faces = np.concatenate([np.stack([a, c, b], axis=1), np.stack([b, c, d], axis=1)])
    given = mi.Properties()
    given["bsdf"] = mi.load_dict({"type": "twosided", "of": surface})
    mesh = mi.Mesh("sheet", rows * columns, len(faces), has_vertex_texcoords=True, props=given)
    parts = mi.traverse(mesh)
    parts["vertex_positions"] = points.reshape(-1).astype(np.float32)
    parts["faces"] = faces.reshape(-1).astype(np.uint32)
    parts["vertex_texcoords"] = np.stack([u, v], axis=-1).reshape(-1).astype(np.float32)
    parts.update()
    return mesh, points[[0, 0, -1, -1], [0, -1, -1, 0]]


class Scene:
    """parts: what the renderer is given.  corners: (4, 2) px, the page's own top-left first.  tags: what is in it."""

    def __init__(self, seed: int) -> None:
        self.random = np.random.default_rng(seed)
        self.parts: Part = {"type": "scene", "integrator": {"type": "path", "max_depth": 4}}
        self.tags: list[str] = []
        self.turn = float(self.random.uniform(0, 360))
        self._desk()
        self.size, corners = self._page()
        self.reach = 0.5 * float(np.hypot(*self.size))
        self._things()
        if self.random.random() < 0.35:
            self._hand(self.random.dirichlet(np.full(4, 0.5)) @ corners[:, :2])
        self._lamps()
        self.corners = self._camera(corners, seed)

    def _desk(self) -> None:
        picture, kind = desk_texture(self.random)
        self.tags.append(f"desk_{kind}")
        look, scale = texture(picture), float(self.random.uniform(1.5, 6))
        look["to_uv"] = Transform().rotate([0, 0, 1], float(self.random.uniform(0, 360))).scale([scale, scale, 1])
        rough = float(self.random.uniform(0.15, 0.4))
        self.parts["desk"] = flat((3000, 3000), (0, 0), 0, 0, glossy(look, rough) if self.random.random() < 0.3 else matt(look))

    def _paper(self, name: str) -> Paper:
        seed = int(self.random.integers(4))
        if name in ("contour", "whiteboard", "book"):
            return contour_sheet() if name == "contour" else whiteboard(seed) if name == "whiteboard" else book(seed)
        looks = ("text", "squared", "ruled", "blank", "photo")
        return sheet(name, bool(self.random.random() < 0.3), Look(looks[int(self.random.integers(5))], seed % 2))

    def _page(self) -> tuple[tuple[float, float], Points]:
        random, name = self.random, PAPERS[int(self.random.integers(len(PAPERS)))]
        self.tags.append(name)
        paper = self._paper(name)
        picture = cv2.resize(paper.picture, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
        if random.random() < 0.2 and name != "whiteboard":
            picture = np.clip(picture * random.uniform(0.75, 1, 3), 0, 255).astype(np.uint8)
            self.tags.append("tinted")
        size = (float(paper.width_mm), float(paper.height_mm))
        heights = self._heights(name, max(size))
        made, corners = bulging(
            size, heights, self.turn, glossy(texture(picture), 0.08) if name == "whiteboard" else matt(texture(picture))
        )
        self.parts["page"] = made
        if name in ("book", "whiteboard"):
            edge = float(random.uniform(4, 12)) if name == "book" else 0.0
            cover = (size[0] + edge, size[1] + edge, float(heights.min()) - 0.1)
            self.parts["cover"] = box(cover, (0, 0), self.turn, 0, matt(random.uniform(0.02, 0.7, 3)))
        return size, corners

    def _heights(self, name: str, long: float) -> NDArray[np.float64]:
        random = self.random
        u, v = np.meshgrid(np.linspace(0, 1, 61), np.linspace(0, 1, 41))
        if name == "whiteboard":
            return np.full(u.shape, 4.0)
        if name == "book":
            side = np.abs(u - 0.5)
            arch = np.sin(np.pi * np.clip(2 * side, 0, 1)) ** 0.6 * (1 - np.exp(-side / random.uniform(0.05, 0.12)))
            return np.asarray(random.uniform(3, 18) + random.uniform(4, 14) * arch)
        heights = np.full(u.shape, 0.25)
        if random.random() < 0.35:
            self.tags.append("curled")
            for right, low in ((0, 0), (1, 0), (1, 1), (0, 1)):
                curl = random.uniform(0, 0.1) * long * (random.random() < 0.5)
                heights += curl * np.clip(((u if right else 1 - u) + (v if low else 1 - v) - 1.3) / 0.7, 0, 1) ** 2
        if random.random() < 0.15:
            heights += random.uniform(0, 0.05) * long * np.sin(np.pi * v)
        return heights

    def _spot(self, near: float, far: float) -> Points:
        angle = self.random.uniform(0, 2 * np.pi)
        return (self.reach + self.random.uniform(near, far)) * np.array([np.cos(angle), np.sin(angle)])

    def _things(self) -> None:
        random = self.random
        for number in range(int(random.integers(0, 5))):
            size = THINGS_MM[int(random.integers(len(THINGS_MM)))]
            turn = float(random.uniform(0, 360) if random.random() < 0.5 else self.turn + random.normal(0, 6) + random.choice([0, 90]))
            surface = (glossy if random.random() < 0.5 else matt)(random.uniform(0.02, 0.9, 3))
            self.parts[f"thing{number}"] = box(size, self._spot(0.5 * size[1] - 0.05 * self.reach, 0.5 * size[1] + 100), turn, 0, surface)
        if random.random() < 0.3:
            self.tags.append("mug")
            x, y = (float(value) for value in self._spot(40, 120))
            surface = {"type": "twosided", "of": matt(random.uniform(0.05, 0.9, 3))}
            self.parts["mug"] = {"type": "cylinder", "p0": [x, y, 0.0], "p1": [x, y, 95.0], "radius": 41.0, "bsdf": surface}
        if random.random() < 0.3:
            self.tags.append("others")
            for number in range(int(random.integers(1, 3))):
                other = sheet("A4", False, Look(("text", "photo", "ruled")[int(random.integers(3))], int(random.integers(2))))
                print_ = cv2.resize(other.picture, None, fx=0.4, fy=0.4, interpolation=cv2.INTER_AREA)
                turn = float(random.uniform(0, 360))
                self.parts[f"other{number}"] = flat((210, 297), self._spot(90, 230), turn, 0.12 - 0.03 * number, matt(texture(print_)))
        if random.random() < 0.25:
            self._keyboard()

    def _keyboard(self) -> None:
        random = self.random
        self.tags.append("keyboard")
        side = int(random.integers(4))
        away = 0.5 * self.size[side % 2] + float(random.uniform(70, 110))
        turn = np.radians(self.turn + 90 * side)
        middle, along = away * np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
        degrees, across = float(np.degrees(turn)) + 90, np.array([-along[1], along[0]])
        self.parts["keyboard"] = box((430, 135, 14), middle, degrees, 0, matt([float(random.uniform(0.02, 0.8))] * 3))
        keys = matt([float(random.uniform(0.02, 0.9))] * 3)
        for row in range(5):
            for column in range(14):
                spot = middle + along * (column - 6.5) * 29.5 + across * (row - 2) * 24
                self.parts[f"key{row}_{column}"] = box((25, 20, 4), spot, degrees, 14, keys)

    def _limb(self, start: Points, end: Points, radius: float, surface: Part) -> None:
        number = len(self.parts)
        ends = {"p0": start.tolist(), "p1": end.tolist()}
        self.parts[f"limb{number}"] = {"type": "cylinder", **ends, "radius": radius, "bsdf": surface}
        for name, joint in (("a", start), ("b", end)):
            self.parts[f"joint{number}{name}"] = {"type": "sphere", "center": joint.tolist(), "radius": radius, "bsdf": surface}

    def _hand(self, spot: Points) -> None:
        """Its fingertips about a spot of the page, the arm from somewhere outside."""
        random, tone = self.random, float(self.random.uniform(0.25, 0.75))
        self.tags.append("hand")
        skin = glossy((tone, tone * random.uniform(0.6, 0.75), tone * random.uniform(0.4, 0.6)), 0.4)
        angle = random.uniform(0, 2 * np.pi)
        ahead = np.array([np.cos(angle), np.sin(angle), 0])
        aside = np.array([-ahead[1], ahead[0], 0])
        tip = np.array([*spot, 20.0])
        palm = tip - 75 * ahead
        for place in (-1, -0.33, 0.33, 1):
            knuckle = palm + place * 28 * aside + 28 * ahead
            end = palm + ahead * (70 + random.uniform(-15, 10) - 6 * place**2) + aside * place * 32 - np.array([0, 0, random.uniform(2, 8)])
            middle = (knuckle + end) / 2 + np.array([0, 0, random.uniform(0, 12)])
            for start, stop, radius in ((palm + place * 24 * aside - 30 * ahead, knuckle, 15), (knuckle, middle, 8.5), (middle, end, 7.5)):
                self._limb(start, stop, radius, skin)
        self._limb(palm - 25 * ahead + 28 * aside, palm + 25 * ahead + 52 * aside, 10, skin)
        wrist = palm - 50 * ahead
        self._limb(palm - 20 * ahead, wrist, 27, skin)
        self._limb(wrist, wrist - 60 * ahead, 25, skin)
        sleeve = matt(random.uniform(0.03, 0.8, 3)) if random.random() < 0.7 else None
        self._limb(wrist - 30 * ahead, wrist - 600 * ahead + np.array([0, 0, 60]), 36 if sleeve else 30, sleeve or skin)
        if random.random() < 0.5:
            top = tip - 90 * ahead + random.uniform(-30, 30) * aside + np.array([0, 0, 70])
            self._limb(tip - np.array([0, 0, 14]), top, 4, glossy(random.uniform(0.02, 0.8, 3)))

    def _lamps(self) -> None:
        random = self.random
        for number in range(int(random.integers(1, 3))):
            angle, away, high, side = (
                random.uniform(0, 2 * np.pi),
                random.uniform(200, 1500),
                random.uniform(500, 1700),
                random.uniform(60, 500),
            )
            origin = [float(away * np.cos(angle)), float(away * np.sin(angle)), float(high)]
            glow = (
                np.array([1, random.uniform(0.75, 1), random.uniform(0.5, 1.1)])
                * 4e6
                / side**2
                * random.uniform(0.3, 1)
                * (high / 900) ** 2
            )
            place = Transform().look_at(origin=origin, target=[0, 0, 0], up=[0.1, 0.2, 1]).scale([float(side)] * 2 + [1])
            emitter = {"type": "area", "radiance": _rgb(glow)}
            self.parts[f"lamp{number}"] = {"type": "rectangle", "to_world": place, "emitter": emitter}
        sky = np.array([random.uniform(0.8, 1), 0.95, 1.0]) * random.uniform(0.1, 0.6)
        self.parts["sky"] = {"type": "constant", "radiance": _rgb(sky)}

    def _camera(self, corners: Points, seed: int) -> Points:
        """A camera that sees all four corners, or, now and then, all but one."""
        random, long = self.random, max(self.size)
        missing = int(random.random() < 0.2)
        while True:
            view, tilt, around = random.uniform(45, 78), np.radians(random.uniform(0, 60)), random.uniform(0, 2 * np.pi)
            focal = 0.5 / np.tan(np.radians(view / 2))
            flat_way = np.sin(tilt) * np.array([np.cos(around), np.sin(around)])
            eye = focal * long / random.uniform(0.3, 0.7) * np.array([*flat_way, np.cos(tilt)])
            aim = np.array([*random.uniform(-1, 1, 2) * (0.45 if missing else 0.15) * long, 0.0])
            ahead = (aim - eye) / np.linalg.norm(aim - eye)
            level = np.cross(ahead, [0.3, 0.8, 0.1])
            level /= np.linalg.norm(level)
            roll = random.uniform(0, 2 * np.pi)
            up = np.cos(roll) * level + np.sin(roll) * np.cross(ahead, level)
            rays = (corners - eye) @ np.stack([np.cross(ahead, up), -up, ahead], axis=1)
            seen = np.array([WIDTH, HEIGHT]) / 2 + WIDTH * focal * rays[:, :2] / rays[:, 2:]
            outside = ((seen < 6) | (seen > (WIDTH - 6, HEIGHT - 6))).any(axis=1).sum()
            far = np.maximum(-seen, seen - (WIDTH, HEIGHT)).max()
            if outside == missing and far < 0.12 * WIDTH and np.ptp(seen, axis=0).min() > 0.2 * HEIGHT:
                break
        self.tags += ["corner_out"] * missing + ["tilt_over_40"] * int(tilt > np.radians(40))
        self.parts["camera"] = {
            "type": "thinlens", "fov": float(view), "fov_axis": "x", "aperture_radius": float(random.uniform(0, 2.5)),
            "focus_distance": float(np.linalg.norm(eye) * random.uniform(0.93, 1.07)),
            "to_world": Transform().look_at(origin=eye.tolist(), target=aim.tolist(), up=up.tolist()),
            "film": {"type": "hdrfilm", "width": WIDTH, "height": HEIGHT, "rfilter": {"type": "gaussian"}, "pixel_format": "rgb"},
            "sampler": {"type": "independent", "sample_count": SAMPLES, "seed": seed},
        }  # fmt: skip
        return np.asarray(seen)

    def taken(self) -> NDArray[np.uint8]:
        """What a webcam makes of it: exposed for the page or for the room, smoothed against noise, sometimes mirrored."""
        random = self.random
        light = np.array(mi.render(mi.load_dict(self.parts)))[:, :, :3]
        page = np.zeros((HEIGHT, WIDTH), np.uint8)
        cv2.fillPoly(page, [self.corners.round().astype(np.int32)], 1)
        luma = light.mean(axis=2)
        key = np.percentile(luma[page > 0], 70) if random.random() < 0.7 else np.percentile(luma, 80)
        linear = np.clip(light * random.uniform(0.45, 0.95) / key, 0, 1)
        coded = 255 * np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
        soft = cv2.GaussianBlur(coded.astype(np.float32), (0, 0), random.uniform(0.4, 1.0))
        picture = cv2.fastNlMeansDenoisingColored(np.clip(soft[:, :, ::-1], 0, 255).astype(np.uint8), None, 7, 7, 5, 13)
        if random.random() < 0.5:
            self.tags.append("mirrored")
            self.corners[:, 0] = WIDTH - self.corners[:, 0]
            picture = np.ascontiguousarray(picture[:, ::-1])
        return picture


def main(first: int, stop: int, folder: Path = Path(__file__).parent) -> None:
    for seed in range(first, stop):
        scene = Scene(seed)
        picture = scene.taken()
        cv2.imwrite(str(folder / f"{seed:02d}.jpg"), picture, [cv2.IMWRITE_JPEG_QUALITY, 85])
        truth = {"corners": scene.corners.round(2).tolist(), "tags": scene.tags}
        (folder / f"{seed:02d}.json").write_text(json.dumps(truth) + "\n", "utf-8")


if __name__ == "__main__":
    main(int(sys.argv[1]), int(sys.argv[2]), *(Path(folder) for folder in sys.argv[3:]))
