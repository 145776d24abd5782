"""Ink over a page: what it costs, how soon a pointer's spot is in the outgoing picture, and whether it stays on the print."""

import json
import sys
import time

import numpy as np

from benchmarks.follower import Case, _clockwise
from cartouche.core.ink.draw import drawn
from cartouche.core.ink.strokes import Stroke
from cartouche.core.pictures import Size, frame_from_bgr, yuv_of_hex
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.plates.model import Place
from cartouche.core.plates.placing import placing
from cartouche.core.straighten.chain import Chain, FrameLink, SquareLink, TurnLink
from cartouche.core.straighten.page_space import page_space
from cartouche.live.ink_room import InkRoom

PLACE = Place.model_validate({"content": {"kind": "role", "role": "page"}, "rect": {"x": 0, "y": 0, "width": 1, "height": 1}})
SIZES = {"720p": Size(1280, 720), "1080p": Size(1920, 1080)}


def strokes(count: int) -> tuple[Stroke, ...]:
    random = np.random.default_rng(1)
    made = []
    for number in range(count):
        x, y = random.uniform(20, 150), random.uniform(20, 270)
        points = tuple((float(x + k), float(y + 3 * np.sin(k / 3)), 0.5 + 0.4 * float(np.sin(k))) for k in range(40))
        made.append(Stroke(id=f"s{number}", width=0.8, points=points))
    return tuple(made)


def chain_of(case: Case, corners: np.ndarray, **more: object) -> Chain:
    return Chain(square=SquareLink(on=True, corners=(corners / np.array(case.camera.size)).tolist(), paper="A4", aspect=210 / 297), **more)  # type: ignore[arg-type]


def cost_ms(size: Size, count: int) -> tuple[float, float]:
    """A frame with ink that stands, and with one stroke under a hand, less the same without ink."""
    case = Case(1)
    frame, corners = case.still()
    chain, room, composer = chain_of(case, _clockwise(corners)), InkRoom(lambda: None), Composer(size, yuv_of_hex("#F3EEE3"))
    room.change("page", lambda ink: ink.settled(strokes(count)))

    def run(with_ink: bool, moving: bool = False) -> float:
        times = []
        room.over("page", PLACE, chain, frame.size, size, 0.0)
        if moving:
            room.begin("hand", "pen", "#23459B", 0.8, (0.3, 0.5, 1.0), 0.0)
        for number in range(30):
            if moving:
                room.move("hand", [(0.3 + 0.01 * number, 0.5, 1.0, number / 60)])
            begun = time.perf_counter()
            over = room.over("page", PLACE, chain, frame.size, size, 0.0) if with_ink else ()
            composer.compose([Layer(PLACE, chain, frame, over=over)], 0.0)
            times.append(time.perf_counter() - begun)
        if moving:
            room.end("hand")
        return 1000 * float(np.median(times))

    bare = run(False)
    return max(0.0, run(True) - bare), max(0.0, run(True, moving=True) - bare)


def drift_mm(seed: int) -> float:
    """A stroke drawn round a mark on the page; the page is bumped, slid, turned and looked at closer: how far both come apart, mm."""
    case = Case(seed)
    _, corners = case.still()
    corners = _clockwise(corners)
    random = np.random.default_rng(seed)
    worst = 0.0
    for kind in ("bump", "slide", "turn", "zoom"):
        moved = corners + (random.uniform(-60, 60, 2) if kind in ("bump", "slide") else 0.0)
        more: dict[str, object] = {"turn": TurnLink(quarters=1)} if kind == "turn" else {}
        if kind == "zoom":
            more = {"frame": FrameLink(zoom=2.2, x=0.45, y=0.48)}
        chain = chain_of(case, moved, **more)
        page = page_space(chain, case.camera.size)
        feed = np.full((case.camera.size.height, case.camera.size.width, 3), 240, np.uint8)
        x, y = (int(value) for value in page.on_feed(np.array([(95.0, 143.0)]))[0])
        feed[y - 4 : y + 5, x - 4 : x + 5] = 20
        spot = page.on_page(np.array([(x + 0.5, y + 0.5)]))[0]  # the middle of the mark, to a fraction of a pixel
        ring = tuple((spot[0] + 6 * float(np.cos(turn)), spot[1] + 6 * float(np.sin(turn)), 1.0) for turn in np.linspace(0, 2 * np.pi, 60))
        size = SIZES["1080p"]
        placed = placing(PLACE, chain, case.camera.size, size)
        over = drawn((Stroke(id="r", width=0.6, points=ring),), placed.canvas_matrix @ page.to_canvas, (0, 0, *(int(v) for v in size)))
        picture = Composer(size, yuv_of_hex("#F3EEE3")).compose([Layer(PLACE, chain, frame_from_bgr(feed))], 0.0)
        dark = np.argwhere(picture.y < 90)
        if over is None or not len(dark):
            return 99.0
        ink = np.argwhere(over.rest[0] < 128) + np.array([over.y, over.x])
        apart = dark.mean(axis=0) - (ink.max(axis=0) + ink.min(axis=0)) / 2
        scale = float(np.sqrt(abs(np.linalg.det((placed.canvas_matrix @ page.to_canvas)[:2, :2]))))
        worst = max(worst, float(np.hypot(*apart)) / scale)
    return worst


def pointer_ms() -> tuple[float, float]:
    """From a hand's message to the first outgoing picture that has it: the running desk, 30 pictures a second, no network."""
    from tests.live.teaching import running_page  # a running lesson with a page, as the tests have it

    times = []
    with running_page() as (running, seen):
        for number in range(40):
            spot = (0.2 + 0.01 * number, 0.3 + 0.01 * (number % 5))
            running.ink.begin("hand", "pen", "#A93226", 3.0, (*spot, 1.0), time.monotonic())
            begun = time.monotonic()
            running.ink.move("hand", [(spot[0] + 0.02, spot[1], 1.0, begun)])
            times.append(1000 * (seen(spot, begun) - begun))
            running.ink.end("hand")
            running.ink.change(running.ink.ground.id, lambda ink: ink.settled(()))  # type: ignore[union-attr]
    return float(np.median(times)), float(np.percentile(times, 95))


def main(scenes: int = 40) -> None:
    made: dict[str, float] = {}
    for name, size in SIZES.items():
        for count in (0, 20, 200):
            stands, moves = cost_ms(size, count)
            made |= {f"{name}_{count}_ms": round(stands, 2), f"{name}_{count}_drawing_ms": round(moves, 2)}
    drifts = [drift_mm(seed) for seed in range(scenes)]
    median, p95 = pointer_ms()
    print(json.dumps({
        **made, "pointer_median_ms": round(median, 1), "pointer_p95_ms": round(p95, 1), "scenes": scenes,
        "drift_median_mm": round(float(np.median(drifts)), 3), "drift_worst_mm": round(max(drifts), 3),
    }))  # fmt: skip


if __name__ == "__main__":
    main(*(int(one) for one in sys.argv[1:2]))
