"""The set-up card as a PDF to print and as a picture to show: drawn from the same layout that reads it."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

import cv2
import numpy as np
import pypdfium2
import segno
from numpy.typing import NDArray

from cartouche.core.straighten.card import FIRST_ID, MARK_MM, MARKS, PATCH_GREYS, SAMPLE_POINTS, SPOTS, CardPaper, Layout, layout
from cartouche.fonts import PLAIN_FILE

if TYPE_CHECKING:
    from fpdf import FPDF

CELLS = 7  # a mark: five by five bits and its black border
SAMPLE = "Where contours crowd together the ground is steep. 0123456789"
SPOKES = 36


@cache
def card_pdf(paper: CardPaper) -> bytes:
    """One page at its true size: print it at 100 %."""
    from fpdf import FPDF  # a fifth of a second, which no start should wait for

    card = layout(paper)
    page = FPDF(unit="mm", format=(card.size.width, card.size.height))
    page.set_auto_page_break(False)
    page.set_margin(0)
    page.add_page()
    page.set_title(f"Set-up card, {paper}")
    page.add_font("text", "", PLAIN_FILE)
    page.set_fill_color(0)
    for number, corners in card.marks.items():
        _mark(page, number, *corners[0])
    _star(page, card)
    _code(page, card)
    _patches(page, card)
    _words(page, card)
    return bytes(page.output())


@cache
def card_picture(paper: CardPaper, dpi: int = 200) -> NDArray[np.uint8]:
    """(h, w, 3) uint8 BGR."""
    document = pypdfium2.PdfDocument(card_pdf(paper))
    try:
        return np.ascontiguousarray(document[0].render(scale=dpi / 72).to_numpy()[:, :, :3])
    finally:
        document.close()


@cache
def card_png(paper: CardPaper) -> bytes:
    return bytes(cv2.imencode(".png", card_picture(paper))[1])


def _mark(page: FPDF, number: int, x: float, y: float) -> None:
    bits = MARKS.generateImageMarker(number, CELLS, borderBits=1)
    cell = MARK_MM / CELLS
    for row in range(CELLS):
        column = 0
        while column < CELLS:
            run = column
            while run < CELLS and bits[row, run] == 0:
                run += 1
            if run > column:
                page.rect(x + column * cell, y + row * cell, (run - column) * cell, cell + (0.02 if row + 1 < CELLS else 0), style="F")
            column = run + 1


def _star(page: FPDF, card: Layout) -> None:
    x, y, radius = card.star
    for spoke in range(SPOKES):
        a, b = (2 * np.pi * (spoke + half) / SPOKES for half in (0.0, 0.5))
        page.polygon(
            [(x, y), (x + radius * np.cos(a), y + radius * np.sin(a)), (x + radius * np.cos(b), y + radius * np.sin(b))], style="F"
        )


def _code(page: FPDF, card: Layout) -> None:
    rows = [
        list(row)
        for row in segno.make(
            f"cartouche card {card.paper} marks {FIRST_ID[card.paper]}-{FIRST_ID[card.paper] + len(SPOTS) - 1}", error="m", micro=False
        ).matrix
    ]
    cell = card.code.width / len(rows)
    for i, row in enumerate(rows):
        for j, dark in enumerate(row):
            if dark:
                page.rect(card.code.x + j * cell, card.code.y + i * cell, cell + 0.01, cell + 0.01, style="F")


def _patches(page: FPDF, card: Layout) -> None:
    for patch, grey in zip(card.patches, PATCH_GREYS, strict=True):
        page.set_fill_color(round(255 * grey))
        page.rect(*patch, style="F")
    first, last = card.patches[0], card.patches[-1]
    page.set_draw_color(120)
    page.set_line_width(0.15)
    page.rect(first.x, first.y, last.x + last.width - first.x, first.height)


def _words(page: FPDF, card: Layout) -> None:
    left = card.samples.x
    page.set_text_color(20)

    def write(x: float, y: float, text: str, points: float) -> None:
        page.set_font("text", "", points)
        page.text(x, y, text)

    top = min(corners[0][1] for corners in card.marks.values()) + MARK_MM
    write(left, top + 11, f"Set-up card · {card.paper}", 20)
    write(left, top + 18, "Lay it under the camera, this way up for you, and press “Use the set-up card”.", 9)
    y = card.samples.y
    for points in SAMPLE_POINTS:
        y += points * 0.3528 * 1.35
        write(left, y, f"{points} pt  ", points)
        page.set_font("text", "", points)
        room = card.samples.width - page.get_string_width("00 pt  ")
        shown = SAMPLE
        while page.get_string_width(shown) > room:
            shown = shown.rsplit(" ", 1)[0]
        page.text(left + page.get_string_width("00 pt  "), y, shown)
