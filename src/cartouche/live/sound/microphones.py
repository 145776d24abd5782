"""The microphones that are looked at or open: their newest seconds, and which one is open. Sound stays apart from pictures."""

import threading
import time
from collections.abc import Callable, Collection
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.sound.hearing import Hearing
from cartouche.core.sound.howl import Howl
from cartouche.core.sound.loudness import RATE, SILENCE_LUFS, peak_db
from cartouche.core.sound.pairs import Pair, same_room
from cartouche.core.sound.probe import PERIOD, PERIODS, Heard, heard
from cartouche.live.sound.incoming import METER, Incoming, Kind, SpeechNet

MAX_BLOCK = RATE // 5  # more at once is no sound that a browser sends
MAX_MICROPHONES = 16
PAIRED_S = 4.0
LOOKED_FOR_S = 2.0
SPOKEN = 0.3  # share of the time: two microphones are compared while somebody speaks


class MicrophoneFacts(NamedTuple):
    """here: sound comes in.  open: learners hear it.  level_db: largest sample of the newest moment, dBFS.  howls_hz: None for no howl.

    ppm: how much faster than ours its clock runs.
    """

    id: str
    label: str
    kind: Kind
    here: bool
    open: bool
    level_db: float
    heard: Hearing | None
    howls_hz: float | None
    lost_blocks: int
    ppm: float


