"""Pictures that carry the moment they were made, in bars that survive any call's codec, and what reads them at the far end."""

import time

import cv2
import numpy as np

from cartouche.bench.papers import contour_sheet
from cartouche.core.pictures import Frame, Size

BITS, SIZE = 16, Size(1280, 720)
HIGH = 48
EVERY = 6  # of the pictures is read
READ = f"""([selector, left, top, wide, high]) => {{  /* where the outgoing picture lies in the video, as shares of that */
    const video = document.querySelector(selector)
    const canvas = new OffscreenCanvas({BITS} * 8, 8)
    const context = canvas.getContext('2d', {{ willReadFrequently: true }})
    window.delays = []
    window.sizes = []
    let count = 0
    const look = () => {{
        if (video.videoWidth && ++count % {EVERY} === 0) {{  /* reading a picture costs more than showing it */
            const [across, down] = [video.videoWidth, video.videoHeight]
            context.drawImage(
                video, left * across, top * down, wide * across, (high * down * {HIGH}) / 720, 0, 0, {BITS} * 8, 8
            )
            const {"{data}"} = context.getImageData(0, 4, {BITS} * 8, 1)
            let stamp = 0
            for (let bit = 0; bit < {BITS}; bit += 1) stamp = stamp * 2 + (data[(bit * 8 + 4) * 4] > 128 ? 1 : 0)
            const late = (Math.round(Date.now()) - stamp + 65536 * 2) % 65536
            if (late < 5000) delays.push(late)
            sizes.push(video.videoWidth)
        }}
        video.requestVideoFrameCallback(look)
    }}
    video.requestVideoFrameCallback(look)
}}"""


class StampedCamera:
    """A bench device of no delay whose picture is a page with a moving band, and the moment in milliseconds."""

    fps = 30.0
    battery = facing = None

    def __init__(self) -> None:
        page = cv2.resize(contour_sheet().picture, (960, 1357), interpolation=cv2.INTER_AREA)[:720]
        grey = np.full((720, 1280), 214, np.uint8)
        grey[:, 160:1120] = cv2.cvtColor(page, cv2.COLOR_BGR2GRAY)
        self._luma, self._chroma = grey, np.full((360, 640), 128, np.uint8)
        wave = 145 + 50 * np.sin(np.arange(1280) * 2 * np.pi / 320)
        self._band = np.tile(wave.astype(np.uint8), (60, 1))  # about as much moves as a hand that writes
        self._count = 0

    def picture(self, now_s: float) -> Frame | None:
        self._count += 1
        luma = self._luma.copy()
        luma[400:460] = np.roll(self._band, 4 * self._count, axis=1)
        stamp = round(time.time() * 1000) % (1 << BITS)
        bars = np.array([(stamp >> (BITS - 1 - bit)) & 1 for bit in range(BITS)], np.uint8) * 255
        luma[:HIGH] = np.repeat(bars, SIZE.width // BITS)
        return Frame.of((luma, self._chroma, self._chroma), now_s)


def late_ms(luma: np.ndarray) -> float | None:
    """How long ago a picture was made, from its bars; None where they cannot be right."""
    height, width = luma.shape[:2]
    line = luma[height * HIGH // 720 // 2]
    bits = [int(line[(2 * bit + 1) * width // (2 * BITS)] > 128) for bit in range(BITS)]
    stamp = int("".join(map(str, bits)), 2)
    late = (round(time.time() * 1000) - stamp) % (1 << BITS)
    return float(late) if late < 5000 else None
