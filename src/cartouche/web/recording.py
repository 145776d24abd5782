"""The open lesson's recording: pressed, marked, kept; made whole when it ends, and mended where it was cut off."""

import contextlib
import logging
import secrets
import threading
import time
from collections import deque
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from cartouche.core.kit.naming import numbered
from cartouche.core.pictures import Size
from cartouche.core.record.chapters import Chapter, Mark, MarkKind, chapters_of, within
from cartouche.live.demand import OUTGOING
from cartouche.live.record.finish import Unreadable, cut_out, finish, length_of
from cartouche.live.record.recorder import Plan, Recorder
from cartouche.store import recordings, settings
from cartouche.store.database import cannot_save
from cartouche.store.errors import StoreError
from cartouche.store.recordings import Piece, Recording
from cartouche.web.errors import NothingLeft, NotPlayable, ShortenedMeanwhile, StillOpen
from cartouche.web.record_copies import Copies

if TYPE_CHECKING:
    from cartouche.web.state import AppState

PIECE_MINUTES, BY_STEP, PAGE = "record_piece_minutes", "record_by_step", "record_page"
SAME_LENGTH_S = 0.05
_log = logging.getLogger(__name__)


@dataclass(eq=False)
class _Take:
    """A recording that runs. kept: of its pieces, what was written down."""

    recording: Recording
    recorder: Recorder
    kept: dict[int, tuple[float, bool]] = field(default_factory=dict)


class _Part(NamedTuple):
    """from_s, to_s: what stays of a piece, in its own time."""

    piece: Piece
    chapters: list[Chapter]
    from_s: float
    to_s: float


