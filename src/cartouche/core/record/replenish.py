"""Conditional replenishment: what stands still is not sent again, so that no encoder spends its bits on a camera's noise.

Source: Mounts, A video encoding system with conditional picture-element replenishment, Bell System Technical Journal 48 (1969).
"""

from collections.abc import Sequence

import cv2
import numpy as np

from cartouche.core.pictures import Plane

BLOCK = 16  # px of luma: an encoder's own block, which it skips where nothing has changed
CHANGED = 5  # grey values of four pixels averaged: four deviations of a camera's noise, less than a pencil's line
RENEW_EVERY = 6  # pictures: then one more row of blocks is renewed, whatever it shows


class _Followed:
    """One plane. shown: (h, w) uint8, what of it is shown.  block: px of this plane.  Compared by the averages of four pixels each."""

    def __init__(self, shown: Plane, block: int) -> None:
        high, wide = shown.shape
        self._half = (max(1, wide // 2), max(1, high // 2))
        self.grid = (-(-wide // block), -(-high // block))
        self.shown = shown
        self._shown_small, self._small = (np.zeros(self._half[::-1], np.uint8) for _ in range(2))
        columns, rows = self.grid
        self._off = np.zeros((rows * block // 2, columns * block // 2), np.uint8)
        self._mask = np.empty((rows * block, columns * block), np.uint8)
        self._mask_small = np.empty_like(self._off)
        self.changed: Plane = np.zeros((rows, columns), np.uint8)

    def compare(self, plane: Plane) -> None:
        cv2.resize(plane, self._half, dst=self._small, interpolation=cv2.INTER_AREA)
        off = self._off[: self._half[1], : self._half[0]]
        cv2.absdiff(self._small, self._shown_small, dst=off)
        cv2.threshold(off, CHANGED, 255, cv2.THRESH_BINARY, dst=off)
        cv2.resize(self._off, self.grid, dst=self.changed, interpolation=cv2.INTER_AREA)  # above 0 where any pixel is

    def take(self, plane: Plane, blocks: Plane, first: int, last: int) -> None:
        """Of the rows of blocks from the first to before the last."""
        for source, shown, mask in ((plane, self.shown, self._mask), (self._small, self._shown_small, self._mask_small)):
            high = mask.shape[0] // len(blocks)
            y0, y1 = first * high, min(last * high, len(source))
            part = mask[y0 : last * high]
            cv2.resize(blocks[first:last], part.shape[::-1], dst=part, interpolation=cv2.INTER_NEAREST)
            cv2.copyTo(source[y0:y1], part[: y1 - y0, : source.shape[1]], shown[y0:y1])


class Replenished:
    """A picture that follows another, block by block, where that has changed; one row of blocks after the other is renewed besides.

    So it is never off by more than CHANGED for longer than all rows take: fourteen seconds at 1080p and 30 pictures a second.
    """

    def __init__(self, shown: Sequence[Plane]) -> None:
        """shown: y (h, w), u and v (h / 2, w / 2) uint8, which the picture is drawn into."""
        self._planes = tuple(_Followed(plane, block) for plane, block in zip(shown, (BLOCK, BLOCK // 2, BLOCK // 2), strict=True))
        self._blocks = np.empty_like(self._planes[0].changed)
        self._count = 0

    def follow(self, planes: Sequence[Plane]) -> None:
        """Draw what has changed. planes: of the same shapes as those shown."""
        for followed, plane in zip(self._planes, planes, strict=True):
            followed.compare(plane)
        y, u, v = (followed.changed for followed in self._planes)
        cv2.max(y, u, dst=self._blocks)
        cv2.max(self._blocks, v, dst=self._blocks)
        turn, left = divmod(self._count, RENEW_EVERY)
        if self._count == 0:
            self._blocks[:] = 255
        elif left == 0:
            self._blocks[turn % len(self._blocks)] = 255
        self._count += 1
        rows = np.flatnonzero(self._blocks.any(axis=1))
        for run in np.split(rows, np.flatnonzero(np.diff(rows) > 1) + 1) if rows.size else ():
            for followed, plane in zip(self._planes, planes, strict=True):
                followed.take(plane, self._blocks, int(run[0]), int(run[-1]) + 1)
