"""Ready for the lesson? From one value of facts to a list of checks: value, limit, verdict, and the press that mends it.

In the order of the light and then of the sound. What could not be measured says so and is never said to hold.
"""

from collections.abc import Callable, Iterator
from typing import Literal, NamedTuple

from cartouche.core.watch.facts import Connection, DeviceFacts, Facts, Role
from cartouche.core.watch.signal import AWAY, USABLE

Verdict = Literal["holds", "look", "wrong", "unknown"]
Press = Literal[
    "", "kit", "first", "restart", "swap", "lens", "square", "mirror", "turn", "refocus", "closer", "band", "sharp", "window", "beforehand",
    "plates", "open-microphone", "sound", "end-finding", "way-in", "front-window", "open-lesson",
]  # fmt: skip


class Check(NamedTuple):
    """value: as measured, '' where it was not.  limit: what it should be.  says: the verdict, or what to do.

    press: what mends it, '' for nothing.  target: what the press is about: a device, a microphone, a finding.
    """

    id: str
    title: str
    verdict: Verdict
    value: str
    limit: str
    says: str
    press: Press = ""
    target: str = ""


MIN_FED_SHARE = 0.6  # of the pictures that go out a second, 18 of 30: below, writing jumps and lips do not fit words
MAX_DELAY_MS = 400.0  # hand and picture fall apart: later than that the writer looks at the screen and waits
MAX_PATH_MS = 250.0
MAX_LOST = 0.03  # of a phone's packets: above it an H.264 picture breaks or waits several times a minute
DRAIN_PER_MINUTE = 0.2 / 30  # a phone that sends video loses a fifth in half an hour
RESERVE = 0.05  # of a battery: below it phones switch their cameras off
MAX_COVERED = 0.02  # of all writing on the page
EARLY_MS, LATE_MS = -45, 125  # of sound to picture, where viewers begin to see it (ITU-R BT.1359-1)
MIN_OUT_SHARE = 0.8  # of the pictures that should go out
MAX_BUSY = 0.85  # of all cores: above it pictures are missed when anything else begins
RECORD_BYTES_PER_MINUTE = 30_000_000  # 1080p H.264 with sound at 4 Mbit/s
SOON_MIN, LONG_AGO_MIN = 15.0, -10.0

_STATES = {
    "off": "is not looked at yet",
    "starting": "is starting",
    "waiting": "waits to be allowed",
    "asleep": "is asleep",
    "blurred": "is out of focus",
    "black": "is black",
    "stuck": "stands still",
    "lost": "gives no picture",
}


def readiness(facts: Facts) -> list[Check]:
    """Those that fail first, else in the order of the work."""
    found = [check for make in _ALL for check in make(facts)]
    return sorted(found, key=lambda check: _ORDER[check.verdict])  # sorting keeps the order within


_ORDER: dict[Verdict, int] = {"wrong": 0, "look": 1, "unknown": 2, "holds": 3}


class Summary(NamedTuple):
    """kind: the worst.  says: one sentence."""

    verdict: Verdict
    says: str
    wrong: int
    look: int
    unknown: int


def summary(checks: list[Check]) -> Summary:
    counts = {verdict: sum(check.verdict == verdict for check in checks) for verdict in _ORDER}
    wrong, look, unknown = counts["wrong"], counts["look"], counts["unknown"]
    first = checks[0] if checks else None
    if wrong and first:
        more = f" And {wrong - 1} more." if wrong > 1 else ""
        return Summary("wrong", f"Not ready. {first.title}: {first.says}{more}", wrong, look, unknown)
    if look and first:
        return Summary("look", f"Ready, but look at this. {first.title}: {first.says}", wrong, look, unknown)
    not_told = f" {unknown} could not be measured." if unknown else ""
    return Summary("holds", f"Ready.{not_told}", wrong, look, unknown)


# the light


def _devices(facts: Facts) -> Iterator[Check]:
    for role in ("page", "face"):
        device = facts.serving(role)  # type: ignore[arg-type]
        yield _none(role) if device is None else _live(device)  # type: ignore[arg-type]
        if device is not None and device.is_phone:
            yield from _phone(device, facts.lesson.minutes if facts.lesson else 45)


def _none(role: Role) -> Check:
    what = "page" if role == "page" else "face"
    return Check(f"{role}-live", f"Camera for the {what}", "wrong", "none", "one live", f"No camera shows the {what} yet.", "first")


