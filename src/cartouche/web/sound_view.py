"""What the Sound screen shows: microphones, who hears whom, what is wrong and what ends it."""

import time
from collections.abc import Sequence
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from cartouche.core.sound import wiring_says
from cartouche.core.sound.faults import faults, findings, key
from cartouche.core.sound.loudness import SILENCE_LUFS
from cartouche.core.sound.stations import Here, KnownMicrophone, Now, SoundKit, misplaced, wiring
from cartouche.core.sound.wiring import LEARNERS, Finding, Press, Switch, Wiring, contradictions
from cartouche.live.sound.measured import KeptEcho
from cartouche.live.sound.microphones import MicrophoneFacts
from cartouche.live.sound.simulated import SoundDevice
from cartouche.store.sound import sound_kit
from cartouche.web.ears_view import LearnersView, learners_view
from cartouche.web.guests.book import Guests
from cartouche.web.state import AppState

MicrophoneId = Annotated[str, Field(min_length=1, max_length=128, pattern=r"^[\w-]+$")]


class HearingView(BaseModel):
    """kind: the verdict in one word.  says: in a sentence.  loudness, floor: LUFS.  peak: dBFS.  voice: share of the time, 0-1."""

    kind: str
    says: str
    loudness: float
    floor: float
    peak: float
    voice: float


class MicrophoneView(BaseModel):
    """phone: its id is that of a device of the kit.  window: it is what a shared window plays.  case: of a simulated one,
    what is the matter with it, of these cases.  here: sound comes in, or can.  open:
    learners hear it.  level_db: dBFS, of the newest moment.  lost_blocks: since it was opened.  declared: what is kept of it.  risks: what
    would go wrong if it were open beside the one that is, in sentences."""

    id: str
    label: str
    phone: bool
    window: bool
    case: str | None
    cases: list[str]
    here: bool
    open: bool
    level_db: float
    heard: HearingView | None
    howls: bool
    lost_blocks: int
    declared: KnownMicrophone
    risks: list[str]


class NodeView(BaseModel):
    """kind: 'person', 'microphone', 'loudspeaker', 'clip', 'join' or 'learners'.  live: sound can pass it just now."""

    id: str
    kind: str
    name: str
    room: str | None
    live: bool


class LineView(BaseModel):
    """A way of sound. measured: its stretch of air was.  wrong: part of what is wrong."""

    start: str
    end: str
    measured: bool
    wrong: bool


class PressView(BaseModel):
    switch: Switch
    id: str


class FindingView(BaseModel):
    """ends: what to press, or what else to do."""

    kind: str
    says: str
    ends: str
    press: list[PressView]
    measured: bool


class EchoView(BaseModel):
    """number: its sound is at /api/sound/echo/NUMBER.wav.  loudness: LUFS.  missing: share of what was spoken, 0-1."""

    number: int
    label: str
    kind: str
    says: str
    loudness: float
    snr_db: float
    missing: float


class ClapView(BaseModel):
    """offset_ms: sound after picture, as they come out; None where it could not be measured."""

    offset_ms: int | None
    claps: int
    says: str


class SoundView(BaseModel):
    """version: of the topic `sound`, as the live news count it.

    contradictions: where what was measured is not what was declared, in sentences.  delay_ms: by which the outgoing sound waits for the
    picture.  skipped_blocks: of the outgoing sound, while the computer was held up.  closed_for_howl: name of the microphone that was
    closed because it howled, '' for none."""

    version: int
    microphones: list[MicrophoneView]
    declared: SoundKit
    nodes: list[NodeView]
    lines: list[LineView]
    findings: list[FindingView]
    contradictions: list[str]
    learners: LearnersView | None
    echoes: list[EchoView]
    sounding: list[str]
    delay_ms: float
    skipped_blocks: int
    closed_for_howl: str


class Provoked(BaseModel):
    model_config = ConfigDict(extra="forbid")
    case: Annotated[str, Field(max_length=40)]


class OpenMicrophone(BaseModel):
    """id: the one that opens; all others close. None closes all.  beside: the one that is open stays so (a guest speaks)."""

    model_config = ConfigDict(extra="forbid")
    id: MicrophoneId | None
    beside: bool | None = None


class Switched(BaseModel):
    """presses: what a finding asks for, done together."""

    model_config = ConfigDict(extra="forbid")
    presses: Annotated[list[PressView], Field(min_length=1, max_length=2)]


def declared(state: AppState) -> SoundKit:
    kit_id = state.kit_id()
    return sound_kit(state.database, kit_id) if kit_id else SoundKit()


