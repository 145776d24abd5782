"""Who hears whom: microphones, loudspeakers, joins of the call and rooms as a graph of sound, and what is wrong with it."""

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Literal, NamedTuple

Kind = Literal["loop", "echo", "double", "silence", "deaf"]
Switch = Literal["close", "open", "quiet", "loud"]

LOUD: frozenset[Kind] = frozenset({"loop", "echo", "double"})
LEARNERS = "learners"  # everybody at the far end of the call
CALL_S, ROOM_S, WIRE_S = 0.18, 0.004, 0.03  # one way through a call (ITU-T G.114 allows 150 ms and codecs add), 1.4 m of air, to Cartouche
HOWLS_FROM_DB = -6.0  # a loop's gain as measured; below it dies away: an echo, no howl


class Microphone(NamedTuple):
    """room: None where it hears nobody but its wearer.  join: the one that carries its sound, None for none.

    cancels: the loudspeakers whose sound is taken out of it (acoustic echo cancellation knows those of its own computer).
    """

    id: str
    name: str
    room: str | None
    open: bool
    join: str | None
    cancels: frozenset[str] = frozenset()


class Loudspeaker(NamedTuple):
    """room: None for headphones.  join: whose sound of the call it plays.  microphones: those it plays into the room beside (a hall's)."""

    id: str
    name: str
    room: str | None
    on: bool
    join: str | None
    microphones: tuple[str, ...] = ()


class Person(NamedTuple):
    """Who speaks and listens in a room. wears: microphones and loudspeakers that are theirs alone (a headset)."""

    id: str
    name: str
    room: str
    wears: frozenset[str] = frozenset()


class Clip(NamedTuple):
    """A clip that plays. join: the one that carries its sound.  loudspeakers: those that play it into their rooms besides."""

    id: str
    name: str
    join: str | None
    loudspeakers: tuple[str, ...] = ()


class Press(NamedTuple):
    """One thing to switch."""

    switch: Switch
    id: str


class Step(NamedTuple):
    to: str
    delay_s: float
    gain_db: float
    measured: bool


class Finding(NamedTuple):
    """path: ids in the order of the sound; of a double the longer way.  delay_s: round a loop, or between the two of a double.

    gain_db: of a loop, None unless every stretch of air in it was measured.  measured: any stretch was.
    press: the one that ends it with the least change, None where none does.
    """

    kind: Kind
    path: tuple[str, ...]
    delay_s: float
    gain_db: float | None = None
    measured: bool = False
    press: tuple[Press, ...] = ()


class Air(NamedTuple):
    """What was measured between a loudspeaker and a microphone: gain_db: None where it was not heard."""

    gain_db: float | None


