"""What stands where on the outgoing picture: for every ready-made plate and every feed that dies."""

import time

import numpy as np
import pytest

from cartouche.core.pictures import Frame, Size
from cartouche.core.plates import placement
from cartouche.core.plates.model import Place, Plate, Role
from cartouche.core.plates.ready_made import FIRST_PLATES, READY_MADE
from cartouche.core.straighten.chain import Chain
from cartouche.live import away, feeds, scene
from cartouche.live.running import RunningLesson
from cartouche.live.setup import Setup
from tests.helpers import eventually, settled
from tests.live.conftest import Plain, show, viewer

PAGE_Y, FACE_Y, GROUND_Y = 200, 60, 238
PAGE_ALONE, FACE_ALONE = FIRST_PLATES[1:3]


@pytest.fixture(autouse=True)
def soon(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(away, "HELD_FOR_S", 0.4)


def share(frame: Frame | None, y: int) -> float:
    """Of the outgoing picture, what shows this brightness."""
    return 0.0 if frame is None else float((np.abs(frame.y[::4, ::4].astype(int) - y) < 8).mean())


BOTH = [plate for plate in READY_MADE if sum(place.has_picture for place in plate.places) == 2]


@pytest.mark.parametrize("plate", BOTH, ids=lambda plate: plate.id)
@pytest.mark.parametrize("dies", ["page", "face"])
def test_a_feed_that_dies_is_held_then_left_out_and_comes_back(
    lesson: RunningLesson, page_and_face: tuple[Plain, Plain], plate: Plate, dies: str
) -> None:
    page, face = page_and_face
    lesson.stage.put_on(plate)
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: share(lesson.desk.latest, PAGE_Y) > 0.03 and share(lesson.desk.latest, FACE_Y) > 0.03)
    # until all stand where they belong, however slow the machine
    parts = settled(
        lambda: tuple(round(share(lesson.desk.latest, y), 2) for y in (PAGE_Y, FACE_Y)), still_s=scene.FLOAT_S + 0.3, seconds=30
    )
    both = dict(zip((PAGE_Y, FACE_Y), parts, strict=True))
    dead, other = (PAGE_Y, FACE_Y) if dies == "page" else (FACE_Y, PAGE_Y)
    (page if dies == "page" else face).dead = True
    darkest: list[float] = []

    def without() -> bool:
        frame = lesson.desk.latest
        darkest.append(float(frame.y.min()) if frame is not None else 255.0)
        return share(frame, dead) < 0.002 and share(frame, other) > both[other] - 0.015

    eventually(without, 30)
    assert min(darkest) > 40, "nothing black went out"
    (page if dies == "page" else face).dead = False
    eventually(lambda: all(abs(share(lesson.desk.latest, y) - part) < 0.02 for y, part in both.items()), 30)


def test_with_nothing_left_the_last_good_pictures_stay(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    page, face = page_and_face
    lesson.stage.put_on(BOTH[0])
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: share(lesson.desk.latest, PAGE_Y) > 0.03 and share(lesson.desk.latest, FACE_Y) > 0.03)
    page.dead = face.dead = True
    time.sleep(1.5)
    assert share(lesson.desk.latest, PAGE_Y) > 0.03
    assert share(lesson.desk.latest, FACE_Y) > 0.03


