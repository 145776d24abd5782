"""A face seen, dark, burnt or against a window; told from the picture, for any skin and hair."""

import numpy as np
import pytest

from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Frame, Size
from cartouche.core.plates.behind import PersonMask
from cartouche.core.watch.facing import FaceLook, face_look
from cartouche.models import person_net


def drawn(person: int, behind: int, skin_lit: int | None = None) -> FaceLook:
    """A head and shoulders in a wide picture. skin_lit: of its lit spots."""
    luma, mask = np.full((144, 256), behind, np.uint8), np.zeros((144, 256), np.float32)
    mask[30:144, 90:170] = 1
    luma[mask > 0] = person
    if skin_lit is not None:
        luma[40:90, 100:140] = skin_lit
    return face_look(luma, mask)


@pytest.mark.parametrize(
    ("look", "fault"),
    [
        (drawn(140, 150), ""),
        (drawn(60, 170, 110), ""),  # dark skin and hair in good light
        (drawn(50, 250, 60), "against the light"),
        (drawn(40, 45, 55), "too dark"),
        (drawn(250, 90), "too bright"),
        (face_look(np.full((144, 256), 90, np.uint8), np.zeros((144, 256), np.float32)), "nobody"),
    ],
)
def test_what_is_wrong_with_the_light(look: FaceLook, fault: str) -> None:
    assert look.fault == fault


def test_a_person_who_fills_the_picture_has_nothing_behind() -> None:
    look = face_look(np.full((72, 128), 120, np.uint8), np.ones((144, 256), np.float32))
    assert look.behind is None
    assert look.fault == ""


def test_the_presenter_of_the_bench_is_seen_and_well_lit() -> None:
    frame: Frame = Presenter(Size(1280, 720)).picture(1.0, 0.0)
    look = face_look(frame.y, PersonMask(person_net()).see(frame))
    assert look.seen
    assert look.fault == ""
    dark = Frame(frame.y // 5, frame.u, frame.v, 0.0)
    assert face_look(dark.y, PersonMask(person_net()).see(frame)).fault == "too dark"
