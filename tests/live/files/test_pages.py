"""Pages from files: judged by what is in them, drawn one at a time."""

import contextlib
import io
import warnings
from pathlib import Path
from random import Random

import numpy as np
import pytest
from PIL import Image

from cartouche.live.files.errors import EmptyFile, LockedFile, TooManyPages, TooManyPixels, UnreadableFile, WrongKind
from cartouche.live.files.pages import LONG_SIDE_PX, MAX_PAGES, PageFile, PagesSource, count_pages, kind_of, page_frame, picture_frame
from tests import samples


def test_a_pdf_is_drawn_in_its_own_proportions(tmp_path: Path) -> None:
    path = samples.picture_pdf(tmp_path / "sheets.pdf", (40, 120, 200))
    assert (kind_of(path, path.name), count_pages(path, "pdf", path.name)) == ("pdf", 3)
    frame = page_frame(PageFile(path, "pdf", 3), 1)
    assert frame.size.height == LONG_SIDE_PX
    assert frame.size.aspect == pytest.approx(420 / 594, abs=0.002)
    assert float(frame.y.mean()) == pytest.approx(120, abs=2)


@pytest.mark.parametrize(("name", "kind"), [("photo.png", "PNG"), ("photo.jpg", "JPEG")])
def test_a_photograph_is_made_smaller_and_keeps_its_colours(tmp_path: Path, name: str, kind: str) -> None:
    path = tmp_path / name
    Image.new("RGB", (3000, 2000), (200, 60, 40)).save(path, kind)
    assert (kind_of(path, name), count_pages(path, "picture", name)) == ("picture", 1)
    frame = page_frame(PageFile(path, "picture", 1), 0)
    assert frame.size.width == LONG_SIDE_PX
    assert frame.size.aspect == pytest.approx(1.5, abs=0.01)
    assert float(frame.v.mean()) > 190  # red


def test_a_phones_photograph_is_turned_as_it_says(tmp_path: Path) -> None:
    path = tmp_path / "turned.jpg"
    exif = Image.Exif()
    exif[0x0112] = 6  # the camera was held upright
    Image.new("RGB", (600, 400)).save(path, "JPEG", exif=exif)
    assert page_frame(PageFile(path, "picture", 1), 0).size == (400, 600)


def test_what_is_clear_becomes_paper(tmp_path: Path) -> None:
    path = tmp_path / "clear.png"
    Image.new("RGBA", (60, 40), (0, 0, 0, 0)).save(path, "PNG")
    assert page_frame(PageFile(path, "picture", 1), 0).y.min() > 250


@pytest.mark.parametrize("size", [(1, 1), (1, 50), (3, 3)])
def test_the_smallest_pictures_are_pictures_too(tmp_path: Path, size: tuple[int, int]) -> None:
    path = tmp_path / "dot.png"
    Image.new("L", size, 99).save(path, "PNG")
    assert page_frame(PageFile(path, "picture", 1), 0).y.mean() == pytest.approx(99, abs=2)


@pytest.mark.parametrize(
    ("name", "content", "error", "says"),
    [
        ("notes.pdf", b"Dear colleagues,\n", WrongKind, "isn't really a PDF"),
        ("notes.png", b"Dear colleagues,\n", WrongKind, "isn't really a PNG"),
        ("sheet.docx", b"PK\x03\x04....", WrongKind, "isn't really a page or a clip"),
        ("empty.pdf", b"", EmptyFile, "is empty"),
        ("empty.mp4", b"", EmptyFile, "is empty"),
    ],
)
def test_a_file_is_judged_by_its_bytes(tmp_path: Path, name: str, content: bytes, error: type[UnreadableFile], says: str) -> None:
    path = tmp_path / "arrived"
    path.write_bytes(content)
    with pytest.raises(error, match=says):
        kind_of(path, name)


