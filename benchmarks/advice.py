"""Advice promised against come true: each is taken, the plate laid anew, and print and words measured by the bench's true page."""

import json
import sys
import time
from dataclasses import replace

import cv2
import numpy as np

from cartouche.bench.camera import Camera, Light, Lying, Pose, photograph, true_corners
from cartouche.bench.desks import desk
from cartouche.bench.papers import contour_sheet
from cartouche.core.call.audience import AUDIENCES, STAGED
from cartouche.core.pictures import Frame, Size
from cartouche.core.plates.model import Place
from cartouche.core.plates.placing import placing
from cartouche.core.plates.ready_made import READY_MADE
from cartouche.core.reading.advice import Advice, Situation, advise
from cartouche.core.reading.legibility import MM_PER_POINT, smallest_print
from cartouche.core.reading.verdicts import WORD_EM, PagePicture
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.finder import Found, find_page
from cartouche.core.straighten.geometry import rectangle, smallest_stretch, solve_homography, transform
from cartouche.core.straighten.rigs import rig_named
from cartouche.core.straighten.square_up import named, squared_up
from cartouche.live.feeds import Feeds, PulledFeed
from cartouche.live.scene import laid_plate
from cartouche.live.setup import Setup
from cartouche.live.troubles import Troubles
from cartouche.models import page_nets

FEED = Size(1920, 1080)
HD, FULL = Size(1280, 720), Size(1920, 1080)
WITHIN = 0.10
EDGE_PX = 12
GRID = 24  # spots each way across the place at which the page's detail is measured
LEARNERS = [audience for audience in AUDIENCES if not audience.is_teacher]
STAGED_LEARNERS = [audience for audience in STAGED if not audience.is_teacher]
PLATES = [plate for plate in READY_MADE if any(getattr(place.content, "role", "") == "page" for place in plate.places)]


class Still:
    """A feed that shows one picture."""

    def __init__(self, frame: Frame) -> None:
        self.frame = frame

    def next(self, moment_s: float) -> Frame:
        return self.frame


def scene(number: int) -> tuple[Frame, np.ndarray]:
    """With the page whole in the picture, and its true corners there."""
    random = np.random.default_rng(1000 + number)
    while True:
        camera, lying = view(random)
        corners = true_corners(camera, contour_sheet(), lying)
        if ((corners > EDGE_PX) & (corners < np.array(FEED) - EDGE_PX)).all():
            return photograph(camera, desk("wood"), contour_sheet(), lying), corners


def view(random: np.random.Generator) -> tuple[Camera, Lying]:
    where = Pose(
        (random.uniform(-200, 200), random.uniform(-320, 60), -random.uniform(340, 560)),
        (random.uniform(-30, 30), random.uniform(-30, 30)),
        roll_deg=random.uniform(-12, 12),
    )
    camera = Camera(FEED, where, blur_px=0.8, noise=2.6, light=Light(exposure=1.1))
    lying = Lying(random.uniform(-15, 15), random.uniform(-10, 10), random.uniform(-8, 8))
    return camera, lying


def laid_by(setup: Setup, feeds: Feeds, size: Size, chain: Chain) -> Place:
    plate = laid_plate(replace(setup, chains={"page": chain}), feeds, size.aspect, lambda feed_id: feed_id is None)
    assert plate is not None
    return next(place for place in plate.places if getattr(place.content, "role", "") == "page")


