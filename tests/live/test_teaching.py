"""Hold, ink and timer in the running lesson: what learners see of them, while everything else goes on."""

import time
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest

from benchmarks.follower import Case, _clockwise
from benchmarks.hold import change
from cartouche.core.ink.strokes import Stroke
from cartouche.core.pictures import Frame, Size, YuvColour
from cartouche.core.plates.compose import Composer
from cartouche.core.plates.model import Place, Plate, TimerContent
from cartouche.core.straighten.chain import Chain, FrameLink, SquareLink
from cartouche.core.teach.timer import Timer
from cartouche.live.clock import steady_s
from cartouche.live.holder import Holder
from cartouche.live.running import RunningLesson
from cartouche.live.setup import Held, Setup
from cartouche.live.stage import Stage
from cartouche.live.timer_picture import TimerPicture
from tests.helpers import eventually
from tests.live.conftest import Plain, mean
from tests.live.teaching import PAPER_Y, Seen, running_page


@pytest.fixture
def page() -> Plain:
    return Plain(PAPER_Y)


@pytest.fixture
def lesson(page: Plain) -> Iterator[tuple[RunningLesson, Seen]]:
    with running_page(page) as running:
        yield running


def held_now(running: RunningLesson) -> Held:
    feed = running.feeds.get("p")
    assert feed is not None
    assert feed.latest is not None
    return Held(feed.latest.copy(), Chain(), steady_s(), "hand")


def test_held_learners_see_the_page_as_it_was_and_then_as_it_is(lesson: tuple[RunningLesson, Seen], page: Plain) -> None:
    running, _ = lesson
    running.stage.hold("p", held_now(running))
    page.y = 90
    before = running.desk.latest
    eventually(lambda: running.desk.latest is not before)
    time.sleep(0.3)
    assert abs(mean(running.desk.latest) - PAPER_Y) < 3
    assert running.feeds.get("p").latest.y[90, 160] == 90  # type: ignore[union-attr]  # the teacher's own view goes on
    running.stage.release("p")
    eventually(lambda: abs(mean(running.desk.latest) - 90) < 3)


def test_what_is_released_fades(lesson: tuple[RunningLesson, Seen], page: Plain) -> None:
    running, _ = lesson
    running.stage.hold("p", held_now(running))
    page.y = 60
    time.sleep(0.2)
    running.stage.release("p")
    seen = set()
    eventually(lambda: seen.add(round(mean(running.desk.latest))) or abs(mean(running.desk.latest) - 60) < 2)  # type: ignore[func-returns-value]
    assert any(70 < value < PAPER_Y - 10 for value in seen)


def test_ink_is_in_the_picture_at_once_and_can_be_taken_back(lesson: tuple[RunningLesson, Seen]) -> None:
    running, seen = lesson
    running.ink.begin("hand", "pen", "#1D2433", 3.0, (0.4, 0.5, 1.0), 0.0)
    running.ink.move("hand", [(0.42, 0.5, 1.0, 0.1), (0.5, 0.5, 1.0, 0.3), (0.6, 0.5, 1.0, 0.6)])
    seen((0.45, 0.5), 0.0)
    ground = running.ink.end("hand")
    assert ground == "p:1"
    assert len(running.ink.ink(ground).strokes) == 1
    running.ink.hide(True)
    eventually(lambda: abs(int(running.desk.latest.y[360, 576]) - PAPER_Y) < 6)  # type: ignore[union-attr]
    running.ink.hide(False)
    seen((0.45, 0.5), 0.0)
    running.ink.change(ground, lambda ink: ink.undone())
    eventually(lambda: abs(int(running.desk.latest.y[360, 576]) - PAPER_Y) < 6)  # type: ignore[union-attr]


