"""Which page lies under each camera: its ink comes and goes with it, and a finished one is kept where that is wished."""

import contextlib
from collections.abc import Callable
from typing import TYPE_CHECKING

import cv2
import numpy as np

from cartouche.core.straighten.identity import THUMB, Thumb
from cartouche.core.straighten.known_pages import KnownPages
from cartouche.live.page_keeper import Clean
from cartouche.store import pages_seen, settings
from cartouche.store.errors import CannotSave
from cartouche.store.pages_seen import SeenPage

if TYPE_CHECKING:
    from cartouche.web.state import AppState

AUTO_SHEETS = "auto_sheets"
FINISHED = 0.001  # share of the page that was written on since it was laid there: less is no work that anybody would miss


class PagesSeen:
    def __init__(self, state: "AppState") -> None:
        self._state = state
        self._known: dict[str, KnownPages] = {}
        self.on_finished: Callable[[Clean], object] = lambda went: None

    def take_up(self) -> None:
        """As the open lesson left them."""
        self._known = {}
        if self._state.lesson_id is None:
            return
        for seen in pages_seen.pages(self._state.database, self._state.lesson_id):
            known = self._known.setdefault(seen.device_id, KnownPages(seen.device_id))
            known.thumbs[seen.ground] = _read(seen.thumb)
            if seen.here:
                known.now = seen.ground
        self._state.running.ink.pages = {device_id: known.now for device_id, known in self._known.items()}

    def another(self, device_id: str, before: Thumb | None, now: Thumb, went: Clean | None) -> None:
        """Told by the watcher: a page lies there for the first time, or another one."""
        known = self._known.setdefault(device_id, KnownPages(device_id))
        old = known.now
        if before is None:
            known.begun(now)
        else:
            known.changed(before, now)
        self._state.running.ink.pages = {**self._state.running.ink.pages, device_id: known.now}
        if known.now != old:
            self._state.running.stage.versions.touch("ink")
        lesson_id = self._state.lesson_id
        if lesson_id is not None:
            for ground in {old, known.now}:
                seen = SeenPage(ground, device_id, _written(known.thumbs.get(ground)), ground == known.now)
                pages_seen.keep(self._state.database, lesson_id, seen)
        if went is not None and before is not None:
            self._keep_finished(device_id, went)

    def _keep_finished(self, device_id: str, went: Clean) -> None:
        wished = settings.setting(self._state.database, AUTO_SHEETS) == "on"
        if wished and self._state.running.setup.page_id == device_id and went.written >= FINISHED:
            with contextlib.suppress(CannotSave):  # it waits in memory
                self.on_finished(went)


def _written(thumb: Thumb | None) -> bytes | None:
    if thumb is None:
        return None
    return cv2.imencode(".png", np.clip(thumb + 128, 0, 255).astype(np.uint8))[1].tobytes()


def _read(content: bytes | None) -> Thumb | None:
    picture = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_GRAYSCALE) if content else None
    if picture is None or picture.shape != (int(THUMB.height), int(THUMB.width)):
        return None
    return np.asarray(picture.astype(np.float32) - 128, np.float32)
