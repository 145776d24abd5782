"""The same page is known again, softer, shifted, written on; another is not."""

import itertools

import cv2
import numpy as np
import pytest

from cartouche.core.straighten import known_pages
from cartouche.core.straighten.identity import BELIEVED_S, SAME, Identity, Thumb, likeness, thumbnail
from cartouche.core.straighten.known_pages import KnownPages

QUAD = np.array([[0.0, 0], [768, 0], [768, 1024], [0, 1024]])


def picture(seed: int) -> np.ndarray:
    """A page of words that stand on the same lines as those of any other."""
    random, made = np.random.default_rng(seed), np.full((1024, 768), 235, np.uint8)
    for y in range(60, 980, 34):
        x = 50
        while x < 680:
            wide = int(random.integers(15, 70))
            made[y : y + 14, x : x + wide] = 50
            x += wide + int(random.integers(10, 30))
    return made


def thumb(seed: int) -> Thumb:
    return thumbnail(picture(seed), QUAD)


@pytest.mark.parametrize("sigma", [1.0, 4.0, 8.0])
def test_blur_is_no_other_page(sigma: float) -> None:
    assert likeness(thumb(1), thumbnail(cv2.GaussianBlur(picture(1), (0, 0), sigma), QUAD)) > SAME


def test_another_page_with_the_same_lines_is_another() -> None:
    assert likeness(thumb(1), thumb(2)) < 0.3


def test_another_is_believed_after_some_looks_and_said_once() -> None:
    identity = Identity()
    assert not identity.see(picture(1), QUAD, 0.0, disturbed=False)
    told = [identity.see(picture(2), QUAD, 1.0 + 0.1 * step, disturbed=step == 0) for step in range(20)]
    assert sum(told) == 1
    assert told.index(True) >= round(10 * BELIEVED_S)
    assert identity.before is not None
    assert likeness(identity.before, thumb(1)) > SAME


def test_a_glance_at_another_is_forgotten_when_the_first_is_back() -> None:
    identity = Identity()
    identity.see(picture(1), QUAD, 0.0, disturbed=False)
    assert not identity.see(picture(2), QUAD, 1.0, disturbed=True)
    assert not any(identity.see(picture(1), QUAD, 1.1 + 0.1 * step, disturbed=True) for step in range(20))


def test_pages_come_back_under_their_names() -> None:
    known = KnownPages("camera")
    assert known.now == "camera:1"
    assert known.changed(thumb(1), thumb(2)) == "camera:2"
    assert known.changed(thumb(2), thumb(3)) == "camera:3"
    assert known.changed(thumb(3), thumb(1)) == "camera:1"
    assert known.changed(thumb(1), thumb(2)) == "camera:2"


def test_after_a_start_the_page_that_was_left_is_known_or_another_is_told() -> None:
    known = KnownPages("camera", {"camera:1": thumb(1), "camera:2": thumb(2)}, "camera:2")
    assert not known.begun(thumb(2))
    assert known.begun(thumb(1))
    assert known.now == "camera:1"
    assert known.begun(thumb(9))
    assert known.now == "camera:3"


def test_the_oldest_are_forgotten_and_never_the_one_that_lies_there(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(known_pages, "MOST", 8)
    known, random = KnownPages("camera"), np.random.default_rng(1)
    noise = [random.normal(0, 20, (256, 192)).astype(np.float32) for _ in range(14)]
    for before, now in itertools.pairwise(noise):
        known.changed(before, now)
    assert len(known.thumbs) <= 8
    assert known.now in known.thumbs
