"""Where sheets stand on a handout's pages; and the file itself, read by another library."""

import numpy as np
import pypdfium2
import pytest

from cartouche.core.pictures import Size
from cartouche.core.sheets.handout import PAPERS_MM, handout_pages
from cartouche.handout import HandoutSheet, Head, handout_pdf, jpeg_of


@pytest.mark.parametrize("paper", ["A4", "Letter"])
@pytest.mark.parametrize(("per_page", "count", "pages"), [(1, 12, 12), (2, 12, 6), (4, 13, 4), (1, 1, 1), (4, 60, 15)])
def test_each_sheet_stands_once_and_inside(paper: str, per_page: int, count: int, pages: int) -> None:
    sizes = [Size(210, 297) if number % 3 else Size(297, 210) for number in range(count)]
    laid = handout_pages(sizes, paper, per_page)  # type: ignore[arg-type]
    assert len(laid) == pages
    assert [spot.number for page in laid for spot in page] == list(range(count))
    room = PAPERS_MM[paper]  # type: ignore[index]
    for page in laid:
        for spot in page:
            assert 10 < spot.x < spot.x + spot.wide < room.width - 10
            assert spot.title_y < spot.y < spot.y + spot.high < room.height - 10
            assert abs(spot.wide / spot.high - sizes[spot.number].aspect) < 1e-6
        for one in page:
            assert not any(one is not other and abs(one.x - other.x) < 1 and abs(one.y - other.y) < 1 for other in page), (
                "two stand in one place"
            )


def picture(seed: int) -> np.ndarray:
    random = np.random.default_rng(seed)
    made = np.full((1680, 1188, 3), 250, np.uint8)
    for row in range(60, 1600, 26):
        made[row : row + 8, 60 : 60 + int(random.integers(300, 1060))] = 40
    return made


@pytest.mark.parametrize("count", [1, 12, 60])
def test_words_pages_and_tags_are_there(count: int) -> None:
    sheets = [HandoutSheet(f"Sheet {number + 1}", picture(number % 4), "A profile from A to B") for number in range(count)]
    made = handout_pdf(Head("Reading the ground", "9B", "28 November 2026"), sheets)
    assert len(made) < count * 300_000
    document = pypdfium2.PdfDocument(made)
    assert len(document) == count
    assert [round(value) for value in document[0].get_size()] == [595, 842]
    text = document[count - 1].get_textpage().get_text_range()
    for words in ("Reading the ground", "9B · 28 November 2026", f"Sheet {count}", f"{count} / {count}"):
        assert words in text
    document.close()
    for tag in (b"/StructTreeRoot", b"/Alt", b"/Lang", b"/Title"):
        assert tag in made


def test_nothing_kept_is_one_empty_page() -> None:
    document = pypdfium2.PdfDocument(handout_pdf(Head("x", "y", "z"), []))
    assert len(document) == 1
    document.close()


def test_a_sheet_full_of_noise_stays_small_enough_to_send() -> None:
    noise = np.random.default_rng(1).integers(0, 255, (1680, 1188, 3)).astype(np.uint8)
    assert len(jpeg_of(noise, 180.0)) < 1_000_000
    assert len(jpeg_of(picture(1), 180.0)) < 300_000