class RecordRoom:
    """Presses come under the state's lock; finishing has a thread of its own: it copies files."""

    def __init__(self, state: "AppState") -> None:
        self._state = state
        self._takes: tuple[_Take, ...] = ()  # the first is of what goes out, a second one of the page alone
        self._page_waits = ""  # the name of the film that is begun as soon as a page is seen
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="finish")
        self.copies = Copies(self._recorded, lambda: OUTGOING in state.running.demand.surfaces)
        self._unsettled: deque[tuple[Recording, recordings.State]] = deque()
        self._changing = threading.Lock()  # one at a time cuts or deletes what was recorded
        for left in recordings.recordings(state.database):
            if left.state == "open":
                self._pool.submit(self._finish, left, "mended")

    @property
    def current(self) -> Recording | None:
        """Of what goes out."""
        return self._takes[0].recording if self._takes else None

    # how it is cut

    @property
    def piece_minutes(self) -> int | None:
        kept = settings.setting(self._state.database, PIECE_MINUTES)
        return int(kept) if kept else None

    @property
    def by_step(self) -> bool:
        return settings.setting(self._state.database, BY_STEP) == "on"

    @property
    def page_too(self) -> bool:
        """The straightened page alone as a second film."""
        return settings.setting(self._state.database, PAGE) == "on"

    def plan(self, piece_minutes: int | None, by_step: bool, page: bool) -> None:
        settings.set_setting(self._state.database, PIECE_MINUTES, str(piece_minutes or ""))
        settings.set_setting(self._state.database, BY_STEP, "on" if by_step else "")
        settings.set_setting(self._state.database, PAGE, "on" if page else "")
        self._state.running.stage.versions.touch("teach")

    def says(self) -> str:
        """What went wrong with what runs, '' for nothing."""
        running = self._state.running
        if running.recorder.facts.state == "recording" and running.page_recorder.facts.state in ("full", "failed"):
            return "The page’s own film has stopped. What goes out is still recorded."
        return running.recorder.says()

    # presses

    def press(self) -> str:
        """Start, pause, go on: whatever comes next."""
        state = self._state.running.recorder.facts.state
        if state == "recording":
            for take in self._takes:
                take.recorder.pause()
            return "Recording is paused."
        if state == "paused":
            for take in self._takes:
                take.recorder.go_on()
            return ""
        return self._start()

    def _start(self) -> str:
        state, lesson = self._state, self._state.open_lesson()
        self.stop()
        known = {one.name for one in recordings.recordings(state.database, lesson.id)}
        name = numbered(f"{lesson.title}, {time.strftime('%d %B').lstrip('0')}", known)
        try:
            recordings.folder(state.database).mkdir(exist_ok=True)
        except OSError as exc:
            raise cannot_save(exc) from exc
        running = state.running
        self._takes = (self._begin(name, running.recorder, running.desk.size),)
        self._page_waits = numbered(f"{name}, the page", known) if self.page_too else ""
        self._begin_page()
        if running.setup.plate is not None:
            self.mark("plate", running.setup.plate.name)
        alone = self._page_waits and running.setup.page_id is None
        return running.recorder.says() or ("No page is seen, so what goes out is recorded alone." if alone else "")

    def _begin_page(self) -> None:
        """The page's own film, once the page is seen."""
        running = self._state.running
        size = running.page_film.size() if self._page_waits and self._takes else None
        if size is not None and running.recorder.facts.state == "recording":
            name, self._page_waits = self._page_waits, ""
            self._takes += (self._begin(name, running.page_recorder, size),)

    def _begin(self, name: str, recorder: Recorder, size: Size) -> _Take:
        from cartouche.web.state import new_id

        database, minutes = self._state.database, self.piece_minutes
        new = Recording(id=new_id("recording"), lesson_id=self._state.open_lesson().id, name=name, made_at=time.time())
        where = recordings.folder(database)
        recordings.add(database, new)
        recorder.start(Plan(size, lambda number: where / f"{new.id}-{number:02}.mp4", None if minutes is None else 60.0 * minutes))
        return _Take(new, recorder)

    def stop(self) -> str:
        """In good order; what is to be said."""
        ended, self._takes = self._takes, ()
        for take in ended:
            take.recorder.stop()
        for take in ended:
            try:
                self._keep_pieces(take)
            except StoreError as exc:  # the files lie there: they are found when it is made whole
                _log.warning("pieces of a recording were not kept: %s", exc)
            self._pool.submit(self._finish, take.recording, "whole")
        return f"Recorded as “{ended[0].recording.name}”." if ended else "Nothing is being recorded."

    def mark(self, kind: MarkKind, title: str, ref: str = "") -> None:
        """Something happens that a chapter may begin with."""
        for take in self._takes:
            at_s = take.recorder.moment_s()
            if at_s is None:
                continue
            try:
                recordings.add_mark(self._state.database, take.recording.id, Mark(at_s, kind, title, ref))
            except StoreError as exc:  # a mark that is not kept is no reason to stop a press
                _log.warning("a mark was not kept: %s", exc)
            if kind == "step" and self.by_step:
                take.recorder.cut()

    def look_after(self) -> None:
        """Now and then: pieces that have come are kept; what has ended by itself is made whole."""
        with self._state.lock:  # a recorder that another recording was begun with tells its pieces, not this one's
            self._begin_page()
            for _ in range(len(self._unsettled)):
                self._pool.submit(self._finish, *self._unsettled.popleft())
            for take in self._takes:
                self._keep_pieces(take)
                if take.recorder.facts.state in ("full", "failed"):
                    self._takes = tuple(other for other in self._takes if other is not take)
                    self._pool.submit(self._finish, take.recording, "whole")

    def _keep_pieces(self, take: _Take) -> None:
        for piece in take.recorder.facts.pieces:
            if take.kept.get(piece.number) != (piece.at_s, piece.done):
                length = piece.length_s if piece.done else 0.0
                recordings.keep_piece(self._state.database, take.recording.id, Piece(piece.number, piece.path.name, piece.at_s, length))
                take.kept[piece.number] = (piece.at_s, piece.done)

    # made whole

    def _finish(self, one: Recording, state: recordings.State) -> None:
        database, played = self._state.database, 0
        try:
            recordings.adopt(database, one.id, _length)
            for piece, chapters in chapters_by_piece(self._state, one):
                try:
                    length_s = finish(recordings.folder(database) / piece.file, chapters, one.name)
                except (Unreadable, OSError) as exc:  # a full disk: what was written plays as it is
                    _log.warning("a piece of a recording is left as it was: %s", type(exc).__name__)
                    length_s = piece.length_s
                    played -= int(isinstance(exc, Unreadable))
                played += 1
                recordings.keep_piece(database, one.id, piece._replace(length_s=length_s))
            recordings.settle(database, one.id, state if played > 0 else "broken")
        except StoreError as exc:
            _log.warning("a recording could not be settled, it is tried again: %s", exc)
            self._unsettled.append((one, state))
        self._state.running.stage.versions.touch("record", "sheets")

    # what was recorded

    def shorten(self, recording_id: str, from_s: float, to_s: float, of_s: float) -> None:
        """Only this part of one so long stays. Raises NotKept, StillOpen, ShortenedMeanwhile, NothingLeft, NotPlayable, CannotSave:
        all is as it was."""
        database = self._state.database
        with self._changing:
            one = self._whole(recording_id)
            if abs(length_s(recordings.pieces(database, one.id)) - of_s) > SAME_LENGTH_S:
                raise ShortenedMeanwhile  # pressed twice, or from two tabs: the part was chosen of another film
            parts = [
                _Part(piece, chapters, max(from_s - piece.at_s, 0.0), to_s - piece.at_s)
                for piece, chapters in chapters_by_piece(self._state, one)
            ]
            staying = [part for part in parts if part.to_s > 0 and part.from_s < part.piece.length_s]
            if to_s <= from_s or not staying:
                raise NothingLeft
            with contextlib.ExitStack() as unless_kept:
                kept, cut_s = self._cut(one, staying, unless_kept)
                marks = [mark._replace(at_s=max(0.0, mark.at_s - cut_s)) for mark in recordings.marks(database, one.id)]
                recordings.keep_cut(database, one.id, kept, [mark for mark in marks if mark.at_s <= length_s(kept)])
                unless_kept.pop_all()
            self._drop(part.piece for part in parts)
        self._recorded()

    def _cut(self, one: Recording, staying: "list[_Part]", unless_kept: contextlib.ExitStack) -> tuple[list[Piece], float]:
        """In files of their own beside the old ones, and how much of the beginning is gone. unless_kept: takes the new files away."""
        folder, kept, cut_s = recordings.folder(self._state.database), list[Piece](), 0.0
        for piece, chapters, from_s, to_s in staying:
            new = folder / f"{one.id}-{secrets.token_hex(4)}.mp4"
            unless_kept.callback(new.unlink, missing_ok=True)
            try:
                part = cut_out(folder / piece.file, chapters, one.name, new, from_s, to_s)
            except OSError as exc:
                raise cannot_save(exc) from exc
            except Unreadable as exc:
                raise NotPlayable from exc
            cut_s = cut_s if kept else piece.at_s + part.begins_s
            kept.append(piece._replace(file=new.name, at_s=max(0.0, piece.at_s - cut_s), length_s=part.length_s))
        return kept, cut_s

    def delete(self, recording_id: str) -> None:
        """For good. Raises NotKept, StillOpen, CannotSave; then all is as it was."""
        with self._changing:
            one = self._whole(recording_id)
            pieces = recordings.pieces(self._state.database, one.id)
            recordings.forget(self._state.database, one.id)
            self._drop(pieces)
        self._recorded()

    def _whole(self, recording_id: str) -> Recording:
        one = recordings.recording(self._state.database, recording_id)
        if one.state == "open":
            raise StillOpen
        return one

    def _drop(self, pieces: Iterable[Piece]) -> None:
        """Files that nothing speaks of any more. One that is being read just now is gone with the next start, where the system holds it."""
        for piece in pieces:
            path = recordings.folder(self._state.database) / piece.file
            with contextlib.suppress(OSError):
                self.copies.give_up(path)
                path.unlink(missing_ok=True)

    def _recorded(self) -> None:
        self._state.running.stage.versions.touch("record")

    def wait(self) -> None:
        """Until all that was to be made whole is."""
        self._pool.submit(lambda: None).result()

    def close(self) -> None:
        """Stop in good order. Repeatable."""
        self.copies.close()
        self.stop()
        self._pool.shutdown(wait=True)


def _length(path: Path) -> float:
    try:
        return length_of(path)
    except (Unreadable, OSError):
        return 0.0


def length_s(pieces: list[Piece]) -> float:
    return max((piece.at_s + piece.length_s for piece in pieces), default=0.0)


def chapters_by_piece(state: "AppState", one: Recording) -> list[tuple[Piece, list[Chapter]]]:
    """Each piece with the chapters that lie in it, by its own time. A piece that was cut off counts as if it went on."""
    pieces, marks = recordings.pieces(state.database, one.id), recordings.marks(state.database, one.id)
    if not pieces:  # none has been kept yet
        return []
    ends = [*(piece.at_s for piece in pieces[1:]), max(length_s(pieces), *(mark.at_s + 1 for mark in marks), 0.0)]
    chapters = chapters_of(marks, ends[-1])
    return [(piece, within(chapters, piece.at_s, end_s)) for piece, end_s in zip(pieces, ends, strict=True)]