class Microphones:
    """`take` is called by whoever brings the sound, `facts` by whoever looks: what nobody looks at is not worked out."""

    def __init__(self, speech: Callable[[], SpeechNet]) -> None:
        self._speech, self._lock, self._judging = speech, threading.RLock(), threading.Lock()
        self._by_id: dict[str, Incoming] = {}
        self._howls: dict[str, Howl] = {}
        self.open_ids: tuple[str, ...] = ()  # the one, and a guest's beside it where that was asked for
        self.last_open: str | None = None
        self.closes_howls = True
        self.closed_for_howl: str | None = None  # name of the one that was closed because it howled
        self._looked_s = float("-inf")
        self.on_change: list[Callable[[], None]] = []

    @property
    def opened(self) -> tuple[str, str] | None:
        """Id and label of the open one; None while all are closed."""
        one = next((self._by_id[id_] for id_ in self.open_ids if id_ in self._by_id), None)
        return (one.id, one.label) if one is not None else None

    @property
    def ids(self) -> tuple[str, ...]:
        return tuple(self._by_id)

    def join(self, microphone_id: str, label: str, kind: Kind = "here", sender: object = None) -> bool:
        """It may send. False where there are too many. sender: of several of the same microphone (two tabs) the newest is taken."""
        with self._lock:
            known = self._by_id.get(microphone_id)
            if known is None and len(self._by_id) >= MAX_MICROPHONES:
                return False
            if known is None:
                self._by_id[microphone_id] = Incoming(microphone_id, label, self._speech(), kind)
                self._howls[microphone_id] = Howl()
            self._by_id[microphone_id].senders.append(sender)
        self._tell()
        return True

    def reopen(self, microphone_id: str, label: str) -> None:
        """A phone that was open comes back by another connection; not where another has been opened meanwhile."""
        if self.join(microphone_id, label, kind="phone") and not self.open_ids:
            self.open(microphone_id)

    def leave(self, microphone_id: str, sender: object = None) -> None:
        """Repeatable."""
        with self._lock:
            one = self._by_id.get(microphone_id)
            if one is not None and sender is not None:
                one.senders = [other for other in one.senders if other is not sender]
                if one.senders:
                    return
            self._by_id.pop(microphone_id, None)
            self._howls.pop(microphone_id, None)
            self.open_ids = tuple(one for one in self.open_ids if one != microphone_id)
        self._tell()

    def open(self, microphone_id: str | None, *, beside: bool = False) -> None:
        """This one and no other; None closes all. beside: the one that is open stays so. Raises KeyError for one that is not here."""
        with self._lock:
            if microphone_id is not None and microphone_id not in self._by_id:
                raise KeyError(microphone_id)
            kept = self.open_ids[:1] if beside else ()
            self.open_ids = () if microphone_id is None else (*(one for one in kept if one != microphone_id), microphone_id)
            self.closed_for_howl = None
            self.last_open = microphone_id or self.last_open
        self._tell()

    def take(self, microphone_id: str, first: int, block: NDArray[np.int16], now_s: float, sender: object = None) -> None:
        """first: number of the block's first sample by the device's own count.  block: (n,) mono at RATE."""
        one = self._by_id.get(microphone_id)
        if one is None or one.senders[-1:] != [sender]:  # empty where it leaves at this moment
            return
        is_open = microphone_id in self.open_ids
        one.take(first, block, now_s, tracked=is_open)
        if is_open:
            self._listen_for_howl(one)

    def _listen_for_howl(self, one: Incoming) -> None:
        howl = self._howls.get(one.id)
        if howl is None:
            return
        was = howl.hz
        for piece in one.pieces_for_howl():
            howl.take(piece)
        if howl.hz is not None and was is None:
            if self.closes_howls:
                self.open(None)
                self.closed_for_howl = one.label
            self._tell()

    def wanted(self, now_s: float, ids: Collection[str]) -> bool:
        """Whether somebody looks, or one of these is open."""
        return now_s - self._looked_s < LOOKED_FOR_S or any(one in ids for one in self.open_ids)

    def tracks(self) -> list[Incoming]:
        """Of the open ones, for the mixer."""
        return [one for id_ in self.open_ids if (one := self._by_id.get(id_)) is not None]

    def facts(self, now_s: float | None = None, closed_too: bool = True) -> list[MicrophoneFacts]:
        """closed_too: those that are not open are judged as well, which costs as much for each."""
        now_s = time.monotonic() if now_s is None else now_s
        self._looked_s = now_s
        if self._judging.acquire(blocking=False):  # while another judges, what is known is told at once
            try:
                for one in tuple(self._by_id.values()):
                    if closed_too or one.id in self.open_ids:
                        one.judge_if_due(now_s)
            finally:
                self._judging.release()
        return [self._facts(one, now_s) for one in tuple(self._by_id.values())]

    def _facts(self, one: Incoming, now_s: float) -> MicrophoneFacts:
        here = one.is_here(now_s)
        howl = self._howls.get(one.id)
        return MicrophoneFacts(
            one.id,
            one.label,
            one.kind,
            here,
            one.id in self.open_ids,
            peak_db(one.newest(METER)) if here else SILENCE_LUFS,
            one.heard if here else None,
            howl.hz if howl is not None else None,
            one.track.lost_blocks,
            one.track.ppm,
        )

    def pairs(self, now_s: float) -> dict[tuple[str, str], Pair]:
        """Of those that are here while somebody speaks: which two hear one room, by their ids in order."""
        count = int(PAIRED_S * RATE)
        spoken = {
            one.id: one.newest(count)
            for one in tuple(self._by_id.values())
            if one.is_here(now_s) and one.heard is not None and one.heard.voice > SPOKEN
        }
        ids = sorted(spoken)
        return {(a, b): same_room(spoken[a], spoken[b]) for number, a in enumerate(ids) for b in ids[number + 1 :]}

    def probed(self, now_s: float) -> dict[str, Heard]:
        """Of those that are here, whether the probe that a loudspeaker plays is in what came in last."""
        return {one.id: heard(one.newest(PERIODS * PERIOD)) for one in tuple(self._by_id.values()) if one.is_here(now_s)}

    def newest(self, microphone_id: str, seconds: float) -> NDArray[np.int16]:
        """Raises KeyError for one that is not here."""
        return self._by_id[microphone_id].newest(int(seconds * RATE))

    def _tell(self) -> None:
        for tell in self.on_change:
            tell()
