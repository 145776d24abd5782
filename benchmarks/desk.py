"""What the desk's own work costs: 1920x1080 out from two 1080p feeds, one straightened, both placed, encoded for one viewer.

core_share: CPU time of one picture times 30, of one core; tools_core_share: the same with ink and timer;
gliding_core_share: and a closer look on its way.  ratio_planes, ratio_bgr: correct + compose against the same OpenCV
calls written bare for this one case, on planes and in BGR (there with the conversion that cameras then need).
The cases take turns within each round, so a noisy machine disturbs them alike.
"""

import json
import sys
import time
from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np

from benchmarks.ink import strokes
from cartouche.bench.camera import true_corners
from cartouche.bench.devices import DOCUMENT_CAMERA, SHEET_LIES, document_camera, settled
from cartouche.bench.papers import A4_MM
from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Frame, Size, YuvColour, index_matrix, scaling
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.plates.model import Place, Plate
from cartouche.core.plates.placing import placing, shrink_level
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.core.straighten.square_up import square_of
from cartouche.core.teach.timer import Timer
from cartouche.live.hub import encode
from cartouche.live.ink_room import InkRoom
from cartouche.live.setup import Setup
from cartouche.live.timer_picture import TimerPicture

OUT = Size(1920, 1080)
ROUNDS = 120
BACKGROUND = YuvColour(238, 123, 131)


def _place(role: str, x: float, y: float, width: float, height: float, fit: str) -> Place:
    rect = {"x": x, "y": y, "width": width, "height": height}
    return Place.model_validate({"content": {"kind": "role", "role": role}, "rect": rect, "fit": fit})


def case() -> list[Layer]:
    """A page of 1400x1080 and a face of 480x360, as pictures in use look."""
    page, face = settled(document_camera()), Presenter(OUT).picture(1.0, 0.0)
    corners = true_corners(DOCUMENT_CAMERA, A4_MM, SHEET_LIES)
    chain = Chain(square=square_of(corners, page.size), frame=FrameLink(zoom=2.0, y=0.4))
    return [
        Layer(_place("page", 0, 0, 1400 / 1920, 1, "fill"), chain, page),
        Layer(_place("face", 1430 / 1920, 40 / 1080, 480 / 1920, 360 / 1080, "fill"), Chain(), face),
    ]


