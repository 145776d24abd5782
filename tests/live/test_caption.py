"""Captions: sharp, in several scripts, and honest about signs that no typeface has."""

import numpy as np
import pytest

from cartouche.core.pictures import Size
from cartouche.fonts import MISSING, SHAPES, missing, pieces
from cartouche.live.caption import caption, fitting, length

PLACE = Size(560, 140)


@pytest.mark.parametrize(
    "text", ["Larkmoor Field School", "Größe, naïve, œuvre", "Żółć, ő, ğ", "Ισοϋψείς καμπύλες", "Карта и компас, їжак"]
)
def test_the_scripts_that_ship_are_drawn(text: str) -> None:
    assert missing(text) == ()
    assert "".join(part for _, part in pieces(text, 30)) == text


def test_a_missing_sign_stands_as_such_and_is_told() -> None:
    assert missing("Map 地図 地") == ("地", "図")
    assert "".join(part for _, part in pieces("a地b", 30)) == f"a{MISSING}b"


def test_it_covers_no_more_than_its_text_needs() -> None:
    _, (luma, chroma) = caption(PLACE, "Reading", "", 720)
    assert luma.shape == (140, 560)
    assert chroma.shape == (70, 280)
    assert luma[0, 0] == 0
    assert 0.05 < (luma > 0.5).mean() < 0.4
    _, (two, _) = caption(PLACE, "Reading", "the ground", 720)
    assert (two > 0.5).mean() > (luma > 0.5).mean()
    assert not caption(PLACE, "", "", 720)[1][0].any()


def test_text_that_is_too_long_is_drawn_smaller_and_whole() -> None:
    text = "A very long title of a lesson that goes on and on"
    px = fitting(text, 60, 700, 500)
    assert length(text, px, 700) <= 500
    assert px < 60
    frame, (luma, _) = caption(PLACE, text, "", 720)
    ink = (frame.y < 90) & (luma > 0.9)
    assert ink[:, 500:].any(), "it reaches its end"
    assert not ink[:, -4:].any()
    assert np.unique(frame.y[ink]).size > 3, "its edges are smooth"


@pytest.mark.parametrize("text", ["مدرسة الحقل", "בית ספר", "9B 🗺️ 👩‍🏫", "Frau عائشة بنت"])
def test_scripts_from_right_to_left_and_emoji_are_drawn(text: str) -> None:
    assert SHAPES, "set-up brings the library that shapes them"
    assert missing(text) == ()
    assert (caption(PLACE, text, "", 720)[1][0] > 0.9).any()


def test_letters_that_join_are_joined() -> None:
    """Three letters that join are narrower together than the three alone: each has its shape for the middle of a word."""
    together, alone = length("بيت", 40, 400), sum(length(letter, 40, 400) for letter in "بيت")
    assert together < 0.9 * alone


def test_runs_stand_in_the_order_in_which_they_are_read() -> None:
    arabic, hebrew = "بيت", "בית"
    assert "".join(signs(f"Map {arabic} {hebrew} end")) == f"Map {hebrew} {arabic} end"
    assert "".join(signs(f"{arabic} Map {hebrew}")) == f"{hebrew} Map {arabic}"
    assert "".join(signs("Map, and 🗺 too")) == "Map, and 🗺 too"


def signs(text: str) -> list[str]:
    return [part for _, part in pieces(text, 20)]
