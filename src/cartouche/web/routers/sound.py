"""Sound: the microphones that come in, which one is open, what each gives, and what learners hear."""

import asyncio
import io
import time
import wave
from importlib import resources
from typing import Annotated, Literal

import numpy as np
from fastapi import Depends, Path, Query, Response, WebSocket
from fastapi.responses import FileResponse

from cartouche.bench import voices
from cartouche.bench.call_voice import CallVoice, transcoded
from cartouche.core.sound.echo import echo
from cartouche.core.sound.loudness import RATE
from cartouche.core.sound.probe import PERIODS, probe
from cartouche.core.sound.stations import HERE, Playing, SoundKit, loudspeaker_id, microphone_id
from cartouche.live.sound.incoming import Incoming
from cartouche.models import SpeechNet
from cartouche.store.errors import NotKept
from cartouche.store.sound import keep_sound_kit
from cartouche.web.errors import NothingSaid
from cartouche.web.guests.book import Guests
from cartouche.web.microphones import open_alone
from cartouche.web.routers.guests import guest_book
from cartouche.web.routing import screen_router
from cartouche.web.sound_in import take_sound
from cartouche.web.sound_view import (
    ClapView,
    EchoView,
    MicrophoneId,
    OpenMicrophone,
    PressView,
    Provoked,
    SoundView,
    Switched,
    declared,
    echo_view,
    sound_view,
)
from cartouche.web.state import AppState, app_state, socket_state

router = screen_router("sound")
State = Annotated[AppState, Depends(app_state)]
Book = Annotated[Guests, Depends(guest_book)]
FULL = 4429
VOICE = str(resources.files(voices).joinpath("voice-a.opus"))
ECHO_S = 5.0
CALL_LOSS, CALL_JITTER_S = 0.005, 0.008  # of a usual home network


@router.get("/api/sound")
def sound(state: State, book: Book) -> SoundView:
    return sound_view(state, book)


def after_press(state: AppState, book: Guests) -> SoundView:
    """At once: seconds of closed microphones are looked through when somebody looks, not before a press is answered."""
    return sound_view(state, book, closed_too=False)


@router.put("/api/sound/open")
def open_microphone(wanted: OpenMicrophone, state: State, book: Book) -> SoundView:
    """One press: this one is open and no other, phones included."""
    open_alone(state, book, wanted.id, wanted.beside is True)
    return after_press(state, book)


@router.put("/api/sound/kit")
def declare(wanted: SoundKit, state: State, book: Book) -> SoundView:
    """Names, rooms and computers as the teacher says them; kept with the kit."""
    keep_sound_kit(state.database, state.ensure_kit(), wanted)
    state.running.sound.declare(wanted)
    state.running.stage.versions.touch("sound")
    return after_press(state, book)


@router.post("/api/sound/press")
def press(wanted: Switched, state: State, book: Book) -> SoundView:
    """What a finding asks for: microphones that Cartouche opens are opened and closed; of others it is noted that the teacher did it."""
    for one in wanted.presses:
        _press(one, state, book)
    return after_press(state, book)


def _press(one: PressView, state: AppState, book: Guests) -> None:
    room = state.running.sound.microphones
    if one.id in room.ids or one.id in book.visitors.microphones():
        if one.switch == "open":
            open_alone(state, book, one.id)
            return
        left = [id_ for id_ in room.open_ids if id_ != one.id]
        open_alone(state, book, left[0] if left else None)
        return
    kit = declared(state)
    stations = tuple(
        station.model_copy(update={"loudspeaker": _playing(one)})
        if one.id == loudspeaker_id(station.id)
        else station.model_copy(update={"microphone": "open" if one.switch == "open" else "closed"})
        if one.id == microphone_id(station.id)
        else station
        for station in kit.stations
    )
    if stations == kit.stations:
        raise NotKept("microphone or loudspeaker", one.id)
    keep_sound_kit(state.database, state.ensure_kit(), kit.model_copy(update={"stations": stations}))


def _playing(one: PressView) -> Playing:
    return "off" if one.switch == "quiet" else "on"


