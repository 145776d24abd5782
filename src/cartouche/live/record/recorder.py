"""Records what goes out, or the page alone: an encoder's packets and the mixer's blocks; no learner's picture or voice comes here."""

import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Size
from cartouche.core.record.room import Room, room
from cartouche.core.record.timeline import Timeline
from cartouche.core.sound.loudness import RATE
from cartouche.disk import free_bytes
from cartouche.live.out.encoder import Packet, PacketTaker
from cartouche.live.record.piece_file import PieceFile
from cartouche.live.sound.mixer import Mixer, SoundClaim
from cartouche.live.troubles import Troubles
from cartouche.live.worker import Worker

MAX_WAITING = 900  # packets and blocks, about ten seconds: a disk that pauses for so long loses pictures
APART = RATE // 100  # samples by which sound may be off its moment before it is put right
LOOK_EVERY_S = 2.0  # at the disk
SOUND_WITHIN_S = 0.5  # a picture waits no longer for its sound
State = Literal["off", "recording", "paused", "full", "failed"]
SAYS: dict[State, str] = {
    "off": "",
    "recording": "",
    "paused": "",
    "full": "The disk is full: recording has stopped in good order. The lesson goes on.",
    "failed": "The disk refused: recording has stopped, what was written is kept. The lesson goes on.",
}


@dataclass(frozen=True)
class Piece:
    """number: from 1.  at_s: where it begins in the recording.  frames, samples: written so far.  done: closed."""

    path: Path
    number: int
    at_s: float
    length_s: float = 0.0
    frames: int = 0
    samples: int = 0
    bytes: int = 0
    done: bool = False


@dataclass(frozen=True)
class RecordFacts:
    """length_s: recorded so far.  lost: pictures that found no room on their way."""

    state: State = "off"
    length_s: float = 0.0
    bytes: int = 0
    pieces: tuple[Piece, ...] = ()
    room: Room | None = None
    lost: int = 0


@dataclass(frozen=True)
class Plan:
    """path_of: where the nth piece lies.  piece_s: how long one is at most; None for one piece."""

    size: Size
    path_of: Callable[[int], Path]
    piece_s: float | None = None


class Taking(Protocol):
    """Held while packets are taken."""

    def request_key(self) -> None: ...

    def release(self) -> None: ...


class Pictures(Protocol):
    """Where encoded pictures come from: the outgoing picture's encodings, or the page's film."""

    def join(self, size: Size, taker: PacketTaker) -> Taking: ...


