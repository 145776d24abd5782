"""Random wirings against an exhaustive search by matrices: loops, doubles and silences found, none invented, the press ends it.

And measured pairs: whether two microphones hear one room, in simulated rooms.
"""

import itertools
import json
import sys

import numpy as np

from cartouche.bench.rooms import hearings
from cartouche.bench.wirings import random_wiring
from cartouche.core.sound.faults import findings
from cartouche.core.sound.pairs import same_room
from cartouche.core.sound.wiring import LEARNERS, Finding, Wiring

WIRINGS, ROOMS = 200, 100


def reach(wiring: Wiring) -> tuple[list[str], np.ndarray]:
    """Nodes, and which leads to which in one step: told anew from the wiring's own lists, not from its steps."""
    nodes = [one.id for one in (*wiring.people, *wiring.clips)] + list(wiring.microphones) + list(wiring.loudspeakers)
    nodes += [f">{join}" for join in wiring.joins] + [LEARNERS]
    at = {node: number for number, node in enumerate(nodes)}
    step = np.zeros((len(nodes), len(nodes)), bool)
    microphones = [one for one in wiring.microphones.values() if one.open]
    loudspeakers = [one for one in wiring.loudspeakers.values() if one.on]
    for person, one in itertools.product(wiring.people, microphones):
        step[at[person.id], at[one.id]] = one.room == person.room if one.room else one.id in person.wears
    for one in microphones:
        if one.join in wiring.joins:
            step[at[one.id], at[f">{one.join}"]] = True
    for one, loud in itertools.product(microphones, loudspeakers):
        step[at[one.id], at[loud.id]] = one.id in loud.microphones
        measured = wiring.air.get((loud.id, one.id))
        near = measured.gain_db is not None if measured else loud.room is not None and loud.room == one.room
        step[at[loud.id], at[one.id]] = near and loud.id not in one.cancels
    for clip in wiring.clips:
        if clip.join in wiring.joins:
            step[at[clip.id], at[f">{clip.join}"]] = True
        for loud in loudspeakers:
            step[at[clip.id], at[loud.id]] = loud.id in clip.loudspeakers
    for join, loud in itertools.product(wiring.joins, loudspeakers):
        step[at[f">{join}"], at[loud.id]] = loud.join in wiring.joins and loud.join != join
    for join in wiring.joins:
        step[at[f">{join}"], at[LEARNERS]] = True
    for loud in loudspeakers:
        step[at[LEARNERS], at[loud.id]] = loud.join in wiring.joins
    return nodes, step


def simple_paths(step: np.ndarray, start: int, end: int, barred: frozenset[int]) -> list[tuple[int, ...]]:
    """All of them, breadth first."""
    done, growing = [], [(start,)]
    while growing:
        longer = []
        for path in growing:
            for there in np.flatnonzero(step[path[-1]]):
                if there == end:
                    done.append((*path, int(there)))
                elif there not in path and there not in barred:
                    longer.append((*path, int(there)))
        growing = longer
    return done


def truth(wiring: Wiring) -> set[tuple[str, ...]]:
    """Keys of all that is wrong."""
    nodes, step = reach(wiring)
    learners = nodes.index(LEARNERS)
    barred = frozenset({learners})
    wrong: set[tuple[str, ...]] = set()
    inside = step.copy()
    inside[learners] = inside[:, learners] = False
    for start in range(len(nodes)):
        for path in simple_paths(inside, start, start, frozenset()):
            wrong |= {("loop", nodes[a], nodes[b]) for a, b in itertools.pairwise(path) if nodes[a] in wiring.loudspeakers}
    if simple_paths(step, learners, learners, frozenset()):
        wrong.add(("echo",))
    ways = {one.id: len(simple_paths(step, nodes.index(one.id), learners, barred)) for one in wiring.people}
    played = {one.id: len(simple_paths(step, nodes.index(one.id), learners, barred)) for one in wiring.clips}
    wrong |= {("double", source) for source, count in {**ways, **played}.items() if count > 1}
    if wiring.people and not any(ways.values()):
        wrong.add(("silence",))
    plays = [wiring.loudspeakers[nodes[node]] for node in np.flatnonzero(step[learners])]
    heard = any(loud.room == one.room if loud.room else loud.id in one.wears for loud in plays for one in wiring.people)
    if wiring.people and wiring.joins and not heard:
        wrong.add(("deaf",))
    return wrong


def key(finding: Finding) -> tuple[str, ...]:
    if finding.kind == "loop":
        return ("loop", *finding.path[:2])
    return ("double", finding.path[0]) if finding.kind == "double" else (finding.kind,)


def loops(count: int) -> dict[str, float]:
    total = found = invented = ended = advised = faults = helpless = mendable = 0
    for number in range(count):
        wiring = random_wiring(np.random.default_rng(number))
        true, told = truth(wiring), findings(wiring)
        said = {key(one) for one in told}
        total, found, invented = total + len(true), found + len(true & said), invented + len(said - true)
        for one in told:
            faults += 1
            if one.press:
                advised += 1
                after = truth(wiring.pressed(*one.press))
                ended += key(one) not in after and not {wrong for wrong in after - true if wrong[0] not in ("silence", "deaf")}
            else:
                helpless += 1
                mendable += any(key(one) not in (after := truth(wiring.pressed(press))) and not after - true for press in wiring.presses())
    return {
        "loops_wirings": count, "loops_true": total, "loops_found_share": found / max(total, 1), "loops_invented": invented,
        "presses_ended_share": ended / max(advised, 1), "faults_without_press": helpless, "of_them_mendable": mendable,
    }  # fmt: skip


def pairs(count: int) -> dict[str, float]:
    found = false = together = apart = 0
    errors = []
    for number in range(count):
        one, two, delay_s = hearings(number, together=number % 2 == 0)
        told = same_room(one, two)
        if number % 2 == 0:
            together += 1
            found += told.together
            if told.together and told.delay_s is not None:
                errors.append(abs(told.delay_s - delay_s))
        else:
            apart += 1
            false += told.together
    return {
        "pairs_rooms": count, "pairs_found_share": found / together, "pairs_false": false,
        "pairs_delay_error_ms": round(1000 * float(np.median(errors)), 2) if errors else -1,
    }  # fmt: skip


if __name__ == "__main__":
    share = float(sys.argv[1]) if len(sys.argv) > 1 else 1.0
    print(json.dumps({**loops(round(WIRINGS * share)), **pairs(round(ROOMS * share))}))