def come_true(advice: Advice, now: Situation, truth: np.ndarray) -> tuple[float, float]:
    """Smallest print (the worst audience) and words across, from the page's true corners in the feed and where they then stand."""
    chain = advice.chain or now.page.chain
    outgoing = FULL if advice.way == "sharp" else now.outgoing
    audiences = now.staged if advice.way == "window" else now.audiences
    placed = placing(now.laid(chain), chain, now.page.feed, outgoing)
    page_mm = Size(210.0, 297.0)
    to_feed = solve_homography(rectangle(page_mm), truth)
    to_outgoing = placed.canvas_matrix @ placed.straightened.matrix @ to_feed
    box = placed.box
    x, y = np.meshgrid(np.linspace(box.x0, box.x1, GRID), np.linspace(box.y0, box.y1, GRID))
    spots = transform(np.linalg.inv(to_outgoing), np.stack([x.ravel(), y.ravel()], axis=1))
    spots = spots[((spots >= 0) & (spots <= page_mm)).all(axis=1)]
    detail = smallest_stretch(to_feed, spots), smallest_stretch(to_outgoing, spots)
    points = max(smallest_print(*detail, outgoing, audience).points for audience in audiences)
    middle = (box.y0 + box.y1) / 2
    ends = transform(np.linalg.inv(to_outgoing), np.array([[box.x0, middle], [box.x1, middle]], np.float64))
    return points, float(np.linalg.norm(ends[1] - ends[0])) / (WORD_EM * now.asks_pt * MM_PER_POINT)


def main(scenes: int = 40) -> dict[str, object]:
    cv2.setNumThreads(1)
    nets, troubles = page_nets(), Troubles()
    off: dict[str, list[tuple[float, float]]] = {}
    unfound = 0
    times: list[float] = []
    warps: list[float] = []
    for number in range(scenes):
        frame, truth = scene(number)
        begun = time.perf_counter()
        cv2.warpPerspective(frame.y, np.eye(3), (int(HD.width), int(HD.height)))
        warps.append(time.perf_counter() - begun)
        found = find_page(frame, nets)
        if not isinstance(found, Found):
            unfound += 1
            continue
        chain = squared_up(found, Chain(), FEED, rig_named("as-it-is"))
        chain = chain.model_copy(update={"square": named(chain.square, "A4", lying=False)})
        truth = min(
            (np.roll(truth, k, axis=0) for k in range(4)), key=lambda turned: float(np.abs(turned - chain.square.corners_px(FEED)).max())
        )
        feeds = Feeds()
        feed = PulledFeed("page", Still(frame), lambda *_: None, troubles)
        feed.latest = frame
        feeds.add(feed)
        setup = Setup(plate=PLATES[number % len(PLATES)], roles={"page": "page"})
        asks_pt = (7.0, 9.0, 11.0)[number % 3]
        size = HD if number % 4 else FULL

        def laid(chain: Chain, setup: Setup = setup, feeds: Feeds = feeds, size: Size = size) -> Place:
            return laid_by(setup, feeds, size, chain)

        now = Situation(
            PagePicture(chain, FEED, 0, asks_pt=asks_pt), laid, size, LEARNERS, asks_pt, 2.5 * asks_pt * MM_PER_POINT, STAGED_LEARNERS
        )
        begun = time.perf_counter()
        given = advise(now, FULL if size is HD else None)
        times.append(time.perf_counter() - begun)
        for advice in given:
            if advice.worst is None or advice.words is None:
                continue
            points, words = come_true(advice, now, truth)
            off.setdefault(advice.way, []).append((points / advice.worst - 1, words / advice.words - 1))
        feeds.remove("page")
    every = np.abs(np.array([pair for pairs in off.values() for pair in pairs]))
    for way, pairs in off.items():
        print(f"{way}: {len(pairs)} taken, worst off {np.abs(pairs).max(axis=0).round(3).tolist()} (points, words)", file=sys.stderr)
    return {
        "scenes": scenes,
        "not_found": unfound,
        "advices": len(every),
        "points_within_10_percent": round(float((every[:, 0] <= WITHIN).mean()), 3),
        "words_within_10_percent": round(float((every[:, 1] <= WITHIN).mean()), 3),
        "worst_points_off": round(float(every[:, 0].max()), 5),
        "worst_words_off": round(float(every[:, 1].max()), 5),
        "advise_ms": round(1000 * float(np.median(times)), 2),
        "advise_in_warps": round(float(np.median(times) / np.median(warps)), 2),
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