class Recorder:
    """May be pressed from any thread. `on_change`: the state, or a piece, is another now."""

    def __init__(self, encodings: Pictures, mixer: Mixer, troubles: Troubles, on_change: Callable[[], None]) -> None:
        self._encodings, self._mixer, self._troubles, self._on_change = encodings, mixer, troubles, on_change
        self._lock = threading.RLock()
        self._items: deque[Packet | tuple[NDArray[np.int16], float]] = deque()
        self._taking: tuple[Taking, SoundClaim] | None = None
        self._plan: Plan | None = None
        self._line = Timeline()
        self._file: PieceFile | None = None
        self._sound: deque[tuple[NDArray[np.int16], float]] = deque()  # waits for the picture of its moment
        self._pictures: deque[tuple[Packet, float]] = deque()  # wait for the sound of theirs, since when
        self._heard_to_s = float("-inf")
        self._wants_key = self._wants_cut = False
        self._looked_s, self._lost = 0.0, 0
        self.facts = RecordFacts()
        self._worker = Worker("recorder", self._turn, self._failed)
        self._worker.start()

    # presses

    def start(self, plan: Plan) -> None:
        with self._lock:
            self.stop()
            self._plan, self._line, self._wants_key, self._lost = plan, Timeline(), True, 0
            self._forget()
            self.facts = RecordFacts("recording", room=room(_free(plan), 0, 0.0, int(plan.size.height)))
            if self.facts.room is not None and self.facts.room.verdict == "full":
                self.facts = replace(self.facts, state="full")
            else:
                self._take(plan.size)
        self._on_change()

    def pause(self) -> None:
        with self._lock:
            if self.facts.state == "recording":
                self._drain(all_of_it=True)
                self._line.pause(time.monotonic())
                self._write_out()
            if self.facts.state == "recording":
                self.facts = replace(self._measured(), state="paused")
                self._release()
        self._on_change()

    def go_on(self) -> None:
        with self._lock:
            if self.facts.state == "paused" and self._plan is not None:
                self.facts = replace(self.facts, state="recording")
                self._wants_key = True
                self._take(self._plan.size)
        self._on_change()

    def cut(self) -> None:
        """A new piece begins with the next key picture, which is asked for."""
        with self._lock:
            if self._file is not None and self._taking is not None and not self._wants_cut:
                self._wants_cut = True
                self._taking[0].request_key()

    def stop(self) -> None:
        """In good order; repeatable. What is left open is closed when this returns, also where the disk refuses the last of it."""
        with self._lock:
            if self.facts.state == "off":
                return
            self._drain(all_of_it=True)
            self._line.pause(time.monotonic())
            self._write_out(close=True)
            self._release()
            self.facts = replace(self.facts, state="off")
            self._plan = None
        self._on_change()

    def close(self) -> None:
        """Repeatable."""
        self.stop()
        self._worker.stop()

    def says(self) -> str:
        """What went wrong, '' for nothing."""
        return SAYS[self.facts.state]

    def moment_s(self) -> float | None:
        """Now, in the recording's own time; None while nothing is recorded."""
        with self._lock:
            return None if self._plan is None or self.facts.state not in ("recording", "paused") else self._line.length_s(time.monotonic())

    # what comes

    def _take(self, size: Size) -> None:
        self._taking = (self._encodings.join(size, self._picture_came), self._mixer.claim(self._sound_came))

    def _release(self) -> None:
        taking, self._taking = self._taking, None
        for one in taking or ():
            one.release()

    def _picture_came(self, packet: Packet) -> None:
        """On the encoder's thread."""
        if len(self._items) >= MAX_WAITING:
            self._lost += 1  # told with the next look: the worker alone writes the facts
            self._wants_key = True
            return
        self._items.append(packet)
        self._worker.wake()

    def _sound_came(self, block: NDArray[np.int16], captured_s: float) -> None:
        """On the mixer's thread; what finds no room becomes silence."""
        if len(self._items) < MAX_WAITING:
            self._items.append((block.copy(), captured_s))

    # the worker

    def _turn(self) -> None:
        if not self._worker.wait(LOOK_EVERY_S, lambda: bool(self._items)):
            return
        with self._lock:
            self._drain()
            if self._plan is not None and self.facts.state == "recording":
                self._look_at_the_disk()

    def _drain(self, *, all_of_it: bool = False) -> None:
        """Pictures in their order, each once the sound up to its moment has come: what is cut there then has all of it."""
        try:
            while self._items:
                item = self._items.popleft()
                if isinstance(item, Packet):
                    self._pictures.append((item, time.monotonic()))
                else:
                    self._sound.append(item)
                    self._heard_to_s = item[1] + item[0].size / RATE
            while self._pictures:
                packet, since_s = self._pictures[0]
                if not all_of_it and packet.captured_s > self._heard_to_s and time.monotonic() - since_s < SOUND_WITHIN_S:
                    break
                self._pictures.popleft()
                self._picture(packet)
        except (OSError, ValueError) as exc:
            self._failed(exc)

    def _forget(self) -> None:
        for waiting in (self._items, self._sound, self._pictures):
            waiting.clear()  # type: ignore[attr-defined]
        self._heard_to_s = float("-inf")

    def _picture(self, packet: Packet) -> None:
        if self._plan is None or self.facts.state != "recording":
            return
        if self._wants_key and not packet.key:
            if self._taking is not None:
                self._taking[0].request_key()
            return
        if self._wants_key:
            self._wants_key = False
            self._line.go_on(packet.captured_s)
        at_s = self._line.at(packet.captured_s)
        if at_s is None:
            return
        if packet.key and self._file is not None and self._is_due(at_s):
            self._flush_sound(packet.captured_s)
            self._close()
        if self._file is None:
            self._open(at_s)
        assert self._file is not None
        self._flush_sound(packet.captured_s)
        self._file.picture(packet.data, packet.key, at_s - self._piece.at_s)

    def _is_due(self, at_s: float) -> bool:
        assert self._plan is not None
        due = self._wants_cut or (self._plan.piece_s is not None and at_s - self._piece.at_s >= self._plan.piece_s)
        self._wants_cut = False
        return due

    @property
    def _piece(self) -> Piece:
        return self.facts.pieces[-1]

    def _open(self, at_s: float) -> None:
        assert self._plan is not None
        number = len(self.facts.pieces) + 1
        path = self._plan.path_of(number)
        path.parent.mkdir(parents=True, exist_ok=True)
        self._file = PieceFile(path, self._plan.size)
        self.facts = replace(self.facts, pieces=(*self.facts.pieces, Piece(path, number, at_s)))
        self._on_change()

    def _flush_sound(self, until_s: float) -> None:
        """Sound up to a moment of capture, each sample at its own; where there is none, silence."""
        while self._sound and self._sound[0][1] < until_s:
            block, captured_s = self._sound.popleft()
            count = block.size if until_s == float("inf") else round((until_s - captured_s) * RATE)
            self._place(block[:count], captured_s)
            if count < block.size:
                self._sound.appendleft((block[count:], captured_s + count / RATE))
                break

    def _write_out(self, *, close: bool = False) -> None:
        """All that has come. A disk that refuses it ends the recording, not the press."""
        try:
            self._flush_sound(float("inf"))
            if close:
                self._close()
        except (OSError, ValueError) as exc:
            self._failed(exc)

    def _place(self, block: NDArray[np.int16], captured_s: float) -> None:
        at_s = self._line.at(captured_s)
        if at_s is None or self._file is None or not block.size:
            return
        off = round((at_s - self._piece.at_s) * RATE) - self._file.samples
        if off < -APART:
            block = block[-off:]
        elif off > APART:
            block = np.concatenate([np.zeros(off, np.int16), block])
        if block.size:
            self._file.sound(block)

    def _look_at_the_disk(self) -> None:
        now_s = time.monotonic()
        if now_s - self._looked_s < LOOK_EVERY_S:
            return
        self._looked_s, self.facts = now_s, self._measured()
        if self.facts.room is not None and self.facts.room.verdict == "full":
            self._end("full")

    def _measured(self) -> RecordFacts:
        length_s, pieces = self._line.length_s(time.monotonic()), self.facts.pieces
        if self._file is not None:
            file = self._file
            newest = replace(
                self._piece, frames=file.frames, samples=file.samples, bytes=file.size_bytes(), length_s=length_s - self._piece.at_s
            )
            pieces = (*pieces[:-1], newest)
        written = sum(piece.bytes for piece in pieces)
        height = int(self._plan.size.height) if self._plan is not None else 720
        left = room(_free(self._plan), written, length_s, height) if self._plan is not None else None
        return replace(self.facts, length_s=length_s, bytes=written, pieces=pieces, room=left, lost=self._lost)

    def _close(self) -> None:
        if self._file is None:
            return
        file = self._file
        self.facts = self._measured()
        self._file = None
        try:
            file.close()
        finally:
            done = replace(self._piece, frames=file.frames, samples=file.samples, bytes=file.size_bytes(), done=True)
            self.facts = replace(self.facts, pieces=(*self.facts.pieces[:-1], done))
        self._on_change()

    def _end(self, state: State) -> None:
        """By itself: what was written is closed, and it is said why."""
        self._line.pause(time.monotonic())
        self._release()
        self._forget()
        try:
            self._close()
        except (OSError, ValueError) as exc:
            self._troubles.report("record", exc)
        self.facts = replace(self.facts, state=state)
        self._on_change()

    def _failed(self, exc: Exception) -> None:
        """Whatever happens here ends the recording alone."""
        with self._lock:
            self._troubles.report("record", exc)
            self._end("failed")


def _free(plan: Plan) -> int:
    folder = plan.path_of(1).parent
    while not folder.exists() and folder != folder.parent:
        folder = folder.parent
    return free_bytes(folder)
