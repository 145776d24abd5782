import cv2
import numpy as np
import pytest

from cartouche.bench.devices import DEVICES, settled
from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame, frame_from_bgr, index_matrix
from cartouche.core.plates.compose import COMPOSED_RING, Composer, Layer
from cartouche.core.plates.model import Place
from cartouche.core.plates.placing import placing
from cartouche.core.straighten.chain import Chain, FrameLink, MirrorLink, SquareLink, TurnLink

OUT, GROUND = Size(640, 360), YuvColour(200, 120, 130)


def place(x: float, y: float, width: float, height: float, fit: str = "fill", rounding: float = 0) -> Place:
    rect = {"x": x, "y": y, "width": width, "height": height}
    return Place.model_validate({"content": {"kind": "role", "role": "page"}, "rect": rect, "fit": fit, "rounding": rounding})


WHOLE = place(0, 0, 1, 1)


def colours(y: int, u: int = 128, v: int = 128, size: Size = OUT) -> Frame:
    return blank_frame(size, YuvColour(y, u, v))


@pytest.fixture
def composer() -> Composer:
    return Composer(OUT, GROUND)


def test_nothing_on_the_plate_is_the_ground(composer: Composer) -> None:
    frame = composer.compose([], 3.0)
    assert [set(np.unique(plane)) for plane in frame.planes] == [{200}, {120}, {130}]
    assert frame.captured_s == 3.0


def test_places_are_drawn_back_to_front(composer: Composer) -> None:
    frame = composer.compose([Layer(WHOLE, Chain(), colours(50)), Layer(place(0.5, 0.5, 0.5, 0.5), Chain(), colours(90, 30, 220))], 0.0)
    assert frame.y[10, 10] == 50
    assert (frame.y[300, 500], frame.u[150, 250], frame.v[150, 250]) == (90, 30, 220)


def test_a_straightened_place_equals_one_plain_warp(composer: Composer) -> None:
    page = settled(DEVICES["document-camera"]())
    square = SquareLink(corners=((0.2, 0.1), (0.7, 0.15), (0.75, 0.9), (0.1, 0.85)), aspect=0.8)
    chain = Chain(square=square, turn=TurnLink(quarters=1), mirror=MirrorLink(left_right=True), frame=FrameLink(zoom=3))
    made = composer.compose([Layer(WHOLE, chain, page)], 0.0)
    laid = placing(WHOLE, chain, page.size, OUT)
    wanted = cv2.warpPerspective(page.y, index_matrix(laid.matrix), (640, 360))
    assert np.abs(made.y.astype(int) - wanted).max() <= 1


def test_every_flip_and_turn_lands_where_it_should(composer: Composer) -> None:
    corner = np.full((360, 640, 3), 30, np.uint8)
    corner[:180, :320] = 220  # upper left is bright
    frame = frame_from_bgr(corner)
    for chain, bright in (
        (Chain(), (90, 160)),
        (Chain(mirror=MirrorLink(left_right=True)), (90, 480)),
        (Chain(mirror=MirrorLink(top_bottom=True)), (270, 160)),
        (Chain(turn=TurnLink(quarters=2)), (270, 480)),
        (Chain(turn=TurnLink(quarters=1)), (90, 480)),
    ):
        seen = composer.compose([Layer(WHOLE, chain, frame)], 0.0)
        assert seen.y[bright] > 200
        assert seen.y[360 - bright[0], 640 - bright[1]] < 60


def test_rounded_corners_let_the_ground_through(composer: Composer) -> None:
    frame = composer.compose([Layer(place(0.25, 0.25, 0.5, 0.5, rounding=0.1), Chain(), colours(20))], 0.0)
    assert frame.y[90, 160] == 200
    assert frame.y[180, 320] == 20
    assert frame.y[90, 320] == 20


def test_small_print_survives_shrinking() -> None:
    """Fine lines shrunk eight times keep their mean; sampling every eighth pixel would keep or lose them whole."""
    lines = np.full((720, 1280), 240, np.uint8)
    lines[:, ::8] = 0
    chroma = np.full((360, 640), 128, np.uint8)
    seen = Composer(Size(160, 90), GROUND).compose([Layer(WHOLE, Chain(), Frame(lines, chroma, chroma, 0.0))], 0.0)
    assert np.abs(seen.y.astype(int) - 210).max() <= 4


def test_a_picture_stays_untouched_for_the_rest_of_the_ring(composer: Composer) -> None:
    first = composer.compose([Layer(WHOLE, Chain(), colours(11))], 0.0)
    for _ in range(COMPOSED_RING - 1):
        composer.compose([Layer(WHOLE, Chain(), colours(99))], 0.0)
    assert first.y.max() == 11


def test_a_change_of_plate_leaves_nothing_of_the_old_one(composer: Composer) -> None:
    for _ in range(COMPOSED_RING + 1):
        composer.compose([Layer(WHOLE, Chain(), colours(11))], 0.0)
    for _ in range(COMPOSED_RING + 1):
        frame = composer.compose([Layer(place(0, 0, 0.5, 0.5), Chain(), colours(99))], 0.0)
        assert set(np.unique(frame.y)) == {99, 200}


