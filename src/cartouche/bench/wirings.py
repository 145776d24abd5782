"""Random wirings: computers, phones and boards in rooms, joined to a call or not, open and closed."""

import numpy as np

from cartouche.core.sound.wiring import Air, Clip, Loudspeaker, Microphone, Person, Wiring

ROOMS = ("classroom", "home")


def random_wiring(random: np.random.Generator) -> Wiring:
    """One to three joins, up to four microphones and three loudspeakers: small enough to be searched whole."""
    joins = [f"join {number}" for number in range(random.integers(1, 4))]
    people = [Person("teacher", "Your voice", ROOMS[random.integers(2)], frozenset({"headset", "earphones"}))]
    if random.random() < 0.4:
        people.append(Person("class", "The class", "classroom"))
    loudspeakers = [_loudspeaker(number, joins, random) for number in range(random.integers(0, 4))]
    computers = {loud.id for loud in loudspeakers}
    microphones = [_microphone(number, joins, computers, random) for number in range(random.integers(1, 5))]
    if random.random() < 0.25:
        microphones.append(Microphone("headset", "Headset", None, bool(random.random() < 0.6), joins[0]))
    if random.random() < 0.25:
        loudspeakers.append(Loudspeaker("earphones", "Earphones", None, bool(random.random() < 0.7), joins[0]))
    if random.random() < 0.2:
        hall = (str(random.choice([one.id for one in microphones])),)
        loudspeakers.append(Loudspeaker("hall", "Hall", "classroom", bool(random.random() < 0.8), None, hall))
    air = {
        (loud.id, one.id): Air(float(random.uniform(-24, 3)) if random.random() < 0.6 else None)
        for loud in loudspeakers
        for one in microphones
        if random.random() < 0.1
    }
    clips = []
    if random.random() < 0.3:
        playing = tuple(loud.id for loud in loudspeakers if random.random() < 0.4)
        clips.append(Clip("clip", "Clip", joins[0] if random.random() < 0.7 else None, playing))
    return Wiring(people, microphones, loudspeakers, joins, air, clips)


def _loudspeaker(number: int, joins: list[str], random: np.random.Generator) -> Loudspeaker:
    join = str(random.choice(joins)) if random.random() < 0.8 else None
    return Loudspeaker(f"loud {number}", f"Loudspeaker {number}", ROOMS[random.integers(2)], bool(random.random() < 0.6), join)


def _microphone(number: int, joins: list[str], loudspeakers: set[str], random: np.random.Generator) -> Microphone:
    join = str(random.choice(joins)) if random.random() < 0.85 else None
    cancels = frozenset(one for one in sorted(loudspeakers) if random.random() < 0.3)
    return Microphone(f"mic {number}", f"Microphone {number}", ROOMS[random.integers(2)], bool(random.random() < 0.6), join, cancels)