def bare_planes(layers: list[Layer]) -> Callable[[], None]:
    """One warp a plane for the page, one resize a plane for the face, into planes made beforehand."""
    page, face = layers
    laid = placing(page.place, page.chain, page.frame.size, OUT)
    assert shrink_level(laid.matrix, laid.box) == 0
    luma, chroma = index_matrix(laid.matrix), index_matrix(scaling(0.5, 0.5) @ laid.matrix @ scaling(2, 2))
    box, spot = laid.box, placing(face.place, face.chain, face.frame.size, OUT).box
    outs = [np.full((1080 // k, 1920 // k), 238, np.uint8) for k in (1, 2, 2)]
    halves = [np.empty((540 // k, 960 // k), np.uint8) for k in (1, 2, 2)]

    def run() -> None:
        for out, source, half, seen, matrix, k in zip(
            outs, page.frame.planes, halves, face.frame.planes, (luma, chroma, chroma), (1, 2, 2), strict=True
        ):
            area = out[: box.y1 // k, : box.x1 // k]
            cv2.warpPerspective(source, matrix, (area.shape[1], area.shape[0]), dst=area)
            cv2.resize(seen, (half.shape[1], half.shape[0]), dst=half, interpolation=cv2.INTER_AREA)
            small = out[spot.y0 // k : spot.y1 // k, spot.x0 // k : spot.x1 // k]
            inset = (half.shape[1] - half.shape[0] * 4 // 3) // 2
            cv2.resize(half[:, inset : half.shape[1] - inset], (small.shape[1], small.shape[0]), dst=small)

    return run


def bare_bgr(layers: list[Layer]) -> Callable[[], None]:
    """The same from YUV feeds by way of BGR: convert, warp, shrink, place."""
    page, face = layers
    laid = placing(page.place, page.chain, page.frame.size, OUT)
    matrix, box, spot = index_matrix(laid.matrix), laid.box, placing(face.place, face.chain, face.frame.size, OUT).box
    out = np.full((1080, 1920, 3), 238, np.uint8)
    stacked = [_i420(layer.frame) for layer in layers]
    colour, half = np.empty((1080, 1920, 3), np.uint8), np.empty((540, 960, 3), np.uint8)

    def run() -> None:
        cv2.cvtColor(stacked[0], cv2.COLOR_YUV2BGR_I420, dst=colour)
        area = out[: box.y1, : box.x1]
        cv2.warpPerspective(colour, matrix, (area.shape[1], area.shape[0]), dst=area)
        cv2.cvtColor(stacked[1], cv2.COLOR_YUV2BGR_I420, dst=colour)
        cv2.resize(colour, (960, 540), dst=half, interpolation=cv2.INTER_AREA)
        small = out[spot.y0 : spot.y1, spot.x0 : spot.x1]
        cv2.resize(half[:, 120:840], (small.shape[1], small.shape[0]), dst=small)

    return run


def with_tools(layers: list[Layer], composer: Composer, *, gliding: bool) -> Callable[[], Frame]:
    """The same with ink of twenty strokes, one more under a hand, and the timer; gliding: a closer look is on its way besides."""
    page, face = layers
    room, clock, plate = InkRoom(lambda: None), TimerPicture(), Plate(id="p", name="P", places=(page.place, face.place))
    room.change("page", lambda ink: ink.settled(strokes(20)))
    setup, steps, number = Setup(plate=plate, timer=Timer().pressed(0.0)), 60, 0
    glide = [page.chain.model_copy(update={"frame": FrameLink(zoom=2.0 + 0.01 * step, y=0.4)}) for step in range(steps)]

    def run() -> Frame:
        nonlocal number
        number += 1
        chain, now_s = glide[number % steps if gliding else 0], number / 30
        over = room.over("page", page.place, chain, page.frame.size, OUT, now_s)
        if number % 40 == 1:
            room.end("hand")
            room.change("page", lambda ink: ink.settled(strokes(20)))
            room.begin("hand", "pen", "#A93226", 0.8, (0.2, 0.4, 1.0), now_s)
        room.move("hand", [(0.2 + 0.008 * (number % 40), 0.4, 1.0, now_s)])
        return composer.compose([replace(page, chain=chain, over=over), face, *clock.layers(setup, plate, None, OUT, now_s)], 0.0)

    return run


def _i420(frame: Frame) -> np.ndarray:
    return np.concatenate([plane.reshape(-1, 1920) for plane in frame.planes])


def main(rounds: int = ROUNDS) -> dict[str, float]:
    cv2.setNumThreads(1)
    layers = case()
    composer = Composer(OUT, BACKGROUND)
    planes, bgr = bare_planes(layers), bare_bgr(layers)
    tools, gliding = (with_tools(layers, Composer(OUT, BACKGROUND), gliding=moves) for moves in (False, True))
    works: tuple[Callable[[], object], ...] = (
        lambda: composer.compose(layers, 0.0),
        planes,
        bgr,
        lambda: encode(composer.compose(layers, 0.0), 1),
        lambda: encode(tools(), 1),
        lambda: encode(gliding(), 1),
    )
    spent = np.zeros((rounds, len(works)))
    for number in range(-10, rounds):
        for which, work in enumerate(works):
            begun = time.thread_time()
            work()
            if number >= 0:
                spent[number, which] = time.thread_time() - begun
    ours, on_planes, in_bgr, whole, in_use, on_the_way = np.median(spent, axis=0)
    return {
        "core_share": round(30 * float(whole), 3),
        "ratio_planes": round(float(ours / on_planes), 3),
        "ratio_bgr": round(float(ours / in_bgr), 3),
        "tools_core_share": round(30 * float(in_use), 3),
        "gliding_core_share": round(30 * float(on_the_way), 3),
        "fps": round(1 / float(whole), 1),
        "compose_ms": round(1000 * float(ours), 2),
        "planes_ms": round(1000 * float(on_planes), 2),
        "bgr_ms": round(1000 * float(in_bgr), 2),
        "encode_ms": round(1000 * float(whole - ours), 2),
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