@router.put("/api/sound/bench/{microphone_id}", status_code=204)
def provoke(microphone_id: MicrophoneId, wanted: Provoked, state: State) -> None:
    """What is the matter with a simulated microphone from now on."""
    device = state.running.sound.simulated.devices.get(microphone_id)
    if device is None or wanted.case not in device.cases:
        raise NotKept("simulated microphone", microphone_id)
    device.case = wanted.case


@router.get("/api/sound/voice", response_class=FileResponse)
def voice_sample() -> FileResponse:
    """A voice to try a loudspeaker with."""
    return FileResponse(VOICE, media_type="audio/ogg")


@router.get("/api/sound/probe.wav", response_class=Response)
def probe_sound() -> Response:
    """The quiet noise that a loudspeaker plays round and round while it is looked for in the microphones."""
    played = np.round(np.tile(probe(), PERIODS + 1) * 32767).astype("<i2")
    return _wav(played)


@router.post("/api/sound/probe")
def probed(state: State, book: Book) -> SoundView:
    """While this computer's loudspeaker plays the probe: which microphones hear it."""
    state.running.sound.measured.probed(loudspeaker_id(HERE), time.monotonic())
    return sound_view(state, book)


@router.post("/api/sound/echo/{microphone_id}")
async def echo_test(microphone_id: MicrophoneId, state: State) -> EchoView:
    """Five seconds of this microphone as learners get them. Answered when they are over."""
    microphones = state.running.sound.microphones
    label = {facts.id: facts.label for facts in await asyncio.to_thread(microphones.facts)}.get(microphone_id)
    if label is None:
        raise NotKept("microphone", microphone_id)
    await asyncio.sleep(ECHO_S)
    return await asyncio.to_thread(_echo, state, microphone_id, label)


def _echo(state: AppState, microphone_id: str, label: str) -> EchoView:
    try:
        spoken = state.running.sound.microphones.newest(microphone_id, ECHO_S)
    except KeyError as exc:
        raise NotKept("microphone", microphone_id) from exc
    if not spoken.size:
        raise NothingSaid
    arrived = transcoded(spoken, CallVoice(CALL_LOSS, CALL_JITTER_S, seed=time.monotonic_ns() % 1000))
    ear = Incoming("echo", label, SpeechNet())
    ear.take(0, arrived, 0.0, tracked=False)
    ear.judge_if_due(0.0)
    return echo_view(state.running.sound.measured.keep(label, arrived, echo(spoken, arrived, ear.heard)))


@router.get("/api/sound/echo/{number}.wav", response_class=Response)
def echo_sound(number: Annotated[int, Path(ge=1)], state: State) -> Response:
    """What arrived, to be played."""
    kept = state.running.sound.measured.echo(number)
    if kept is None:
        raise NotKept("echo test", str(number))
    return _wav(kept.samples)


@router.post("/api/sound/clap")
def clap_test(state: State) -> ClapView:
    """For eight seconds flashes are looked for in the outgoing picture and clicks in the outgoing sound. Answered when they are over."""
    told = state.running.clap_test()
    return ClapView(offset_ms=None if told.offset_s is None else round(1000 * told.offset_s), claps=told.pairs, says=told.says)


def _wav(samples: np.ndarray) -> Response:
    file = io.BytesIO()
    with wave.open(file, "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(RATE)
        out.writeframes(samples.astype("<i2").tobytes())
    return Response(file.getvalue(), media_type="audio/wav", headers={"Cache-Control": "no-store"})


@router.websocket("/api/sound/{microphone_id}")
async def microphone(
    socket: WebSocket,
    microphone_id: MicrophoneId,
    label: Annotated[str, Query(max_length=200)] = "",
    kind: Annotated[Literal["here", "window"], Query()] = "here",
) -> None:
    """Sound in from a microphone of this computer, or from a window that the browser shares with its sound."""
    room = socket_state(socket).running.sound.microphones
    await socket.accept()
    sender = object()
    if not room.join(microphone_id, label, kind=kind, sender=sender):
        await socket.close(FULL, "There are too many microphones. Close one first.")
        return
    try:
        await take_sound(socket, lambda first, block: room.take(microphone_id, first, block, time.monotonic(), sender))
    finally:
        room.leave(microphone_id, sender)
