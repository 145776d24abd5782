"""A handout as PDF: sheets with titles, tagged with alternative text, small enough to send."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Size
from cartouche.core.sheets.handout import FOOT_MM, MARGIN_MM, PAPERS_MM, Paper, PerPage, Spot, handout_pages
from cartouche.fonts import PLAIN_FILE

if TYPE_CHECKING:
    from fpdf import FPDF

DPI, QUALITY = 150, 72
MAX_BYTES = 280_000  # a sheet: one that is full of pencil is coded a little coarser


class HandoutSheet(NamedTuple):
    """picture: (h, w, 3) BGR.  words: read on it, for those who do not see it."""

    title: str
    picture: NDArray[np.uint8]
    words: str = ""


class Head(NamedTuple):
    title: str
    class_name: str
    day: str


def handout_pdf(head: Head, sheets: Sequence[HandoutSheet], paper: Paper = "A4", per_page: PerPage = 1) -> bytes:
    """Pages with the lesson's name above and the page's number below."""
    from fpdf import FPDF  # a fifth of a second, which no start should wait for

    page = PAPERS_MM[paper]
    made = FPDF(unit="mm", format=(page.width, page.height))
    made.set_auto_page_break(False)
    made.set_margin(0)
    made.add_font("text", "", PLAIN_FILE)
    made.set_title(f"{head.title}, {head.class_name}")
    made.set_lang("en")
    made.set_creator("Cartouche")
    made.set_subject(f"Handout of {head.day}")
    laid = handout_pages([Size(one.picture.shape[1], one.picture.shape[0]) for one in sheets], paper, per_page)
    for number, spots in enumerate(laid or [[]], 1):
        made.add_page()
        _frame(made, head, number, max(len(laid), 1), page)
        for spot in spots:
            _sheet(made, sheets[spot.number], spot)
    return bytes(made.output())


def _frame(made: FPDF, head: Head, number: int, count: int, page: Size) -> None:
    made.set_font("text", size=13)
    made.text(MARGIN_MM, MARGIN_MM + 4.5, head.title)
    made.set_font("text", size=9.5)
    made.text(MARGIN_MM, MARGIN_MM + 10, f"{head.class_name} · {head.day}")
    made.set_draw_color(190)
    made.line(MARGIN_MM, MARGIN_MM + 12.5, page.width - MARGIN_MM, MARGIN_MM + 12.5)
    foot = f"{number} / {count}"
    made.text(page.width - MARGIN_MM - made.get_string_width(foot), page.height - MARGIN_MM + FOOT_MM / 2, foot)


def _sheet(made: FPDF, one: HandoutSheet, spot: Spot) -> None:
    made.set_font("text", size=10.5)
    made.text(spot.x, spot.title_y + 4.5, _short(made, one.title, spot.wide))
    words = " ".join(one.words.split())
    told = f"{one.title}: {words}" if words else one.title
    made.image(jpeg_of(one.picture, spot.wide), spot.x, spot.y, spot.wide, spot.high, alt_text=told[:2000], title=one.title)


def _short(made: FPDF, text: str, wide: float) -> str:
    while len(text) > 4 and made.get_string_width(text) > wide:
        text = text[:-2].rstrip() + "…"
    return text


def jpeg_of(picture: NDArray[np.uint8], wide_mm: float) -> bytes:
    """At DPI where it stands, no larger than it is."""
    wide = min(picture.shape[1], round(wide_mm / 25.4 * DPI))
    small = picture if wide == picture.shape[1] else cv2.resize(
        picture, (wide, max(1, round(picture.shape[0] * wide / picture.shape[1]))), interpolation=cv2.INTER_AREA
    )  # fmt: skip
    for quality in (QUALITY, 60, 48, 36):
        made = cv2.imencode(".jpg", small, [cv2.IMWRITE_JPEG_QUALITY, quality, cv2.IMWRITE_JPEG_OPTIMIZE, 1])[1].tobytes()
        if len(made) <= MAX_BYTES:
            break
    return made