def test_a_new_feed_size_is_taken_up(composer: Composer) -> None:
    layer = Layer(WHOLE, Chain(), colours(40))
    composer.compose([layer], 0.0)
    frame = composer.compose([Layer(layer.place, layer.chain, colours(70, size=Size(320, 180)))], 0.0)
    assert set(np.unique(frame.y)) == {70}


def test_feeds_are_never_written_to(composer: Composer) -> None:
    page = settled(DEVICES["face-webcam"]())
    before = [plane.copy() for plane in page.planes]
    composer.compose([Layer(place(0, 0, 0.2, 0.2, rounding=0.1), Chain(), page)], 0.0)
    assert all(np.array_equal(a, b) for a, b in zip(before, page.planes, strict=True))


def looks(**more: object) -> Place:
    base = {"content": {"kind": "role", "role": "face"}, "rect": {"x": 0.25, "y": 0.25, "width": 0.5, "height": 0.5}, "fit": "fill"}
    return Place.model_validate({**base, **more})


def test_a_still_picture_stays_the_same_however_often_it_is_drawn(composer: Composer) -> None:
    """What is blended over the ground must not build up: after a minute a rounded corner would be square."""
    for more in ({"rounding": 0.1}, {"round": True}, {"rounding": 0.1, "shadow": True}, {"border": {"width": 0.02}, "rounding": 0.1}):
        layer = Layer(looks(**more), Chain(), colours(20))
        first = composer.compose([layer], 0.0).y.copy()
        for _ in range(3 * COMPOSED_RING):
            last = composer.compose([layer], 0.0)
        assert np.array_equal(first, last.y), more


def test_a_round_place_covers_an_ellipse(composer: Composer) -> None:
    frame = composer.compose([Layer(looks(round=True), Chain(), colours(20))], 0.0)
    covered = (frame.y < 110).mean() / 0.25
    assert covered == pytest.approx(np.pi / 4, abs=0.01)
    assert ((frame.y > 25) & (frame.y < 195)).any(), "its edge is smooth"


def test_half_opacity_is_half_of_both(composer: Composer) -> None:
    frame = composer.compose([Layer(looks(), Chain(), colours(20), opacity=0.5)], 0.0)
    assert abs(int(frame.y[180, 320]) - 110) <= 1
    assert frame.y[10, 10] == 200


def test_a_border_lies_inside_and_a_frame_leaves_its_middle_alone(composer: Composer) -> None:
    frame = composer.compose([Layer(looks(border={"width": 0.02, "colour": "#FFFFFF"}), Chain(), colours(20))], 0.0)
    assert (frame.y[92, 320], frame.y[180, 162], frame.y[180, 320], frame.y[86, 320]) == (255, 255, 20, 200)
    ring = Place.model_validate({"content": {"kind": "frame", "colour": "#000000"}, "rect": {"x": 0, "y": 0, "width": 1, "height": 1}})
    frame = composer.compose([Layer(WHOLE, Chain(), colours(90)), Layer(ring)], 0.0)
    assert (frame.y[1, 320], frame.y[180, 320]) == (0, 90)


def test_a_shadow_darkens_beside_the_place_only(composer: Composer) -> None:
    frame = composer.compose([Layer(looks(shadow=True), Chain(), colours(20))], 0.0)
    assert frame.y[272, 320] < 195
    assert frame.y[180, 320] == 20
    assert frame.y[20, 20] == 200


def test_a_plain_colour_needs_no_feed(composer: Composer) -> None:
    plain = looks(content={"kind": "colour", "colour": "#FFFFFF"}, rounding=0.1)
    frame = composer.compose([Layer(plain)], 0.0)
    assert (frame.y[180, 320], frame.y[90, 160]) == (255, 200)


def test_fill_keeps_the_part_in_focus(composer: Composer) -> None:
    halves = np.full((360, 640, 3), 30, np.uint8)
    halves[:, 320:] = 220
    for x, bright in ((0.0, False), (1.0, True)):
        tall = looks(rect={"x": 0.4, "y": 0, "width": 0.2, "height": 1}, focus={"x": x, "y": 0.5})
        frame = composer.compose([Layer(tall, Chain(), frame_from_bgr(halves))], 0.0)
        assert (frame.y[180, 320] > 200) == bright


def test_a_layer_that_cannot_be_drawn_keeps_its_last_picture_and_is_told() -> None:
    composer, failures, corner = Composer(OUT, GROUND), [], place(0.5, 0.5, 0.5, 0.5)
    good = [Layer(WHOLE, Chain(), colours(200)), Layer(corner, Chain(), colours(60))]
    composer.compose(good, 0.0)
    flat = SquareLink.model_construct(on=True, corners=((0, 0), (1, 0), (1, 0), (0, 0)), aspect=1.0, paper=None, lying=False, follow=False)
    broken = [good[0], Layer(corner, Chain.model_construct(**{**dict(Chain()), "square": flat}), colours(120))]
    for _ in range(3):
        frame = composer.compose(broken, 0.0, lambda number, exc: failures.append((number, type(exc).__name__)))
        assert abs(int(frame.y[20, 20]) - 200) < 3
        assert abs(int(frame.y[-20, -20]) - 60) < 3, "the last good picture of the place"
    assert failures == [(1, "DegenerateCorners")] * 3
    with pytest.raises(DegenerateCorners):
        composer.compose(broken, 0.0)
    assert abs(int(composer.compose(good, 0.0).y[-20, -20]) - 60) < 3