def _live(device: DeviceFacts) -> Check:
    id_, title, limit = (
        f"{device.serves}-live",
        f"Camera for the {device.serves}: {device.name}",
        f"at least {MIN_FED_SHARE * device.out_fps:.0f} pictures/s",
    )
    if device.facing == "front" and device.serves == "page":
        return Check(
            id_, title, "wrong", "front lens", "rear lens", "The front lens is in use; the page needs the rear one.", "lens", device.id
        )
    if device.state not in USABLE:
        bad = device.state in AWAY
        says = device.sentence or f"It {_STATES[device.state]}."
        verdict: Verdict = "wrong" if bad else "unknown" if device.state == "off" else "look"
        return Check(id_, title, verdict, _STATES[device.state], limit, says, "restart" if bad else "", device.id)
    value = f"{device.fps:.0f} pictures/s" + (f", {device.delay_ms:.0f} ms late" if device.delay_ms is not None else "")
    if not device.paced:
        return Check(id_, title, "holds", "shown", "shown", "It is there.")
    if device.fps < MIN_FED_SHARE * device.out_fps:
        return Check(
            id_, title, "look", value, limit, "It moves in jumps. Choose Quick for it under Kit, or close other programs.", "kit", device.id
        )
    if device.delay_ms is not None and device.delay_ms > MAX_DELAY_MS:
        says = "It comes late. Choose Quick for it under Kit, or bring it closer to the router."
        return Check(id_, title, "look", value, f"at most {MAX_DELAY_MS:.0f} ms late", says, "kit", device.id)
    return Check(id_, title, "holds", value, limit, "Live.")


def _phone(device: DeviceFacts, minutes: int) -> Iterator[Check]:
    needs = RESERVE + DRAIN_PER_MINUTE * minutes
    title, limit = f"Battery of {device.name}", f"at least {needs:.0%} for {minutes} min"
    if device.battery is None:
        yield Check(f"{device.serves}-battery", title, "unknown", "", limit, "Its browser does not tell. Plug it in to be safe.")
    else:
        plugged = device.battery.charging
        enough = plugged or device.battery.level >= needs
        says = "It charges." if plugged else "Enough for the lesson." if enough else "It will not last the lesson: plug it in."
        value = f"{device.battery.level:.0%}{', charging' if plugged else ''}"
        yield Check(f"{device.serves}-battery", title, "holds" if enough else "wrong", value, limit, says)
    title, limit = f"{device.name} stays awake", "for the whole lesson"
    if device.awake is None:
        yield Check(f"{device.serves}-awake", title, "unknown", "", limit, "Its browser does not tell. Set its screen lock to never.")
    elif device.awake:
        yield Check(f"{device.serves}-awake", title, "holds", "yes", limit, "It keeps its screen on.")
    else:
        yield Check(f"{device.serves}-awake", title, "look", "no", limit, "Its screen may lock: set the phone’s screen lock to never.")
    yield _network(device)


def network_trouble(line: Connection) -> str | None:
    """What is wrong with a phone's line, in a sentence; None where nothing measured is."""
    if line.path_ms is not None and line.path_ms > MAX_PATH_MS:
        return "The Wi-Fi is slow: bring phone and computer closer to the router."
    if line.lost is not None and line.lost > MAX_LOST:
        return "The Wi-Fi loses too much of the picture: bring the phone closer to the router."
    if line.starved:
        return "The Wi-Fi carries too little for a sharp picture: bring the phone closer to the router, or let others off it."
    return None


def _network(device: DeviceFacts) -> Check:
    line = device.connection
    parts = [
        f"{line.path_ms:.0f} ms" if line.path_ms is not None else "",
        f"{line.lost:.1%} lost" if line.lost is not None else "",
        f"{line.kbit_s / 1000:.1f} Mbit/s" if line.kbit_s is not None else "",
    ]
    id_, title, value = f"{device.serves}-network", f"Network to {device.name}", ", ".join(part for part in parts if part)
    limit = f"at most {MAX_PATH_MS:.0f} ms and {MAX_LOST:.0%} lost"
    if (trouble := network_trouble(line)) is not None:
        return Check(id_, title, "look", value, limit, trouble)
    if line.path_ms is None and line.lost is None:
        return Check(id_, title, "unknown", value, limit, "It has told nothing of its connection yet.")
    return Check(id_, title, "holds", value, limit, "Quick enough.")


def _meant(facts: Facts) -> Iterator[Check]:
    """Whether each camera shows what it is meant to show, told from the pictures."""
    page, face = facts.page, facts.face
    if facts.serving("page") is None or facts.serving("face") is None or page is None:
        return
    title, limit = "Each camera on its own", "page on one, face on the other"
    if face is None or page.shows_person is None:
        yield Check("meant", title, "unknown", "", limit, "Look at this screen for a moment: the pictures are examined.")
    elif not face.seen and page.shows_person > face.share and page.shows_person >= 0.2:
        yield Check("meant", title, "wrong", "exchanged", limit, "The camera for the page shows you. Exchange the two.", "swap")
    else:
        yield Check("meant", title, "holds", "as meant" if face.seen else "page as meant", limit, "Checked on the running pictures.")


