"""The computed smallest print against what a recogniser reads in the learner's own picture. Needs tesseract, which ./run bench installs."""

import json
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from difflib import SequenceMatcher
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageDraw

from cartouche.bench.call import CallCodec
from cartouche.bench.camera import Camera, Grain, Light, Lying, Pose, photograph, true_corners
from cartouche.bench.desks import desk
from cartouche.bench.papers import Paper
from cartouche.core.call.audience import AUDIENCES, Audience
from cartouche.core.pictures import Frame, Size, yuv_of_hex
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.plates.model import Place
from cartouche.core.reading.legibility import smallest_print
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.core.straighten.geometry import smallest_stretch, transform
from cartouche.core.straighten.square_up import square_of
from cartouche.fonts import typeface

POINTS = (26, 24, 22, 20, 18, 16, 15, 14, 13, 12, 11, 10, 9, 8, 7, 6, 5)
PX_PER_MM = 12.0
SENTENCES = ("the closer the lines are", "valleys point to the hill", "count the thick ones too", "set the map before you go")
READ_SHARE = 0.75  # of the letters: a reader fills in the rest
SIZE = Size(1920, 1080)
PAGE = Place.model_validate({"content": {"kind": "role", "role": "page"}, "rect": {"x": 0, "y": 0, "width": 1, "height": 1}})


def samples() -> tuple[Paper, list["Line"]]:
    """A sheet of one line for each size, A4 lying; each line's size, words, and box in mm."""
    picture = Image.new("RGB", (int(297 * PX_PER_MM), int(210 * PX_PER_MM)), (250, 250, 248))
    pen = ImageDraw.Draw(picture)
    lines, y = [], 8.0
    for number, points in enumerate(POINTS):
        for column in range(2):
            text = SENTENCES[(number + column) % len(SENTENCES)]
            high = points * 0.3528
            x = 12 + 145.0 * column
            font = typeface(round(high * PX_PER_MM))
            pen.text((x * PX_PER_MM, y * PX_PER_MM), text, font=font, fill=(25, 30, 40))
            lines.append((points, text, (x - 2, y - 0.5, x + pen.textlength(text, font=font) / PX_PER_MM + 2, y + 1.3 * high)))
        y += points * 0.3528 * 1.62
    return Paper(297, 210, "Print samples", np.ascontiguousarray(np.asarray(picture)[:, :, ::-1]), np.empty((0, 2))), lines


