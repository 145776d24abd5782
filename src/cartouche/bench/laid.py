"""What else may lie under a simulated camera: the set-up card, or nothing."""

import hashlib
from functools import cache
from typing import Literal

import numpy as np

from cartouche.bench.camera import Camera, Grain, Lying, photograph, true_corners
from cartouche.bench.desks import desk
from cartouche.bench.keep import kept
from cartouche.bench.papers import Paper
from cartouche.core.pictures import Corners, Frame, YuvColour, blank_frame
from cartouche.core.straighten.card import CardPaper, layout
from cartouche.printed import card_picture

Thing = Literal["sheet", "card", "nothing"]
DRAWN_RING = 6  # frames that stay untouched after they were handed out


@cache
def card_paper(paper: CardPaper = "A4") -> Paper:
    size = layout(paper).size
    return Paper(size.width, size.height, f"Set-up card {paper}", card_picture(paper, 300), np.empty((0, 2)))


class StillView:
    """Pictures of a still scene; only the sensor's noise differs."""

    def __init__(self, camera: Camera, lying: Lying, thing: Thing) -> None:
        self._camera, self._lying, self._thing = camera, lying, thing
        paper = card_paper() if thing == "card" else None
        self._clean = Frame.of(kept_still(camera, lying, paper, thing), 0.0)
        self._ring = [blank_frame(camera.size, YuvColour(0, 128, 128)) for _ in range(DRAWN_RING)]
        self._grain = Grain(camera.size, camera.noise)
        self._made = 0

    def picture(self, moment_s: float, captured_s: float) -> Frame:
        slot = self._ring[self._made % DRAWN_RING]
        self._made += 1
        for plane, target in zip(self._clean.planes, slot.planes, strict=True):
            np.copyto(target, plane)
        self._grain.add(slot.y, self._made)
        return Frame.of(slot.planes, captured_s)

    def corners(self) -> Corners | None:
        """The card's own, top-left first; None where nothing lies."""
        return true_corners(self._camera, card_paper(), self._lying) if self._thing == "card" else None


def kept_still(camera: Camera, lying: Lying, paper: Paper | None, thing: Thing) -> tuple[np.ndarray, ...]:
    """The still scene's planes, drawn once for good, see `keep`."""
    name = f"{thing}-{hashlib.sha256(repr((camera, lying)).encode()).hexdigest()[:8]}"
    return kept(name, lambda: photograph(camera, desk("wood"), paper, lying).planes)