class Wiring:
    """Immutable; `pressed` gives another."""

    def __init__(
        self,
        people: Sequence[Person],
        microphones: Sequence[Microphone],
        loudspeakers: Sequence[Loudspeaker],
        joins: Sequence[str],
        air: Mapping[tuple[str, str], Air] | None = None,
        clips: Sequence[Clip] = (),
    ) -> None:
        """air: by (loudspeaker, microphone), what was measured."""
        self.clips = tuple(clips)
        self.people, self.joins, self.air = tuple(people), tuple(joins), dict(air or {})
        self.microphones = {one.id: one for one in microphones}
        self.loudspeakers = {one.id: one for one in loudspeakers}

    @cached_property
    def _key(self) -> tuple[object, ...]:
        things = (tuple(self.microphones.values()), tuple(self.loudspeakers.values()))
        return (self.people, *things, self.joins, tuple(sorted(self.air.items())), self.clips)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Wiring) and self._key == other._key

    def __hash__(self) -> int:
        return hash(self._key)

    @cached_property
    def steps(self) -> dict[str, tuple[Step, ...]]:
        """Of each node, where its sound goes. Nodes: people, microphones, joins (`>` what it sends), loudspeakers, learners."""
        graph = {person.id: self._heard_by(person) for person in self.people}
        graph |= {one.id: self._carried(one) for one in self.microphones.values()}
        graph |= {one.id: self._in_the_room(one) for one in self.loudspeakers.values()}
        for join in self.joins:
            graph[f">{join}"] = (*self._distributed(join), Step(LEARNERS, CALL_S, 0, False))
        graph[LEARNERS] = self._distributed(None)
        graph |= {clip.id: self._played(clip) for clip in self.clips}
        return graph

    def _played(self, clip: Clip) -> tuple[Step, ...]:
        joined = (Step(f">{clip.join}", WIRE_S, 0, False),) if clip.join in self.joins else ()
        loud = (self.loudspeakers[one] for one in clip.loudspeakers if one in self.loudspeakers)
        return joined + tuple(Step(one.id, WIRE_S, 0, False) for one in loud if one.on)

    def _heard_by(self, person: Person) -> tuple[Step, ...]:
        return tuple(
            Step(one.id, WIRE_S, 0, False)
            for one in self.microphones.values()
            if one.open and (one.room == person.room if one.room else one.id in person.wears)
        )

    def _carried(self, one: Microphone) -> tuple[Step, ...]:
        if not one.open:
            return ()
        joined = (Step(f">{one.join}", WIRE_S, 0, False),) if one.join in self.joins else ()
        return joined + tuple(
            Step(loud.id, WIRE_S, 0, False) for loud in self.loudspeakers.values() if loud.on and one.id in loud.microphones
        )

    def _distributed(self, join: str | None) -> tuple[Step, ...]:
        return tuple(
            Step(loud.id, CALL_S, 0, False)
            for loud in self.loudspeakers.values()
            if loud.on and loud.join is not None and loud.join in self.joins and loud.join != join
        )

    def _in_the_room(self, loud: Loudspeaker) -> tuple[Step, ...]:
        return tuple(
            Step(one.id, ROOM_S, measured.gain_db or 0.0 if measured else 0.0, measured is not None)
            for one in self.microphones.values()
            if one.open and self._couples(loud, one)
            for measured in (self.air.get((loud.id, one.id)),)
        )

    def _couples(self, loud: Loudspeaker, one: Microphone) -> bool:
        """What was measured counts; what was not, by the room."""
        if loud.id in one.cancels:
            return False
        measured = self.air.get((loud.id, one.id))
        if measured is not None:
            return measured.gain_db is not None
        return loud.room is not None and loud.room == one.room

    def pressed(self, *presses: Press) -> "Wiring":
        microphones, loudspeakers = dict(self.microphones), dict(self.loudspeakers)
        for switch, id_ in presses:
            if switch in ("open", "close"):
                microphones[id_] = microphones[id_]._replace(open=switch == "open")
            else:
                loudspeakers[id_] = loudspeakers[id_]._replace(on=switch == "loud")
        return Wiring(self.people, list(microphones.values()), list(loudspeakers.values()), self.joins, self.air, self.clips)

    def presses(self) -> list[Press]:
        """All single ones, what changes least first: a closed microphone before a silent loudspeaker, both before opening anything; the
        microphone that comes first is the teacher's own choice and is closed last."""
        closing = [Press("close", one.id) for one in reversed(self.microphones.values()) if one.open]
        silent = [Press("quiet", one.id) for one in reversed(self.loudspeakers.values()) if one.on]
        opening = [Press("open", one.id) for one in self.microphones.values() if not one.open]
        return closing + silent + opening + [Press("loud", one.id) for one in self.loudspeakers.values() if not one.on]


def contradictions(wiring: Wiring) -> list[tuple[str, str]]:
    """(loudspeaker, microphone) that were declared to stand in one room and are not heard, or in two and are."""
    found = []
    for (loud_id, microphone_id), measured in wiring.air.items():
        loud, one = wiring.loudspeakers.get(loud_id), wiring.microphones.get(microphone_id)
        if loud and one and (measured.gain_db is not None) != (loud.room is not None and loud.room == one.room):
            found.append((loud_id, microphone_id))
    return found
