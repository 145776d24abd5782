"""The count of reflections against the bench, which knows, and against determinants, which cannot lie."""

from itertools import product

import numpy as np
import pytest

from cartouche.bench.devices import CLIP_MIRROR, DEVICES, DOCUMENT_CAMERA
from cartouche.core.pictures import Size
from cartouche.core.reading.handedness import light_path, page_true_under
from cartouche.core.straighten.chain import Chain, MirrorLink, TurnLink, straighten
from cartouche.core.straighten.rigs import first_guess, rig_named


@pytest.mark.parametrize(
    ("left_right", "top_bottom", "quarters", "mirrors"), list(product([False, True], [False, True], [0, 1, 2], [0, 1]))
)
def test_even_reads_true_whatever_turns_lie_between(left_right: bool, top_bottom: bool, quarters: int, mirrors: int) -> None:
    chain = Chain(mirror=MirrorLink(left_right=left_right, top_bottom=top_bottom), turn=TurnLink(quarters=quarters, fine_deg=7))
    sign = np.sign(np.linalg.det(straighten(chain, Size(640, 360)).matrix)) * (-1) ** mirrors
    assert light_path(mirrors, 0, chain, 0).reads_true == (sign > 0)


@pytest.mark.parametrize(
    ("name", "camera", "rig"), [("document-camera", DOCUMENT_CAMERA, "arm-far-side"), ("clip-mirror", CLIP_MIRROR, "clip-mirror")]
)
def test_the_rigs_of_the_demo_agree_with_the_bench(name: str, camera, rig: str) -> None:  # type: ignore[no-untyped-def]
    corners = DEVICES[name]().corners()
    assert corners is not None
    (ax, ay), (bx, by) = corners[2] - corners[0], corners[3] - corners[1]
    reversed_in_the_picture = ax * by - ay * bx < 0
    assert reversed_in_the_picture == bool(camera.mirrors % 2) == bool(rig_named(rig).mirrors % 2)
    assert light_path(camera.mirrors, 0, first_guess(rig_named(rig), Chain()), 0).reads_true


def test_a_self_view_reads_reversed_and_the_words_say_where() -> None:
    path = light_path(1, 0, Chain(mirror=MirrorLink(left_right=True)), 1)
    assert (path.count, path.reads_true) == (3, False)
    assert [stage.words for stage in path.stages if stage.count] == [
        "one mirror in the rig",
        "flipped here left-right",
        "the call mirrors this view",
    ]


def test_reflections_are_counted_from_nought() -> None:
    with pytest.raises(ValueError, match="nought"):
        light_path(-1, 0, Chain(), 0)


@pytest.mark.parametrize("call", [0, 1])
@pytest.mark.parametrize("mirrors", [0, 1])
def test_the_print_outweighs_the_count(mirrors: int, call: int) -> None:
    path = light_path(mirrors, 0, Chain(), call, page_true=True)
    assert path.reads_true == (call == 0)
    assert path.counted_true == ((mirrors + call) % 2 == 0)


def test_what_was_read_holds_through_a_flip_until_it_is_read_again() -> None:
    flipped = Chain(mirror=MirrorLink(left_right=True))
    assert page_true_under(flipped, Chain(), False) is True
    assert page_true_under(flipped, flipped, False) is False
    assert page_true_under(Chain(turn=TurnLink(quarters=2)), Chain(), True) is True
    assert page_true_under(Chain(), Chain(), None) is None
    assert page_true_under(Chain(), None, None) is None
