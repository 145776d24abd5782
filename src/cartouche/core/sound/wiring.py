"""Who hears whom: microphones, loudspeakers, joins of the call and rooms as a graph of sound, and what is wrong with it."""

import itertools
from collections.abc import Iterator, Mapping, Sequence
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


def findings(wiring: Wiring) -> list[Finding]:
    """What is wrong, the loudest first, each with the press that ends it."""
    return [finding._replace(press=_press_for(wiring, finding)) for finding in _found(wiring)]


def _found(wiring: Wiring) -> list[Finding]:
    found = [_round(wiring, path) for path in _loops(wiring)]
    found += [_measure(wiring, "echo", path) for path in _shortest_first(_paths(wiring, LEARNERS, LEARNERS), wiring)[:1]]
    spoken = {person.id: _shortest_first(_paths(wiring, person.id, LEARNERS), wiring) for person in wiring.people}
    played = {clip.id: _shortest_first(_paths(wiring, clip.id, LEARNERS), wiring) for clip in wiring.clips}
    for paths in (*spoken.values(), *played.values()):
        found += [_doubled(wiring, paths[0], longer) for longer in paths[1:2]]
    if wiring.people and not any(spoken.values()):
        found.append(_quiet_faults(wiring)[0])
    if wiring.people and wiring.joins and not any(_hears(wiring, person) for person in wiring.people):
        found.append(_quiet_faults(wiring)[1])
    return found


def _hears(wiring: Wiring, person: Person) -> bool:
    """A learner, by a loudspeaker of the room or one that is worn."""
    reached = [wiring.loudspeakers[step.to] for step in wiring.steps[LEARNERS]]
    return any(loud.room == person.room if loud.room else loud.id in person.wears for loud in reached)


def _press_for(wiring: Wiring, finding: Finding) -> tuple[Press, ...]:
    """The single press that ends it and leaves least wrong; two together where no single one ends it without a new fault; only then
    one that closes the teacher's own microphone; last, what ends a loud fault at the price of silence."""
    before = {_key(one) for one in _found(wiring)}
    singles: list[tuple[Press, ...]] = [(press,) for press in wiring.presses()]
    pairs: list[tuple[Press, ...]] = [(a, b) for number, (a, *_) in enumerate(singles) for (b, *_) in singles[number + 1 :] if a.id != b.id]
    own = Press("close", next((one.id for one in wiring.microphones.values() if one.open), ""))
    kept = [[presses for presses in tried if own not in presses] for tried in (singles, pairs)]
    best: tuple[Press, ...] = ()
    for tried in (*kept, singles, pairs):
        best = best or _best(wiring, finding, before, tried)
    if not best and finding.kind in LOUD:
        best = _best(wiring, finding, before | {_key(one) for one in _quiet_faults(wiring)}, singles)
    return best


def _quiet_faults(wiring: Wiring) -> list[Finding]:
    if not wiring.people:
        return []
    first = wiring.people[0].id
    return [Finding("silence", (first, LEARNERS), 0.0), Finding("deaf", (LEARNERS, first), 0.0)]


def _best(wiring: Wiring, finding: Finding, allowed: set[tuple[str, ...]], tried: Sequence[tuple[Press, ...]]) -> tuple[Press, ...]:
    left: list[tuple[int, int, tuple[Press, ...]]] = []
    for number, presses in enumerate(tried):
        after = {_key(one) for one in _found(wiring.pressed(*presses))}
        if _key(finding) not in after and not after - allowed:
            left.append((len(after), number, presses))
    return min(left)[2] if left else ()


def _key(finding: Finding) -> tuple[str, ...]:
    """What makes two findings the same one: of a double, echo or silence who is concerned, of a loop its round."""
    return (finding.kind, *(sorted(finding.path) if finding.kind == "loop" else (finding.path[0], finding.path[-1])))


def _loops(wiring: Wiring) -> list[tuple[str, ...]]:
    """Each simple cycle once, from its first node by name. The learners' own ends are no part of one: that is their echo."""
    order = sorted(node for node in wiring.steps if node != LEARNERS)
    found: list[tuple[str, ...]] = []
    for start in order:
        later = {node for node in order if node >= start}
        for step in wiring.steps[start]:
            if step.to == start:
                found.append((start,))
            elif step.to in later:
                found += [(start, *path[:-1]) for path in _walk(wiring, (step.to,), start, later)]
    return found


def _paths(wiring: Wiring, start: str, end: str) -> list[tuple[str, ...]]:
    within = set(wiring.steps) - {LEARNERS}
    return [(start, *path) for step in wiring.steps[start] for path in _walk(wiring, (step.to,), end, within)]


def _walk(wiring: Wiring, path: tuple[str, ...], end: str, within: set[str]) -> Iterator[tuple[str, ...]]:
    """Simple paths on from here; `end` closes one and is never gone through."""
    if path[-1] == end:
        yield path
        return
    for step in wiring.steps.get(path[-1], ()):
        if step.to == end or (step.to in within and step.to not in path):
            yield from _walk(wiring, (*path, step.to), end, within)


def _stretches(wiring: Wiring, path: Sequence[str]) -> list[Step]:
    return [next(step for step in wiring.steps[here] if step.to == there) for here, there in itertools.pairwise(path)]


def _delay(wiring: Wiring, path: Sequence[str]) -> float:
    return sum(step.delay_s for step in _stretches(wiring, path))


def _shortest_first(paths: list[tuple[str, ...]], wiring: Wiring) -> list[tuple[str, ...]]:
    return sorted(paths, key=lambda path: (_delay(wiring, path), path))


def _measure(wiring: Wiring, kind: Kind, path: tuple[str, ...]) -> Finding:
    steps = _stretches(wiring, path)
    air = [step for here, step in zip(path, steps, strict=False) if here in wiring.loudspeakers]
    gain = sum(step.gain_db for step in air) if air and all(step.measured for step in air) else None
    return Finding(kind, path, sum(step.delay_s for step in steps), gain, any(step.measured for step in air))


def _round(wiring: Wiring, path: tuple[str, ...]) -> Finding:
    """A loop whose measured gain lets it die away is an echo of the call, not a howl; it is still one to end."""
    return _measure(wiring, "loop", (*path, path[0]))


def _doubled(wiring: Wiring, short: tuple[str, ...], longer: tuple[str, ...]) -> Finding:
    found = _measure(wiring, "double", longer)
    return found._replace(delay_s=found.delay_s - _delay(wiring, short), gain_db=None)
