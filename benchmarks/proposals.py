"""Which camera sees a page and which a face: proposals over pairs of bench and drawn cameras whose truth is known."""

import json
import sys
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent))  # found from anywhere

from cartouche.bench.poses import scenes
from cartouche.bench.presenter import Presenter
from cartouche.core.kit.propose import SURE, Seen, Sight, look, propose
from cartouche.core.pictures import Frame, Size, YuvColour, bgr_from_frame, blank_frame, frame_from_bgr
from cartouche.live.troubles import Troubles
from cartouche.live.watcher import Watcher
from cartouche.models import page_nets, person_net, way_net

SEEN = Size(960, 540)  # as the browser sends it
# what the first and the second camera see, and which of them should be proposed as page and as face
PAIRS = (
    (("page", "face"), (0, 1)),
    (("face", "page"), (1, 0)),
    (("page", "room"), (0, None)),
    (("room", "face"), (None, 1)),
    (("page", "covered"), (0, None)),
    (("covered", "face"), (None, 1)),
    (("both", "room"), (0, None)),
    (("face", "both"), (1, 0)),
    (("room", "covered"), (None, None)),
    (("desk", "face"), (None, 1)),
)


def pages(seed: int) -> Iterator[Frame]:
    return (_small(scene.frame) for scene in scenes(4000, seed=seed) if scene.corners is not None and "corner_out" not in scene.tags)


def desks(seed: int) -> Iterator[Frame]:
    return (_small(scene.frame) for scene in scenes(4000, seed=seed) if scene.corners is None)


def _small(frame: Frame) -> Frame:
    return frame_from_bgr(cv2.resize(bgr_from_frame(frame), tuple(map(int, SEEN)), interpolation=cv2.INTER_AREA))


def face(random: np.random.Generator) -> np.ndarray:
    """The presenter nearer or farther, in other light, moved aside: (540, 960, 3) BGR."""
    picture = bgr_from_frame(Presenter(Size(1280, 720)).picture(float(random.uniform(0, 60)), 0.0))
    scale = float(random.uniform(0.75, 1.5))
    shift = (SEEN.width / 2 - scale * 0.75 * 640 + random.uniform(-120, 120), SEEN.height - scale * 0.75 * 720)
    matrix = np.array([[0.75 * scale, 0, shift[0]], [0, 0.75 * scale, shift[1]]])
    placed = cv2.warpAffine(picture, matrix, tuple(map(int, SEEN)), flags=cv2.INTER_AREA, borderMode=cv2.BORDER_REFLECT)
    lit = placed.astype(np.float32) * random.uniform(0.45, 1.15) + random.normal(0, 2, placed.shape)
    return np.clip(lit, 0, 255).astype(np.uint8)


def both(random: np.random.Generator) -> Frame:
    """A sheet held up before the face."""
    picture = face(random)
    wide, high = random.uniform(210, 300), random.uniform(270, 380)
    left, top = random.uniform(60, 300), random.uniform(120, 150)
    sheet = np.full((594, 420, 3), 245, np.uint8)
    for line in range(14):
        cv2.putText(sheet, "contour lines join points", (30, 60 + 38 * line), cv2.FONT_HERSHEY_COMPLEX, 0.6, (40, 40, 40), 1, cv2.LINE_AA)
    jitter = random.uniform(-12, 12, (4, 2))
    corners = (np.array([[left, top], [left + wide, top], [left + wide, top + high], [left, top + high]]) + jitter).astype(np.float32)
    source = np.array([[0, 0], [420, 0], [420, 594], [0, 594]], np.float32)
    matrix = cv2.getPerspectiveTransform(source, corners)
    cv2.warpPerspective(sheet, matrix, tuple(map(int, SEEN)), dst=picture, flags=cv2.INTER_AREA, borderMode=cv2.BORDER_TRANSPARENT)
    return frame_from_bgr(picture)


def room(random: np.random.Generator) -> Frame:
    """A room with nobody in it: walls, shelf, window, a table's edge."""
    picture = np.full((540, 960, 3), random.integers(90, 220, 3), np.uint8)
    for _ in range(int(random.integers(4, 9))):
        x, y = int(random.integers(0, 900)), int(random.integers(0, 500))
        wide, high = int(random.integers(40, 420)), int(random.integers(30, 260))
        cv2.rectangle(picture, (x, y), (x + wide, y + high), tuple(map(int, random.integers(40, 235, 3))), -1)
    soft = cv2.GaussianBlur(picture, (0, 0), float(random.uniform(3, 8))).astype(np.float32)
    return frame_from_bgr(np.clip(soft + random.normal(0, 3, picture.shape), 0, 255).astype(np.uint8))


def covered(random: np.random.Generator) -> Frame:
    frame = blank_frame(SEEN, YuvColour(6, 128, 128))
    frame.y[:] = np.clip(random.normal(6, 3, frame.y.shape), 0, 255).astype(np.uint8)
    return frame


def main(count: int = 300, seed: int = 51) -> dict[str, object]:
    cv2.setNumThreads(1)
    random = np.random.default_rng(seed)
    paper, bare = pages(seed), desks(seed + 1)
    watcher = Watcher(list, lambda *_: None, lambda _: None, page_nets(), way_net(), Troubles())
    nets, person = page_nets(), person_net()
    makers = {
        "page": lambda: next(paper),
        "desk": lambda: next(bare),
        "face": lambda: frame_from_bgr(face(random)),
        "both": lambda: both(random),
        "room": lambda: room(random),
        "covered": lambda: covered(random),
    }
    right = sure_wrong = unsure_wrong = missed = 0
    by_pair: Counter[str] = Counter()
    times = []
    for number in range(count):
        kinds, truth = PAIRS[number % len(PAIRS)]
        sights: list[Sight] = []
        for kind in kinds:
            frame = makers[kind]()
            begun = time.perf_counter()
            sights.append(look(frame, nets, person, watcher.way_of))
            times.append(1000 * (time.perf_counter() - begun))
        told = propose([Seen(str(at), sight) for at, sight in enumerate(sights)])
        verdicts = []
        for role, proposed, wanted in zip(("page", "face"), (told.page, told.face), truth, strict=True):
            at = int(proposed.id) if proposed else None
            if at == wanted:
                verdicts.append("right")
            elif at is None or kinds[at] in (role, "both"):  # what it shows is there, and yet not what was wished
                verdicts.append("missed")
            else:
                verdicts.append("sure" if proposed.sure >= SURE else "unsure")
        right += verdicts == ["right", "right"]
        sure_wrong += "sure" in verdicts
        unsure_wrong += "unsure" in verdicts and "sure" not in verdicts
        missed += verdicts != ["right", "right"] and not {"sure", "unsure"} & set(verdicts)
        if verdicts != ["right", "right"]:
            by_pair["+".join(kinds)] += 1
            print(number, kinds, verdicts, told, [sight._replace(way=None) for sight in sights], file=sys.stderr)
    return {
        "pairs": count,
        "right": round(right / count, 4),
        "wrong_and_sure": sure_wrong,
        "wrong_and_unsure": unsure_wrong,
        "none": missed,
        "ms": round(float(np.median(times))),
        "missed_by_pair": dict(by_pair),
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