def sound_view(state: AppState, book: Guests, closed_too: bool = True) -> SoundView:
    """closed_too: what closed microphones would give is listened to as well."""
    now_s, version = time.monotonic(), state.running.stage.versions.by_topic().get("sound", 0)  # never newer than what is read after it
    room, kit = state.running.sound, declared(state)
    facts = room.microphones.facts(now_s, closed_too)
    known = {one.id for one in facts}
    phones = [device for device in state.devices() if device.id in book.visitors.microphones() and device.id not in known]
    here = [Here(one.id, one.label, one.kind) for one in facts] + [Here(device.id, device.name, "phone") for device in phones]
    names = {device.id: device.name for device in state.devices()}
    now = Now(
        here,
        room.microphones.open_ids,
        room.measured.air,
        tuple(room.measured.together(now_s, closed_too)),
        [(id_, names.get(id_, "Clip")) for id_ in sorted(room.sounding)],
    )
    wired = wiring(kit, now)
    found = findings(wired)
    rows = [_microphone(one, kit, wired, found, room.simulated.devices.get(one.id)) for one in facts]
    rows += [_microphone(_silent(device.id, device.name), kit, wired, found) for device in phones]
    wrong = {(a, b) for one in found for a, b in zip(one.path, one.path[1:], strict=False)}
    return SoundView(
        version=version,
        microphones=rows,
        declared=kit,
        nodes=_nodes(wired),
        lines=[
            LineView(start=start, end=step.to, measured=step.measured, wrong=(start, step.to) in wrong)
            for start, steps in wired.steps.items()
            for step in steps
        ],
        findings=[_finding(wired, one) for one in found],
        contradictions=_contradictions(kit, now, wired),
        learners=learners_view(room.learners.heard(now_s)),
        echoes=[echo_view(kept) for kept in room.measured.echoes],
        sounding=sorted(room.sounding),
        delay_ms=round(1000 * room.mixer.delay_s, 1),
        skipped_blocks=room.mixer.skipped,
        closed_for_howl=room.microphones.closed_for_howl or "",
    )


def _silent(device_id: str, name: str) -> MicrophoneFacts:
    return MicrophoneFacts(device_id, name, "phone", True, False, SILENCE_LUFS, None, None, 0, 0.0)


def _microphone(
    facts: MicrophoneFacts, kit: SoundKit, wired: Wiring, found: Sequence[Finding], simulated: SoundDevice | None = None
) -> MicrophoneView:
    heard = facts.heard
    risks: list[str] = []
    if not facts.open and facts.id in wired.microphones and any(one.open for one in wired.microphones.values()):
        before = {key(one) for one in found}
        beside = wired.pressed(Press("open", facts.id))
        risks = [wiring_says.says(beside, one) for one in faults(beside) if key(one) not in before]
    return MicrophoneView(
        id=facts.id,
        label=facts.label,
        phone=facts.kind == "phone",
        window=facts.kind == "window",
        case=simulated.case if simulated else None,
        cases=list(simulated.cases) if simulated else [],
        here=facts.here,
        open=facts.open,
        level_db=facts.level_db,
        heard=None if heard is None else HearingView.model_validate({name: getattr(heard, name) for name in HearingView.model_fields}),
        howls=facts.howls_hz is not None,
        lost_blocks=facts.lost_blocks,
        declared=kit.microphone(Here(facts.id, facts.label)),
        risks=risks,
    )


def _nodes(wired: Wiring) -> list[NodeView]:
    reached = {step.to for steps in wired.steps.values() for step in steps}
    people = [NodeView(id=one.id, kind="person", name=one.name, room=one.room, live=True) for one in wired.people]
    clips = [NodeView(id=one.id, kind="clip", name=one.name, room=None, live=True) for one in wired.clips]
    microphones = [
        NodeView(id=one.id, kind="microphone", name=one.name, room=one.room, live=one.open) for one in wired.microphones.values()
    ]
    loudspeakers = [
        NodeView(id=one.id, kind="loudspeaker", name=one.name, room=one.room, live=one.on) for one in wired.loudspeakers.values()
    ]
    joins = [NodeView(id=f">{one}", kind="join", name=one, room=None, live=f">{one}" in reached) for one in wired.joins]
    learners = [NodeView(id=LEARNERS, kind="learners", name="Learners", room=None, live=LEARNERS in reached)]
    return [*people, *clips, *microphones, *loudspeakers, *joins, *learners]


def _finding(wired: Wiring, one: Finding) -> FindingView:
    press = [PressView(switch=press.switch, id=press.id) for press in one.press]
    says, ends = wiring_says.says(wired, one), wiring_says.ends_says(wired, one)
    return FindingView(kind=one.kind, says=says, ends=ends, press=press, measured=one.measured)


def _contradictions(kit: SoundKit, now: Now, wired: Wiring) -> list[str]:
    told = []
    for loud, one in contradictions(wired):
        names = wiring_says.name_of(wired, one), wiring_says.name_of(wired, loud)
        heard = wired.air[loud, one].gain_db is not None
        told.append(
            f"Measured: {names[0]} hears {names[1]}, though they were said to stand in two rooms."
            if heard
            else f"Measured: {names[0]} does not hear {names[1]}, though they were said to stand in one room."
        )
    for a, b in misplaced(kit, now):
        names = wiring_says.name_of(wired, a), wiring_says.name_of(wired, b)
        told.append(f"Measured: {names[0]} and {names[1]} hear one room, though they were said to stand in two.")
    return told


def echo_view(kept: KeptEcho) -> EchoView:
    values = {name: getattr(kept.echo, name) for name in ("kind", "says", "loudness", "snr_db", "missing")}
    return EchoView(number=kept.number, label=kept.label, **values)
