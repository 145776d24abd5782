"""What comes from outside, damaged at random by a kept seed: each is taken or refused in our own words, and nothing else happens."""

import asyncio
import io
import time
import warnings
from collections import Counter
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from random import Random
from zoneinfo import ZoneInfo

from PIL import Image

from cartouche.core.errors import CartoucheError
from cartouche.core.ink.strokes import Stroke
from cartouche.core.ink.svg import from_svg, to_svg
from cartouche.core.lessons.calendar import read_calendar
from cartouche.core.pictures import Size
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.demo import lesson
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.errors import UndecodablePicture
from cartouche.live.files.apart import DrawingRoom
from cartouche.live.files.clip import ClipSource, look_into
from cartouche.live.files.pages import kind_of, picture_frame
from cartouche.live.troubles import Troubles
from cartouche.live.whip import WhipSession
from cartouche.store import kits
from cartouche.store.database import Database
from cartouche.web import kit_file, plates_file, steps_file
from tests import samples
from tests.helpers import eventually
from tests.live.test_camera_feed import UNITS, message

Told = Counter[str]
NOW = datetime(2026, 11, 28, 8, 0)
CALENDAR = b"\r\n".join(
    (
        b"BEGIN:VCALENDAR", b"VERSION:2.0", b"PRODID:-//Larkmoor//Timetable//EN", b"BEGIN:VEVENT", b"UID:one",
        b"SUMMARY:Reading the ground 9B", b"DTSTART;TZID=Europe/London:20261102T100000", b"DTEND;TZID=Europe/London:20261102T104500",
        b"RRULE:FREQ=WEEKLY;COUNT=20", b"EXDATE;TZID=Europe/London:20261109T100000", b"END:VEVENT", b"END:VCALENDAR", b"",
    )
)  # fmt: skip


def damaged(whole: bytes, random: Random) -> bytes:
    """Some bytes changed, a part cut out, doubled or filled with one value, or the end cut off."""
    content = bytearray(whole)
    for _ in range(random.choice((1, 1, 2, 5, 20))):
        at = random.randrange(len(content))
        length = min(random.choice((1, 1, 4, 60, 600)), len(content) - at)
        match random.randrange(6):
            case 0 | 1:
                content[at] = random.randrange(256)
            case 2:
                content[at] ^= 1 << random.randrange(8)
            case 3:
                content[at : at + length] = bytes([random.choice((0, 255, random.randrange(256)))]) * length
            case 4 if len(content) > length + 16:
                del content[at : at + length]
            case _:
                content[at:at] = content[at : at + length]
    return bytes(content[: random.randrange(8, len(content))] if random.random() < 0.1 else content)


def streams(count: int, seed: int) -> Told:
    """H.264 as a guest sends it; after all of them a whole one is shown at once, by the same thread."""
    random, troubles, came = Random(seed), Troubles(), 0

    def on_frame(*_: object) -> None:
        nonlocal came
        came += 1

    feed = CameraFeed("guest", on_frame, troubles)
    feed.want(True, time.monotonic())
    thread = feed._worker._thread
    for _ in range(count):
        for unit in (UNITS[0], *random.sample(UNITS[1:], 2)):
            content = damaged(message(unit), random)
            try:
                feed.push(content)
            except UndecodablePicture:
                continue
        eventually(feed._items.empty)
    shown = came
    eventually(lambda: [feed.push(message(unit)) for unit in UNITS] and came > shown)
    assert thread.is_alive()
    feed.close()
    told = troubles.now(time.monotonic())
    return Counter(shown=came, troubles=len(told))


def pictures(count: int, seed: int, folder: Path) -> Told:
    random, path, told = Random(seed), folder / "picture", Counter[str]()
    wholes = []
    for kind in ("JPEG", "PNG"):
        whole = io.BytesIO()
        Image.effect_noise((120, 160), 60).convert("RGB").save(whole, kind, **({"progressive": True} if kind == "JPEG" else {}))
        wholes.append(whole.getvalue())
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        for _ in range(count):
            path.write_bytes(damaged(random.choice(wholes), random))
            told[_of(lambda: kind_of(path, "p") == "picture" and picture_frame(path, "p"))] += 1
    return told