def test_an_eraser_takes_a_stroke_and_undo_brings_it_back(lesson: tuple[RunningLesson, Seen]) -> None:
    running, _ = lesson
    ground = running.ink.ground
    assert ground is not None
    at = [ground.at(x, 0.5) for x in (0.3, 0.7)]
    stroke = Stroke(id="s", width=0.01, points=tuple((x, y, 1.0) for x, y in at))
    running.ink.change(ground.id, lambda ink: ink.with_stroke(stroke))
    running.ink.begin("hand", "eraser", "#000000", 1.0, (0.5, 0.4, 1.0), 0.0)
    assert running.ink.ink(ground.id).strokes == (stroke,)
    running.ink.move("hand", [(0.5, 0.5, 1.0, 0.4)])
    assert running.ink.ink(ground.id).strokes == ()
    assert running.ink.end("hand") == ground.id
    assert running.ink.change(ground.id, lambda ink: ink.undone()).strokes == (stroke,)


def test_a_pointer_leaves_nothing(lesson: tuple[RunningLesson, Seen]) -> None:
    running, seen = lesson
    running.ink.begin("hand", "pointer", "#A93226", 1.0, (0.5, 0.5, 1.0), 0.0)
    seen((0.5, 0.5), 0.0)
    assert running.ink.end("hand") is None
    assert running.ink.ink("p:1").strokes == ()
    eventually(lambda: abs(int(running.desk.latest.y[360, 640]) - PAPER_Y) < 6)  # type: ignore[union-attr]


def test_another_page_has_ink_of_its_own(lesson: tuple[RunningLesson, Seen]) -> None:
    running, seen = lesson
    running.ink.begin("hand", "pen", "#1D2433", 6.0, (0.5, 0.5, 1.0), 0.0)
    seen((0.5, 0.5), 0.0)
    running.ink.end("hand")
    running.ink.pages = {"p": "p:2"}
    eventually(lambda: abs(int(running.desk.latest.y[360, 640]) - PAPER_Y) < 6)  # type: ignore[union-attr]
    running.ink.pages = {"p": "p:1"}
    seen((0.5, 0.5), 0.0)


@pytest.mark.parametrize("size", [Size(1280, 720), Size(1920, 1080), Size(960, 540)])
@pytest.mark.parametrize("corner", range(4))
def test_the_timer_fits_its_corner_at_every_size(size: Size, corner: int) -> None:
    """Faces lie in all other corners."""
    rects = [{"x": x, "y": y, "width": 0.3, "height": 0.3} for y in (0.0, 0.7) for x in (0.7, 0.0)]
    faces = [{"content": {"kind": "role", "role": "face"}, "rect": rect} for number, rect in enumerate(rects) if number != corner]
    plate = Plate.model_validate({"id": "p", "name": "P", "places": faces})
    layers = TimerPicture().layers(Setup(plate=plate, timer=Timer().pressed(0.0)), plate, None, size, 1.0)
    picture = Composer(size, YuvColour(100, 128, 128)).compose(layers, 0.0)
    x, y = ((0.5, 0.0), (0.0, 0.0), (0.5, 0.5), (0.0, 0.5))[corner]
    high, wide = picture.y.shape
    quarter = picture.y[int(y * high) : int((y + 0.5) * high), int(x * wide) : int((x + 0.5) * wide)]
    assert int(quarter.max()) > 200
    assert int((picture.y != 100).sum()) == int((quarter != 100).sum())


def test_the_timer_is_seen_in_a_corner_and_large_on_a_plate_of_its_own(lesson: tuple[RunningLesson, Seen]) -> None:
    running, _ = lesson
    bare = running.desk.latest.y.copy()  # type: ignore[union-attr]
    running.stage.set_timer(Timer(total_s=65).pressed(steady_s()))
    eventually(lambda: np.abs(running.desk.latest.y[:110, -220:].astype(int) - bare[:110, -220:]).max() > 100)  # type: ignore[union-attr]
    assert np.abs(running.desk.latest.y[200:].astype(int) - bare[200:]).max() < 12  # type: ignore[union-attr]
    large = Plate(
        id="t",
        name="Timer",
        places=(Place.model_validate({"content": {"kind": "timer"}, "rect": {"x": 0.1, "y": 0.1, "width": 0.8, "height": 0.8}}),),
    )
    assert isinstance(large.places[0].content, TimerContent)
    running.stage.put_on(large)
    eventually(lambda: float(running.desk.latest.y[200:520, 200:1080].std()) > 40)  # type: ignore[union-attr]


