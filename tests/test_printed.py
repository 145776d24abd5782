"""The set-up card as it is printed: one page at its true size, and what its codes say."""

import cv2
import numpy as np
import pypdfium2
import pytest

from cartouche.core.straighten.card import layout
from cartouche.core.straighten.paper import PAPERS_MM
from cartouche.printed import card_pdf, card_picture, card_png


@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_one_page_at_its_true_size(paper: str) -> None:
    document = pypdfium2.PdfDocument(card_pdf(paper))  # type: ignore[arg-type]
    try:
        assert len(document) == 1
        page = document[0]
        assert page.get_size() == pytest.approx([mm / 25.4 * 72 for mm in PAPERS_MM[paper]], abs=0.5)
        text = page.get_textpage().get_text_bounded()
        for points in (4, 10, 16):
            assert f"{points} pt" in text
        page.close()
    finally:
        document.close()


def test_marks_and_code_are_where_the_layout_says() -> None:
    picture = cv2.cvtColor(card_picture("A4", 100), cv2.COLOR_BGR2GRAY)
    corners, ids, _ = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_5X5_100)).detectMarkers(picture)
    made = layout("A4")
    assert sorted(int(number) for number in ids.ravel()) == sorted(made.marks)
    for number, found in zip(ids.ravel(), corners, strict=True):
        assert np.allclose(found.reshape(4, 2) / 100 * 25.4, made.marks[int(number)], atol=0.6)
    told, _, _ = cv2.QRCodeDetector().detectAndDecode(picture)
    assert told == "cartouche card A4 marks 0-7"


def test_the_picture_is_a_png() -> None:
    assert card_png("Letter").startswith(b"\x89PNG")
