"""What a teacher says of the rooms' sound, and the wiring that follows from it and from what is open just now."""

from collections.abc import Collection, Mapping
from typing import Annotated, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field

from cartouche.core.sound.wiring import Air, Clip, Loudspeaker, Microphone, Person, Wiring

HERE = "computer"  # the station that Cartouche runs on: its join carries all microphones that Cartouche opens
MY_ROOM = "This room"
Name = Annotated[str, Field(min_length=1, max_length=60)]
Id = Annotated[str, Field(min_length=1, max_length=128, pattern=r"^[\w-]+$")]
Playing = Literal["none", "on", "off", "headphones"]


class _Kept(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class KnownMicrophone(_Kept):
    """One that Cartouche can open. label: the browser's.  name: the teacher's.  device_id: the camera it belongs to.

    worn: a headset or lapel microphone: it hears its wearer alone.  echo, noise, gain: the browser's processing while it is open.
    """

    id: Id
    label: Annotated[str, Field(max_length=200)] = ""
    name: Name
    room: Name = MY_ROOM
    worn: bool = False
    device_id: Annotated[str, Field(max_length=64)] | None = None
    echo: bool = True
    noise: bool = False
    gain: bool = False


class Station(_Kept):
    """A computer, phone or board and what it does in the call. microphone: of its own, opened and closed by hand there."""

    id: Id
    name: Name
    room: Name = MY_ROOM
    joins: bool = True
    microphone: Literal["none", "open", "closed"] = "none"
    loudspeaker: Playing = "on"


class SoundKit(_Kept):
    """stations: the first is this computer."""

    microphones: Annotated[tuple[KnownMicrophone, ...], Field(max_length=32)] = ()
    stations: Annotated[tuple[Station, ...], Field(min_length=1, max_length=12)] = (Station(id=HERE, name="This computer"),)
    trim_ms: Annotated[int, Field(ge=-500, le=500)] = 0  # the sound waits so much longer for the picture, by a clapper
    closes_howls: bool = True  # a microphone that begins to howl is closed at once

    def microphone(self, one: "Here") -> KnownMicrophone:
        """What is kept of it, or what is supposed of one that is new."""
        kept = next((known for known in self.microphones if known.id == one.id), None) or self._by_label(one)
        name = one.label.strip()[:60] or "Microphone"
        return kept or KnownMicrophone(id=one.id, label=one.label[:200], name=name, room=self.stations[0].room)

    def _by_label(self, one: "Here") -> KnownMicrophone | None:
        """A browser gives other ids at another address or in another profile; the same label, if only one has it, is the same thing."""
        same = [known for known in self.microphones if known.label and known.label == one.label]
        return same[0].model_copy(update={"id": one.id}) if len(same) == 1 else None


class Here(NamedTuple):
    """Sound that comes in just now. kind: 'here' a microphone of this computer, 'bench' a simulated one; 'phone' a phone's, which cancels
    its own echo; 'window' what a shared window plays, which stands in no room."""

    id: str
    label: str
    kind: str = "here"


def loudspeaker_id(station_id: str) -> str:
    return f"{station_id}.loudspeaker"


def microphone_id(station_id: str) -> str:
    """Of a microphone that a station has of its own and that Cartouche cannot open."""
    return f"{station_id}.microphone"


class Now(NamedTuple):
    """What is so just now. open_ids: of microphones.  air: by (loudspeaker, microphone), what was measured.  together: pairs of
    microphones that were measured to hear one room.  clips: (id, name) of those whose sound goes out."""

    here: Collection[Here]
    open_ids: Collection[str]
    air: Mapping[tuple[str, str], Air]
    together: Collection[tuple[str, str]] = ()
    clips: Collection[tuple[str, str]] = ()


def wiring(kit: SoundKit, now: Now) -> Wiring:
    joins = [station.id for station in kit.stations if station.joins]
    mine = kit.stations[0]
    declared = [_microphone(kit, one, one.id in now.open_ids, mine) for one in now.here if one.kind != "window"]
    known = _in_measured_rooms(declared, now.together, mine.room)
    others = [
        Microphone(
            microphone_id(station.id),
            f"{station.name}’s microphone",
            None if station.loudspeaker == "headphones" else station.room,
            station.microphone == "open",
            station.id,
            frozenset({loudspeaker_id(station.id)}),
        )
        for station in kit.stations[1:]
        if station.microphone != "none"
    ]
    loudspeakers = [
        Loudspeaker(
            loudspeaker_id(station.id),
            f"{station.name}’s {'headphones' if station.loudspeaker == 'headphones' else 'loudspeaker'}",
            None if station.loudspeaker == "headphones" else station.room,
            station.loudspeaker != "off",
            station.id if station.joins else None,
        )
        for station in kit.stations
        if station.loudspeaker != "none"
    ]
    worn = {one.id for one in known if one.room is None} | {loudspeaker_id(mine.id)}
    teacher = Person("teacher", "Your voice", mine.room, frozenset(worn))
    windows = [(one.id, one.label) for one in now.here if one.kind == "window" and one.id in now.open_ids]
    clips = [Clip(id_, name, mine.id, (loudspeaker_id(mine.id),)) for id_, name in (*now.clips, *windows)]
    return Wiring([teacher], [*known, *others], loudspeakers, joins, now.air, clips)


def _in_measured_rooms(known: list[Microphone], together: Collection[tuple[str, str]], room: str) -> list[Microphone]:
    """Of two that hear one room the one that was said to stand elsewhere stands where the teacher is."""
    rooms = {one.id: one.room for one in known}
    moved = {id_ for pair in together if room in [rooms.get(one) for one in pair] for id_ in pair if rooms.get(id_) not in (None, room)}
    return [one._replace(room=room) if one.id in moved else one for one in known]


def misplaced(kit: SoundKit, now: Now) -> list[tuple[str, str]]:
    """Pairs that were measured to hear one room and were said to stand in two."""
    known = {one.id: _microphone(kit, one, False, kit.stations[0]) for one in now.here}
    return [
        (a, b)
        for a, b in now.together
        if a in known and b in known and None not in (known[a].room, known[b].room) and known[a].room != known[b].room
    ]


def _microphone(kit: SoundKit, one: Here, is_open: bool, mine: Station) -> Microphone:
    told = kit.microphone(one)
    cancels = frozenset({loudspeaker_id(mine.id)}) if told.echo and one.kind in ("here", "bench") else frozenset()
    return Microphone(one.id, told.name, None if told.worn else told.room, is_open, mine.id, cancels)
