"""Random views of a desk with or without a page, small and fast, with the page's true corners: what the page finder learns from."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from training.bank import Bank
from training.eye import GRID, HEIGHT, OVER, WIDTH, Eye, spread
from training.textures import Random, Texture, colour, noise, paled


@dataclass(eq=False)
class View:
    """picture: (HEIGHT, WIDTH, 3) BGR.  corners: (4, 2) in its px, any order of start, or None."""

    picture: NDArray[np.uint8]
    corners: NDArray[np.float64] | None


class Painter:
    """One view in the making."""

    def __init__(self, bank: Bank, corners_out: int, like_page: bool = False) -> None:
        """corners_out: so many of the page's corners lie outside the picture.  like_page: the desk is as white as the page."""
        self.random, self.bank = bank.random, bank
        self.texture, self.width_mm, self.height_mm, self.kind = bank.page()
        self.turn = self.random.uniform(0, 6.3)
        self.eye = self._standing(corners_out)
        self.on_desk = self.eye.desk_points()
        self.picture = self._desk(like_page)

    def _standing(self, corners_out: int) -> Eye:
        """A camera that sees the page, were it flat, as it is wanted."""
        long = max(self.width_mm, self.height_mm)
        while True:
            eye = Eye(self.random, long, 0.2 + 0.4 * corners_out)
            seen = self.flat(eye)
            outside = int(((seen < 0) | (seen > np.array([WIDTH, HEIGHT]) * OVER)).any(axis=1).sum())
            if outside == corners_out and _acceptable(seen):
                return eye

    def flat(self, eye: Eye) -> NDArray[np.float64]:
        """Where the page's corners would be seen if it lay flat, px."""
        cos, sin = np.cos(self.turn), np.sin(self.turn)
        ends = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]]) * (self.width_mm, self.height_mm)
        return eye.see(np.column_stack([ends @ np.array([[cos, sin], [-sin, cos]]), np.zeros(4)]))

    def _desk(self, like_page: bool) -> Texture:
        texture = self.bank.desk()
        if like_page:
            texture = paled(self.random, texture, self.texture)
        scale = self.random.uniform(0.5, 2.0) * max(self.width_mm, self.height_mm) / 640
        turn = self.random.uniform(0, 2 * np.pi)
        cos, sin = np.cos(turn) / scale, np.sin(turn) / scale
        at = self.on_desk @ np.array([[cos, sin], [-sin, cos]]) + self.random.uniform(0, 640, 2)
        return cv2.remap(texture, *spread(np.clip(at, -9e3, 9e3)), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT_101)

    def sheet(
        self, texture: Texture, size: tuple[float, float], middle: NDArray[np.float64], turn: float, kind: str
    ) -> NDArray[np.float64]:
        """Lay a sheet on the desk; its four corners in px."""
        random, size_mm = self.random, np.array(size)
        cos, sin = np.cos(turn), np.sin(turn)
        onto = np.array([[cos, sin], [-sin, cos]])  # row vectors: sheet mm -> desk mm
        bulge = Bulge(random, size, kind)
        desk_mm = self.on_desk.reshape(-1, 2)
        raised = np.zeros(len(desk_mm))
        for _ in range(3 if bulge else 1):
            share = raised / max(-self.eye.eye[2], 1.0)
            uv = (
                (desk_mm + (self.eye.eye[:2] - desk_mm) * share[:, None] - middle) @ onto.T / size_mm
            )  # where the ray passes at that height
            if bulge:
                raised = bulge.height(np.clip(uv, -0.6, 0.6))
        high, wide = texture.shape[:2]
        maps = spread(((uv + 0.5) * (wide, high) - 0.5).reshape(GRID[1], GRID[0], 2).clip(-9e3, 9e3))
        whole = np.full((high, wide), 255, np.uint8)
        if kind == "board":
            _round_off(whole, 14)
        mask = cv2.remap(whole, *maps, cv2.INTER_LINEAR)
        self._shadow(mask, random.uniform(0, 0.5 if kind == "paper" else 0.7), random.uniform(0.5, 5 if kind == "paper" else 9))
        if kind == "book" and random.random() < 0.7:
            out = random.uniform(4, 14)
            grown = [np.float32((wide + 2 * out) / wide), np.float32((high + 2 * out) / high)]
            cover = cv2.remap(whole, (maps[0] + out) / grown[0], (maps[1] + out) / grown[1], cv2.INTER_LINEAR)
            self._cover(self._plain(colour(random).astype(np.uint8)), cover)
        shown = cv2.remap(texture, *maps, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        if bulge:
            bent = np.asarray(np.gradient(raised.reshape(GRID[1], GRID[0]))[0], np.float32)
            gain = cv2.resize(np.clip(1 - 0.06 * cv2.GaussianBlur(bent, (5, 5), 0), 0.6, 1.1)[1:-1, 1:-1], shown.shape[1::-1])
            shown = cv2.multiply(shown, cv2.merge([gain] * 3), dtype=cv2.CV_8U)
        self._cover(shown, mask)
        ends = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]])
        return self.eye.see(np.column_stack([ends * size_mm @ onto + middle, -bulge.height(ends)]))

    def _plain(self, shade: NDArray[np.generic]) -> Texture:
        """One colour all over: spread by NumPy, three values a pixel cost as much as a warp."""
        made = np.empty_like(self.picture)
        cv2.rectangle(made, (0, 0), made.shape[1::-1], [int(value) for value in shade], -1)
        return made

    def _cover(self, shown: Texture, mask: NDArray[np.uint8]) -> None:
        alpha = mask.astype(np.float32) * (1 / 255)
        self.picture = cv2.blendLinear(shown, self.picture, alpha, 1 - alpha)

    def _shadow(self, mask: NDArray[np.uint8], dark: float, soft: float) -> None:
        small = cv2.resize(mask, (WIDTH * OVER // 2, HEIGHT * OVER // 2), interpolation=cv2.INTER_AREA)
        shift = self.random.normal(0, soft / 2, 2)
        moved = cv2.warpAffine(small, np.array([[1, 0, shift[0]], [0, 1, shift[1]]]), small.shape[::-1])
        gain = 255 - dark * cv2.blur(cv2.blur(moved, (2 * int(soft / 2) + 1,) * 2), (2 * int(soft / 3) + 1,) * 2)
        gain = cv2.resize(gain.astype(np.uint8), self.picture.shape[1::-1])
        self.picture = cv2.multiply(self.picture, cv2.merge([gain] * 3), scale=1 / 255)

    def distract(self, count: int) -> None:
        """Other sheets: small ones, or such that the picture's border cuts off; the page may lie on them."""
        for _ in range(count):
            texture, width, height, kind = self.bank.page()
            reach = max(self.width_mm, self.height_mm)
            large = self.random.random() < 0.45
            angle, away = self.random.uniform(0, 2 * np.pi), self.random.uniform(0.45 if large else 0.75, 1.5)
            scale = (self.random.uniform(0.8, 2.3) if large else self.random.uniform(0.25, 1.1)) * reach / max(width, height)
            middle, turn = away * reach * np.array([np.cos(angle), np.sin(angle)]), self.random.uniform(0, 6.3)
            size = (width * scale, height * scale)
            if scale * max(width, height) > 0.6 * reach and self._corners_in_view(middle, size, turn) > 2:
                continue  # it could as well be the page
            self.sheet(texture, size, middle, turn, kind)

    def _corners_in_view(self, middle: NDArray[np.float64], size: tuple[float, float], turn: float) -> int:
        cos, sin = np.cos(turn), np.sin(turn)
        ends = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]]) * size @ np.array([[cos, sin], [-sin, cos]]) + middle
        seen = self.eye.see(np.column_stack([ends, np.zeros(4)]))
        return int(((seen > 0) & (seen < np.array([WIDTH, HEIGHT]) * OVER)).all(axis=1).sum())

    def objects(self, count: int, beside: NDArray[np.float64] | None = None, under: bool = False) -> None:
        """Things on the desk, anywhere or close beside a page's sides. under: the page will lie on part of them."""
        random, size = self.random, np.array([WIDTH, HEIGHT]) * OVER
        for _ in range(count):
            mask = np.zeros((HEIGHT * OVER, WIDTH * OVER), np.uint8)
            kind = random.choice(["disc", "bar", "box", "keys", "blob"] if beside is None else ["disc", "bar", "bar", "bar", "box", "keys"])
            shade = colour(random, 150, 250, 60) if beside is not None and random.random() < 0.5 else colour(random)
            middle, turn = random.uniform(0, 1, 2) * size, random.uniform(0, 180)
            shown = self._plain(shade.astype(np.uint8))
            if kind == "disc":
                if beside is not None:
                    middle, turn = self._beside(beside, 30, under)
                axes = tuple(int(v) for v in random.uniform(12, 70, 2))
                cv2.ellipse(mask, tuple(int(v) for v in middle), axes, random.uniform(0, 180), 0, 360, 255, -1, cv2.LINE_AA)
            elif kind == "blob":
                angles = np.sort(random.uniform(0, 2 * np.pi, int(random.choice([3, 5, 6, 8]))))
                points = middle + np.stack([np.cos(angles), np.sin(angles)], axis=1) * random.uniform(15, 110, (len(angles), 1))
                cv2.fillPoly(mask, [points.astype(np.int32)], 255, cv2.LINE_AA)
            else:
                sides = {"bar": ((80, 260), (3, 16)), "box": ((16, 110), (16, 110)), "keys": ((160, 420), (50, 130))}[kind]
                wide, high = (float(random.uniform(*side)) for side in sides)
                if beside is not None:
                    middle, turn = self._beside(beside, high / 2, under)
                corners = cv2.boxPoints((tuple(middle), (wide, high), turn))
                cv2.fillPoly(mask, [corners.astype(np.int32)], 255, cv2.LINE_AA)
                if kind == "keys":
                    shown = self._keys(corners, shade)
                elif kind == "bar" and random.random() < 0.6:
                    self._ticks(shown, corners, shade)
            self._shadow(mask, random.uniform(0, 0.5), random.uniform(1, 6))
            self._cover(shown, mask)

    def _beside(self, page: NDArray[np.float64], half: float, under: bool) -> tuple[NDArray[np.float64], float]:
        """A spot just outside one of a page's sides, and the side's own direction, about."""
        side = int(self.random.integers(4))
        start, end = page[side], page[(side + 1) % 4]
        along = end - start
        outward = np.array([along[1], -along[0]]) / max(float(np.linalg.norm(along)), 1e-6)
        spot = start + self.random.uniform(0.1, 0.9) * along
        if outward @ (spot - page.mean(axis=0)) < 0:
            outward = -outward
        turn = float(np.degrees(np.arctan2(along[1], along[0]))) + self.random.normal(0, 10 if self.random.random() < 0.7 else 40)
        return spot + outward * (self.random.uniform(-1, 1) * half if under else half + self.random.uniform(0, 45)), turn

    def _ticks(self, shown: Texture, bar: NDArray[np.float32], shade: NDArray[np.float32]) -> None:
        """A ruler's marks along one of the bar's long sides."""
        sides = np.roll(bar, -1, axis=0) - bar
        side = int(np.linalg.norm(sides, axis=1).argmax())
        start, along, across = bar[side], sides[side], -sides[side - 1]
        ink = np.clip(shade + self.random.choice([-1, 1]) * self.random.uniform(20, 140), 0, 255).tolist()
        count = int(self.random.integers(8, 40))
        for number in range(1, count):
            foot = start + along * number / count
            tip = foot - across * (0.35 if number % 5 == 0 else 0.2)
            cv2.line(shown, tuple(int(v) for v in foot), tuple(int(v) for v in tip), ink, 1, cv2.LINE_AA)

    def _keys(self, corners: NDArray[np.float32], shade: NDArray[np.float32]) -> Texture:
        rows, columns = 5, 14
        board = np.full((rows * 12, columns * 12, 3), shade.astype(np.uint8), np.uint8)
        key = colour(self.random)
        for row in range(rows):
            for column in range(columns):
                board[row * 12 + 1 : row * 12 + 11, column * 12 + 1 : column * 12 + 11] = key
        source = np.array([[0, 0], [columns * 12, 0], [columns * 12, rows * 12], [0, rows * 12]], np.float32)
        onto = cv2.getPerspectiveTransform(source, corners[[1, 2, 3, 0]].astype(np.float32))
        return cv2.warpPerspective(board, onto, (WIDTH * OVER, HEIGHT * OVER), borderMode=cv2.BORDER_REPLICATE)

    def hand(self, over: NDArray[np.float64] | None, at: NDArray[np.float64] | None = None) -> None:
        """An arm from beyond the border to a spot, with fingers. over: somewhere on this page.  at: or just there."""
        random, size = self.random, np.array([WIDTH, HEIGHT]) * OVER
        spot = random.uniform(0.1, 0.9, 2) * size
        if over is not None:
            side = int(random.integers(4))
            along = over[side] + random.random() * (over[(side + 1) % 4] - over[side])  # a side, or anywhere on the page
            spot = along if random.random() < 0.5 else random.dirichlet(np.full(4, 0.45)) @ over
            spot = np.clip(spot if at is None else at, 0.05 * size, 0.95 * size)
        angle = random.uniform(0, 2 * np.pi)
        away = np.array([np.cos(angle), np.sin(angle)])
        thick = random.uniform(22, 60)
        wrist, palm = spot + away * thick * 2.2, spot + away * thick * 1.2
        mask = np.zeros((HEIGHT * OVER, WIDTH * OVER), np.uint8)
        _limb(mask, wrist, spot + away * 900, thick)
        _limb(mask, palm, wrist, thick * 1.3)
        for finger in np.linspace(-0.7, 0.7, int(random.integers(1, 6))) + random.normal(0, 0.1):
            turned = np.array([away[0] * np.cos(finger) - away[1] * np.sin(finger), away[0] * np.sin(finger) + away[1] * np.cos(finger)])
            _limb(mask, palm, palm - turned * thick * random.uniform(0.8, 1.9), thick * 0.33)
        skin = np.array([random.uniform(50, 170), random.uniform(70, 195), random.uniform(110, 235)]) * random.uniform(0.5, 1.05)
        self._shadow(mask, random.uniform(0, 0.6), random.uniform(2, 12))
        relief = cv2.resize(cv2.GaussianBlur(cv2.resize(mask, None, fx=0.25, fy=0.25), (0, 0), thick * 0.08), mask.shape[::-1])
        shown = self._plain(skin.astype(np.uint8))
        if random.random() < 0.6:
            cuff = np.zeros_like(mask)
            _limb(cuff, spot + away * thick * random.uniform(2.6, 5), spot + away * 900, thick * 1.1)
            shown[cuff > 0] = colour(random)
            mask = cv2.max(mask, cuff)
        shown = cv2.multiply(shown, cv2.merge([cv2.addWeighted(relief, 0.5, relief, 0, 140)] * 3), scale=1 / 255)
        self._cover(shown, mask)
        if random.random() < 0.6:  # a pen
            tip = spot - away * thick * random.uniform(0.6, 1.6)
            end = tip + away * thick * 3
            cv2.line(
                self.picture,
                tuple(int(v) for v in tip),
                tuple(int(v) for v in end),
                colour(random).tolist(),
                int(random.uniform(2, 7)),
                cv2.LINE_AA,
            )

    def page(self, hard: str) -> NDArray[np.float64] | None:
        """The page, with what lies under and beside it; its corners, None where it came to lie badly."""
        random, size = self.random, (self.width_mm, self.height_mm)
        self.distract(int(random.choice([0, 0, 1, 2, 3])))
        self.objects(int(random.integers(0, 4)))
        if hard == "laptop":
            self.laptop(self.flat(self.eye))
        elif random.random() < 0.3:
            self.objects(int(random.integers(1, 3)), self.flat(self.eye), under=True)
        corners = self.sheet(self.texture, size, np.zeros(2), self.turn, self.kind)
        if not _acceptable(corners):
            return None
        if random.random() < 0.12:  # another sheet lies on one of its corners
            texture, width, height, _ = self.bank.page()
            angle = random.uniform(0, 6.3)
            middle = 0.85 * max(size) * np.array([np.cos(angle), np.sin(angle)])
            self.sheet(texture, (width * 0.7, height * 0.7), middle, random.uniform(0, 6.3), "paper")
        if random.random() < 0.45:
            self.objects(int(random.integers(1, 4)), beside=corners)
        return corners

    def laptop(self, page: NDArray[np.float64]) -> None:
        """Its deck with keys under the page, larger than that or not."""
        random = self.random
        shade = colour(random, 20, 230, 20)
        reach = float(np.linalg.norm(page - page.mean(axis=0), axis=1).mean()) * random.uniform(0.9, 2.2)
        middle = page.mean(axis=0) + random.normal(0, 0.3, 2) * reach
        deck = cv2.boxPoints((tuple(middle), (2 * reach, 1.35 * reach), random.uniform(0, 180)))
        mask = np.zeros(self.picture.shape[:2], np.uint8)
        cv2.fillPoly(mask, [deck.astype(np.int32)], 255, cv2.LINE_AA)
        self._shadow(mask, random.uniform(0, 0.5), random.uniform(1, 6))
        self._cover(self._plain(shade.astype(np.uint8)), mask)
        across, down = deck[2] - deck[1], deck[0] - deck[1]
        keys = np.float32([deck[1] + x * across + y * down for x, y in ((0.04, 0.55), (0.04, 0.08), (0.96, 0.08), (0.96, 0.55))])
        mask[:] = 0
        cv2.fillPoly(mask, [keys.astype(np.int32)], 255, cv2.LINE_AA)
        self._cover(self._keys(keys, shade), mask)

    def light(self) -> None:
        random, shape = self.random, (HEIGHT * OVER // 4, WIDTH * OVER // 4)
        gain = np.clip(noise(random, shape, (2, 2)) * random.uniform(0, 0.28) + random.uniform(0.55, 1.12), 0.15, 1.6)
        xs, ys = np.meshgrid(np.linspace(-1, 1, shape[1]), np.linspace(-0.55, 0.55, shape[0]))
        if random.random() < 0.35:  # a straight shadow, of the teacher or of the stand
            line = random.normal(0, 1, 2)
            side = line[0] * xs + line[1] * ys + random.normal(0, 0.4)
            gain = gain * (1 - random.uniform(0.1, 0.55) / (1 + np.exp(-side / random.uniform(0.01, 0.15))))
        tint = 1 + random.normal(0, 0.06, 3)
        full = self.picture.shape[1::-1]
        gains = cv2.resize((gain[:, :, None] * tint).astype(np.float32), full)
        self.picture = cv2.multiply(self.picture, gains, dtype=cv2.CV_8U)
        if random.random() < 0.2:
            self.glare(random.uniform(0, 1, 2) * (self.picture.shape[1], self.picture.shape[0]), random.uniform(60, 320))

    def glare(self, spot: NDArray[np.float64], glow: float) -> None:
        """A lamp's highlight. spot: px.  glow: grey values at its middle."""
        high, wide = self.picture.shape[:2]
        xs, ys = np.meshgrid(np.linspace(0, wide, wide // 4), np.linspace(0, high, high // 4))
        spread_px = self.random.uniform(0.02, 0.125, 2) * wide
        lit = glow * np.exp(-(((xs - spot[0]) / spread_px[0]) ** 2) - ((ys - spot[1]) / spread_px[1]) ** 2)
        glow8 = cv2.resize(np.clip(lit, 0, 255).astype(np.uint8), (wide, high))
        self.picture = cv2.add(self.picture, cv2.merge([glow8] * 3))

    def taken(self) -> NDArray[np.uint8]:
        random = self.random
        if random.random() < 0.6:
            self.picture = cv2.GaussianBlur(self.picture, (0, 0), random.uniform(0.3, 2.0))
        small = cv2.resize(self.picture, (WIDTH, HEIGHT), interpolation=cv2.INTER_AREA).astype(np.float32)
        small += np.roll(self.bank.grain, int(random.integers(HEIGHT)), axis=0) * np.float32(random.uniform(0.3, 3.5))
        contrast = random.uniform(0.75, 1.25)
        return np.clip((small - 128) * contrast + 128 + random.normal(0, 14), 0, 255).astype(np.uint8)


class Bulge:
    """How far above the desk a sheet lies: corners curled up, a page rolled, a book's arch. Falsy when it lies flat."""

    def __init__(self, random: Random, size: tuple[float, float], kind: str) -> None:
        self.kind, self.curl, self.roll = kind, np.zeros(4), 0.0
        long = max(size)
        if kind == "book":
            self.roll = random.uniform(0, 0.12) * min(size)
        if kind == "book" or (kind == "paper" and random.random() < 0.3):
            self.curl = random.uniform(0, 0.09 if kind == "paper" else 0.05, 4) * long * (random.random(4) < 0.6)
        if kind == "paper" and random.random() < 0.15:
            self.roll = random.uniform(0, 0.07) * long

    def __bool__(self) -> bool:
        return bool(self.roll or self.curl.any())

    def height(self, uv: NDArray[np.float64]) -> NDArray[np.float64]:
        """mm, at (n, 2) shares of the sheet in -0.5..0.5."""
        u, v = uv[:, 0], uv[:, 1]
        ends = ((-1, -1), (1, -1), (1, 1), (-1, 1))
        corners = sum(c * np.clip(0.6 * (su * u + sv * v) - 0.2, 0, 1) ** 2 * 5 for c, (su, sv) in zip(self.curl, ends, strict=True))
        arch = np.abs(np.sin(2 * np.pi * u)) if self.kind == "book" else np.cos(np.pi * v)
        return np.asarray(corners + self.roll * np.maximum(arch, 0))


def _limb(mask: NDArray[np.uint8], a: NDArray[np.float64], b: NDArray[np.float64], width: float) -> None:
    ends = [tuple(int(v) for v in end.clip(-4000, 4000)) for end in (a, b)]
    cv2.line(mask, ends[0], ends[1], 255, max(2, int(width)), cv2.LINE_AA)


def _round_off(mask: NDArray[np.uint8], radius: int) -> None:
    corner = np.zeros((radius, radius), np.uint8)
    cv2.circle(corner, (radius, radius), radius, 255, -1, cv2.LINE_AA)
    mask[:radius, :radius], mask[:radius, -radius:] = corner, corner[:, ::-1]
    mask[-radius:, :radius], mask[-radius:, -radius:] = corner[::-1], corner[::-1, ::-1]


HARD = 0.4  # of the views with a page have something that the finder was wrong about most
HARDSHIPS = ("like page", "laptop", "half out", "glare", "hand on corner")


def view(bank: Bank) -> View:
    """One random view; four in five show a page."""
    random = bank.random
    while True:
        shows = random.random() < 0.8
        hard = str(random.choice(HARDSHIPS)) if shows and random.random() < HARD else ""
        out = 2 if hard == "half out" else int(random.random() < 0.4)
        painter = Painter(bank, out, like_page=hard == "like page")
        corners = painter.page(hard) if shows else None
        if not shows:
            painter.objects(int(random.integers(0, 7)))
        elif corners is None:
            continue
        if hard == "hand on corner" and corners is not None:
            painter.hand(corners, at=corners[int(random.integers(4))])
        elif random.random() < 0.5:
            painter.hand(corners)
        painter.light()
        if hard == "glare" and corners is not None:
            side, along = int(random.integers(4)), random.random() * (random.random() < 0.6)
            painter.glare(corners[side] + along * (corners[(side + 1) % 4] - corners[side]), random.uniform(120, 420))
        return View(painter.taken(), None if corners is None else corners / OVER)


def _acceptable(corners: NDArray[np.float64]) -> bool:
    size = np.array([WIDTH, HEIGHT]) * OVER
    out = np.maximum(np.maximum(-corners, corners - size), 0).max(axis=1) / size[0]
    inside = (out <= 0).sum()
    if inside < 2 or out.max() > (0.16 if inside > 2 else 0.3):
        return False
    d1, d2 = corners[2] - corners[0], corners[3] - corners[1]
    if abs(d1[0] * d2[1] - d1[1] * d2[0]) / 2 < 0.035 * size.prod():
        return False
    sides = np.roll(corners, -1, axis=0) - corners
    turns = sides[:, 0] * np.roll(sides[:, 1], -1) - sides[:, 1] * np.roll(sides[:, 0], -1)
    return bool((turns > 0).all() or (turns < 0).all()) and float(np.linalg.norm(sides, axis=1).min()) > 0.06 * size[0]
