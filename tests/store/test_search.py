"""Full text search over texts that are kept elsewhere."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cartouche.store.search import matching

TEXTS = {
    "maps": "Contour lines 9B 2026-11-28 Sheet 1 A hill of 45 m",
    "water": "L’été: le cycle de l’eau 7A 2026-11-21 Vocabulaire",
    "hebrew": "שיעור ראשון 8C 2026-10-02",
}


@pytest.mark.parametrize(
    ("words", "found"),
    [
        ("contour", {"maps"}),
        ("CONT line", {"maps"}),
        ("ete eau", {"water"}),
        ("2026-11", {"maps", "water"}),
        ("ראש", {"hebrew"}),
        ("contour water", set()),
        ("ontour", set()),
        ("", set(TEXTS)),
        ("  “ ” - ", set(TEXTS)),
        ('45"', {"maps"}),
        ("NEAR OR NOT text:", set()),
    ],
)
def test_every_word_begins_one_whatever_its_accents_and_capitals(words: str, found: set[str]) -> None:
    assert matching(TEXTS, words) == found


@given(st.text(max_size=60))
def test_whatever_is_asked_is_an_answer(words: str) -> None:
    assert matching(TEXTS, words) <= set(TEXTS)
