"""What stands still stays as it was, to the pixel; what changes is there in the next picture; nothing stays off for long."""

import numpy as np
import pytest

from cartouche.core.record.replenish import BLOCK, CHANGED, RENEW_EVERY, Replenished

WIDE, HIGH = 184, 136  # no multiple of a block
ROWS = -(-HIGH // BLOCK)


def blank() -> list[np.ndarray]:
    return [np.zeros((HIGH // k, WIDE // k), np.uint8) for k in (1, 2, 2)]


def noisy(seed: int, level: int = 120, sigma: float = 1.2) -> list[np.ndarray]:
    random = np.random.default_rng(seed)
    return [np.clip(random.normal(level, sigma, plane.shape), 0, 255).round().astype(np.uint8) for plane in blank()]


def test_the_first_picture_is_shown_whole() -> None:
    shown, picture = blank(), noisy(1)
    Replenished(shown).follow(picture)
    assert all(np.array_equal(a, b) for a, b in zip(shown, picture, strict=True))


def test_noise_is_not_shown_again() -> None:
    shown = blank()
    picture = Replenished(shown)
    picture.follow(noisy(0))
    first = shown[0].copy()
    changed = []
    for number in range(1, RENEW_EVERY):
        picture.follow(noisy(number))
        changed.append(float((shown[0] != first).mean()))
    assert max(changed) < 0.03


@pytest.mark.parametrize("plane", [0, 1, 2])
@pytest.mark.parametrize("at", [(5, 7), (HIGH // 2 - 1, WIDE // 2 - 1), (40, 3)])
def test_a_mark_is_there_in_the_next_picture_and_its_block_alone(plane: int, at: tuple[int, int]) -> None:
    shown, still = blank(), [np.full_like(one, 120) for one in blank()]
    picture = Replenished(shown)
    picture.follow(still)
    y, x = (value // 2 * 2 - 2 * (value > 10) for value in at)
    marked = [one.copy() for one in still]
    marked[plane][y : y + 2, x : x + 2] += np.uint8(CHANGED + 3)
    picture.follow(marked)
    assert np.array_equal(shown[plane], marked[plane])


def test_what_changed_too_little_to_be_seen_is_there_after_a_while() -> None:
    shown = blank()
    picture = Replenished(shown)
    picture.follow([np.full_like(one, 120) for one in blank()])
    paler = [np.full_like(one, 120 + CHANGED) for one in blank()]
    picture.follow(paler)
    assert not np.array_equal(shown[0], paler[0])
    for _ in range(RENEW_EVERY * ROWS):
        picture.follow(paler)
    assert all(np.array_equal(a, b) for a, b in zip(shown, paler, strict=True))


def test_a_picture_that_changes_whole_is_shown_whole() -> None:
    shown = blank()
    picture = Replenished(shown)
    for level in (20, 200, 60):
        picture.follow(noisy(level, level))
        assert all(np.array_equal(a, b) for a, b in zip(shown, noisy(level, level), strict=True))
