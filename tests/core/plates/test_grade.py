"""A face made the best of: what each hand does to the tones, evened light on the bench's presenter, white balance."""

import cv2
import numpy as np
import pytest

from benchmarks.face import lit_from_a_side, scene, skin_slope, tinted
from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.core.plates.behind import BehindPainter, PersonMask, as_seen
from cartouche.core.plates.grade import DARKEST, Light, chroma_table, light_of, luma_table, tables
from cartouche.core.plates.model import LOOKS, Behind, Grade
from cartouche.models import person_net

SIZE = Size(1280, 720)


@pytest.fixture(scope="module")
def face() -> Frame:
    return Presenter(SIZE).picture(1.0, 0.0)


@pytest.fixture(scope="module")
def mask(face: Frame) -> np.ndarray:
    return PersonMask(person_net()).see(face)


def test_by_hand_black_and_white_stay_and_the_middle_moves() -> None:
    brighter, harder = luma_table(0.5, 0.0), luma_table(0.0, 0.5)
    assert (brighter[0], brighter[255]) == (0, 255)
    assert brighter[128] > 140
    assert (np.diff(brighter.astype(int)) >= 0).all()
    assert abs(int(harder[128]) - 128) <= 1
    assert harder[64] < 64 < 192 < harder[192]


def test_colour_by_hand() -> None:
    assert set(chroma_table(-1.0, 0.0)) == {128}
    assert chroma_table(0.5, 0.0)[148] == 158
    made = tables(Grade(warmth=1.0), (0.0, 0.0))
    assert made is not None
    assert made[1][128] < 128 < made[2][128]  # less blue, more red


def test_as_it_comes_nothing_is_done() -> None:
    assert Grade().does_nothing
    assert tables(Grade(even=0.7), (5.0, 5.0)) is None
    assert all(not look.does_nothing for look in LOOKS.values())


@pytest.mark.parametrize("seed", [0, 3, 4])
def test_a_lamp_from_one_side_is_evened_and_the_room_left_alone(seed: int) -> None:
    frame, drawn = scene(seed)
    side = lit_from_a_side(frame, 1.5)
    light = light_of(side, drawn.mask, as_seen)
    made = BehindPainter().draw(side, drawn.mask, Behind(), Grade(even=1.0), light)
    assert abs(skin_slope(made, drawn.mask)) < 0.4 * abs(skin_slope(side, drawn.mask))
    assert np.abs(made.y[:, 1200:].astype(int) - side.y[:, 1200:]).mean() < 2


def test_a_face_against_a_window_is_lifted_and_a_well_lit_one_hardly(face: Frame, mask: np.ndarray) -> None:
    dark = Frame(cv2.convertScaleAbs(face.y, alpha=0.45), face.u, face.v, 0.0)  # type: ignore[arg-type]
    lifted, well = light_of(dark, mask, as_seen).gain, light_of(face, mask, as_seen).gain
    assert lifted is not None
    assert well is not None
    assert np.median(lifted[mask > 0.9]) > 1.35
    assert abs(np.median(well[mask > 0.9]) - 1) < 0.15
    assert well.min() >= DARKEST


def test_nobody_there_no_light_is_invented() -> None:
    empty = blank_frame(SIZE, YuvColour(120, 128, 128))
    assert light_of(empty, np.zeros((144, 256), np.float32), as_seen) == Light(None, (0.0, 0.0))


def test_a_tinted_light_is_balanced(face: Frame, mask: np.ndarray) -> None:
    warm = tinted(face, -5.0, 5.0)
    before, light = light_of(face, mask, as_seen), light_of(warm, mask, as_seen)
    assert 2.0 < light.balance[0] - before.balance[0] < 6.0
    assert -6.0 < light.balance[1] - before.balance[1] < -2.0
    made = BehindPainter().draw(warm, mask, Behind(), Grade(balanced=True), light)
    wall = (slice(20, 60), slice(220, 400))
    assert abs(float(made.u[wall].mean()) - 128) + abs(float(made.v[wall].mean()) - 128) < 12
