"""A page is kept without the hand that writes on it. Over sixty pages: benchmarks/sheets.py."""

import numpy as np
import pytest

from benchmarks.sheets import keep, unwritten
from cartouche.core.sheets.memory import LAID_S, PageMemory
from cartouche.web.pages_seen import FINISHED


@pytest.mark.parametrize("seed", [1, 3])  # the second with a lamp mirrored in it
def test_the_hand_is_gone_and_the_writing_is_there(seed: int) -> None:
    kept = keep(seed)
    assert kept.hand < 0.002
    assert kept.ssim > 0.95
    assert kept.written >= FINISHED


def test_pointing_is_no_writing() -> None:
    assert unwritten(901) < FINISHED


def page(value: int = 235) -> np.ndarray:
    made = np.full((560, 400, 3), value, np.uint8)
    made[40:520:30, 40:360] = 60
    return made


def with_arm(made: np.ndarray, x: int = 250) -> np.ndarray:
    seen = made.copy()
    seen[300:, x : x + 130] = (80, 118, 174)
    return seen


def test_a_hand_that_was_there_from_the_beginning_is_left_out_as_the_page_comes_free() -> None:
    memory, bare = PageMemory(), page()
    memory.see(with_arm(bare, 250), 0.0)
    assert memory.unseen > 0.05
    for step in range(1, 8):
        memory.see(with_arm(bare, 250 - 40 * step), 0.5 * step)
    assert memory.unseen == 0.0
    left = np.abs(memory.joined([with_arm(bare, 0)]).astype(int) - bare).max(axis=2)
    assert float((left > 40)[:, 150:].mean()) < 0.002


def test_a_thing_that_stays_belongs_to_the_page() -> None:
    memory, bare = PageMemory(), page()
    memory.see(bare, 0.0)
    ruler = with_arm(bare)
    for step in range(1, int(LAID_S) + 8):
        memory.see(ruler, float(step))
    assert memory.page is not None
    assert np.abs(memory.page.astype(int) - ruler).mean() < 3


def test_another_page_begins_afresh_and_a_dimmed_lamp_does_not() -> None:
    memory = PageMemory()
    memory.see(page(), 0.0)
    assert memory.see((page() * 0.85).astype(np.uint8), 1.0).hand == 0.0
    other = 255 - page()
    for step in range(4):
        memory.see(other, 2.0 + step)
    assert memory.page is not None
    assert np.abs(memory.page.astype(int) - other).mean() < 3


def test_pages_of_another_size_are_refused() -> None:
    memory = PageMemory()
    with pytest.raises(ValueError, match="no page"):
        memory.joined([page()])
    memory.see(page(), 0.0)
    with pytest.raises(ValueError, match="one size"):
        memory.joined([page()[:100]])
