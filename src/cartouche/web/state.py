"""What the routers share: the store and the running lesson, and bringing the one into the other."""

import secrets
import threading
from collections.abc import Callable, Mapping
from datetime import datetime
from typing import cast

import numpy as np
from fastapi import Request, WebSocket

from cartouche.core.ink.strokes import Ink
from cartouche.core.kit.naming import numbered
from cartouche.core.plates.model import Plate
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.reading.advice import Advice
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.core.straighten.gate import require_drawable
from cartouche.core.straighten.glide import FRAME_S
from cartouche.core.straighten.rigs import rig_named
from cartouche.live.errors import NoLessonOpen
from cartouche.live.files.apart import ROOM
from cartouche.live.running import SIZES, RunningLesson
from cartouche.live.source import PictureSource
from cartouche.live.stage import NOTHING_OPEN, Opened
from cartouche.store import chains, ink, kits, lessons, plates, recordings, settings, sheets, teaching, ways
from cartouche.store.database import Database
from cartouche.store.errors import NotKept
from cartouche.store.kits import Device, Kit
from cartouche.store.lessons import Lesson
from cartouche.store.sheets import Sheet
from cartouche.store.sound import sound_kit
from cartouche.web import hold_file, zips
from cartouche.web.errors import AtTheEnd
from cartouche.web.pages_seen import PagesSeen
from cartouche.web.recording import RecordRoom
from cartouche.web.sights import Sights
from cartouche.web.sources import Sources

FIRST_LESSON, FIRST_CLASS = "My lesson", "My class"
FIRST_KIT, FIRST_ROOM = "My kit", "My room"


