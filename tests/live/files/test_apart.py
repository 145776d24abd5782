"""Foreign files that would hang or burst whoever draws them: said in a sentence, and the next file is drawn."""

import threading
import time
from pathlib import Path

import numpy as np
import pytest

from cartouche.live.files import apart
from cartouche.live.files.apart import DrawingRoom
from cartouche.live.files.errors import LockedFile, TooComplicated, UnreadableFile
from cartouche.live.files.pages import PageFile, page_frame
from tests import samples


@pytest.fixture
def room() -> DrawingRoom:
    return DrawingRoom()


@pytest.fixture(autouse=True)
def ended(room: DrawingRoom):  # type: ignore[no-untyped-def]
    yield
    room.interrupt()


def nested(path: Path, deep: int = 40) -> Path:
    """Each form draws the next one twice: two kilobytes that take longer than anybody lives."""
    parts, places = [b"%PDF-1.4\n"], []

    def add(number: int, text: bytes) -> None:
        places.append(sum(len(part) for part in parts))
        parts.append(b"%d 0 obj\n%s\nendobj\n" % (number, text))

    add(1, b"<</Type/Catalog/Pages 2 0 R>>")
    add(2, b"<</Type/Pages/Kids[3 0 R]/Count 1>>")
    add(3, b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 200 200]/Contents 4 0 R/Resources<</XObject<</F 5 0 R>>>>>>")
    add(4, b"<</Length 5>>stream\n/F Do\nendstream")
    for number in range(deep):
        inner = b"/F Do /F Do 0 0 9 9 re f"
        resources = b"/Resources<</XObject<</F %d 0 R>>>>" % (6 + number) if number + 1 < deep else b""
        add(
            5 + number,
            b"<</Type/XObject/Subtype/Form/BBox[0 0 200 200]%s/Length %d>>stream\n%s\nendstream" % (resources, len(inner), inner),
        )
    start = sum(len(part) for part in parts)
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    parts.append(b"xref\n0 %d\n0000000000 65535 f \n%strailer<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF" % (
        len(places) + 1, table, len(places) + 1, start))  # fmt: skip
    path.write_bytes(b"".join(parts))
    return path


def test_it_draws_the_same_as_here(room: DrawingRoom, tmp_path: Path) -> None:
    path = samples.pdf(tmp_path / "three.pdf", 3)
    assert room.count(path, "pdf", "three.pdf") == 3
    there, here = room.draw(PageFile(path, "pdf", 3), 1), page_frame(PageFile(path, "pdf", 3), 1)
    for drawn, wanted in zip(there.planes, here.planes, strict=True):
        assert np.array_equal(drawn, wanted)
    there.y[0, 0] = 7  # its planes are its own


def test_what_is_wrong_with_a_file_is_said_as_here(room: DrawingRoom, tmp_path: Path) -> None:
    broken = tmp_path / "broken.pdf"
    broken.write_bytes(b"%PDF-1.4 nothing more")
    with pytest.raises(UnreadableFile, match=r"broken\.pdf"):
        room.count(broken, "pdf", "broken.pdf")
    with pytest.raises(UnreadableFile):
        room.draw(PageFile(tmp_path / "gone.png", "picture", 1), 0)
    assert issubclass(LockedFile, UnreadableFile)


def test_a_pdf_that_never_ends_is_given_up_and_the_next_is_drawn(
    room: DrawingRoom, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    room.count(samples.pdf(tmp_path / "warm.pdf", 1), "pdf", "warm.pdf")
    monkeypatch.setattr(apart, "DEADLINE_S", 2.0)
    hostile = nested(tmp_path / "nested.pdf")
    assert hostile.stat().st_size < 8000
    begun = time.monotonic()
    with pytest.raises(TooComplicated, match="too complicated to draw"):
        room.count(hostile, "pdf", "nested.pdf")
    assert time.monotonic() - begun < 8
    monkeypatch.undo()
    assert room.count(samples.pdf(tmp_path / "good.pdf", 2), "pdf", "good.pdf") == 2


def test_the_end_of_the_program_waits_for_no_file(room: DrawingRoom, tmp_path: Path) -> None:
    room.count(samples.pdf(tmp_path / "warm.pdf", 1), "pdf", "warm.pdf")
    hostile, told = nested(tmp_path / "nested.pdf"), []

    def draw() -> None:
        with pytest.raises(TooComplicated):
            room.count(hostile, "pdf", "nested.pdf")
        told.append(time.monotonic())

    drawing = threading.Thread(target=draw)
    drawing.start()
    time.sleep(0.6)
    begun = time.monotonic()
    room.interrupt()
    drawing.join(10)
    assert told
    assert told[0] - begun < 2


def test_who_draws_and_dies_is_started_again(room: DrawingRoom, tmp_path: Path) -> None:
    path = samples.pdf(tmp_path / "good.pdf", 2)
    assert room.count(path, "pdf", "good.pdf") == 2
    assert room._process is not None
    room._process.kill()
    room._process.wait()
    assert room.count(path, "pdf", "good.pdf") == 2
