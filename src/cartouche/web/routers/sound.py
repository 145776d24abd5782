"""Sound: the microphones that come in, which one is open, and what each gives."""

import asyncio
import time
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Depends, Query, WebSocket
from pydantic import BaseModel, ConfigDict, Field

from cartouche.core.sound.loudness import SILENCE_LUFS
from cartouche.live.sound.microphones import MAX_BLOCK, MicrophoneFacts, Microphones
from cartouche.store.errors import NotKept
from cartouche.web.guests.book import Guests
from cartouche.web.pictures_in import MALFORMED
from cartouche.web.routers.guests import guest_book
from cartouche.web.state import AppState, app_state, socket_state

router = APIRouter(tags=["sound"])
State = Annotated[AppState, Depends(app_state)]
Book = Annotated[Guests, Depends(guest_book)]
MicrophoneId = Annotated[str, Field(min_length=1, max_length=128, pattern=r"^[\w-]+$")]
FULL = 4429


class HearingView(BaseModel):
    """kind: the verdict in one word.  says: in a sentence.  loudness, floor: LUFS.  peak: dBFS.  voice: share of the time, 0-1."""

    kind: str
    says: str
    loudness: float
    floor: float
    peak: float
    voice: float


class MicrophoneView(BaseModel):
    """phone: its id is that of a device of the kit.  here: sound comes in, or can.  open: it is the one that is open.  level_db: dBFS,
    of the newest moment."""

    id: str
    label: str
    phone: bool = False
    here: bool
    open: bool
    level_db: float
    heard: HearingView | None


class SoundView(BaseModel):
    microphones: list[MicrophoneView]


class OpenMicrophone(BaseModel):
    """id: the one that opens; all others close. None closes all."""

    model_config = ConfigDict(extra="forbid")
    id: MicrophoneId | None


@router.get("/api/sound")
def sound(state: State, book: Book) -> SoundView:
    return SoundView(microphones=[*(_view(facts) for facts in state.running.sound.facts()), *_phones(state, book)])


def _phones(state: AppState, book: Guests) -> list[MicrophoneView]:
    open_by_id, levels = book.visitors.microphones(), book.visitors.sounds()
    return [
        MicrophoneView(
            id=device.id,
            label=device.name,
            phone=True,
            here=True,
            open=open_by_id[device.id],
            level_db=levels.get(device.id) or SILENCE_LUFS,
            heard=None,
        )
        for device in state.devices()
        if device.id in open_by_id
    ]


@router.put("/api/sound/open")
def open_microphone(wanted: OpenMicrophone, state: State, book: Book) -> SoundView:
    """One press: this one is open and no other, phones included."""
    is_phone = wanted.id in book.visitors.microphones()
    try:
        state.running.sound.open(None if is_phone else wanted.id)
    except KeyError as exc:
        raise NotKept("microphone", wanted.id or "") from exc
    book.visitors.open_microphone(wanted.id if is_phone else None)
    return sound(state, book)


def _view(facts: MicrophoneFacts) -> MicrophoneView:
    heard = facts.heard
    told = None if heard is None else HearingView.model_validate({name: getattr(heard, name) for name in HearingView.model_fields})
    return MicrophoneView(id=facts.id, label=facts.label, here=facts.here, open=facts.open, level_db=facts.level_db, heard=told)


@router.websocket("/api/sound/{microphone_id}")
async def microphone(socket: WebSocket, microphone_id: MicrophoneId, label: Annotated[str, Query(max_length=200)] = "") -> None:
    """Blocks of little-endian 16-bit samples, mono, 48 kHz; at most 200 ms each."""
    room: Microphones = socket_state(socket).running.sound
    await socket.accept()
    if not room.join(microphone_id, label):
        await socket.close(FULL, "There are too many microphones. Close one first.")
        return
    try:
        while True:
            message = await socket.receive()
            if message["type"] == "websocket.disconnect":
                return
            content = message.get("bytes") or b""
            if not content or len(content) % 2 or len(content) > 2 * MAX_BLOCK:
                await socket.close(MALFORMED, "This is not sound that Cartouche can use.")
                return
            room.take(microphone_id, np.frombuffer(content, "<i2").astype(np.int16, copy=False), time.monotonic())
            await asyncio.sleep(0)  # a flood of blocks leaves room for everybody else
    finally:
        room.leave(microphone_id)
