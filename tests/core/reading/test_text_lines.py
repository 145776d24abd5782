"""Lines of print: where they run and how tall their small letters are, held against papers of known type."""

import cv2
import numpy as np
import pytest
from PIL import Image, ImageDraw

from cartouche.bench.papers import contour_sheet
from cartouche.core.reading.legibility import MM_PER_POINT
from cartouche.core.reading.page_reading import PageReading, read_page
from cartouche.core.reading.text_lines import find_lines, ink_map
from cartouche.fonts import typeface
from cartouche.models import way_net

X_HEIGHT = 0.496  # of an em, in the font that the papers are written in


def written(px: float, lines: int = 6, vertical: bool = False) -> np.ndarray:
    over = 4
    page = Image.new("L", (1000 * over, 700 * over), 245)
    pen = ImageDraw.Draw(page)
    for line in range(lines):
        at = (60 * over, (40 + line * px * 1.6) * over)
        pen.text(at, "where contours crowd the ground is steep", font=typeface(round(px * over)), fill=30)
    small = cv2.resize(np.asarray(page), (1000, 700), interpolation=cv2.INTER_AREA)
    return np.ascontiguousarray(np.rot90(small)) if vertical else small


@pytest.mark.parametrize("px", [12, 17, 24, 40])
def test_x_height_is_measured_to_a_tenth(px: float) -> None:
    lines = [line for line in find_lines(ink_map(written(px))) if line.letters >= 8]
    assert len(lines) >= 3
    for line in lines:
        assert line.x_height_px == pytest.approx(px * X_HEIGHT, rel=0.12, abs=0.5)
        assert not line.vertical


def test_lines_that_run_down_are_told() -> None:
    lines = find_lines(ink_map(written(24, vertical=True)))
    told = [line for line in lines if line.letters >= 8]
    assert len(told) >= 4
    assert all(line.vertical for line in told)


def test_a_blank_page_and_a_grid_have_no_lines() -> None:
    blank = np.full((700, 500), 240, np.uint8)
    assert find_lines(ink_map(blank)) == []
    blank[::20] = 120
    blank[:, ::20] = 120
    assert find_lines(ink_map(blank)) == []


def test_uneven_light_is_no_ink() -> None:
    light = np.tile(np.linspace(90, 250, 600).astype(np.uint8), (400, 1))
    assert ink_map(light)[8:-8, 8:-8].max() < 30


def test_the_print_of_the_demo_sheet_is_measured_in_points() -> None:
    picture = contour_sheet().picture
    luma = cv2.cvtColor(cv2.resize(picture, (794, 1123), interpolation=cv2.INTER_AREA), cv2.COLOR_BGR2GRAY)
    told = read_page(np.asarray(luma, np.uint8), 297 / 1123, way_net())
    assert told.smallest_pt == pytest.approx(8, abs=1.0)
    assert told.usual_pt is not None
    assert 8 <= told.usual_pt <= 12.5
    assert told.step_mm == pytest.approx(5.0, abs=2.2)
    assert told.proof.reads_true is True
    assert pytest.approx(0.3528, abs=1e-3) == MM_PER_POINT


def test_without_millimetres_nothing_is_said_of_points() -> None:
    told = read_page(written(24), None, way_net())
    assert told.smallest_pt is None
    assert told.proof.reads_true is True


def test_two_looks_at_one_page_say_the_same_and_other_print_does_not() -> None:
    random = np.random.default_rng(3)

    def look(px: float, mirrored: bool = False) -> PageReading:
        luma = np.clip(written(px) + random.normal(0, 2, (700, 1000)), 0, 255).astype(np.uint8)
        return read_page(np.ascontiguousarray(luma[:, ::-1]) if mirrored else luma, 297 / 1123, way_net())

    first = look(24)
    assert first != look(24), "no two looks measure the same"
    assert all(first.says_as(look(24)) for _ in range(5))
    others = [look(17), look(24, mirrored=True), read_page(written(24), None, way_net())]
    assert not any(first.says_as(other) for other in others)