def pdfs(count: int, seed: int, folder: Path) -> Told:
    """By the process of their own, which may die of them, and is there for the next."""
    random, path, told = Random(seed), folder / "pages.pdf", Counter[str]()
    whole = samples.pdf(folder / "whole.pdf").read_bytes()
    room = DrawingRoom()
    try:
        for _ in range(count):
            path.write_bytes(damaged(whole, random))
            told[_of(lambda: kind_of(path, "p") == "pdf" and room.count(path, "pdf", "p"))] += 1
        path.write_bytes(whole)
        assert room.count(path, "pdf", "p") >= 1
    finally:
        room.interrupt()
    return told


def clips(count: int, seed: int, folder: Path) -> Told:
    random, path, told = Random(seed), folder / "clip", Counter[str]()
    wholes = [samples.clip(folder / name, seconds=0.6).read_bytes() for name in ("whole.mp4", "whole.webm")]

    def play() -> None:
        source = ClipSource(path, look_into(path, "c"))
        source.play()
        try:
            for step in range(4):
                source.picture(step / 8)
        except ConnectionError:
            told["ended"] += 1
        finally:
            source.close()

    for _ in range(count):
        path.write_bytes(damaged(random.choice(wholes), random))
        told[_of(play)] += 1
    return told


async def offers(count: int, seed: int) -> Told:
    from aiortc import RTCPeerConnection

    sender = RTCPeerConnection()
    sender.addTransceiver("video")
    sender.addTransceiver("audio")
    await sender.setLocalDescription(await sender.createOffer())
    whole, random, told = sender.localDescription.sdp.encode(), Random(seed), Counter[str]()
    await sender.close()
    for _ in range(count):
        feed = CameraFeed("guest", lambda *_: None, Troubles())
        session = WhipSession(feed, lambda *_: None, lambda address: False)
        try:
            await asyncio.wait_for(session.answer(damaged(whole, random).decode("utf-8", "replace")), 20)
            told["taken"] += 1
        except CartoucheError as exc:
            told[type(exc).__name__] += 1
        await session.close()
        feed.close()
    return told


def texts(count: int, seed: int, folder: Path) -> Told:
    """Kits, plates, steps, timetables and ink as files."""
    random, told = Random(seed), Counter[str]()
    database = Database(folder / "texts")
    lesson.fill(database)
    kit = kit_file.exported(database, kits.kits(database)[0].id).model_dump_json().encode()
    database.close()
    plates = plates_file.PlatesFile.model_validate({"plates": list(FIRST_PLATES)}).model_dump_json().encode()
    stroke = Stroke(id="s", points=((1.0, 2.0, 1.0), (30.0, 40.0, 0.5)))
    readers: list[tuple[Callable[[bytes], object], bytes]] = [
        (kit_file.read, kit),
        (plates_file.read, plates),
        (steps_file.read, b'{"format": "cartouche-steps", "version": 1, "steps": [{"id": "s", "name": "Begin", "note": "chalk"}]}'),
        (lambda content: read_calendar(content, NOW, ZoneInfo("Europe/London")), CALENDAR),
        (from_svg, to_svg((stroke,), Size(210, 297), "mm")),
    ]
    for number in range(count):
        read, whole = readers[number % len(readers)]
        told[_of(lambda read=read, whole=whole: read(damaged(whole, random)))] += 1  # type: ignore[misc]
    return told


def _of(work: Callable[[], object]) -> str:
    """'taken', 'other', or the name of our own refusal; whatever else is raised goes on."""
    try:
        return "taken" if work() is not False else "other"
    except CartoucheError as exc:
        return type(exc).__name__