def _page(facts: Facts) -> Iterator[Check]:
    page, device = facts.page, facts.serving("page")
    if page is None or device is None:
        return
    first, id_, title = page.first, "page", "The page"
    if device.state not in USABLE:
        yield Check(id_, title, "unknown", "", "straight and sharp", "Nothing is seen of it while its camera gives no picture.")
        return
    value = "followed" if page.following else "fixed"
    press: Press = first.press if first.kind != "holds" else ""
    yield Check(id_, title, first.kind, value, "straight, sharp, right way round", first.says, press, device.id)


def _each_reads(facts: Facts) -> Iterator[Check]:
    page, device = facts.page, facts.serving("page")
    if page is None or device is None or device.state not in USABLE:
        return
    for number, audience in enumerate(page.audiences):
        title, id_ = f"Reads for “{audience.name}”", f"reads-{number}"
        limit = f"{page.asks_pt:.1f} pt, the page’s smallest" if page.asks_pt is not None else "the page’s smallest print"
        value = f"{audience.smallest_pt} pt and up" if audience.smallest_pt is not None else ""
        if audience.reads_true is False:
            yield Check(id_, title, "wrong", "reversed", "true", "They get it reversed. Flip it.", "mirror", device.id)
        elif audience.reads is None:
            says = "No print was found on this page." if page.looked_at else "The page is being looked at."
            paper = "Name the paper in Square up to measure it."
            yield Check(id_, title, "unknown", value, limit, paper if audience.smallest_pt is None else says)
        elif audience.reads:
            yield Check(id_, title, "holds", value, limit, "True and readable.")
        else:
            press: Press = page.first.press if page.first.press in ("closer", "band", "sharp", "window", "beforehand") else "square"
            yield Check(id_, title, "look", value, limit, "The smallest print is too small for them.", press, device.id)


_FACES = {
    "nobody": ("look", "Nobody is seen by it. Sit before it, or turn it to you."),
    "against the light": ("look", "There is a bright window behind you. Turn away from it or draw the blind."),
    "too dark": ("look", "Your face is dark. Put a lamp in front of you."),
    "too bright": ("look", "Your face is white with light. Dim the lamp."),
}


def _face(facts: Facts) -> Iterator[Check]:
    device, face = facts.serving("face"), facts.face
    if device is None or device.state not in USABLE:
        return
    title, limit = "Your face", "seen and evenly lit"
    if face is None:
        yield Check("face", title, "unknown", "", limit, "Look at this screen for a moment: the picture is examined.")
        return
    value = f"{face.share:.0%} of the picture" if face.seen else "nobody"
    verdict, says = _FACES.get(face.fault, ("holds", "Seen and lit."))
    yield Check("face", title, verdict, value, limit, says)  # type: ignore[arg-type]


def _covered(facts: Facts) -> Iterator[Check]:
    page, device = facts.page, facts.serving("page")
    if page is None or device is None or device.state not in USABLE:
        return
    value, limit = f"{page.covered:.0%} covered", f"at most {MAX_COVERED:.0%}"
    if page.covered > MAX_COVERED:
        yield Check(
            "covered", "Writing uncovered", "look", value, limit, "A picture lies over the writing. Move it, or let it keep off.", "plates"
        )
    else:
        yield Check("covered", "Writing uncovered", "holds", value, limit, "All writing can be seen.")


# the sound


def _microphone(facts: Facts) -> Iterator[Check]:
    sound, title, limit = facts.sound, "One open microphone", "one, and your voice in it"
    if not sound.open:
        if sound.last_open is not None:
            yield Check("microphone", title, "look", "all closed", limit, "Nobody hears you yet.", "open-microphone", sound.last_open)
        else:
            says = "No microphone was chosen yet. If the call takes your microphone itself, check it there."
            yield Check("microphone", title, "unknown", "none", limit, says, "sound")
    elif len(sound.open) > 1:
        names = " and ".join(f"“{one.name}”" for one in sound.open)
        yield Check(
            "microphone", title, "look", f"{len(sound.open)} open", limit, f"{names} are open: learners may hear you twice.", "sound"
        )
    else:
        one = sound.open[0]
        value = one.name if one.level_db is None else f"{one.name}, {one.level_db:.0f} dB"
        if not one.verdict:
            yield Check("microphone", title, "unknown", value, limit, "Say a sentence: nothing was heard yet.", "sound")
        else:
            yield Check("microphone", title, "holds" if one.good else "wrong", value, limit, one.says, "" if one.good else "sound")


