"""Ways into a call, and what each gives to each audience: computed from facts of the way, the call, the page and the screens."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, NamedTuple

from cartouche.core.call.audience import Audience, Viewers, audience_of
from cartouche.core.call.kinds import PRACTICE, CallKind
from cartouche.core.pictures import Size
from cartouche.core.plates.model import Place
from cartouche.core.reading.legibility import Print
from cartouche.core.reading.verdicts import PagePicture, verdict

WayId = Literal["extension", "tab", "window", "device", "second-camera", "server", "participant", "twice", "network-camera"]
Carries = Literal["webcam", "share", "stream", "phone"]
Sound = Literal["in step", "shared", "apart", "none"]
Face = Literal["in the picture", "a tile beside", "a small tile", "not seen"]


@dataclass(frozen=True)
class Way:
    """What is true of a way whatever the call.

    carries: as which the call treats it.  adds_ms: from the outgoing picture into the call, measured (docs/measured.md).
    sound: `in step` comes from our mixer with the picture; `shared` by the tab; `apart` is the call's own microphone, not delayed.
    needs: what must be installed or allowed first.  presses: until it works, once that is done.
    """

    id: WayId
    name: str
    says: str
    carries: Carries
    adds_ms: int
    fps: int
    sound: Sound
    presses: int
    risk: str
    needs: tuple[str, ...] = ()
    steps: tuple[str, ...] = ()


WAYS: tuple[Way, ...] = (
    Way(
        "extension", "As your webcam", "The call lists a camera and a microphone named Cartouche beside the others.", "webcam", 40, 30,
        "in step", 2, "Your own view is mirrored there; learners see it the right way round.",
        ("The Cartouche extension in this browser, put in once and paired.",),
        ("Press the extension’s icon on the call’s page, then Offer Cartouche on this site.",
         "Choose Cartouche as camera in the call’s settings, and as microphone too."),
    ),
    Way(
        "tab", "Shared as a tab", "The outgoing picture in a tab that you share.", "share", 45, 30, "shared", 4,
        "A covered or closed tab stops the picture. What you share is seen until you stop it.",
        (),
        ("Open the outgoing window. Press S in it if its sound is to go along, and wear headphones then.",
         "In the call press Share, then choose the tab Cartouche outgoing, with its sound.", "Come back to the call’s tab."),
    ),
    Way(
        "window", "Shared as a window", "The outgoing picture in a window of its own that you share.", "share", 55, 25, "apart", 4,
        "A minimised window stands still for learners, and its frame is seen with it.",
        (),
        ("Open the outgoing window.", "In the call press Share, then choose the window Cartouche outgoing.", "Leave that window open."),
    ),
    Way(
        "device", "As a camera of this computer", "Every program sees a camera named Cartouche.", "webcam", 30, 30, "apart", 2,
        "The sound does not wait for the picture: lips come after words.",
        ("A loopback camera device, which an administrator puts in (Linux).",),
        ("Switch it on here.", "Choose Cartouche as camera in the call."),
    ),
    Way(
        "second-camera", "As a second camera", "Your webcam stays; Cartouche is what you share.", "share", 30, 30, "in step", 4,
        "Not every call can do it, and some send it as slowly as a window.",
        ("The Cartouche extension in this browser, put in once and paired.",),
        ("Press the extension’s icon on the call’s page, then Offer Cartouche on this site.",
         "In the call choose to share a second camera, then Cartouche."),
    ),
    Way(
        "server", "Straight to a server", "A call server takes picture and sound from Cartouche by WHIP.", "stream", 45, 30, "in step", 3,
        "It sends until you stop it here. What the server itself adds comes on top of the delay.",
        ("An address that takes WHIP, and its token, from whoever runs the server.",),
        ("Type the address and the token.", "Press Start sending."),
    ),
    Way(
        "participant", "The phone as one more participant", "The phone joins by itself; nothing is straightened.", "phone", 0, 15,
        "apart", 6, "Two devices of one room in one call howl unless one of them is silent.",
        ("The call’s app on the phone.",),
        ("Join the call on the phone, with its microphone off.", "Turn the phone’s loudspeaker off.",
         "Ask learners to pin the phone, or spotlight it for all.", "Keep your face camera in the call on this computer."),
    ),
    Way(
        "twice", "Join twice", "This computer joins a second time with Cartouche as its camera; your face keeps its own place.", "webcam",
        30, 30, "apart", 7, "It costs twice the line, and the second place must stay silent or everybody hears you twice.",
        ("The Cartouche extension in this browser, put in once and paired.",),
        ("Join the call a second time, in another window, as guest.", "There choose Cartouche as camera.",
         "There turn microphone and loudspeaker off.", "Ask learners to pin it, or spotlight it for all."),
    ),
    Way(
        "network-camera", "As a network camera", "A room system takes the picture from an address.", "stream", 8, 30, "none", 3,
        "Whoever has the address sees the picture while it is on.",
        ("A room system that takes MJPEG over HTTPS.",),
        ("Switch it on here.", "Type its address into the room system."),
    ),
)  # fmt: skip


def way_named(id_: str) -> Way:
    """Raises KeyError."""
    return {way.id: way for way in WAYS}[id_]  # type: ignore[index]


class Facts(NamedTuple):
    """This computer, this lesson. place: of the page on the outgoing plate, None where it shows none.

    outgoing_ms: from capture to the outgoing picture.  has_face: the plate shows a face.  phone: the page comes from a phone.
    loopback: a camera device is there.  extension: it is paired.
    """

    page: PagePicture | None
    place: Place | None
    outgoing: Size
    outgoing_fps: float
    outgoing_ms: float
    has_face: bool
    phone: bool
    loopback: bool
    extension: bool


class Measured(NamedTuple):
    """Of this computer, by way, where it was told. taken_ms: from capture until the call's page has the picture.

    call_ms: what the practice call added to that when the way was tried in it.
    """

    taken_ms: Mapping[str, float]
    call_ms: Mapping[str, float]


UNMEASURED = Measured({}, {})


class Gets(NamedTuple):
    """What one audience gets by one way. must: what they have to do for it, '' for nothing."""

    viewers: Viewers
    audience: Audience
    print: Print | None
    reads: bool | None
    reads_true: bool | None
    face: Face
    must: str


class Outcome(NamedTuple):
    """What a way gives in this call. impossible: why it cannot be taken here, None where it can."""

    way: Way
    size: Size
    fps: float
    delay_ms: float
    sound: Sound
    gets: tuple[Gets, ...]
    impossible: str | None
    ready: bool

    @property
    def worst_pt(self) -> float | None:
        """The smallest print that every audience of learners reads."""
        return max((got.print.points for got in self.gets if got.print is not None and not got.viewers.is_teacher), default=None)

    @property
    def reading(self) -> tuple[int, int]:
        """Learners who can read this page's print, and all learners."""
        learners = [got for got in self.gets if not got.viewers.is_teacher]
        return sum(got.viewers.count for got in learners if got.reads), sum(got.viewers.count for got in learners)


