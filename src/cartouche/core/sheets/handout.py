"""Where sheets stand on the pages of a handout: one, two or four to a page, in millimetres."""

from collections.abc import Sequence
from typing import Literal, NamedTuple

from cartouche.core.pictures import Size

Paper = Literal["A4", "Letter"]
PerPage = Literal[1, 2, 4]
PAPERS_MM: dict[Paper, Size] = {"A4": Size(210, 297), "Letter": Size(215.9, 279.4)}
MARGIN_MM, HEAD_MM, FOOT_MM, GAP_MM, TITLE_MM = 15.0, 16.0, 9.0, 8.0, 7.0
GRID: dict[int, tuple[int, int]] = {1: (1, 1), 2: (1, 2), 4: (2, 2)}  # columns, rows


class Spot(NamedTuple):
    """number: of the sheet, from 0.  x, y, wide, high: of its picture, mm from the page's upper left.  title_y: where its title stands."""

    number: int
    x: float
    y: float
    wide: float
    high: float
    title_y: float


def handout_pages(sheets: Sequence[Size], paper: Paper, per_page: PerPage) -> list[list[Spot]]:
    """Each page's sheets, as large as their cells allow. sheets: sizes of the pictures, in any unit."""
    page, (columns, rows) = PAPERS_MM[paper], GRID[per_page]
    wide = (page.width - 2 * MARGIN_MM - (columns - 1) * GAP_MM) / columns
    high = (page.height - 2 * MARGIN_MM - HEAD_MM - FOOT_MM - (rows - 1) * GAP_MM) / rows
    pages: list[list[Spot]] = []
    for number, size in enumerate(sheets):
        place = number % per_page
        if place == 0:
            pages.append([])
        left = MARGIN_MM + (place % columns) * (wide + GAP_MM)
        top = MARGIN_MM + HEAD_MM + (place // columns) * (high + GAP_MM)
        scale = min(wide / size.width, (high - TITLE_MM) / size.height)
        w, h = size.width * scale, size.height * scale
        pages[-1].append(Spot(number, left + (wide - w) / 2, top + TITLE_MM, w, h, top))
    return pages