def _heard_once(facts: Facts) -> Iterator[Check]:
    sound, title, limit = facts.sound, "Heard once, no loop", "no way of sound comes back"
    if not sound.known:
        yield Check("loop", title, "unknown", "", limit, "Cartouche carries no sound yet, so it cannot tell.", "sound")
    elif not sound.open:
        yield Check("loop", title, "unknown", "", limit, "Told once a microphone is open.")
    elif sound.findings:
        says, ends = sound.findings[0]
        what = " ".join(part.rstrip(".") + "." for part in (says, ends) if part)
        yield Check("loop", title, "wrong", f"{len(sound.findings)} found", limit, what, "end-finding", "0")
    else:
        yield Check("loop", title, "holds", "none", limit, "No loop and no double.")


def _lips(facts: Facts) -> Iterator[Check]:
    ms, title, limit = facts.sound.lips_ms, "Picture and sound together", f"{EARLY_MS} to +{LATE_MS} ms"
    if ms is None:
        yield Check("lips", title, "unknown", "", limit, "Not measured: a clap test under Sound tells.", "sound")
    elif EARLY_MS <= ms <= LATE_MS:
        yield Check("lips", title, "holds", f"{ms:+d} ms", limit, "Lips and words fit.")
    else:
        yield Check("lips", title, "look", f"{ms:+d} ms", limit, "Lips and words fall apart. Set it under Sound.", "sound")


# the way and the machine


def _way(facts: Facts) -> Iterator[Check]:
    way, title = facts.way, "The way into the call"
    limit = f"taken, at least {MIN_OUT_SHARE * way.out_fps:.0f} pictures/s"
    if not way.in_use:
        yield Check("way", title, "look", "nobody takes it", limit, "The outgoing picture goes nowhere yet.", "way-in")
        return
    value = f"{way.taken_by or 'outgoing window open'}, {way.fps:.0f} pictures/s"
    if way.says:
        yield Check("way", title, "wrong", value, limit, way.says, "front-window" if way.windows else "way-in")
    elif way.fps < MIN_OUT_SHARE * way.out_fps:
        yield Check("way", title, "look", value, limit, "Fewer pictures than wished go out: see whether the computer keeps up.", "way-in")
    else:
        yield Check("way", title, "holds", value, limit, "It arrives.")


def _computer(facts: Facts) -> Iterator[Check]:
    computer, title, limit = facts.computer, "This computer keeps up", f"below {MAX_BUSY:.0%} busy"
    if computer.throttled:
        yield Check("computer", title, "look", "slowed by heat", limit, "It is hot and runs slower. Plug it in and give it air.")
    elif computer.busy is None:
        yield Check("computer", title, "unknown", "", limit, "This system does not tell how busy it is.")
    elif computer.busy > MAX_BUSY:
        yield Check(
            "computer", title, "look", f"{computer.busy:.0%} busy", limit, "It is nearly at its limit. Close other programs and tabs."
        )
    else:
        yield Check("computer", title, "holds", f"{computer.busy:.0%} busy", limit, "It has room.")


def _disk(facts: Facts) -> Iterator[Check]:
    minutes = facts.lesson.minutes if facts.lesson else 45
    needs = minutes * RECORD_BYTES_PER_MINUTE
    title, limit = "Room on the disk", f"{needs / 1e9:.1f} GB for {minutes} min recorded"
    free = facts.computer.free_bytes
    if free is None:
        yield Check("disk", title, "unknown", "", limit, "The disk could not be read.")
    elif free < needs:
        yield Check(
            "disk", title, "look", f"{free / 1e9:.1f} GB free", limit, "A recording of the whole lesson will not fit. Free some space."
        )
    else:
        yield Check("disk", title, "holds", f"{free / 1e9:.0f} GB free", limit, "Enough for a recording.")


def _clock(facts: Facts) -> Iterator[Check]:
    lesson, title, limit = facts.lesson, "The open lesson", "the one that begins now"
    if lesson is None:
        yield Check("lesson", title, "look", "none", limit, "No lesson is open.", "open-lesson")
        return
    if not facts.computer.clock_ok:
        yield Check("lesson", title, "look", lesson.title, limit, "This computer’s clock is wrong: set its date.")
    elif lesson.starts_in is None:
        yield Check("lesson", title, "holds", lesson.title, limit, "It has no time of its own.")
    elif lesson.starts_in < LONG_AGO_MIN - lesson.minutes:
        yield Check(
            "lesson", title, "look", lesson.title, limit, "It is over by the clock. Open the one that you teach now.", "open-lesson"
        )
    else:
        when = f"in {lesson.starts_in:.0f} min" if lesson.starts_in >= 1 else "now"
        yield Check("lesson", title, "holds", f"{lesson.title}, {when}", limit, "Clock and lesson agree.")


_ALL: tuple[Callable[[Facts], Iterator[Check]], ...] = (
    _devices, _meant, _page, _each_reads, _face, _covered, _microphone, _heard_once, _lips, _way, _computer, _disk, _clock,
)  # fmt: skip
