"""Reads what stands on kept sheets, one by one, once the lesson is over: titles to propose, words to find them by."""

import contextlib
import time

import cv2
import numpy as np

from cartouche.core.reading.heading import heading, words
from cartouche.live.demand import OUTGOING
from cartouche.live.worker import Worker
from cartouche.models import print_reader
from cartouche.store import sheets
from cartouche.store.errors import NotKept
from cartouche.web.sheet_keeping import path_of
from cartouche.web.state import AppState

LOOK_EVERY_S = 3.0
READ_PX = 2400  # longer side: a camera's small print is read when it is enlarged
ASKED_FOR_S = 20.0  # somebody looks at what is left of lessons: it is read even while a picture goes out


class SheetReader:
    """Costs a second or two of one core a sheet."""

    def __init__(self, state: AppState) -> None:
        self._state, self._reader = state, print_reader()
        self._asked_s = -ASKED_FOR_S
        self._worker = Worker("sheet-reader", self._turn, lambda exc: state.running.troubles.report("read", exc))

    def start(self) -> None:
        if self._reader is not None:
            self._worker.start()

    def stop(self) -> None:
        """Repeatable."""
        self._worker.stop()

    def asked(self) -> None:
        self._asked_s = time.monotonic()

    def _turn(self) -> None:
        if not self._worker.wait(LOOK_EVERY_S):
            return
        while not self._worker.stopping and self._may_read() and (sheet := sheets.unread(self._state.database)) is not None:
            self._read(sheet)

    def _may_read(self) -> bool:
        busy = OUTGOING in self._state.running.demand.surfaces
        return not busy or time.monotonic() - self._asked_s < ASKED_FOR_S

    def _read(self, sheet: sheets.Sheet) -> None:
        """A picture that cannot be read counts as empty: it is not tried for ever."""
        picture = cv2.imread(str(path_of(self._state, sheet)), cv2.IMREAD_GRAYSCALE)
        lines, title = [], ""
        if picture is not None and self._reader is not None:
            closer = max(1.0, READ_PX / max(picture.shape))
            large = cv2.resize(picture, None, fx=closer, fy=closer, interpolation=cv2.INTER_CUBIC)
            with self._state.running.troubles.guard("read"):
                lines = self._reader(np.asarray(large, np.uint8))
                title = heading(lines, large.shape[0])
        with self._state.lock, contextlib.suppress(NotKept):  # deleted meanwhile
            now = sheets.sheet(self._state.database, sheet.id)
            if (now.width, now.height) == (sheet.width, sheet.height):  # not turned meanwhile: else it is read again
                sheets.change(self._state.database, sheet.id, read=words(lines), heading=title)
        self._state.running.stage.versions.touch("sheets")
