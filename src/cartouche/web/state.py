"""What the routers share: the store and the running lesson, and bringing the one into the other."""

import secrets
import threading
from collections.abc import Callable, Mapping
from typing import cast

from fastapi import Request, WebSocket

from cartouche.core.plates.model import Plate
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.rigs import rig_named
from cartouche.live.errors import NoLessonOpen
from cartouche.live.running import SIZES, RunningLesson
from cartouche.live.source import PictureSource
from cartouche.store import chains, kits, lessons, plates, settings
from cartouche.store.database import Database
from cartouche.store.errors import NotKept
from cartouche.store.kits import Device
from cartouche.store.lessons import Lesson
from cartouche.web.sources import Sources


class AppState:
    """One process, one open lesson."""

    def __init__(self, database: Database, running: RunningLesson, bench: Mapping[str, Callable[[], PictureSource]]) -> None:
        self.database, self.running = database, running
        self.sources = Sources(database, running, bench)
        self._camera_turn: dict[str, int] = {}
        self.lesson_id: str | None = None
        self.windows = 0  # open outgoing windows
        self.lock = threading.RLock()  # routes run on a pool: what is stored and what runs must change together
        size = settings.setting(database, "outgoing_size")
        if size in SIZES:
            running.resize(SIZES[size])
        self.reopen()

    def open_lesson(self) -> Lesson:
        """Raises NoLessonOpen."""
        lesson_id = settings.setting(self.database, "lesson")
        if lesson_id is None:
            raise NoLessonOpen
        return lessons.lesson(self.database, lesson_id)

    def devices(self) -> list[Device]:
        return kits.devices(self.database, self.open_lesson().kit_id)

    def device(self, device_id: str) -> Device:
        """A device of the open lesson's kit. Raises NotKept."""
        found = kits.device(self.database, device_id)
        if found.kit_id != self.open_lesson().kit_id:
            raise NotKept("device", device_id)
        return found

    def plates(self) -> tuple[Plate, ...]:
        return plates.current(self.database, self.open_lesson().id).plates

    def plate_on(self, lesson: Lesson, plates: tuple[Plate, ...]) -> Plate | None:
        return next((plate for plate in plates if plate.id == lesson.plate_id), plates[0] if plates else None)

    def put_on(self, plate: Plate) -> None:
        """This plate goes out from now on, and after a new start too."""
        with self.lock:
            self.running.put_on(plate)
            lessons.put_plate_on(self.database, self.open_lesson().id, plate.id)

    def reopen(self) -> None:
        """Bring what is kept into the running lesson: devices, chains, plate."""
        with self.lock:
            try:
                lesson = self.open_lesson()
                self.lesson_id = lesson.id
            except (NoLessonOpen, NotKept):
                self.lesson_id = None
                self.running.show(None, {}, {}, {})
                return
            devices = kits.devices(self.database, lesson.kit_id)
            self.sources.settle(devices)
            kept = plates.current(self.database, lesson.id).plates
            self.running.plates = {plate.id: plate for plate in kept}
            self.running.show(
                self.plate_on(lesson, kept),
                {device.serves: device.id for device in devices if device.serves},
                {device.id: chains.current(self.database, device.id).chain for device in devices},
                {device.id: rig_named(device.rig).mirrors for device in devices},
            )

    def chain(self, device_id: str) -> Chain:
        """The chain in force, settled or still under a hand."""
        running = self.running.setup.chains.get(device_id)
        return running if running is not None else chains.current(self.database, device_id).chain

    def settle_chain(self, device_id: str, chain: Chain, glide_s: float = 0.0) -> None:
        with self.lock:
            self.running.correct(device_id, chain, glide_s)
            chains.settle(self.database, device_id, chain)

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
