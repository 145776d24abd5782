"""What the routers share: the store and the running lesson, and bringing the one into the other."""

import secrets
import threading
from collections.abc import Callable, Mapping
from datetime import datetime
from typing import cast

from fastapi import Request, WebSocket

from cartouche.core.kit.naming import numbered
from cartouche.core.plates.model import Plate
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.gate import require_drawable
from cartouche.core.straighten.rigs import rig_named
from cartouche.live.errors import NoLessonOpen
from cartouche.live.running import SIZES, RunningLesson
from cartouche.live.source import PictureSource
from cartouche.live.stage import NOTHING_OPEN, Opened
from cartouche.store import chains, kits, lessons, plates, settings
from cartouche.store.database import Database
from cartouche.store.errors import NotKept
from cartouche.store.kits import Device, Kit
from cartouche.store.lessons import Lesson
from cartouche.store.sound import sound_kit
from cartouche.web.sources import Sources

FIRST_LESSON, FIRST_CLASS = "My lesson", "My class"
FIRST_KIT, FIRST_ROOM = "My kit", "My room"


class AppState:
    """One process, one open lesson."""

    def __init__(self, database: Database, running: RunningLesson, bench: Mapping[str, Callable[[], PictureSource]]) -> None:
        self.database, self.running = database, running
        self.sources = Sources(database, running, bench)
        self._camera_turn: dict[str, int] = {}
        self.lesson_id: str | None = None
        self.displaced: tuple[str, str] | None = None  # the outgoing plate that was deleted, and the one that took its place
        self.lock = threading.RLock()  # routes run on a pool: what is stored and what runs must change together
        size = settings.setting(database, "outgoing_size")
        if size in SIZES:
            running.resize(SIZES[size])
        lessons.purge(database)
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
            return self.add_lesson(FIRST_LESSON, FIRST_CLASS, starts, known[0].id if known else None)

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

    def add_lesson(self, title: str, class_name: str, starts: str, kit_id: str | None) -> Lesson:
        """With the first plates; opened where none is open."""
        lesson = Lesson(id=new_id("lesson"), kit_id=kit_id, title=title, class_name=class_name, starts=starts, plate_id=FIRST_PLATES[0].id)
        with self.lock:
            lessons.add_lesson(self.database, lesson)
            plates.settle(self.database, lesson.id, FIRST_PLATES)
            if self.lesson() is None:
                self.take_lesson(lesson.id)
            self.running.stage.versions.touch("lesson")
        return lesson

    def take_lesson(self, lesson_id: str | None) -> None:
        """Open this one, or none."""
        with self.lock:
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
            self.running.stage.put_on(plate)
            lessons.put_plate_on(self.database, self.open_lesson().id, plate.id)

    def reopen(self) -> None:
        """Bring what is kept into the running lesson: devices, chains, plates. What is the same stays as it runs."""
        with self.lock:
            lesson = self.lesson()
            self.lesson_id = lesson.id if lesson else None
            devices = kits.devices(self.database, lesson.kit_id) if lesson and lesson.kit_id else []
            self.sources.settle(devices)
            if lesson and lesson.kit_id:
                self.running.sound.declare(sound_kit(self.database, lesson.kit_id))
            if lesson is None:
                self.running.stage.reopen(NOTHING_OPEN)
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

    def settle_chain(self, device_id: str, chain: Chain, glide_s: float = 0.0) -> None:
        """In force and kept. Raises DegenerateCorners, and then it is neither."""
        with self.lock:
            self.running.stage.correct(device_id, chain, glide_s)
            chains.settle(self.database, device_id, chain)
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
        self.running.close()
        self.database.close()


def new_id(prefix: str) -> str:
    return f"{prefix}-{secrets.token_hex(4)}"


def app_state(request: Request) -> AppState:
    return cast(AppState, request.app.state.cartouche)


def socket_state(socket: WebSocket) -> AppState:
    return cast(AppState, socket.app.state.cartouche)
