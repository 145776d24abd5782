"""Sentences for what is wrong between microphones and loudspeakers, and for what ends it."""

from cartouche.core.sound.wiring import HOWLS_FROM_DB, Finding, Press, Wiring

_SWITCH = {"close": "Close {}", "open": "Open {}", "quiet": "Silence {}", "loud": "Switch on {}"}
_HELPLESS = {
    "silence": "None of these microphones reaches the call: say below which computer joins it.",
    "deaf": "None of these loudspeakers plays the call: say below which computer joins it.",
}
TOGETHER_S = 0.005
USE_HEADPHONES = "No one press ends it: end the others first, use headphones, or move one of them to another room."


def name_of(wiring: Wiring, node: str) -> str:
    """A join is called by its computer's or phone's name as the caller chose it."""
    people = {**{one.id: one.name for one in wiring.people}, **{one.id: one.name for one in wiring.clips}}
    microphones = {one.id: one.name for one in wiring.microphones.values()}
    loudspeakers = {one.id: one.name for one in wiring.loudspeakers.values()}
    names: dict[str, str] = {**microphones, **loudspeakers, **people}
    return names.get(node, node.removeprefix(">"))


def says(wiring: Wiring, finding: Finding) -> str:
    microphones = [name_of(wiring, node) for node in finding.path if node in wiring.microphones]
    loudspeakers = [name_of(wiring, node) for node in finding.path if node in wiring.loudspeakers]
    late = f"{round(1000 * finding.delay_s)} ms"
    if finding.kind == "loop":
        if finding.gain_db is not None and finding.gain_db < HOWLS_FROM_DB:
            return f"{microphones[0]} hears {loudspeakers[0]}: an echo goes round every {late} and dies away."
        return f"{microphones[0]} hears {loudspeakers[0]}, which plays it again: it can howl."
    if finding.kind == "echo":
        return f"Learners hear themselves {late} later: {microphones[-1]} hears {loudspeakers[0]}."
    if finding.kind == "double":
        again = f"{microphones[-1]} hears {loudspeakers[-1]}" if loudspeakers else f"{microphones[-1]} is open too"
        apart = f", {late} apart" if finding.delay_s > TOGETHER_S else ""
        return f"Learners hear {_in_a_sentence(name_of(wiring, finding.path[0]))} twice{apart}: {again}."
    if finding.kind == "silence":
        return "Learners hear nobody: no open microphone reaches the call."
    return "You hear no learner: no loudspeaker plays the call."


def _in_a_sentence(name: str) -> str:
    return name[:1].lower() + name[1:] if name in ("Your voice", "The class") else f"“{name}”"


def press_says(wiring: Wiring, press: Press) -> str:
    return _SWITCH[press.switch].format(name_of(wiring, press.id))


def ends_says(wiring: Wiring, finding: Finding) -> str:
    """What to press, or what else to do."""
    first, *more = [press_says(wiring, press) for press in finding.press] or [""]
    return " and ".join([first, *(one[0].lower() + one[1:] for one in more)]) or _HELPLESS.get(finding.kind, USE_HEADPHONES)
