"""Behind the face, with the network that ships and the bench's drawn presenter."""

import cv2
import numpy as np
import pytest

from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.core.plates.behind import BehindPainter, PersonMask
from cartouche.core.plates.model import Behind, Grade
from cartouche.models import person_net

SIZE = Size(1280, 720)
FACE, SHOULDER, WINDOW, SHELF = (330, 640), (660, 640), (300, 80), (400, 1150)  # y, x


@pytest.fixture(scope="module")
def face() -> Frame:
    return Presenter(SIZE).picture(1.0, 0.0)


@pytest.fixture(scope="module")
def mask(face: Frame) -> np.ndarray:
    return PersonMask(person_net()).see(face)


def drawn(face: Frame, mask: np.ndarray, **wish: object) -> Frame:
    return BehindPainter().draw(face, mask, Behind.model_validate(wish))


def sharpness(plane: np.ndarray, at: tuple[int, int]) -> float:
    part = plane[at[0] - 60 : at[0] + 60, at[1] - 60 : at[1] + 60]
    return float(cv2.Laplacian(part, cv2.CV_64F).var())


def test_the_person_is_found_and_the_room_is_not(mask: np.ndarray) -> None:
    large = cv2.resize(mask, (1280, 720))
    assert large[FACE] > 0.95
    assert large[SHOULDER] > 0.95
    assert large[WINDOW] < 0.05
    assert large[SHELF] < 0.05
    assert 0.15 < mask.mean() < 0.35


def test_an_empty_room_has_no_person() -> None:
    assert PersonMask(person_net()).see(blank_frame(SIZE, YuvColour(180, 120, 130))).mean() < 0.05


def test_softened_the_room_is_blurred_and_the_face_is_not(face: Frame, mask: np.ndarray) -> None:
    made = drawn(face, mask, way="soften")
    assert sharpness(made.y, SHELF) < 0.1 * sharpness(face.y, SHELF)
    assert sharpness(made.y, FACE) > 0.9 * sharpness(face.y, FACE)
    assert abs(float(made.y[300:500, 1000:].mean()) - float(face.y[300:500, 1000:].mean())) < 4, "as bright as before"


def test_replaced_the_room_is_one_colour(face: Frame, mask: np.ndarray) -> None:
    made = drawn(face, mask, way="replace", colour="#FFFFFF")
    assert made.y[WINDOW] > 250
    assert made.y[SHELF] > 250
    assert abs(int(made.y[FACE]) - int(face.y[FACE])) < 4
    assert abs(int(made.u[WINDOW[0] // 2, WINDOW[1] // 2]) - 128) < 3


def test_light_falls_on_the_person_alone_and_burns_nothing(face: Frame, mask: np.ndarray) -> None:
    made = drawn(face, mask, light=1.0)
    assert int(made.y[FACE]) > int(face.y[FACE]) + 15
    assert abs(int(made.y[SHELF]) - int(face.y[SHELF])) <= 2
    assert (made.y >= 254).mean() <= (face.y >= 254).mean() + 0.001
    assert np.array_equal(made.u, face.u)


def test_the_feed_itself_is_never_written_to(face: Frame, mask: np.ndarray) -> None:
    before = face.y.copy()
    painter = BehindPainter()
    pictures = [painter.draw(face, mask, Behind(way="replace")) for _ in range(BehindPainter.RING)]
    assert np.array_equal(before, face.y)
    assert len({id(picture.y) for picture in pictures}) == BehindPainter.RING


def test_with_nobody_looked_for_colours_alone_are_changed(face: Frame) -> None:
    soft = Behind(way="soften", light=0.5)
    assert BehindPainter().draw(face, None, soft) is face
    grey = BehindPainter().draw(face, None, soft, Grade(saturation=-1.0, even=0.5))
    assert set(np.unique(grey.u)) | set(np.unique(grey.v)) == {128}
    assert np.array_equal(grey.y, face.y)