def test_a_plate_fades_in_as_long_as_it_says_and_a_cut_is_at_once(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    page_plate, face_plate = FIRST_PLATES[1], FIRST_PLATES[2]
    lesson.hub.join(viewer("outgoing"))
    lesson.hub.join(viewer("raw:f"))
    eventually(lambda: share(lesson.desk.latest, PAGE_Y) > 0.9 and lesson.feeds.get("f").latest is not None)  # type: ignore[union-attr]
    lesson.stage.put_on(face_plate.model_copy(update={"fade_s": 0.6}))
    seen: list[float] = []
    begun = time.monotonic()

    def through() -> bool:
        frame = lesson.desk.latest
        seen.append(float(frame.y[360, 640]) if frame is not None else 0)
        return seen[-1] <= FACE_Y + 1

    eventually(through)
    assert 0.4 < time.monotonic() - begun < 3
    assert any(FACE_Y + 20 < value < PAGE_Y - 20 for value in seen), "it was seen on the way"
    lesson.stage.put_on(page_plate)
    eventually(lambda: share(lesson.desk.latest, PAGE_Y) > 0.9)


def test_a_way_ends_at_its_end_however_few_pictures_were_made_on_it(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    """A slow machine makes its last picture on the way well before the end: the next one must not stay there."""
    roles: dict[Role, str] = {"page": "p", "face": "f"}
    shown_by, size = scene.Scene(lesson.feeds), Size(1280, 720)
    before, after = Setup(FIRST_PLATES[1], roles=roles), Setup(FIRST_PLATES[2].model_copy(update={"fade_s": 0.6}), roles=roles)
    shown_by.at(before, size, 10.0)
    shown_by.at(after, size, 10.1)
    on_the_way = shown_by.at(after, size, 10.4)
    assert any(0 < shown.opacity < 1 for shown in on_the_way)
    at_rest = shown_by.at(after, size, 11.0)
    assert [shown.opacity for shown in at_rest] == [1.0]
    assert shown_by.at(after, size, 11.1) is at_rest, "and nothing is worked out again"


def test_caption_and_frame_come_off_and_go_on_again(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    frame = {"content": {"kind": "frame", "colour": "#000000"}, "rect": {"x": 0, "y": 0, "width": 1, "height": 1}, "adorns": True}
    name = {
        "content": {"kind": "caption", "name": "Reading the ground", "line": "9B"},
        "rect": {"x": 0.05, "y": 0.8, "width": 0.5, "height": 0.15},
        "adorns": True,
    }
    plate = FIRST_PLATES[1]
    lesson.stage.put_on(plate.model_copy(update={"places": (*plate.places, Place.model_validate(name), Place.model_validate(frame))}))
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: lesson.desk.latest is not None and lesson.desk.latest.y[1, 640] < 5)
    assert share(lesson.desk.latest, 252) > 0.01, "the caption's ground"
    lesson.stage.adorn(False)
    eventually(lambda: share(lesson.desk.latest, PAGE_Y) > 0.99)
    lesson.stage.adorn(True)
    eventually(lambda: lesson.desk.latest is not None and lesson.desk.latest.y[1, 640] < 5)


def test_the_layout_follows_the_page_when_it_is_turned(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    lesson.stage.put_on(BOTH[0])
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: share(lesson.desk.latest, PAGE_Y) > 0.4)
    chain = Chain()
    lesson.stage.correct("p", chain.model_copy(update={"turn": chain.turn.model_copy(update={"quarters": 1})}))
    eventually(lambda: share(lesson.desk.latest, FACE_Y) > 0.3)


class Written(Plain):
    """A page that fills up with writing from the top, all across."""

    def __init__(self) -> None:
        super().__init__(PAGE_Y)
        self.lines = 0

    def picture(self, now_s: float) -> Frame | None:
        frame = super().picture(now_s)
        if frame is not None:
            for line in range(self.lines):
                frame.y[6 + 10 * line : 11 + 10 * line, 6:314:4] = 60
        return frame


def test_a_floating_face_leaves_the_writing_and_the_page_makes_room_when_it_is_full(
    lesson: RunningLesson, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(placement, "QUIET_S", 0.5)
    monkeypatch.setattr(scene, "FLOAT_S", 0.2)
    page = Written()
    lesson.open_source("p", page)
    lesson.open_source("f", Plain(FACE_Y))
    place = BOTH[0].places[1].model_copy(update={"off_writing": True})
    plate = BOTH[0].model_copy(update={"places": (BOTH[0].places[0], place)})
    show(lesson, plate, {"page": "p", "face": "f"}, {"p": Chain()}, {"p": 0})
    lesson.hub.join(viewer("outgoing"))

    def face_at() -> tuple[float, float]:
        frame = lesson.desk.latest
        ys, xs = np.nonzero(np.abs(frame.y.astype(int) - FACE_Y) < 8) if frame is not None else (np.zeros(1), np.zeros(1))
        return float(np.median(xs)) / 1280, float(np.median(ys)) / 720

    eventually(lambda: share(lesson.desk.latest, PAGE_Y) > 0.85 and share(lesson.desk.latest, FACE_Y) > 0.02)
    assert face_at()[1] < 0.4, "it begins in the upper corner"
    page.lines = 7
    eventually(lambda: face_at()[1] > 0.5)
    eventually(lambda: lesson.desk.placer.covered == [])
    page.lines = 17
    eventually(
        lambda: lesson.desk.plate_at_rest(lesson.setup) is not None and lesson.desk.plate_at_rest(lesson.setup).places[0].rect.width < 0.9
    )
    eventually(lambda: lesson.desk.placer.covered == [])
    page.lines = 0
    eventually(lambda: share(lesson.desk.latest, PAGE_Y) > 0.85)


def test_what_a_pinned_face_covers_is_told(lesson: RunningLesson, page_and_face: tuple[Plain, Plain]) -> None:
    page = Written()
    page.lines = 17
    lesson.open_source("p", page)
    corner = {"content": {"kind": "role", "role": "face"}, "rect": {"x": 0.7, "y": 0.1, "width": 0.25, "height": 0.4}, "fit": "fill"}
    lesson.stage.put_on(FIRST_PLATES[1].model_copy(update={"places": (*FIRST_PLATES[1].places, Place.model_validate(corner))}))
    lesson.hub.join(viewer("outgoing"))
    told = eventually(lambda: lesson.desk.placer.covered)
    assert told[0].place == 1
    assert 0.05 < told[0].share < 0.2, "about its tenth of the page"


class Scenery(Plain):
    """What it sees changes while it rests; asleep, it takes long to give its first picture."""

    def __init__(self, y: int) -> None:
        super().__init__(y)
        self.wakes_at_s = 0.0

    def picture(self, now_s: float) -> Frame | None:
        return super().picture(now_s) if now_s >= self.wakes_at_s else None


@pytest.fixture
def rested(lesson: RunningLesson, monkeypatch: pytest.MonkeyPatch) -> tuple[Scenery, list[Frame]]:
    """A face that was seen, then rested while the page alone went out; every picture that goes out from then on."""
    monkeypatch.setattr(feeds, "STALE_S", 0.3)
    face = Scenery(60)
    lesson.open_source("p", Plain(200))
    lesson.open_source("f", face)
    show(lesson, FACE_ALONE, {"page": "p", "face": "f"}, {"p": Chain()}, {"p": 0})
    lesson.hub.join(viewer("outgoing"))
    eventually(lambda: share(lesson.desk.latest, 60) > 0.5)
    lesson.stage.put_on(PAGE_ALONE)
    eventually(lambda: share(lesson.desk.latest, 200) > 0.3)
    time.sleep(0.4)
    out: list[Frame] = []

    class Taker:
        def ready(self, now_s: float) -> bool:
            return True

        def take(self, frame: Frame, now_s: float) -> None:
            out.append(frame.copy())

    lesson.desk.sinks = (*lesson.desk.sinks, Taker())
    face.y = 120
    return face, out


def test_a_face_that_rested_is_never_seen_as_it_was(lesson: RunningLesson, rested: tuple[Scenery, list[Frame]]) -> None:
    face, out = rested
    face.wakes_at_s = time.monotonic() + 0.25
    lesson.stage.put_on(FACE_ALONE)
    eventually(lambda: share(lesson.desk.latest, 120) > 0.5)
    assert max(share(frame, 60) for frame in out) < 0.05, "as it was before it rested"
    assert all(share(frame, 200) > 0.3 or share(frame, 120) > 0.3 for frame in out), (
        "the page stays until the face has come: no card between"
    )


def test_a_feed_that_does_not_wake_holds_no_plate_back(lesson: RunningLesson, rested: tuple[Scenery, list[Frame]]) -> None:
    face, out = rested
    face.wakes_at_s = time.monotonic() + 1.5
    lesson.stage.put_on(FACE_ALONE)
    eventually(lambda: share(lesson.desk.latest, 200) < 0.05, 1.4)
    eventually(lambda: share(lesson.desk.latest, 120) > 0.5)
    assert max(share(frame, 60) for frame in out) < 0.05