class AppState:
    """One process, one open lesson."""

    def __init__(self, database: Database, running: RunningLesson, bench: Mapping[str, Callable[[], PictureSource]]) -> None:
        self.database, self.running = database, running
        self.sources = Sources(database, running, bench)
        self._camera_turn: dict[str, int] = {}
        self.sights = Sights()
        self._found: dict[str, tuple[object, float]] = {}  # corners that were found, and how sure that is
        self.advised: tuple[tuple[object, ...], list[Advice]] = ((), [])  # what would help small print, and for which situation
        self.lesson_id: str | None = None
        self.unwritten: list[tuple[Sheet, np.ndarray]] = []  # kept sheets that found no room on the disk
        self.pages = PagesSeen(self)
        running.watcher.on_page.append(self.pages.another)
        self.presses: dict[str, str] = {}  # of remotes, and what was said of each: one that is sent again counts once
        self.displaced: tuple[str, str] | None = None  # the outgoing plate that was deleted, and the one that took its place
        self.lock = threading.RLock()  # routes run on a pool: what is stored and what runs must change together
        size = settings.setting(database, "outgoing_size")
        if size in SIZES:
            running.resize(SIZES[size])
        lessons.purge(database)
        sheets.sweep(database)
        recordings.sweep(database)
        zips.sweep(database.path.parent)
        self.recording = RecordRoom(self)
        self.reopen()

    # what is open

    def lesson(self) -> Lesson | None:
        """The open one, if any."""
        lesson_id = settings.setting(self.database, "lesson")
        try:
            return lessons.lesson(self.database, lesson_id) if lesson_id else None
        except NotKept:
            return None

    def open_lesson(self) -> Lesson:
        """Raises NoLessonOpen."""
        lesson = self.lesson()
        if lesson is None:
            raise NoLessonOpen
        return lesson

    def ensure_lesson(self) -> Lesson:
        """The open one; with nothing kept, a first one comes into being by whatever is pressed first."""
        with self.lock:
            lesson = self.lesson()
            if lesson is not None:
                return lesson
            known = kits.kits(self.database)
            starts = datetime.now().strftime("%H:%M")
            kit_id = known[0].id if known else None
            first = Lesson(
                id=new_id("lesson"), kit_id=kit_id, title=FIRST_LESSON, class_name=FIRST_CLASS, starts=starts, plate_id=FIRST_PLATES[0].id
            )
            return self.add_lesson(first)

    def ensure_kit(self) -> str:
        """The id of the open lesson's kit; a first one where it has none."""
        with self.lock:
            lesson = self.ensure_lesson()
            if lesson.kit_id is not None:
                return lesson.kit_id
            kit = Kit(id=new_id("kit"), name=FIRST_KIT, room=FIRST_ROOM)
            kits.add_kit(self.database, kit)
            lessons.use_kit(self.database, lesson.id, kit.id)
            self.reopen()
            return kit.id

    def add_lesson(self, lesson: Lesson, kept: tuple[Plate, ...] = FIRST_PLATES) -> Lesson:
        """With these plates; opened where none is open."""
        with self.lock:
            lessons.add_lesson(self.database, lesson)
            plates.settle(self.database, lesson.id, kept)
            if self.lesson() is None:
                self.take_lesson(lesson.id)
            self.running.stage.versions.touch("lesson")
        return lesson

    def take_lesson(self, lesson_id: str | None) -> None:
        """Open this one, or none."""
        with self.lock:
            if self.recording.current is not None and self.recording.current.lesson_id != lesson_id:
                self.recording.stop()  # a recording belongs to one lesson
            settings.set_setting(self.database, "lesson", lesson_id or "")
            self.reopen()

    def kit_id(self) -> str | None:
        lesson = self.lesson()
        return lesson.kit_id if lesson else None

    def devices(self) -> list[Device]:
        """Of the open lesson's kit; none where there is none."""
        kit_id = self.kit_id()
        return kits.devices(self.database, kit_id) if kit_id else []

    def device(self, device_id: str) -> Device:
        """A device of the open lesson's kit. Raises NotKept."""
        found = kits.device(self.database, device_id)
        if found.kit_id != self.kit_id():
            raise NotKept("device", device_id)
        return found

    def plates(self) -> tuple[Plate, ...]:
        lesson = self.lesson()
        return plates.current(self.database, lesson.id).plates if lesson else ()

    def outgoing_plate(self, lesson: Lesson, plates: tuple[Plate, ...]) -> Plate | None:
        return next((plate for plate in plates if plate.id == lesson.plate_id), plates[0] if plates else None)

    # changing it

    def put_on(self, plate: Plate) -> None:
        """This plate goes out from now on, and after a new start too."""
        with self.lock:
            self.displaced = None
            if plate.id != (self.running.setup.plate.id if self.running.setup.plate is not None else None):
                self.recording.mark("plate", plate.name)
            self.running.stage.put_on(plate)
            lessons.put_plate_on(self.database, self.open_lesson().id, plate.id)

    def reopen(self) -> None:
        """Bring what is kept into the running lesson: devices, chains, plates. What is the same stays as it runs."""
        with self.lock:
            lesson, before = self.lesson(), self.lesson_id
            self.lesson_id = lesson.id if lesson else None
            devices = kits.devices(self.database, lesson.kit_id) if lesson and lesson.kit_id else []
            self.sources.settle(devices)
            if lesson and lesson.kit_id:
                self.running.sound.declare(sound_kit(self.database, lesson.kit_id))
            self.running.serve(ways.viewers_of(self.database, lesson.class_name if lesson else ""), ways.call_kind(self.database))
            if lesson is None:
                self.running.stage.reopen(NOTHING_OPEN)
                self._take_up_tools(before)
                return
            kept = plates.current(self.database, lesson.id).plates
            self.running.stage.reopen(
                Opened(
                    plate=self.outgoing_plate(lesson, kept),
                    plates=kept,
                    roles={device.serves: device.id for device in devices if device.serves},
                    chains={device.id: chains.current(self.database, device.id).chain for device in devices},
                    mirrors={device.id: rig_named(device.rig).mirrors for device in devices},
                )
            )
            self._take_up_tools(before)

    def _take_up_tools(self, before: str | None) -> None:
        """Of another lesson than the one before: its timer, its hold."""
        if self.lesson_id == before:
            return
        kept = teaching.kept(self.database, self.lesson_id) if self.lesson_id else teaching.FIRST
        held = hold_file.kept(self.database, self.lesson_id) if self.lesson_id else None
        holds = {held[0]: held[1]} if held is not None and held[0] in {device.id for device in self.devices()} else {}
        self.running.stage.take_tools(kept.timer, kept.auto_hold, kept.follow_pen, holds)
        self.pages.take_up()
        strokes = ink.inks(self.database, self.lesson_id) if self.lesson_id else {}
        self.running.ink.take_up({ground: Ink(drawn) for ground, drawn in strokes.items()})

    def turn_page(self, device_id: str, page: int | None = None, by: int = 0) -> None:
        """Show this page of a file, or one so many on; kept. Raises AtTheEnd where it is shown already."""
        with self.lock:
            pages = self.sources.pages(self.device(device_id).id)
            before = pages.page
            pages.turn(max(0, (before if page is None else page) + by))
            if by and pages.page == before:
                raise AtTheEnd("the last page" if by > 0 else "the first page")
            kits.update_device(self.database, device_id, page=pages.page)
            self.sources.hurry(device_id)
            self.running.stage.versions.touch("kit")

    def add_device(self, device: Device, chain: Chain) -> Device:
        with self.lock:
            require_drawable(chain, None)
            device = device.model_copy(update={"name": self.free_name(device)})
            kits.add_device(self.database, device)
            chains.settle(self.database, device.id, chain)
            self.reopen()
        return device

    def free_name(self, device: Device) -> str:
        """Its name, numbered where another device of its kit has it."""
        return numbered(device.name, {other.name for other in kits.devices(self.database, device.kit_id)})

    def chain(self, device_id: str) -> Chain:
        """The chain in force, settled or still under a hand."""
        running = self.running.setup.chains.get(device_id)
        return running if running is not None else chains.current(self.database, device_id).chain

    def remember_found(self, device_id: str, chain: Chain, confidence: float) -> None:
        self._found[device_id] = (chain.square.corners, confidence)

    def found_confidence(self, device_id: str, chain: Chain) -> float | None:
        """How sure the finder was of these corners; None where they are not the ones that it found."""
        corners, confidence = self._found.get(device_id, (None, None))
        return confidence if chain.square.on and corners == chain.square.corners else None

    def settle_chain(self, device_id: str, chain: Chain, glide_s: float = 0.0) -> None:
        """In force and kept. Raises DegenerateCorners, and then it is neither."""
        with self.lock:
            self.running.stage.correct(device_id, chain, glide_s)
            chains.settle(self.database, device_id, chain)
            self.running.stage.mark_stored(device_id, chain)

    def frame(self, device_id: str, link: FrameLink, glide_s: float = FRAME_S) -> None:
        """Its page is looked at like this from now on; no step to undo. Raises DegenerateCorners."""
        with self.lock:
            chain = self.chain(device_id).model_copy(update={"frame": link})
            self.running.stage.correct(device_id, chain, glide_s)
            chains.amend(self.database, device_id, chain)
            self.running.stage.mark_stored(device_id, chain)

    def step_chain(self, device_id: str, step: Callable[[Database, str], None]) -> None:
        """Undo or redo: what is then kept is in force, as far as it can be drawn."""
        with self.lock:
            step(self.database, self.device(device_id).id)
            self.running.stage.take_kept(device_id, chains.current(self.database, device_id).chain)

    def take_camera(self, device_id: str) -> int:
        """The turn of a new sender of this camera; an older one finds its own turn out of date."""
        self._camera_turn[device_id] = self._camera_turn.get(device_id, 0) + 1
        return self._camera_turn[device_id]

    def holds_camera(self, device_id: str, turn: int) -> bool:
        return self._camera_turn.get(device_id) == turn

    def close(self) -> None:
        ROOM.interrupt()  # a file that is still being drawn does not hold up the end
        self.recording.close()
        self.running.close()
        self.database.close()


def new_id(prefix: str) -> str:
    return f"{prefix}-{secrets.token_hex(4)}"


def app_state(request: Request) -> AppState:
    return cast(AppState, request.app.state.cartouche)


def socket_state(socket: WebSocket) -> AppState:
    return cast(AppState, socket.app.state.cartouche)
