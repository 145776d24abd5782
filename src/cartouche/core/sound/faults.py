"""What is wrong with a wiring, and which press ends it. Bounded: a hall full of devices takes no longer than a glance."""

import heapq
import itertools
from collections.abc import Iterable, Sequence
from functools import lru_cache

from cartouche.core.sound.wiring import LEARNERS, LOUD, Finding, Kind, Person, Press, Step, Wiring

MAX_PAIRED = 14  # presses that are tried two by two; with more of them one at a time
MAX_WALKED = 4000  # partial ways looked at for a second one

Key = tuple[str, ...]


@lru_cache(maxsize=64)
def findings(wiring: Wiring) -> tuple[Finding, ...]:
    """What is wrong, the loudest first, each with the press that ends it."""
    effects = _Effects(wiring)
    return tuple(finding._replace(press=effects.press_for(finding)) for finding in effects.found)


def faults(wiring: Wiring) -> list[Finding]:
    """The same without presses."""
    found = _loops(wiring)
    found += [_measure(wiring, "echo", path) for path in _shortest(wiring, LEARNERS, LEARNERS, 1)]
    spoken = [_shortest(wiring, person.id, LEARNERS, 2) for person in wiring.people]
    played = [_shortest(wiring, clip.id, LEARNERS, 2) for clip in wiring.clips]
    found += [_doubled(wiring, *paths) for paths in (*spoken, *played) if len(paths) > 1]
    silent = _quiet_faults(wiring)
    if silent and not any(spoken):
        found.append(silent[0])
    if silent and wiring.joins and not any(_hears(wiring, person) for person in wiring.people):
        found.append(silent[1])
    return found


def key(finding: Finding) -> Key:
    """What makes two findings the same one: of a loop where it goes through the air, of all else who is concerned."""
    return (finding.kind, *(finding.path[:2] if finding.kind == "loop" else (finding.path[0], finding.path[-1])))


class _Effects:
    """What each press, and each two together, would leave wrong: worked out once, and only as far as it is asked."""

    def __init__(self, wiring: Wiring) -> None:
        self._wiring = wiring
        self.found = faults(wiring)
        self._before = {key(one) for one in self.found}
        self._after: dict[tuple[Press, ...], set[Key]] = {}
        self._singles: list[tuple[Press, ...]] = [(press,) for press in wiring.presses()]
        few = len(self._singles) <= MAX_PAIRED
        self._pairs = [(a, b) for (a,), (b,) in itertools.combinations(self._singles, 2) if a.id != b.id] if few else []
        self._own = Press("close", next((one.id for one in wiring.microphones.values() if one.open), ""))

    def press_for(self, finding: Finding) -> tuple[Press, ...]:
        """The single press that ends it and leaves least wrong; two together where no single one ends it without a new fault; only
        then one that closes the teacher's own microphone; last, what ends a loud fault at the price of silence."""
        every: tuple[Sequence[tuple[Press, ...]], ...] = (self._singles, self._pairs)
        best: tuple[Press, ...] = ()
        for tried in (*([presses for presses in some if self._own not in presses] for some in every), *every):
            best = best or self._best(finding, self._before, tried)
        if not best and finding.kind in LOUD:
            best = self._best(finding, self._before | {key(one) for one in _quiet_faults(self._wiring)}, self._singles)
        return best

    def _best(self, finding: Finding, allowed: set[Key], tried: Sequence[tuple[Press, ...]]) -> tuple[Press, ...]:
        left: list[tuple[int, int, tuple[Press, ...]]] = []
        for number, presses in enumerate(tried):
            after = self._left(presses)
            if key(finding) not in after and not after - allowed:
                left.append((len(after), number, presses))
        return min(left)[2] if left else ()

    def _left(self, presses: tuple[Press, ...]) -> set[Key]:
        if presses not in self._after:
            self._after[presses] = {key(one) for one in faults(self._wiring.pressed(*presses))}
        return self._after[presses]


def _quiet_faults(wiring: Wiring) -> list[Finding]:
    if not wiring.people:
        return []
    first = wiring.people[0].id
    return [Finding("silence", (first, LEARNERS), 0.0), Finding("deaf", (LEARNERS, first), 0.0)]


def _hears(wiring: Wiring, person: Person) -> bool:
    """A learner, by a loudspeaker of the room or one that is worn."""
    reached = [wiring.loudspeakers[step.to] for step in wiring.steps[LEARNERS]]
    return any(loud.room == person.room if loud.room else loud.id in person.wears for loud in reached)


def _loops(wiring: Wiring) -> list[Finding]:
    """For each loudspeaker that a microphone hears the shortest round that it is part of. Every loop goes through the air somewhere, so
    none is left out, and a hall full of devices has no more of them than pairs."""
    found = []
    for loud in wiring.loudspeakers:
        for step in wiring.steps[loud]:
            found += [_measure(wiring, "loop", (loud, *path)) for path in _shortest(wiring, step.to, loud, 1)]
    return found


def _shortest(wiring: Wiring, start: str, end: str, count: int) -> list[tuple[str, ...]]:
    """The first ways without a repeat, by their delay. The learners' own ends are no part of one: that is their echo."""
    leads = _leading_to(wiring, end)
    found: list[tuple[str, ...]] = []
    waiting: list[tuple[float, tuple[str, ...]]] = [(0.0, (start,))]
    for _ in range(MAX_WALKED):
        if not waiting:
            break
        delay_s, path = heapq.heappop(waiting)
        if len(path) > 1 and path[-1] == end:
            found.append(path)
            if len(found) == count:
                break
            continue
        for step in wiring.steps.get(path[-1], ()):
            inside = step.to in leads and step.to not in path and step.to != LEARNERS
            if step.to == end or inside:
                heapq.heappush(waiting, (delay_s + step.delay_s, (*path, step.to)))
    return found


def _leading_to(wiring: Wiring, end: str) -> set[str]:
    """Nodes from which there is a way to this one."""
    back: dict[str, list[str]] = {}
    for here, steps in wiring.steps.items():
        for step in steps:
            back.setdefault(step.to, []).append(here)
    found, left = {end}, [end]
    while left:
        for here in back.get(left.pop(), ()):
            if here not in found and here != LEARNERS:
                found.add(here)
                left.append(here)
    return found


def _stretches(wiring: Wiring, path: Iterable[str]) -> list[Step]:
    return [next(step for step in wiring.steps[here] if step.to == there) for here, there in itertools.pairwise(path)]


def _measure(wiring: Wiring, kind: Kind, path: tuple[str, ...]) -> Finding:
    """A loop whose measured gain lets it die away is an echo of the call, not a howl; it is still one to end."""
    steps = _stretches(wiring, path)
    air = [step for here, step in zip(path, steps, strict=False) if here in wiring.loudspeakers]
    gain = sum(step.gain_db for step in air) if air and all(step.measured for step in air) else None
    return Finding(kind, path, sum(step.delay_s for step in steps), gain, any(step.measured for step in air))


def _doubled(wiring: Wiring, short: tuple[str, ...], longer: tuple[str, ...]) -> Finding:
    found = _measure(wiring, "double", longer)
    return found._replace(delay_s=found.delay_s - sum(step.delay_s for step in _stretches(wiring, short)), gain_db=None)