def outcomes(facts: Facts, call: CallKind, viewers: Sequence[Viewers], measured: Measured = UNMEASURED) -> list[Outcome]:
    """All ways, the best for this lesson first: possible, then read by most, then print, then face, then presses."""
    found = [_outcome(way, facts, call, viewers, _delay_ms(way, facts, call, measured)) for way in WAYS]
    return sorted(found, key=_rank)


def _rank(outcome: Outcome) -> tuple[object, ...]:
    reading, _ = outcome.reading
    face = sum(got.viewers.count for got in outcome.gets if got.face in ("in the picture", "a tile beside"))
    worst = outcome.worst_pt if outcome.worst_pt is not None else 99.0
    sound = {"in step": 0, "shared": 1, "apart": 2, "none": 3}[outcome.sound]
    jumps = outcome.fps < LIVELY_FPS
    needless = outcome.worst_pt is None and outcome.way.id in SECOND_PLACES
    return (
        outcome.impossible is not None, outcome.way.carries == "stream", needless, -reading, -face, round(worst), jumps, not outcome.ready,
        sound, outcome.way.presses + len(outcome.way.needs) * (not outcome.ready), outcome.delay_ms,
    )  # fmt: skip


SECOND_PLACES = ("participant", "twice")  # they keep the face beside a page: without one there is nothing to keep it beside
LIVELY_FPS = 12  # below it a writing hand is seen to jump


def _delay_ms(way: Way, facts: Facts, call: CallKind, measured: Measured) -> float:
    """From capture to what a viewer sees: each part as it was measured here, else as it usually is."""
    usual_ms = facts.outgoing_ms * (way.carries != "phone") + way.adds_ms
    call_ms = measured.call_ms.get(way.id, call.delay_ms) if call.id == PRACTICE else call.delay_ms
    return measured.taken_ms.get(way.id, usual_ms) + call_ms * (way.carries != "stream")


def _outcome(way: Way, facts: Facts, call: CallKind, viewers: Sequence[Viewers], delay_ms: float) -> Outcome:
    top = call.share if way.carries == "share" else max(call.webcam, key=lambda layer: layer.width)
    if way.carries == "stream":
        top = top.model_copy(update={"width": int(facts.outgoing.width), "height": int(facts.outgoing.height), "fps": 30})
    scale = min(1.0, top.width / facts.outgoing.width, top.height / facts.outgoing.height)
    size = Size(round(facts.outgoing.width * scale), round(facts.outgoing.height * scale))
    sound: Sound = "apart" if way.sound == "shared" and not call.shares_sound else way.sound
    return Outcome(
        way,
        size,
        min(way.fps, top.fps, facts.outgoing_fps or way.fps),
        delay_ms,
        sound,
        tuple(_gets(way, facts, call, one) for one in viewers),
        _impossible(way, facts, call),
        _ready(way, facts),
    )


