"""What each ready-made plate costs at 1920x1080, against bare OpenCV calls and a filter-graph tool, and how true it is to a slow reference.

share: CPU time of one picture times 30, of one core.  ratio: against the same warps and resizes written bare.  ssim: luma
against a picture sampled nine times a pixel.  graph_ms: mirror, perspective and overlay by FFmpeg on the same frames, CPU time.
"""

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np

from cartouche.bench.camera import true_corners
from cartouche.bench.devices import DOCUMENT_CAMERA, SHEET_LIES, document_camera, settled
from cartouche.bench.papers import A4_MM
from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Frame, Size, YuvColour, index_matrix, scaling
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.plates.fade import Laid, between
from cartouche.core.plates.layouts import arranged
from cartouche.core.plates.model import Place, Plate
from cartouche.core.plates.placing import placing, shrink_level
from cartouche.core.plates.ready_made import READY_MADE
from cartouche.core.straighten.chain import Chain, MirrorLink, straighten
from cartouche.core.straighten.square_up import square_of

OUT = Size(1920, 1080)
GROUND = YuvColour(238, 123, 131)
ROUNDS = 40
OVER = 3
GRAPH_FRAMES = 60


def feeds() -> dict[str, tuple[Frame, Chain]]:
    page, face = settled(document_camera()), Presenter(Size(1280, 720)).picture(1.0, 0.0)
    chain = Chain(square=square_of(true_corners(DOCUMENT_CAMERA, A4_MM, SHEET_LIES), page.size), mirror=MirrorLink(left_right=True))
    return {"page": (page, chain), "face": (face, Chain())}


def laid_plate(plate: Plate, held: dict[str, tuple[Frame, Chain]]) -> Plate:
    aspects = [straighten(held[role][1], held[role][0].size).canvas.aspect if (role := _role(place)) else 1.0 for place in plate.places]
    return arranged(plate, aspects, OUT.aspect)


def _role(place: Place) -> str | None:
    return getattr(place.content, "role", None)


def layers_of(plate: Plate, held: dict[str, tuple[Frame, Chain]]) -> list[Layer]:
    made = []
    for place in plate.places:
        frame, chain = held.get(_role(place) or "", (None, Chain()))
        made.append(Layer(place, chain, frame))
    return made


