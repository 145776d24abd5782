"""Proposals: nothing below what is likely, nothing twice, the page first. Over hundreds of pairs: benchmarks/proposals.py."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cartouche.core.kit.propose import LEAST, SURE, Seen, Sight, propose, rig_of
from cartouche.core.reading.proof import Proof

PRINT = Proof(True, 0, 0.99, 12.0)
PAGE = Sight(0.98, 0.3, 0.0, PRINT)
FACE = Sight(0.0, 0.0, 0.22)
BOTH = Sight(0.97, 0.2, 0.25, PRINT)
WINDOW = Sight(0.97, 0.15, 0.0, Proof(None, 0, 0.5, 0.0))
FURNITURE = Sight(0.97, 0.15, 0.0, Proof(None, 3, 0.5, 4.0))  # its edges look like print that stands no way
HELD_UP = Sight(0.09, 0.2, 0.25, Proof(True, 0, 0.99, 17.0))  # before a face: edges unsure, print plain
ROOM = Sight(0.4, 0.1, 0.01)
DARK = Sight(0.0, 0.0, 0.0, dark=True)
HAND = Sight(0.98, 0.4, 0.12, PRINT)


def chosen(*sights: Sight) -> tuple[str | None, str | None]:
    told = propose([Seen(str(at), sight) for at, sight in enumerate(sights)])
    return (told.page.id if told.page else None, told.face.id if told.face else None)


@pytest.mark.parametrize(
    ("sights", "expected"),
    [
        ((PAGE, FACE), ("0", "1")),
        ((FACE, PAGE), ("1", "0")),
        ((PAGE, ROOM), ("0", None)),
        ((ROOM, FACE), (None, "1")),
        ((DARK, DARK), (None, None)),
        ((BOTH,), ("0", None)),  # the page is what the teacher came for
        ((BOTH, FACE), ("0", "1")),
        ((PAGE, BOTH), ("0", "1")),
        ((HAND, ROOM), ("0", None)),  # arms over a page are nobody's face
        ((FACE, HELD_UP), ("1", "0")),
        ((BOTH, WINDOW), ("0", None)),  # a window is no page beside a printed one, even where that would serve as the face
        ((), (None, None)),
    ],
)
def test_which_camera_shows_what(sights: tuple[Sight, ...], expected: tuple[str | None, str | None]) -> None:
    assert chosen(*sights) == expected


@pytest.mark.parametrize("rectangle", [WINDOW, FURNITURE])
def test_a_rectangle_without_print_is_never_said_for_sure(rectangle: Sight) -> None:
    told = propose([Seen("0", rectangle), Seen("1", FACE)])
    assert told.page is not None
    assert told.page.sure < SURE
    assert told.says.startswith("Perhaps")


def test_the_lens_counts() -> None:
    front, rear = Seen("front", BOTH, "front"), Seen("rear", BOTH, "rear")
    told = propose([front, rear])
    assert told.page is not None
    assert told.face is not None
    assert (told.page.id, told.face.id) == ("rear", "front")


@pytest.mark.parametrize(
    ("way", "rig"),
    [
        (None, "arm-own-side"),
        (Proof(None, 2, 0.6, 3.0), "arm-own-side"),
        (Proof(True, 0, 0.99, 9.0), "arm-own-side"),
        (Proof(True, 2, 0.99, 9.0), "arm-far-side"),
        (Proof(True, 3, 0.99, 9.0), "gooseneck"),
        (Proof(False, 2, 0.99, 9.0), "clip-mirror"),
    ],
)
def test_how_the_camera_seems_to_be_held(way: Proof | None, rig: str) -> None:
    assert rig_of(way) == rig


SHARES = st.floats(0, 1)
SIGHTS = st.builds(Sight, SHARES, SHARES, SHARES, st.sampled_from([None, PRINT]), st.booleans())


@given(st.lists(SIGHTS, max_size=5))
def test_no_camera_is_both_and_nothing_unlikely_is_proposed(sights: list[Sight]) -> None:
    told = propose([Seen(str(at), sight) for at, sight in enumerate(sights)])
    proposed = [one for one in (told.page, told.face) if one is not None]
    assert len({one.id for one in proposed}) == len(proposed)
    assert all(LEAST <= one.sure <= 1 for one in proposed)
    assert told.says.endswith(".")