def _gets(way: Way, facts: Facts, call: CallKind, viewers: Viewers) -> Gets:
    staged = way.carries == "share"
    layers = (call.share,) if staged else call.webcam
    audience = audience_of(viewers, layers, staged=staged)
    if way.carries == "stream":
        whole = audience.layer.model_copy(update={"width": int(facts.outgoing.width), "height": int(facts.outgoing.height)})
        audience = audience.model_copy(update={"layer": whole, "mirrored": False})
    page, place = facts.page, facts.place
    outgoing = facts.outgoing
    if way.carries == "phone" and page is not None:
        outgoing = page.feed  # the phone's own picture, as it is
        place = _WHOLE
    found = verdict(audience, page, place, outgoing)
    return Gets(
        viewers, audience, found.print, found.reads, found.path.reads_true if found.path else None, _face(way, facts, viewers),
        _must(way, call, viewers),
    )  # fmt: skip


_WHOLE = Place.model_validate({"content": {"kind": "role", "role": "page"}, "rect": {"x": 0, "y": 0, "width": 1, "height": 1}})


def _face(way: Way, facts: Facts, viewers: Viewers) -> Face:
    if way.id in SECOND_PLACES:
        return "a tile beside" if viewers.shown == "grid" else "a small tile"
    if facts.has_face:
        return "in the picture"
    return "a small tile" if way.carries == "share" else "not seen"


def _must(way: Way, call: CallKind, viewers: Viewers) -> str:
    if viewers.is_teacher or viewers.shown == "full" or way.carries in ("share", "stream"):
        return ""
    if viewers.shown == "pinned":
        if call.spotlights:
            return "You spotlight yourself for all" if way.id in ("extension", "device") else "You spotlight the second place for all"
        return "They pin you" if call.pins else ""
    return ""


def _impossible(way: Way, facts: Facts, call: CallKind) -> str | None:
    by_extension = way.id in ("extension", "second-camera", "twice")
    if by_extension and not call.in_browser:
        return "This call is a program of its own: a browser’s extension does not reach it."
    if way.id == "second-camera" and not call.takes_second_camera:
        return "This call takes no second camera."
    if way.id == "device" and not facts.loopback:
        return "This computer has no loopback camera device."
    if way.id == "participant" and not facts.phone:
        return "No phone serves as page."
    return None


def _ready(way: Way, facts: Facts) -> bool:
    """Nothing has to be put in first."""
    if way.id in ("extension", "second-camera", "twice"):
        return facts.extension
    return way.id in ("tab", "window") or (way.id == "device" and facts.loopback)


SEEN_STEPS: dict[WayId, int] = {"extension": 2, "tab": 1, "window": 1, "device": 1, "server": 2, "network-camera": 2}


def seen_done(way: Way, in_use: bool) -> list[bool | None]:
    """For each step whether it has been done: the first ones show by the way being in use, the others only the teacher sees."""
    seen = SEEN_STEPS.get(way.id, 0)
    return [in_use if number < seen else None for number in range(len(way.steps))]


def advice(found: Sequence[Outcome]) -> str:
    """One sentence: what to take, and why."""
    possible = [outcome for outcome in found if outcome.impossible is None and outcome.way.carries in ("webcam", "share")]
    if not possible:
        return "No way into this call is open on this computer."
    best = possible[0]
    if best.ready:
        return f"Take “{best.way.name}”: {_why(best)}."
    ready = next((outcome for outcome in possible if outcome.ready), None)
    if ready is None:
        return f"Best here is “{best.way.name}”, once it is set up: {_why(best)}."
    return f"Best here is “{best.way.name}”, once it is set up: {_why(best)}. Until then take “{ready.way.name}”: {_why(ready)}."


def _moves(outcome: Outcome) -> str:
    late = f"{outcome.delay_ms / 1000:.1f} s" if outcome.delay_ms >= 50 else "less than 0.1 s"
    return f"{outcome.fps:.0f} pictures a second, {late} late"


def _why(outcome: Outcome) -> str:
    reading, learners = outcome.reading
    if outcome.worst_pt is None:
        return _moves(outcome)
    whole = max(got.print.whole_points for got in outcome.gets if got.print is not None and not got.viewers.is_teacher)
    if any(got.reads is not None for got in outcome.gets):
        return f"{reading} of {learners} learners can read this page, all of them print from {whole} pt"
    return f"all learners can read print from {whole} pt"


def sentence(got: Gets, outcome: Outcome) -> str:
    """What one audience gets, in one sentence."""
    if got.viewers.is_teacher:
        return "You see yourself mirrored; learners do not." if got.audience.mirrored else "You see it as learners do."
    parts = []
    if got.print is not None:
        parts.append(f"print from {got.print.whole_points} pt reads")
    if got.reads_true is not None:
        parts.append("the right way round" if got.reads_true else "mirrored")
    parts.append({"in the picture": "your face in the picture", "a tile beside": "your face in a tile beside it",
                  "a small tile": "your face in a small tile", "not seen": "your face is not seen"}[got.face])  # fmt: skip
    parts.append(_moves(outcome))
    text = ", ".join(parts)
    return text[0].upper() + text[1:] + "."