def seen_by(audience: Audience, outgoing: Frame) -> Frame:
    """What stands on the learner's screen: the layer the call sends, squeezed by its codec, in the audience's tile."""
    layer = audience.layer
    sent = _fitted(outgoing, layer.width, layer.height)
    codec = CallCodec(layer)
    through = None
    for _ in range(6):  # a still picture sharpens within a few frames
        through = codec.transcode(sent) or through
    assert through is not None
    return _fitted(through, audience.tile_width_px // 2 * 2, audience.tile_height_px // 2 * 2)


def _fitted(frame: Frame, width: int, height: int) -> Frame:
    ways = cv2.INTER_LINEAR if width > frame.size.width else cv2.INTER_AREA
    planes = [cv2.resize(plane, (width // k, height // k), interpolation=ways) for plane, k in zip(frame.planes, (1, 2, 2), strict=True)]
    return Frame.of(planes, 0.0)  # type: ignore[arg-type]


def read(part: np.ndarray) -> str:
    """One line of print, enlarged as the recogniser wants it."""
    scale = max(1.0, 64 / part.shape[0])
    large = cv2.copyMakeBorder(
        cv2.resize(part, None, fx=scale, fy=scale, interpolation=cv2.INTER_CUBIC), 20, 20, 20, 20, cv2.BORDER_REPLICATE
    )
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "line.png"
        cv2.imwrite(str(path), large)
        told = subprocess.run(["tesseract", str(path), "-", "--psm", "7"], capture_output=True, text=True, timeout=60, check=False)
    return told.stdout.strip().lower()


Line = tuple[int, str, tuple[float, float, float, float]]


def seen_lines(to_seen: np.ndarray, seen: np.ndarray, lines: list[Line]) -> list[tuple[Line, np.ndarray]]:
    """The lines that the framing shows whole, and their corners in mm."""
    made = []
    for line in lines:
        x0, y0, x1, y1 = line[2]
        corners = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
        box = transform(to_seen, corners)
        if (box >= 0).all() and (box <= (seen.shape[1], seen.shape[0])).all():
            made.append((line, corners))
    return made


def smallest_read(pictures: Sequence[np.ndarray], to_seen: np.ndarray, lines: list[tuple[Line, np.ndarray]]) -> float | None:
    """Where, as print gets smaller, less than READ_SHARE of the letters are read, between sizes; None outside the sizes shown.

    pictures: of the same view; the more, the less depends on how the noise of one lies on a letter.
    """
    by_points: dict[int, list[float]] = {}
    for (points, text, _), corners in lines:
        box = transform(to_seen, corners)
        (left, top), (right, bottom) = box.min(axis=0), box.max(axis=0)
        for seen in pictures:
            part = seen[int(top) : int(bottom) + 1, int(left) : int(right) + 1]
            by_points.setdefault(points, []).append(SequenceMatcher(None, read(part), text).ratio())
    sizes = np.array(sorted(by_points), np.float64)
    return crossing(sizes, rising(np.array([np.mean(by_points[int(points)]) for points in sizes])), READ_SHARE)


def smallest_computed(
    to_feed: np.ndarray, to_outgoing: np.ndarray, size: Size, audience: Audience, lines: list[tuple[Line, np.ndarray]]
) -> float | None:
    """Where print gets smaller than the rule asks for at its own spot, between sizes."""
    spare: dict[int, list[float]] = {}
    for (points, _, _), corners in lines:
        detail = (smallest_stretch(to_feed, corners), smallest_stretch(to_outgoing, corners))
        spare.setdefault(points, []).append(points - smallest_print(*detail, size, audience).points)
    sizes = np.array(sorted(spare), np.float64)
    return crossing(sizes, np.array([min(spare[int(points)]) for points in sizes]), 0.0)


def rising(values: np.ndarray) -> np.ndarray:
    """The nearest sequence that never falls: neighbours that do are pooled (Ayer et al., Annals of Mathematical Statistics 26, 1955)."""
    pools: list[tuple[float, int]] = []
    for value in values.tolist():
        pools.append((value, 1))
        while len(pools) > 1 and pools[-2][0] > pools[-1][0]:
            (late, many), (early, few) = pools.pop(), pools.pop()
            pools.append(((late * many + early * few) / (many + few), many + few))
    return np.concatenate([np.full(count, value) for value, count in pools])


def crossing(sizes: np.ndarray, values: np.ndarray, level: float) -> float | None:
    if values[0] >= level or values[-1] < level:
        return None
    at = int(np.argmax(values >= level))
    share = (level - values[at - 1]) / (values[at] - values[at - 1])
    return float(sizes[at - 1] + share * (sizes[at] - sizes[at - 1]))


def main(views: int = 4) -> dict[str, object]:
    cv2.setNumThreads(1)
    paper, lines = samples()
    random = np.random.default_rng(16)  # not the views that the rule was fitted to
    pairs: list[tuple[str, float, float]] = []
    for number in range(views):
        camera = Camera(
            SIZE,
            Pose((random.uniform(-120, 120), random.uniform(-150, 50), -random.uniform(330, 520))),
            blur_px=0.6,
            light=Light(exposure=1.1),
        )
        corners = true_corners(camera, paper, Lying())
        frame = photograph(camera, desk("wood"), paper, Lying())
        Grain(SIZE, 2.0).add(frame.y, number)
        square = square_of(corners, SIZE).model_copy(update={"paper": "A4", "lying": True, "aspect": 297 / 210})
        for zoom in (1.0, 1.7):
            chain = Chain(square=square, frame=FrameLink(zoom=zoom, y=0.45))
            for size in (Size(1280, 720), Size(1920, 1080)):
                composer = Composer(size, yuv_of_hex("#F3EEE3"))
                outgoing = composer.compose([Layer(PAGE, chain, frame)], 0.0)
                laid = composer.placings()[0]
                for audience in (one for one in AUDIENCES if not one.is_teacher):
                    canvas, tile = laid.straightened.canvas, Size(audience.tile_width_px // 2 * 2, audience.tile_height_px // 2 * 2)
                    to_canvas = np.diag([canvas.width / 297, canvas.height / 210, 1.0])
                    to_outgoing, to_feed = laid.canvas_matrix @ to_canvas, np.linalg.inv(laid.straightened.matrix) @ to_canvas
                    to_seen = np.diag([tile.width / size.width, tile.height / size.height, 1.0]) @ to_outgoing
                    near = audience.model_copy(update={"distance_mm": 1.0})  # a recogniser has no eye: only pixels limit it
                    seen = seen_by(audience, outgoing).y
                    shown = seen_lines(to_seen, seen, lines)
                    computed = smallest_computed(to_feed, to_outgoing, size, near, shown)
                    told = smallest_read([seen], to_seen, shown)
                    if computed is not None and told is not None:
                        pairs.append((f"{audience.id}, {size.height}p, {zoom:.0%}", computed, told))
    off = np.array([computed - told for _, computed, told in pairs])
    for name, computed, told in pairs[:12]:
        print(f"{name}: computed {computed:.1f} pt, read to {told:.1f} pt", file=sys.stderr)
    return {
        "pictures": len(pairs),
        "median_off_pt": round(float(np.median(off)), 2),
        "mean_off_pt": round(float(np.mean(off)), 2),
        "within_1.5_pt": round(float((np.abs(off) <= 1.5).mean()), 3),
        "worst_pt": round(float(np.abs(off).max()), 2),
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
