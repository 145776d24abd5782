"""PDF, PNG and JPEG to frames, a page at a time."""

import threading
import warnings
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

import numpy as np
import pypdfium2
from PIL import Image, ImageOps

from cartouche.core.kit.health import Battery, Facing
from cartouche.core.pictures import Frame, frame_from_bgr
from cartouche.live.files.errors import EmptyFile, LockedFile, TooManyPages, TooManyPixels, UnreadableFile, WrongKind

MAX_PAGES = 500
MAX_PIXELS = 50_000_000  # a 48-megapixel phone photograph fits: 150 MB while it is decoded
LONG_SIDE_PX = 2000  # 6.7 px/mm on A4: eight-point print keeps 9 px per x-height
FRAMES_S = 5.0  # a still page is handed out again so often for whoever begins to look

_pdfium = threading.Lock()  # the library serves one thread at a time


class PageFile(NamedTuple):
    path: Path
    kind: str  # 'pdf' or 'picture'
    pages: int


def kind_of(path: Path, name: str) -> str:
    """'pdf', 'picture' or 'clip' by the first bytes, never by the name. Raises EmptyFile, WrongKind."""
    with path.open("rb") as file:
        head = file.read(1024)
    if not head:
        raise EmptyFile(name)
    if b"%PDF-" in head:  # readers accept a few bytes before it
        return "pdf"
    if head.startswith((b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff")):
        return "picture"
    if head[4:8] == b"ftyp" or head.startswith(b"\x1a\x45\xdf\xa3"):
        return "clip"
    wanted = {".pdf": "a PDF", ".png": "a PNG", ".jpg": "a JPEG", ".jpeg": "a JPEG", ".mp4": "an MP4", ".webm": "a WebM"}
    raise WrongKind(name, wanted.get(Path(name).suffix.lower(), "a page or a clip"))


def count_pages(path: Path, kind: str, name: str) -> int:
    """How many pages it has; the first is drawn once to see that it can be. Raises an UnreadableFile."""
    if kind == "picture":
        picture_frame(path, name)
        return 1
    with _document(path, name) as document:
        count = len(document)
        if count > MAX_PAGES:
            raise TooManyPages(name, f"{count:,}")
        if count == 0:
            raise UnreadableFile(name, "no pages")
        _drawn(document, 0, name)
    return count


def page_frame(file: PageFile, page: int, name: str = "") -> Frame:
    """One page, its long side LONG_SIDE_PX. Raises an UnreadableFile."""
    if file.kind == "picture":
        return picture_frame(file.path, name)
    with _document(file.path, name) as document:
        return _drawn(document, page, name)


@contextmanager
def _document(path: Path, name: str) -> Iterator[pypdfium2.PdfDocument]:
    with _pdfium:
        try:
            document = pypdfium2.PdfDocument(path)
        except pypdfium2.PdfiumError as exc:
            if "password" in str(exc).lower():
                raise LockedFile(name) from exc
            raise UnreadableFile(name, "the PDF is damaged") from exc
        try:
            yield document
        finally:
            document.close()


def _drawn(document: pypdfium2.PdfDocument, number: int, name: str) -> Frame:
    try:
        page = document[number]
        width, height = page.get_size()
        if not (width > 0 and height > 0):
            raise UnreadableFile(name, f"page {number + 1} has no size")
        bitmap = page.render(scale=LONG_SIDE_PX / max(width, height))
        frame = frame_from_bgr(_at_least_two(bitmap.to_numpy()[:, :, :3]))
        bitmap.close()
        page.close()
    except pypdfium2.PdfiumError as exc:
        raise UnreadableFile(name, f"page {number + 1} is damaged") from exc
    return frame


def picture_frame(path: Path, name: str) -> Frame:
    """Raises TooManyPixels before anything is decoded, UnreadableFile."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)  # we have a limit of our own
            with Image.open(path, formats=("PNG", "JPEG")) as opened:
                if opened.width * opened.height > MAX_PIXELS:
                    raise TooManyPixels(name, f"{opened.width:,} x {opened.height:,}")
                opened.draft("RGB", (LONG_SIDE_PX, LONG_SIDE_PX))
                opened.thumbnail((LONG_SIDE_PX, LONG_SIDE_PX), Image.Resampling.LANCZOS, reducing_gap=2.0)
                upright = _upright(opened)
                ground = Image.new("RGB", upright.size, "white")
                ground.paste(upright.convert("RGBA"), mask=upright.convert("RGBA").getchannel("A"))
    except Image.DecompressionBombError as exc:
        raise TooManyPixels(name, "more than 180 million") from exc
    except (OSError, SyntaxError, ValueError) as exc:
        if isinstance(exc, UnreadableFile):
            raise
        raise UnreadableFile(name, "the picture is damaged") from exc
    return frame_from_bgr(_at_least_two(np.ascontiguousarray(np.asarray(ground)[:, :, ::-1])))


def _upright(picture: Image.Image) -> Image.Image:
    """Turned as its EXIF data say; what is damaged in them is no damage of the picture."""
    try:
        return ImageOps.exif_transpose(picture)
    except Exception:  # the library raises whatever its readers meet
        picture.info.pop("exif", None)
        return picture


def _at_least_two(picture: np.ndarray) -> np.ndarray:
    """Planes need two pixels each way."""
    rows, columns = max(0, 2 - picture.shape[0]), max(0, 2 - picture.shape[1])
    return np.pad(picture, ((0, rows), (0, columns), (0, 0)), mode="edge") if rows or columns else picture


class PagesSource:
    """The pages of one or several files in a row; one of them is shown."""

    battery: Battery | None = None
    facing: Facing | None = None
    fps = FRAMES_S

    def __init__(self, files: list[PageFile], page: int = 0, draw: Callable[[PageFile, int], Frame] = page_frame) -> None:
        """draw: raises an UnreadableFile."""
        self.files, self._page, self._draw = files, page, draw
        self._made: tuple[int, Frame] | None = None

    @property
    def count(self) -> int:
        return sum(file.pages for file in self.files)

    @property
    def page(self) -> int:
        return max(0, min(self._page, self.count - 1))

    def turn(self, page: int) -> None:
        """Show this page from the next picture on; beyond the ends the first or last one."""
        self._page = page

    def picture(self, now_s: float) -> Frame:
        """Raises ConnectionError when the file is not there any more or cannot be read."""
        page = self.page
        if self._made is None or self._made[0] != page:
            self._made = (page, self._read(page))
        return Frame.of(self._made[1].planes, now_s)

    def _read(self, page: int) -> Frame:
        for file in self.files:
            if page < file.pages:
                try:
                    return self._draw(file, page)
                except (UnreadableFile, OSError) as exc:
                    raise ConnectionError("The file of this page is damaged or gone. Remove it and add it again.") from exc
            page -= file.pages
        raise ConnectionError("There are no pages here any more. Remove it and add them again.")
