"""Proof from the page itself: eight ways round, and "cannot tell". Over hundreds of pages: benchmarks/handedness.py."""

import cv2
import numpy as np
import pytest

from benchmarks.handedness import HANDS, PRINT, page
from cartouche.core.reading.agreement import agreement
from cartouche.core.reading.handedness import light_path
from cartouche.core.reading.proof import Proof, clear, judged, read_way
from cartouche.core.straighten.chain import Chain, MirrorLink
from cartouche.models import way_net


@pytest.mark.parametrize("quarters", range(4))
@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("font", [PRINT[0], HANDS[0]])
def test_every_way_round_is_told(quarters: int, mirrored: bool, font: str) -> None:
    luma = np.rot90(page(np.random.default_rng(quarters), font, "full"), -quarters)
    luma = np.ascontiguousarray(luma[:, ::-1] if mirrored else luma)
    told = read_way(luma, way_net())
    assert told.reads_true is (not mirrored)
    assert told.quarters == -quarters % 4
    assert told.confidence > 0.9


def test_what_was_only_made_larger_proves_nothing() -> None:
    """The same picture, said to stand for a tenth of its pixels: its letters were about a pixel high when the camera saw them."""
    luma = page(np.random.default_rng(1), PRINT[0], "full")
    told = read_way(luma, way_net(), camera_px=0.1)
    assert told.reads_true is None
    assert told.windows > 4


@pytest.mark.parametrize("kind", ["blank", "grid", "contours"])
def test_without_print_it_cannot_tell(kind: str) -> None:
    luma = np.full((1000, 700), 240, np.uint8)
    if kind == "grid":
        luma[::15] = 150
        luma[:, ::15] = 150
    if kind == "contours":
        xs, ys = np.meshgrid(np.arange(700), np.arange(1000))
        luma[(np.hypot(xs - 350, ys - 500).astype(int) // 3) % 8 == 0] = 60
    assert read_way(luma, way_net()).reads_true is None


def logits(way: int, count: int, strength: float = 6.0) -> np.ndarray:
    made = np.zeros((count, 5), np.float32)
    made[:, way] = strength
    return made


def test_windows_that_disagree_leave_it_open() -> None:
    both = np.concatenate([logits(0, 6), logits(2, 6)])
    assert judged(both, np.zeros(12, bool)).reads_true is None
    assert judged(logits(4, 20), np.zeros(20, bool)).reads_true is None
    assert judged(logits(0, 1), np.zeros(1, bool)).reads_true is None


def test_one_wrong_window_does_not_outvote_the_rest() -> None:
    told = judged(np.concatenate([logits(0, 6, 2.5), logits(2, 1, 30)]), np.zeros(7, bool))
    assert told.reads_true is True


def smeared(seed: int, px: float) -> np.ndarray:
    """A page of small print that the camera had few pixels for."""
    luma = page(np.random.default_rng(seed), PRINT[seed % 5], "full")
    few = cv2.resize(luma, None, fx=1 / px, fy=0.6, interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.resize(few, luma.shape[::-1], interpolation=cv2.INTER_LINEAR), np.uint8)


@pytest.mark.parametrize("seed", range(8))
def test_smeared_print_is_never_read_the_wrong_way(seed: int) -> None:
    for px in (3.0, 5.0, 8.0, 12.0):
        luma = smeared(seed, px)
        assert read_way(luma, way_net()).reads_true is not False
        assert read_way(np.ascontiguousarray(luma[:, ::-1]), way_net()).reads_true is not True


def test_a_smear_counts_as_print_and_proves_nothing() -> None:
    told = read_way(smeared(2, 16.0), way_net())
    assert told.reads_true is None
    cut = np.zeros((2, 1, 32, 128), np.float32)
    cut[:, 0, 10:22] = 1
    cut[1, 0, :, ::4] = 0
    assert clear(cut).tolist() == [0, 1]


TRUE, REVERSED = Proof(True, 0, 0.99, 9), Proof(False, 0, 0.99, 9)


@pytest.mark.parametrize(
    ("mirrors", "proof", "kind", "press"),
    [
        (0, TRUE, "agrees", ""),
        (1, REVERSED, "reversed", "mirror"),
        (0, REVERSED, "reversed", "mirror"),
        (1, TRUE, "differs", ""),
        (0, Proof(True, 2, 0.99, 9), "turned", "turn"),
        (0, Proof(None, 0, 0.6, 9), "cannot tell", ""),
        (0, None, "cannot tell", ""),
    ],
)
def test_count_against_proof(mirrors: int, proof: Proof | None, kind: str, press: str) -> None:
    told = agreement(light_path(mirrors, 0, Chain(), 0), proof)
    assert (told.kind, told.press) == (kind, press)
    assert len(told.says) > 20


def test_a_flip_mends_the_disagreement() -> None:
    flipped = Chain(mirror=MirrorLink(left_right=True))
    assert agreement(light_path(1, 0, flipped, 0), TRUE).kind == "agrees"


def test_after_a_flip_by_the_print_no_second_flip_is_advised() -> None:
    """A rig that was stated wrongly: the count stays odd, and the learners get it the right way round."""
    flipped = Chain(mirror=MirrorLink(left_right=True))
    told = agreement(light_path(0, 0, flipped, 0), TRUE)
    assert (told.kind, told.press) == ("differs", "")