def bare(layers: list[Layer]) -> Callable[[], None]:
    """One warp or resize a plane and place, into planes made beforehand; no rounding, no ground."""
    outs = [np.full((1080 // k, 1920 // k), 238, np.uint8) for k in (1, 2, 2)]
    jobs: list[Callable[[], object]] = []
    for layer in layers:
        if layer.frame is None:
            continue
        laid = placing(layer.place, layer.chain, layer.frame.size, OUT)
        level = shrink_level(laid.matrix, laid.box)
        for k, out, source in zip((1, 2, 2), outs, layer.frame.planes, strict=True):
            matrix = scaling(1 / k, 1 / k) @ laid.matrix @ scaling(k * 2**level, k * 2**level)
            box = laid.box
            area = out[box.y0 // k : box.y1 // k, box.x0 // k : box.x1 // k]
            moved = np.array([[1, 0, -box.x0 // k], [0, 1, -box.y0 // k], [0, 0, 1.0]]) @ matrix
            small = (source.shape[1] >> level, source.shape[0] >> level)
            jobs.append(_job(source, small if level else None, index_matrix(moved), area, layer.chain.square.on))
    return lambda: [job() for job in jobs] and None


def _job(source: np.ndarray, small: tuple[int, int] | None, matrix: np.ndarray, area: np.ndarray, warps: bool) -> Callable[[], object]:
    size = (area.shape[1], area.shape[0])

    def run() -> None:
        used = cv2.resize(source, small, interpolation=cv2.INTER_AREA) if small else source
        if warps:
            cv2.warpPerspective(used, matrix, size, dst=area)
        else:
            cv2.resize(used, size, dst=area, interpolation=cv2.INTER_LINEAR)

    return run


def reference(layers: list[Layer]) -> np.ndarray:
    """Luma, each place sampled OVER times along both axes by cubic interpolation, then averaged."""
    high, wide = 1080 * OVER, 1920 * OVER
    picture = np.full((high, wide), float(GROUND.y), np.float32)
    for layer in layers:
        place = layer.place
        rect = place.rect
        x0, y0, x1, y1 = rect.x * wide, rect.y * high, (rect.x + rect.width) * wide, (rect.y + rect.height) * high
        source = np.full((high, wide), 229.0, np.float32)
        if layer.frame is not None:
            laid = placing(place, layer.chain, layer.frame.size, OUT)
            x0, y0, x1, y1 = (OVER * value for value in (laid.box.x0, laid.box.y0, laid.box.x1, laid.box.y1))
            matrix = index_matrix(scaling(OVER, OVER) @ laid.matrix)
            source = cv2.warpPerspective(layer.frame.y, matrix, (wide, high), flags=cv2.INTER_CUBIC).astype(np.float32)
        radius = place.rounding * high
        ys, xs = np.ogrid[0:high, 0:wide]
        off_x = np.maximum(np.maximum(x0 + radius - xs - 0.5, xs + 0.5 - x1 + radius), 0)
        off_y = np.maximum(np.maximum(y0 + radius - ys - 0.5, ys + 0.5 - y1 + radius), 0)
        inside = np.hypot(off_x, off_y) <= max(radius, 0.5)
        if radius < 1:
            inside = (off_x == 0) & (off_y == 0)
        picture[inside] = source[inside]
    return cv2.resize(picture, (1920, 1080), interpolation=cv2.INTER_AREA)


def ssim(a: np.ndarray, b: np.ndarray) -> float:
    """Wang, Bovik, Sheikh & Simoncelli, Image quality assessment, IEEE Transactions on Image Processing 13 (2004)."""
    a, b = a.astype(np.float32), b.astype(np.float32)

    def blur(values: np.ndarray) -> np.ndarray:
        return cv2.GaussianBlur(values, (11, 11), 1.5)

    mean_a, mean_b = blur(a), blur(b)
    var_a, var_b, shared = blur(a * a) - mean_a**2, blur(b * b) - mean_b**2, blur(a * b) - mean_a * mean_b
    c1, c2 = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    return float(np.mean((2 * mean_a * mean_b + c1) * (2 * shared + c2) / ((mean_a**2 + mean_b**2 + c1) * (var_a + var_b + c2))))


def cpu_ms(work: Callable[[], object], times: list[float]) -> None:
    begun = time.process_time()
    work()
    times.append(1000 * (time.process_time() - begun))


def faded(plate: Plate, other: Plate, held: dict[str, tuple[Frame, Chain]]) -> list[list[Layer]]:
    """Ten pictures on the way from one plate to another."""
    ends = [[Laid(place, None) for place in laid_plate(one, held).places] for one in (other, plate)]
    made = []
    for share in np.linspace(0.05, 0.95, 10):
        shown = between(ends[0], ends[1], float(share))
        layers = layers_of(plate.model_copy(update={"places": tuple(one.place for one in shown)}), held)
        made.append([Layer(layer.place, layer.chain, layer.frame, None, one.opacity) for layer, one in zip(layers, shown, strict=True)])
    return made


def graph_ms(held: dict[str, tuple[Frame, Chain]]) -> float | None:
    """CPU time a frame of FFmpeg's hflip, perspective, scale and overlay on one thread, less its start."""
    try:
        subprocess.run(["ffmpeg", "-version"], capture_output=True, check=True)
    except OSError:
        return None
    (page, chain), (face, _) = held["page"], held["face"]
    tl, tr, br, bl = np.array(chain.square.corners) * np.array(page.size)
    where = ":".join(f"x{n}={x:.1f}:y{n}={y:.1f}" for n, (x, y) in enumerate((tl, tr, bl, br)))
    chart = (
        f"[0:v]perspective={where}:sense=source,hflip,scale=1400:990[p];[1:v]scale=480:360[f];"
        "color=c=0xF3EEE3:s=1920x1080:r=30[g];[g][p]overlay=45:45[a];[a][f]overlay=1400:40:shortest=1"
    )
    with tempfile.TemporaryDirectory() as folder:
        for name, frame in (("page", page), ("face", face)):
            Path(folder, f"{name}.yuv").write_bytes(b"".join(plane.tobytes() for plane in frame.planes))
        times = {}
        for count in (4, GRAPH_FRAMES):
            command = ["ffmpeg", "-v", "error", "-benchmark", "-filter_complex_threads", "1", "-threads", "1"]
            for name, frame in (("page", page), ("face", face)):
                size = f"{int(frame.size.width)}x{int(frame.size.height)}"
                path = str(Path(folder, f"{name}.yuv"))
                command += ["-stream_loop", str(count - 1), "-f", "rawvideo", "-pix_fmt", "yuv420p", "-s", size, "-r", "30", "-i", path]
            command += ["-filter_complex", chart, "-frames:v", str(count), "-threads", "1", "-f", "null", "-"]
            begun = _children_s()
            subprocess.run(command, check=True, capture_output=True, timeout=120)
            times[count] = _children_s() - begun
    return 1000 * (times[GRAPH_FRAMES] - times[4]) / (GRAPH_FRAMES - 4)


def _children_s() -> float:
    import resource

    used = resource.getrusage(resource.RUSAGE_CHILDREN)
    return used.ru_utime + used.ru_stime


def main(rounds: int = ROUNDS) -> dict[str, object]:
    cv2.setNumThreads(1)
    held, told = feeds(), {}
    first = laid_plate(READY_MADE[1], held)
    for plate in READY_MADE:
        laid = laid_plate(plate, held)
        layers, composer = layers_of(laid, held), Composer(OUT, GROUND)
        plain, way = bare(layers), faded(plate, first, held)
        ours: list[float] = []
        bares: list[float] = []
        fades: list[float] = []
        for number in range(rounds):
            cpu_ms(lambda: composer.compose(layers, 0.0), ours)  # noqa: B023
            cpu_ms(plain, bares)
            cpu_ms(lambda: Composer.compose(composer, way[number % len(way)], 0.0), fades)  # noqa: B023
            composer.compose(layers, 0.0)
        made = composer.compose(layers, 0.0)
        told[plate.id] = {
            "ms": round(float(np.median(ours)), 2),
            "share": round(float(np.median(ours)) * 30 / 1000, 3),
            "ratio": round(float(np.median(np.array(ours) / np.maximum(bares, 0.01))), 2),
            "fade_ms": round(float(np.median(fades)), 2),
            "ssim": round(ssim(made.y, reference(layers)), 4),
        }
        print(plate.id, told[plate.id], file=sys.stderr)
    graph = graph_ms(held)
    worst = {key: max(one[key] for one in told.values()) for key in ("share", "ratio", "fade_ms")}
    return {
        **worst,
        "ssim": min(one["ssim"] for one in told.values()),
        "graph_ms": None if graph is None else round(graph, 2),
        "ours_against_graph": None if graph is None else round(told["slides-and-face"]["ms"] / graph, 3),
        "by_plate": told,
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
