"""Desks and pages drawn once and laid in many views."""

import numpy as np

from training.eye import HEIGHT, WIDTH
from training.textures import Random, Texture, board_texture, book_texture, desk_texture, page_texture

PAPERS_MM = [(210, 297)] * 5 + [(297, 420), (148, 210), (105, 148), (216, 279), (216, 356)]


class Bank:
    """Textures drawn once and used many times, and renewed one by one."""

    def __init__(self, random: Random, desks: int = 60, pages: int = 160) -> None:
        self.random = random
        self.desks = [desk_texture(random) for _ in range(desks)]
        self.pages = [self._page() for _ in range(pages)]
        self.grain = random.normal(0, 1, (HEIGHT, WIDTH, 3)).astype(np.float32)

    def _page(self) -> tuple[Texture, float, float, str]:
        """Texture, width and height in mm, kind."""
        random, kind = self.random, self.random.random()
        if kind < 0.1:
            width, height = random.uniform(200, 330), random.uniform(150, 260)
            return board_texture(random, width / height), width, height, "board"
        if kind < 0.32:  # more often than on a desk: half of one for the whole is what it gets wrong longest
            picture = book_texture(random)
            height = random.uniform(170, 300)
            return picture, height * picture.shape[1] / picture.shape[0], height, "book"
        width, height = PAPERS_MM[int(random.integers(len(PAPERS_MM)))]
        if random.random() < 0.35:
            width, height = height, width
        return page_texture(random, width / height), width, height, "paper"

    def renew(self) -> None:
        self.desks[int(self.random.integers(len(self.desks)))] = desk_texture(self.random)
        for _ in range(3):
            self.pages[int(self.random.integers(len(self.pages)))] = self._page()

    def desk(self) -> Texture:
        return self.desks[int(self.random.integers(len(self.desks)))]

    def page(self) -> tuple[Texture, float, float, str]:
        return self.pages[int(self.random.integers(len(self.pages)))]
