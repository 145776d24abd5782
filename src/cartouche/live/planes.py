"""Decoded pictures (PyAV) to full-range planes, in a ring that is reused."""

import av
import cv2
import numpy as np

from cartouche.core.pictures import Frame, Plane

MAX_PIXELS = 3840 * 2160
MIN_SIDE, MAX_ASPECT = 16, 10  # px: a smaller picture, or a thinner one, shows nothing
DECODED_RING = 6
PLANAR = ("yuv420p", "yuvj420p")

_levels = np.arange(256, dtype=np.float32)
_LUMA_TO_FULL = np.clip(np.round((_levels - 16) * 255 / 219), 0, 255).astype(np.uint8)
LUMA_TO_LIMITED = np.round(_levels * 219 / 255 + 16).astype(np.uint8)
CHROMA_TO_LIMITED = np.round((_levels - 128) * 224 / 255 + 128).astype(np.uint8)
_CHROMA_TO_FULL = np.clip(np.round((_levels - 128) * 255 / 224 + 128), 0, 255).astype(np.uint8)


class PlaneRing:
    """Frames made by it stay untouched for DECODED_RING - 1 more."""

    def __init__(self) -> None:
        self._ring: list[tuple[Plane, ...]] = []
        self._number = 0

    def frame(self, picture: av.VideoFrame, captured_s: float) -> Frame:
        """Raises ValueError for a picture that is too large, too small or too thin."""
        short, long = sorted((picture.width, picture.height))
        if short * long > MAX_PIXELS or short < MIN_SIDE or long > MAX_ASPECT * short:
            raise ValueError(f"{picture.width} x {picture.height}")
        if picture.format.name not in PLANAR:
            picture = picture.reformat(format="yuv420p")
        width, height = picture.width // 2 * 2, picture.height // 2 * 2
        slot = self._next(width, height)
        full = picture.format.name == "yuvj420p" or picture.color_range == 2
        for plane, target, table in zip(picture.planes, slot, (_LUMA_TO_FULL, _CHROMA_TO_FULL, _CHROMA_TO_FULL), strict=True):
            source = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)[: target.shape[0], : target.shape[1]]
            if full:
                np.copyto(target, source)
            else:
                cv2.LUT(source, table, dst=target)
        return Frame.of(slot, captured_s)

    def _next(self, width: int, height: int) -> tuple[Plane, ...]:
        if not self._ring or self._ring[0][0].shape != (height, width):
            self._ring = [tuple(np.empty((height // k, width // k), np.uint8) for k in (1, 2, 2)) for _ in range(DECODED_RING)]
        self._number += 1
        return self._ring[self._number % DECODED_RING]