@pytest.mark.parametrize("content", [b"%PDF-1.7\nbroken", b"%PDF-1.4\n" + bytes(4000), b"%PDF-1.7\n%%EOF"])
def test_a_damaged_pdf_is_told(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "broken.pdf"
    path.write_bytes(content)
    with pytest.raises(UnreadableFile, match="damaged"):
        count_pages(path, "pdf", "broken.pdf")


@pytest.mark.parametrize("content", [b"\x89PNG\r\n\x1a\n", b"\x89PNG\r\n\x1a\n" + bytes(200), b"\xff\xd8\xff\xe0" + bytes(100)])
def test_a_damaged_picture_is_told(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "broken"
    path.write_bytes(content)
    with pytest.raises(UnreadableFile, match="damaged"):
        count_pages(path, "picture", "broken.png")


def test_a_picture_cut_off_in_the_middle_is_told(tmp_path: Path) -> None:
    path = tmp_path / "half.png"
    Image.fromarray(np.random.default_rng(3).integers(0, 255, (300, 300, 3), np.uint8)).save(path, "PNG")
    path.write_bytes(path.read_bytes()[:9000])
    with pytest.raises(UnreadableFile, match="damaged"):
        count_pages(path, "picture", "half.png")


def test_a_locked_pdf_says_how_to_unlock_it(tmp_path: Path) -> None:
    with pytest.raises(LockedFile, match="password"):
        count_pages(samples.locked_pdf(tmp_path / "locked.pdf"), "pdf", "locked.pdf")


def test_too_many_pages_and_too_many_pixels_are_refused_before_they_are_drawn(tmp_path: Path) -> None:
    assert count_pages(samples.pdf(tmp_path / "most.pdf", MAX_PAGES), "pdf", "most.pdf") == MAX_PAGES
    with pytest.raises(TooManyPages, match="501 pages"):
        count_pages(samples.pdf(tmp_path / "more.pdf", MAX_PAGES + 1), "pdf", "more.pdf")
    with pytest.raises(TooManyPixels, match=r"8,000 x 8,000"):
        count_pages(samples.huge_png(tmp_path / "huge.png", 8000), "picture", "huge.png")


@pytest.mark.parametrize("size", [(14400, 14400), (3, 14000), (0.5, 0.5)])
def test_pages_of_odd_sizes_stay_bounded(tmp_path: Path, size: tuple[float, float]) -> None:
    frame = page_frame(PageFile(samples.pdf(tmp_path / "odd.pdf", 1, size), "pdf", 1), 0)
    assert max(frame.size) <= LONG_SIDE_PX + 2


def test_pages_of_several_files_follow_each_other(tmp_path: Path) -> None:
    first, second = samples.picture_pdf(tmp_path / "a.pdf", (30, 60)), tmp_path / "b.png"
    Image.new("L", (40, 40), 220).save(second, "PNG")
    source = PagesSource([PageFile(first, "pdf", 2), PageFile(second, "picture", 1)])
    seen = []
    for page in range(3):
        source.turn(page)
        seen.append(round(float(source.picture(1.0).y.mean()), -1))
    assert seen == [30, 60, 220]
    source.turn(99)
    assert source.page == 2
    source.turn(-5)
    assert source.page == 0


def test_a_page_is_drawn_once_and_handed_out_again(tmp_path: Path) -> None:
    source = PagesSource([PageFile(samples.pdf(tmp_path / "a.pdf", 1), "pdf", 1)])
    first, again = source.picture(1.0), source.picture(2.0)
    assert first.y is again.y
    assert again.captured_s == 2.0


def test_a_file_that_goes_away_is_a_lost_device(tmp_path: Path) -> None:
    path = samples.pdf(tmp_path / "a.pdf", 2)
    source = PagesSource([PageFile(path, "pdf", 2)])
    source.picture(1.0)
    path.unlink()
    source.picture(2.0)  # this page is still here
    source.turn(1)
    with pytest.raises(ConnectionError, match="damaged or gone"):
        source.picture(3.0)
    with pytest.raises(ConnectionError, match="no pages"):
        PagesSource([]).picture(0.0)


def test_what_is_damaged_in_a_pictures_notes_is_no_damage_of_the_picture(tmp_path: Path) -> None:
    notes = Image.Exif()
    notes[0x0112], notes[0x010E] = 6, "a page"
    whole = io.BytesIO()
    Image.new("RGB", (300, 400), "white").save(whole, "JPEG", exif=notes)
    random, path, drawn = Random(4), tmp_path / "phone.jpg", 0
    at = whole.getvalue().index(b"Exif") + 6
    for _ in range(300):
        content = bytearray(whole.getvalue())
        for _ in range(random.randint(1, 6)):
            content[at + random.randrange(60)] = random.randrange(256)
        path.write_bytes(bytes(content))
        with warnings.catch_warnings(), contextlib.suppress(UnreadableFile):
            warnings.simplefilter("ignore")
            drawn += picture_frame(path, "phone.jpg").size.width > 100
    assert drawn > 200