def test_by_itself_no_half_page_is_shown_and_the_new_one_is() -> None:
    """The holder alone, picture by picture: what may be shown, and what the stage then holds."""
    case = Case(0)
    corners = _clockwise(case.still()[1])
    stage = Stage(lambda device_id: case.camera.size)
    holder = Holder(stage)
    chain = Chain(square=SquareLink(on=True, corners=(corners / np.array(case.camera.size)).tolist(), paper="A4", aspect=210 / 297))
    stage.change(lambda setup: replace(setup, roles={"page": "p"}, chains={"p": chain}, auto_hold=True))
    shown: list[tuple[bool, Frame | None]] = []
    for number, moment in enumerate(change(case, 0)):
        holder.see("p", moment.frame, None, number / 15)
        held = stage.setup.holds.get("p")
        shown.append((moment.still, held.frame if held is not None else holder.calm(stage.setup, "p")))
        if number == 18:
            assert held is not None
            assert held.by == "page"
            stage.release("p")  # the teacher lets it go although no page is there
            holder.forget("p")
            assert holder.calm(stage.setup, "p") is None
            break
    first = shown[0][1]
    assert first is not None
    away = [frame for still, frame in shown if not still and frame is not None]
    assert away
    for frame in away:
        assert np.abs(frame.y.astype(int) - first.y).mean() < 8  # the page as it lay, less its noise


def test_switched_off_what_was_held_by_itself_is_let_go() -> None:
    case = Case(0)
    corners = _clockwise(case.still()[1])
    stage = Stage(lambda device_id: case.camera.size)
    holder = Holder(stage)
    chain = Chain(square=SquareLink(on=True, corners=(corners / np.array(case.camera.size)).tolist(), paper="A4", aspect=210 / 297))
    stage.change(lambda setup: replace(setup, roles={"page": "p"}, chains={"p": chain}, auto_hold=True))
    moments = list(change(case, 0))
    for number, moment in enumerate(moments[:14]):
        holder.see("p", moment.frame, None, number / 15)
    assert "p" in stage.setup.holds
    stage.hold_by_itself(False)
    holder.see("p", moments[14].frame, None, 1.0)
    assert "p" not in stage.setup.holds


class Written(Plain):
    """A bare page; an arm from the lower right writes at `tip`, in shares of the picture."""

    def __init__(self) -> None:
        super().__init__(PAPER_Y)
        self.tip: tuple[float, float] | None = None

    def picture(self, now_s: float) -> Frame | None:
        frame = super().picture(now_s)
        assert frame is not None
        if self.tip is not None:
            x, y = self.tip[0] * 320, self.tip[1] * 180
            for share in np.linspace(0, 1, 50):
                across, down = round(x + share * (330 - x)), round(y + share * (190 - y))
                frame.y[max(0, down - 8) : down + 8, max(0, across - 8) : across + 8] = 110
        return frame


def test_the_close_look_goes_to_where_the_pen_is() -> None:
    source = Written()
    with running_page(source) as (lesson, _):
        lesson.stage.correct("p", Chain(frame=FrameLink(zoom=2.5, x=0.3, y=0.25)))
        lesson.stage.follow_pen(True)
        eventually(lambda: lesson.pen.looked)
        source.tip = (0.3, 0.75)
        moved = eventually(lambda: (frame := lesson.setup.chains["p"].frame).y > 0.6 and frame)
        assert moved.zoom == 2.5
        lesson.stage.follow_pen(False)
        source.tip = (0.3, 0.2)
        before = lesson.setup.chains["p"]
        time.sleep(1.5)  # it would have come by now
        assert lesson.setup.chains["p"] is before
