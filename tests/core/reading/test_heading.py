"""Which of what was read on a page is words, and which is its heading."""

import pytest

from cartouche.core.reading.heading import ReadLine, heading, words

PAGE = 1754.0
BODY = [
    ReadLine("Draw the profile from A to B.", 0.95, 22, 149),
    ReadLine("Mark the steepest slope.", 0.96, 22, 400),
    ReadLine("Count the thick lines.", 0.94, 20, 1300),
]
SQUARES = [ReadLine("I I I I I I I I I", 0.9, 60, 860), ReadLine("", 0.95, 297, 201), ReadLine("(CaS)", 0.36, 150, 500)]


def test_the_heading_is_the_largest_line_of_the_upper_half() -> None:
    title = ReadLine("Sheet 3  ·  Reading the ground\n\n", 0.95, 40, 87)
    large_below = ReadLine("LARKMOOR SCHOOL", 0.95, 60, 1600)
    assert heading([*SQUARES, *BODY, title, large_below], PAGE) == "Sheet 3 · Reading the ground"
    assert words([*SQUARES, title, *BODY]).splitlines() == [
        "Sheet 3 · Reading the ground",
        "Draw the profile from A to B.",
        "Mark the steepest slope.",
        "Count the thick lines.",
    ]


@pytest.mark.parametrize(
    "lines",
    [
        [],
        SQUARES,  # nothing but squared paper and a drawing
        BODY,  # running text without a heading
        [*BODY, ReadLine("A much longer line that goes on over the whole width of the page", 0.95, 40, 60)],
        [*BODY, ReadLine("Reading the ground", 0.4, 40, 60)],  # guessed
    ],
)
def test_no_heading_is_made_up(lines: list[ReadLine]) -> None:
    assert heading(lines, PAGE) == ""


def test_a_page_with_one_line_has_that_as_its_heading() -> None:
    assert heading([ReadLine("Homework.", 0.9, 22, 100)], PAGE) == "Homework."
